import { readSearch } from '#core/items';
import { query, type Db } from '#server/kernel';
import type { Choice, ChoiceKind } from '#contract/desk';
import { findItems } from '#server/items';

// As many as one looks through below a field; whoever wants another keys another word.
const MOST = 12;

type Named = Exclude<ChoiceKind, 'item'>;

// What can be chosen by its code or by words of its name, as id, code and name, and whether a site has its own.
const NAMED: Readonly<Record<Named, { readonly of: string; readonly newestFirst?: true }>> = {
  bin: {
    of: `SELECT bin.id, bin.address AS code, z.name
         FROM bin
         JOIN zone z ON z.id = bin.zone_id
         WHERE bin.site_id = :site AND bin.retired_at IS NULL AND bin.use <> 'outside'`,
  },
  customer: { of: `SELECT id, code, name FROM customer` },
  supplier: { of: `SELECT id, code, name FROM supplier` },
  order: {
    of: `SELECT o.id, o.number AS code, c.name
         FROM customer_order o
         JOIN order_party c ON c.order_id = o.id
         WHERE o.site_id = :site`,
    newestFirst: true,
  },
  document: {
    of: `SELECT d.id, d.number AS code, p.name
         FROM document d
         JOIN person p ON p.id = d.person_id
         WHERE d.site_id = :site`,
    newestFirst: true,
  },
  person: { of: `SELECT id, name AS code, role AS name FROM person` },
};

const asPattern = (text: string): string => text.replace(/[\\%_]/g, (c) => `\\${c}`);

/** What may be meant by a text, the likeliest first: the very code, codes that begin with it, then names in which every word stands.
 *  Shape:  at most twelve; of one number that one, or none. */
export async function readChoices(
  db: Db,
  site: number,
  asked: { kind: ChoiceKind; q?: string | undefined; id?: number | undefined },
): Promise<{ choices: Choice[]; more: boolean }> {
  const found = asked.kind === 'item' ? await itemChoices(db, site, asked) : await namedChoices(db, site, asked.kind, asked);
  return { choices: found.slice(0, MOST), more: found.length > MOST };
}

async function itemChoices(db: Db, site: number, asked: { q?: string | undefined; id?: number | undefined }): Promise<Choice[]> {
  if (asked.id !== undefined) return query<Choice>(db, `SELECT id, code, description AS name FROM item WHERE id = ?`, [asked.id]);
  const text = readSearch(asked.q ?? '');
  if (text.code === '')
    return query<Choice>(db, `SELECT id, code, description AS name FROM item WHERE retired_at IS NULL ORDER BY code LIMIT ${MOST + 1}`);
  const filter = { site, group: undefined, supplier: undefined, onlyFree: false, retired: false };
  const found = await findItems(db, filter, { text, words: text.words.map((w) => [w]) }, MOST + 1);
  return found.map(({ id, code, description }) => ({ id, code, name: description }));
}

function namedChoices(
  db: Db,
  site: number,
  kind: Named,
  { q = '', id }: { q?: string | undefined; id?: number | undefined },
): Promise<Choice[]> {
  const { of, newestFirst } = NAMED[kind];
  const values: unknown[] = of.includes(':site') ? [site] : [];
  const from = `(${of.replace(':site', '?')}) choice`;
  if (id !== undefined) return query<Choice>(db, `SELECT id, code, name FROM ${from} WHERE id = ?`, [...values, id]);
  const words = q
    .split(/\s+/)
    .filter(Boolean)
    .map((w) => `%${asPattern(w)}%`);
  return query<Choice>(
    db,
    `SELECT id, code, name
     FROM ${from}
     WHERE code || ' ' || name ILIKE ALL (?::text[])
     ORDER BY lower(code) <> lower(?), NOT code ILIKE ?, ${newestFirst ? 'id DESC' : 'code'}
     LIMIT ${MOST + 1}`,
    [...values, words, q, `${asPattern(q)}%`],
  );
}
