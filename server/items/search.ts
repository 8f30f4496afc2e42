import { isOneEditApart, maySpellWrong, readSearch, wordStems, type SearchText, type Tracking } from '#core/items';
import type { ITEM_SORTS } from '#contract/items';
import { query, selectSorted, type Db, type SortBy, type SortKey } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type ItemListRow = {
  id: number;
  code: string;
  description: string;
  group: string;
  unit: string;
  decimals: number;
  tracking: Tracking;
  storage_class: string;
  supplier: string | null;
  on_hand: string;
  free: string;
  cost: string;
  price: string;
  retired: boolean;
  own: Record<string, string>;
  rank: number;
};
export type PriceListRow = {
  id: number;
  supplier: string;
  supplierId: number;
  partNo: string;
  description: string;
  barcode: string | null;
  cost: string;
  price: string | null;
  packUnits: string;
  item: { id: number; code: string } | null;
};
export type ItemFilter = {
  readonly site: number;
  readonly group: string | undefined;
  readonly supplier: number | undefined;
  readonly onlyFree: boolean;
  readonly retired: boolean;
};

// As many as anybody scrolls through; a search that finds more wants another word, not another page.
const MOST_FOUND = 400;

/** The words as PostgreSQL's text search wants them: each the beginning of a word, in any order. A word of one or two letters must stand
 *  as it is: as a beginning it would stand for half the warehouse and say nothing. */
function wordsQuery(words: readonly (readonly string[])[]): string | null {
  const one = (w: string): string => (w.length > 2 ? `${w}:*` : w);
  return words.length === 0 ? null : words.map((alternatives) => `(${alternatives.map(one).join(' | ')})`).join(' & ');
}

/** What is looked for: the text, and for each of its words what may stand for it. */
export type Sought = { readonly text: SearchText; readonly words: readonly (readonly string[])[] };

/** The SQL of what an item costs or is sold for on a day, in place: for a list of many the function `amount_on` would be called row by row.
 *  Shape:  SQL of the item's number and of the day; 0 where nothing was ever said. */
export const amountOn = (item: string, kind: 'cost' | 'price', day: string): string =>
  `coalesce(
     (
       SELECT a.amount
       FROM item_amount a
       WHERE a.item_id = ${item} AND a.kind = '${kind}' AND a.holds_from <= ${day}
       ORDER BY a.holds_from DESC, a.id DESC
       LIMIT 1
     ), 0
   )`;

const LISTED = `SELECT c.rank, i.id, i.code, i.description, i.item_group AS "group", i.base_unit AS unit, i.decimals, i.tracking,
    i.storage_class, i.retired_at IS NOT NULL AS retired, i.own,
    (SELECT u.name FROM item_supplier x JOIN supplier u ON u.id = x.supplier_id WHERE x.item_id = i.id ORDER BY u.id LIMIT 1) AS supplier,
    ${amountOn('i.id', 'cost', 'd.day')} AS cost, ${amountOn('i.id', 'price', 'd.day')} AS price, s.on_hand, s.free
  FROM candidate c JOIN item i ON i.id = c.id CROSS JOIN (SELECT today_at(?) AS day) d
  LEFT JOIN LATERAL (SELECT coalesce(sum(f.qty), 0) AS on_hand, coalesce(sum(f.qty) FILTER (WHERE f.usable), 0)
      - coalesce((SELECT sum(r.qty) FROM promise r WHERE r.item_id = i.id AND r.site_id = ?), 0) AS free
      FROM stock_fact f
      WHERE f.item_id = i.id AND f.site_id = ?) s ON true`;
const FILTER = `(?::text IS NULL OR i.item_group = ?)
    AND (?::int IS NULL OR EXISTS (SELECT 1 FROM item_supplier x WHERE x.item_id = i.id AND x.supplier_id = ?))
    AND (? OR i.retired_at IS NULL)`;
