import { addDays, ONE, type ItemId, type Qty } from '#core/base';
import { foldName } from '#core/floor';
import { labelText, type Tracking } from '#core/items';
import { judgeOrderSheet, ORDER_COLUMNS, type KnownForOrders, type OrderedItem } from '#core/orders';
import { asQty, byTitles, importSheet, query, SheetFault, type Db, type JobContext } from '#server/kernel';
import { makeOrder } from './make-order.ts';

type Reads = Pick<Db, 'raw'>;
const DUE_ELSE_DAYS = 3;

/** Reads a sheet of orders (F2): all of them, or, where one row is wrong, none.
 *  Errors: per row what `judgeOrderSheet` says. */
export function importOrders(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { site } = context.job;
  return importSheet(context, {
    locate: byTitles(ORDER_COLUMNS),
    // Two who import one sheet at once: the reference of a customer is unique in the database.
    lock: () => Promise.resolve(),
    judge: async (db, columns, rows) => {
      const cells = (key: string): string[] => rows.flatMap(({ cells: c }) => (c[columns.get(key) ?? -1] ?? '').split(/[\s,;]+/));
      return judgeOrderSheet(columns, rows, await selectKnownForOrders(db, site, { lots: cells('lot'), serials: cells('serials') }));
    },
    write: async (trx, { orders }, _file, progress) => {
      for (const [n, order] of orders.entries()) {
        await makeOrder(trx, { ...order, kind: 'customer', leastLife: null, extras: [], site, source: 'sheet' });
        if (n % PROGRESS_EVERY === 0) await progress(n);
      }
      return { orders: orders.length };
    },
  });
}

const PROGRESS_EVERY = 50;

/** What is there before orders that somebody sent are judged.
 *  Errors: a site that is none. */
export async function selectKnownForOrders(
  db: Reads,
  site: number,
  labels: { lots: readonly string[]; serials: readonly string[] },
): Promise<KnownForOrders> {
  const [now] = await query<{ today: string }>(db, `SELECT today_at(?) AS today`, [site]);
  if (!now) throw new SheetFault('That site is not here any more.');
  const items = await query<{
    item: ItemId;
    code: string;
    decimals: number;
    retired: boolean;
    tracking: Tracking;
    unit: string;
    packs: { name: string; units: string }[];
    codes: { code: string; gtin: string | null; units: string }[];
  }>(
    db,
    `SELECT i.id AS item, i.code, i.decimals, i.retired_at IS NOT NULL AS retired, i.tracking, i.base_unit AS unit,
       (SELECT coalesce(json_agg(json_build_object('name', p.name, 'units', p.units::text)), '[]')
        FROM pack p WHERE p.item_id = i.id) AS packs,
       (SELECT coalesce(json_agg(json_build_object('code', c.code, 'gtin', c.gtin, 'units', p.units::text)), '[]')
        FROM barcode c JOIN pack p ON p.id = c.pack_id WHERE c.item_id = i.id) AS codes
     FROM item i`,
  );
  const known = new Map<string, OrderedItem>();
  const of = (i: (typeof items)[number], per: Qty = ONE): OrderedItem => ({
    tracking: i.tracking,
    unit: i.unit,
    per,
    item: i.item,
    code: i.code,
    decimals: i.decimals,
    isRetired: i.retired,
    packs: i.packs.map((p) => ({ name: p.name, units: asQty(p.units) })),
  });
  for (const i of items)
    for (const { code, gtin, units } of i.codes)
      for (const text of [code, gtin ?? code]) known.set(text.toUpperCase(), of(i, asQty(units)));
  // A code of ours is that item, whatever else is called so.
  for (const i of items) known.set(i.code.toUpperCase(), of(i));
  const customers = new Map<string, number | null>();
  const named = await query<{ id: number; code: string; name: string }>(db, `SELECT id, code, name FROM customer ORDER BY id`);
  for (const c of named) customers.set(foldName(c.name), customers.has(foldName(c.name)) ? null : c.id);
  for (const c of named) customers.set(foldName(c.code), c.id);
  const references = await query<{ customer: number; reference: string; number: string }>(
    db,
    `SELECT customer_id AS customer, fold_name(reference) AS reference, number
     FROM customer_order
     WHERE customer_id IS NOT NULL AND reference <> '' AND state <> 'cancelled'`,
  );
  const found = await query<{ key: string; kind: 'lot' | 'serial' }>(
    db,
    `SELECT item_id || '|' || code AS key, 'lot' AS kind FROM lot WHERE code = ANY(?::text[])
     UNION ALL SELECT item_id || '|' || code, 'serial' FROM serial WHERE code = ANY(?::text[])`,
    [labels.lots.map(labelText), labels.serials.map(labelText)],
  );
  const keys = (kind: 'lot' | 'serial'): Set<string> => new Set(found.filter((l) => l.kind === kind).map((l) => l.key));
  return {
    items: known,
    lots: keys('lot'),
    serials: keys('serial'),
    customers,
    references: new Map(references.map((r) => [`${r.customer}|${r.reference}`, r.number])),
    today: now.today,
    dueElse: addDays(now.today, DUE_ELSE_DAYS),
  };
}
