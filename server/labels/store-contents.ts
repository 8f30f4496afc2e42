import { USUAL_CONTENTS, type LabelContents, type LabelKind } from '#core/labels';
import { query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type KeptContents = { readonly version: number; readonly contents: LabelContents; readonly by: string; readonly at: string };

/** What the house wants on each kind of label now. */
export async function selectContents(db: Reads): Promise<Readonly<Record<LabelKind, LabelContents>>> {
  const rows = await query<{ kind: LabelKind; contents: LabelContents }>(
    db,
    `SELECT DISTINCT ON (kind) kind, contents FROM label_contents ORDER BY kind, version DESC`,
  );
  return { ...USUAL_CONTENTS, ...Object.fromEntries(rows.map((r) => [r.kind, r.contents])) };
}

/** The last version of a kind and the one before it; none where the house said nothing yet. */
export function selectLastContents(db: Reads, kind: LabelKind): Promise<KeptContents[]> {
  return query<KeptContents>(
    db,
    `SELECT c.version, c.contents, p.name AS by, c.at
     FROM label_contents c
     JOIN person p ON p.id = c.person_id
     WHERE c.kind = ?
     ORDER BY c.version DESC
     LIMIT 2`,
    [kind],
  );
}

/** Keeps the next version of a kind; false where somebody else kept it meanwhile. */
export async function insertContents(
  trx: Trx,
  of: { kind: LabelKind; version: number; contents: LabelContents; person: number },
): Promise<boolean> {
  const kept = await query(
    trx,
    `INSERT INTO label_contents (kind, version, contents, logo_id, person_id)
     VALUES (?, ?, ?, ?, ?)
     ON CONFLICT (kind, version) DO NOTHING
     RETURNING version`,
    [of.kind, of.version, JSON.stringify(of.contents), of.contents.logo?.file ?? null, of.person],
  );
  return kept.length === 1;
}

/** Pictures by their files, as they are kept. */
export function selectPictures(db: Reads, files: readonly number[]): Promise<{ id: number; bytes: Buffer }[]> {
  return query<{ id: number; bytes: Buffer }>(db, `SELECT id, bytes FROM file WHERE id = ANY(?::int[]) AND type LIKE 'image/%'`, [files]);
}

export type More = {
  code: string;
  lot: string;
  supplier: string | null;
  received: string;
  made: string | null;
  own: Readonly<Record<string, string>>;
};

/** What may be said of items and their lots beside the usual: from whom a lot came, or an item comes for the least; when; own fields.
 *  Shape:  of a lot that the house does not have yet, the day is today's at the site. */
export function selectMore(db: Reads, site: number, of: readonly { code: string; lot: string }[]): Promise<More[]> {
  return query<More>(
    db,
    `SELECT x.code, x.lot, i.own, l.made::text AS made,
       coalesce((l.arrived AT TIME ZONE s.time_zone)::date, today_at(s.id))::text AS received,
       coalesce(
         (SELECT p.name
          FROM delivery_entry e
          JOIN delivery d ON d.id = e.delivery_id AND d.state = 'posted'
          JOIN supplier p ON p.id = d.supplier_id
          WHERE e.item_id = i.id AND e.lot = x.lot AND e.taken_out_at IS NULL
          ORDER BY e.id DESC
          LIMIT 1),
         (SELECT p.name
          FROM item_supplier f
          JOIN supplier p ON p.id = f.supplier_id
          WHERE f.item_id = i.id
          ORDER BY f.cost, p.id
          LIMIT 1)) AS supplier
     FROM unnest(?::text[], ?::text[]) AS x(code, lot)
     JOIN site s ON s.id = ?
     JOIN item i ON i.code = x.code
     LEFT JOIN lot l ON l.item_id = i.id AND l.code = x.lot`,
    [of.map((o) => o.code), of.map((o) => o.lot), site],
  );
}

export async function selectToday(db: Reads, site: number): Promise<string> {
  const [row] = await query<{ today: string }>(db, `SELECT today_at(?)::text AS today`, [site]);
  return row?.today ?? '';
}