const filterValues = (f: ItemFilter): unknown[] => [f.group ?? null, f.group ?? null, f.supplier ?? null, f.supplier ?? null, f.retired];

/** Items of a filter in order of their codes, a page after a code. */
export function browseItems(db: Reads, filter: ItemFilter, after: string, limit: number): Promise<ItemListRow[]> {
  return query<ItemListRow>(
    db,
    filter.onlyFree
      ? `WITH candidate AS (
          SELECT i.id, 2 AS rank
          FROM item i
          WHERE ${FILTER} AND i.code > ? AND EXISTS (SELECT 1 FROM balance b WHERE b.item_id = i.id AND b.qty > 0)
        )
         SELECT * FROM (${LISTED}) rows WHERE free > 0 ORDER BY code LIMIT ?`
      : `WITH candidate AS (SELECT i.id, 2 AS rank FROM item i WHERE ${FILTER} AND i.code > ? ORDER BY i.code LIMIT ?) ${LISTED}
        ORDER BY i.code`,
    filter.onlyFree
      ? [...filterValues(filter), after, filter.site, filter.site, filter.site, limit]
      : [...filterValues(filter), after, limit, filter.site, filter.site, filter.site],
  );
}

// What items are ordered by before their lists are put together: of 200,000 the lists of one page are.
const KEYS: Readonly<Record<(typeof ITEM_SORTS)[number], SortKey & { readonly needs?: 'stock' | 'day' }>> = {
  code: { sql: 'i.code', kind: 'text' },
  description: { sql: 'lower(i.description)', kind: 'text' },
  group: { sql: 'lower(i.item_group)', kind: 'text' },
  supplier: {
    sql: `coalesce((SELECT u.name FROM item_supplier x JOIN supplier u ON u.id = x.supplier_id WHERE x.item_id = i.id ORDER BY u.id
      LIMIT 1), '')`,
    kind: 'text',
  },
  tracking: { sql: 'i.tracking', kind: 'text' },
  onHand: { sql: 'coalesce(stock.on_hand, 0)', kind: 'decimal', needs: 'stock' },
  free: { sql: 'coalesce(stock.free, 0)', kind: 'decimal', needs: 'stock' },
  unit: { sql: 'i.base_unit', kind: 'text' },
  price: { sql: amountOn('i.id', 'price', 'd.day'), kind: 'decimal', needs: 'day' },
  cost: { sql: amountOn('i.id', 'cost', 'd.day'), kind: 'decimal', needs: 'day' },
  storage: { sql: 'i.storage_class', kind: 'text' },
};
const NEEDS = {
  stock: `LEFT JOIN (
      SELECT item_id, sum(on_hand) AS on_hand, sum(free) AS free
      FROM (
        SELECT item_id, sum(qty) AS on_hand, coalesce(sum(qty) FILTER (WHERE usable), 0) AS free
        FROM stock_fact
        WHERE site_id = ?
        GROUP BY item_id
        UNION ALL
        SELECT item_id, 0, -sum(qty)
        FROM promise
        WHERE site_id = ?
        GROUP BY item_id
      ) x
      GROUP BY item_id
    ) stock ON stock.item_id = i.id`,
  day: `CROSS JOIN (SELECT today_at(?) AS day) d`,
} as const;

