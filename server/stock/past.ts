import { roundAmount } from '#core/base';
import { foldText } from '#core/items';
import { qtyText } from '#contract/base';
import type { STOCK_SORTS, StockRow } from '#contract/stock';
import type { QueryOf, Routes } from '#contract';
import { amountOn } from '#server/items';
import { asQty, query, type Db, selectSorted, type SortBy, type SortKey } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
type Filter = Pick<QueryOf<Routes['stock.list']>, 'at' | 'site' | 'group' | 'supplier' | 'q'>;

/** Stock as it was at a moment: the balances of now without what the ledger moved since. It costs what happened since, not the whole
 *  ledger; a test holds it equal to the plain sum of the ledger. Without a moment it is the balances. */
const THEN = `then_ AS (
  SELECT item_id, bin_id, lot_id, serial_id, condition, sum(qty) AS qty FROM (
    SELECT item_id, bin_id, lot_id, serial_id, condition, qty FROM balance WHERE qty > 0
    UNION ALL SELECT item_id, to_bin, lot_id, serial_id, to_condition, -qty
    FROM movement
    WHERE at > coalesce(?::timestamptz, 'infinity') AND to_bin >= 100
    UNION ALL SELECT item_id, from_bin, lot_id, serial_id, from_condition, qty
    FROM movement
    WHERE at > coalesce(?::timestamptz, 'infinity') AND from_bin >= 100) m
  GROUP BY 1, 2, 3, 4, 5 HAVING sum(qty) <> 0)`;
// Of several suppliers the first that was named stands for the item.
const FACTS = `SELECT t.*, i.code, i.description, i.item_group, i.base_unit, s.id AS site_id, s.name AS site, z.code AS zone,
    bin.address AS bin, l.code AS lot, sr.code AS serial,
    sup.id AS supplier_id, coalesce(sup.name, '') AS supplier,
      ${amountOn('i.id', 'cost', '(coalesce(?::timestamptz, now_here()) AT TIME ZONE s.time_zone)::date')} AS cost
  FROM then_ t
  JOIN item i ON i.id = t.item_id
  JOIN bin ON bin.id = t.bin_id
  JOIN zone z ON z.id = bin.zone_id
  JOIN site s ON s.id = z.site_id
  LEFT JOIN lot l ON l.id = t.lot_id
  LEFT JOIN serial sr ON sr.id = t.serial_id
    LEFT JOIN LATERAL (
      SELECT u.id, u.name FROM item_supplier x JOIN supplier u ON u.id = x.supplier_id WHERE x.item_id = i.id ORDER BY u.id LIMIT 1
    ) sup ON true
  WHERE (?::int IS NULL OR s.id = ?) AND (?::text IS NULL OR i.item_group = ?) AND (?::int IS NULL OR sup.id = ?)
    AND (?::text IS NULL OR i.search LIKE ?)`;

const valuesOf = (f: Filter): unknown[] => {
  const like = f.q ? `%${foldText(f.q).replace(/[\\%_]/g, (c) => `\\${c}`)}%` : null;
  const at = f.at ?? null;
  return [at, at, at, f.site ?? null, f.site ?? null, f.group || null, f.group || null, f.supplier ?? null, f.supplier ?? null, like, like];
};

type Row = Omit<StockRow, 'qty' | 'cost' | 'value'> & { qty: string; cost: string; value: string; key: (string | number)[] };

const BY_ITEM = `SELECT item_id AS item, code, description, item_group AS "group", supplier, base_unit AS unit, NULL AS site, NULL AS zone,
    NULL AS bin, NULL AS lot, NULL AS serial, NULL AS condition,
    sum(qty) AS qty, max(cost) AS cost, sum(round(qty * cost, 2)) AS value, json_build_array(code) AS key
  FROM facts
  GROUP BY 1, 2, 3, 4, 5, 6`;