/** Items of a filter in an order that somebody chose. */
export async function browseItemsSorted(
  db: Reads,
  filter: ItemFilter,
  of: { by: SortBy<(typeof ITEM_SORTS)[number]>; after: string | undefined; limit: number },
): Promise<{ rows: ItemListRow[]; next: string | null }> {
  const { sql, kind, needs } = KEYS[of.by.replace(/^-/, '') as (typeof ITEM_SORTS)[number]];
  const joined = { stock: [filter.site, filter.site], day: [filter.site] };
  const page = await selectSorted<{ id: number }, 'key'>(db, {
    rows: `SELECT i.id, ${sql} AS key
      FROM item i
      ${needs ? NEEDS[needs] : ''}
      ${filter.onlyFree && needs !== 'stock' ? NEEDS.stock : ''}
      WHERE ${FILTER} ${filter.onlyFree ? 'AND stock.free > 0' : ''}`,
    values: [...(needs ? joined[needs] : []), ...(filter.onlyFree && needs !== 'stock' ? joined.stock : []), ...filterValues(filter)],
    keys: { key: { sql: 'key', kind } },
    by: of.by.startsWith('-') ? '-key' : 'key',
    after: of.after,
    limit: of.limit,
  });
  const ids = page.rows.map((r) => r.id);
  const rows = await query<ItemListRow>(
    db,
    `WITH candidate AS (SELECT id, 2 AS rank FROM unnest(?::int[]) AS x(id)) ${LISTED} ORDER BY array_position(?::int[], i.id)`,
    [ids, filter.site, filter.site, filter.site, ids],
  );
  return { rows, next: page.next };
}

/** Items that a text finds, best first (B8): the very code, barcode or part number; codes that begin with it; every word in any order.
 *  Every branch is an index and has an end, so that the time does not grow with the number of items; an export sets `most` where it wants
 *  all. */
export function findItems(
  db: Reads,
  filter: ItemFilter,
  { text, words: sought }: Sought,
  limit: number,
  most = MOST_FOUND,
): Promise<ItemListRow[]> {
  const words = wordsQuery(sought);
  return query<ItemListRow>(
    db,
    `WITH hit AS (
       SELECT id, 0 AS rank FROM item WHERE code = ?
       UNION ALL SELECT item_id, 0 FROM barcode WHERE code = ? OR gtin = ANY(?::text[])
       UNION ALL SELECT item_id, 0 FROM item_supplier WHERE upper(part_no) = ?
       UNION ALL (SELECT id, 1 FROM item WHERE code LIKE ? ORDER BY code LIMIT 50)
       UNION ALL (SELECT i.id, 2 FROM item i WHERE i.words @@ to_tsquery('simple', ?) AND ${FILTER} LIMIT ?)
       UNION ALL (SELECT i.id, 2 FROM item i WHERE i.words @@ to_tsquery('simple', ?) AND ${FILTER} LIMIT 50)),
     candidate AS (
       SELECT hit.id, min(rank) AS rank
       FROM hit
       JOIN item i ON i.id = hit.id
       WHERE ${FILTER}
       GROUP BY hit.id
       ORDER BY 2, min(i.code)
       LIMIT ?
     )
     SELECT * FROM (${LISTED}) rows WHERE NOT ? OR free > 0 ORDER BY rank, code`,
    [
      text.code,
      text.code,
      text.gtins,
      text.code,
      `${text.code.replace(/[\\%_]/g, (c) => `\\${c}`)}%`,
      words ?? '',
      ...filterValues(filter),
      most,
      text.bare.length > 2 ? `${text.bare}:*` : '',
      ...filterValues(filter),
      ...filterValues(filter),
      filter.onlyFree ? most : limit,
      filter.site,
      filter.site,
      filter.site,
      filter.onlyFree,
    ],
  );
}

/** Every item that a filter and a text mean, for an export: nothing is left out because it is much. */
export async function selectFilteredItems(db: Reads, filter: ItemFilter, q: string): Promise<number[]> {
  const text = readSearch(q);
  const rows =
    q.trim() === ''
      ? await browseItems(db, filter, '', EVERYTHING)
      : await findItems(db, filter, { text, words: text.words.map((w) => [w]) }, EVERYTHING, EVERYTHING);
  return rows.map((r) => r.id);
}

const EVERYTHING = 10_000_000;

/** Rows of suppliers' price lists that a text finds; those that are no longer listed are left out. */
export function findListRows(
  db: Reads,
  { text, words: sought }: Sought,
  supplier: number | undefined,
  limit: number,
): Promise<PriceListRow[]> {
  const words = wordsQuery(sought);
  return query<PriceListRow>(
    db,
    `WITH hit AS (
       SELECT id, 0 AS rank FROM price_row WHERE gtin = ANY(?::text[])
       UNION ALL SELECT id, 0 FROM price_row WHERE barcode = ?
       UNION ALL (SELECT id, 0 FROM price_row WHERE upper(part_no) = ? LIMIT 20)
       UNION ALL (SELECT id, 1 FROM price_row WHERE upper(part_no) LIKE ? LIMIT 30)
       UNION ALL (
         SELECT id, 2
         FROM price_row r
         WHERE r.words @@ to_tsquery('simple', ?) AND r.gone_at IS NULL AND (?::int IS NULL OR r.supplier_id = ?)
         LIMIT ${MOST_FOUND}
       )),
     best AS (SELECT id, min(rank) AS rank FROM hit GROUP BY id)
     SELECT r.id, u.name AS supplier, u.id AS "supplierId", r.part_no AS "partNo", r.description, r.barcode,
       trim_scale(r.cost)::text AS cost, r.price::text, trim_scale(r.pack_units)::text AS "packUnits",
       CASE WHEN i.id IS NULL THEN NULL ELSE json_build_object('id', i.id, 'code', i.code) END AS item
     FROM best b JOIN price_row r ON r.id = b.id JOIN supplier u ON u.id = r.supplier_id LEFT JOIN item i ON i.id = r.item_id
     WHERE r.gone_at IS NULL AND (?::int IS NULL OR r.supplier_id = ?) ORDER BY b.rank, r.part_no LIMIT ?`,
    [
      text.gtins,
      text.code,
      text.code,
      `${text.code.replace(/[\\%_]/g, (c) => `\\${c}`)}%`,
      words ?? '',
      supplier ?? null,
      supplier ?? null,
      supplier ?? null,
      supplier ?? null,
      limit,
    ],
  );
}

/** The groups that items have, in order. One step of the index from each to the next: reading every item for its group takes as long as
 *  there are items. Source: PostgreSQL wiki, “Loose indexscan”. */
export async function selectGroups(db: Reads): Promise<string[]> {
  const rows = await query<{ g: string }>(
    db,
    `WITH RECURSIVE walk AS ((SELECT item_group AS g FROM item ORDER BY item_group LIMIT 1)
       UNION ALL SELECT (SELECT item_group FROM item WHERE item_group > walk.g ORDER BY item_group LIMIT 1)
       FROM walk
       WHERE walk.g IS NOT NULL)
     SELECT g FROM walk WHERE g IS NOT NULL`,
  );
  return rows.map((r) => r.g);
}

/** Words that may be meant instead: of every word that is not a whole word anywhere, those one edit away; null where there is none.
 *  Shape:  the alternatives of each word of the text, in its order; a word without any stands alone. */
export async function mendSpelling(db: Reads, text: SearchText): Promise<readonly (readonly string[])[] | null> {
  const wrong = [...new Set(text.words.filter(maySpellWrong))];
  if (wrong.length === 0) return null;
  const stems = wrong.flatMap((word) => wordStems(word).map((stem) => ({ word, stem })));
  const rows = await query<{ word: string; near: string }>(
    db,
    `SELECT DISTINCT t.word, w.word AS near FROM unnest(?::text[], ?::text[]) AS t(word, stem) JOIN word_stem w ON w.stem = t.stem
     WHERE NOT EXISTS (SELECT 1 FROM search_word s WHERE s.word = t.word) ORDER BY 1, 2`,
    [stems.map((s) => s.word), stems.map((s) => s.stem)],
  );
  const near = new Map<string, string[]>();
  for (const row of rows) if (isOneEditApart(row.word, row.near)) near.set(row.word, [...(near.get(row.word) ?? []), row.near]);
  if (near.size === 0) return null;
  return text.words.map((word) => (near.get(word) ?? [word]).slice(0, MOST_ALTERNATIVES));
}

const MOST_ALTERNATIVES = 8;