const PLACE_KEY = '(code, bin_id, coalesce(lot_id, 0), coalesce(serial_id, 0), condition)';
const BY_PLACE = `SELECT item_id AS item, code, description, item_group AS "group", supplier, base_unit
  AS unit, site, zone, bin, lot, serial,
    condition, qty, cost, round(qty * cost, 2) AS value,
    json_build_array(code, bin_id, coalesce(lot_id, 0), coalesce(serial_id, 0), condition) AS key
  FROM facts`;
const stockRow = ({ key: _, ...r }: Row): StockRow => ({
  ...r,
  qty: qtyText(asQty(r.qty)),
  cost: roundAmount(r.cost, 4),
  value: roundAmount(r.value),
});

/** The stock list (B13), by item or by place; `key` is where the next page begins. */
export async function selectStock(
  db: Reads,
  filter: Filter & { by: 'item' | 'place'; after: (string | number)[] | null; limit: number },
): Promise<(StockRow & { key: (string | number)[] })[]> {
  const after = filter.by === 'item' ? [filter.after?.[0] ?? ''] : (filter.after ?? ['', 0, 0, 0, '']);
  const rows = await query<Row>(
    db,
    `WITH ${THEN}, facts AS (${FACTS}) ${
      filter.by === 'item'
        ? `${BY_ITEM} HAVING code > ? ORDER BY code LIMIT ?`
        : `${BY_PLACE}
      WHERE ${PLACE_KEY} > (?, ?, ?, ?, ?) ORDER BY ${PLACE_KEY} LIMIT ?`
    }`,
    [...valuesOf(filter), ...after, filter.limit],
  );
  return rows.map((r) => ({ ...stockRow(r), key: r.key }));
}

const SORTS: Readonly<Record<(typeof STOCK_SORTS)[number], SortKey>> = {
  code: { sql: 'code', kind: 'text' },
  description: { sql: 'lower(description)', kind: 'text' },
  group: { sql: 'lower("group")', kind: 'text' },
  supplier: { sql: 'lower(supplier)', kind: 'text' },
  qty: { sql: 'qty', kind: 'decimal' },
  unit: { sql: 'unit', kind: 'text' },
  cost: { sql: 'cost', kind: 'decimal' },
  value: { sql: 'value', kind: 'decimal' },
  site: { sql: `coalesce(site, '')`, kind: 'text' },
  bin: { sql: `coalesce(bin, '')`, kind: 'text' },
  lot: { sql: `coalesce(lot, serial, '')`, kind: 'text' },
  condition: { sql: `coalesce(condition, '')`, kind: 'text' },
};

/** The stock list in an order that somebody chose. */
export async function selectStockSorted(
  db: Reads,
  filter: Filter & { by: 'item' | 'place'; sort: SortBy<(typeof STOCK_SORTS)[number]>; after?: string | undefined; limit: number },
): Promise<{ rows: StockRow[]; next: string | null }> {
  const { rows, next } = await selectSorted<Row & { id: string }, (typeof STOCK_SORTS)[number]>(db, {
    rows: `WITH ${THEN}, facts AS (${FACTS}) SELECT stock.*, key::text AS id FROM (${filter.by === 'item' ? BY_ITEM : BY_PLACE}) stock`,
    values: valuesOf(filter),
    keys: SORTS,
    by: filter.sort,
    idKind: 'text',
    after: filter.after ?? undefined,
    limit: filter.limit,
  });
  return { rows: rows.map(({ id: _, ...row }) => stockRow(row)), next };
}

/** What the stock is worth at cost, by group, supplier or site. */
export async function selectValue(
  db: Reads,
  filter: Filter & { by: 'group' | 'supplier' | 'site' },
): Promise<{ name: string; items: number; value: string }[]> {
  const column = { group: 'item_group', supplier: 'supplier', site: 'site' }[filter.by];
  return query(
    db,
    `WITH ${THEN}, facts AS (${FACTS})
     SELECT coalesce(nullif(${column}, ''), 'none') AS name, count(DISTINCT item_id) AS items, sum(round(qty * cost, 2)) AS value
     FROM facts
     GROUP BY 1
     ORDER BY 3 DESC`,
    valuesOf(filter),
  );
}
