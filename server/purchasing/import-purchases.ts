import { addDays, formatAmount, parseAmount, type ItemId } from '#core/base';
import { judgePurchaseSheet, PURCHASE_COLUMNS, type SheetItem, type SheetOrder } from '#core/purchasing';
import { asQty, byTitles, importSheet, query, type Db, type JobContext, type RowVerdict, type SheetRows } from '#server/kernel';
import { makePurchase } from './save.ts';
import { lockPurchaseImport } from './store.ts';

type Reads = Pick<Db, 'raw'>;

/** Imports purchase orders from a sheet, as drafts: one for each reference, or for each supplier where the sheet has none. */
export function importPurchases(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { site, person } = context.job;
  return importSheet(context, {
    locate: byTitles(PURCHASE_COLUMNS),
    lock: lockPurchaseImport,
    judge: (db, columns, rows) => judge(db, site, columns, rows),
    write: async (trx, { orders }) => {
      for (const order of orders)
        await makePurchase(trx, {
          ...order,
          site,
          person,
          lines: order.lines.map((l) => ({ ...l, cost: formatAmount(l.cost, 4) })),
        });
      return { orders: orders.length };
    },
  });
}

async function judge(
  db: Reads,
  site: number,
  columns: ReadonlyMap<string, number>,
  rows: SheetRows,
): Promise<{ verdicts: RowVerdict[]; orders: readonly SheetOrder[] }> {
  const suppliers = await query<{ id: number; code: string; name: string }>(db, `SELECT id, code, name FROM supplier`);
  const items = await query<{
    item: ItemId;
    code: string;
    decimals: number;
    retired: boolean;
    packs: { name: string; units: string }[];
    barcodes: string[];
    sold: { supplier: number; part: string; cost: string; days: number }[];
  }>(
    db,
    `SELECT i.id AS item, i.code, i.decimals, i.retired_at IS NOT NULL AS retired,
       (SELECT coalesce(json_agg(json_build_object('name', p.name, 'units', p.units::text)), '[]') FROM pack p WHERE p.item_id = i.id)
         AS packs,
       (SELECT coalesce(json_agg(c.code), '[]') FROM barcode c JOIN pack p ON p.id = c.pack_id AND p.units = 1 WHERE c.item_id = i.id)
         AS barcodes,
       (
         SELECT coalesce(json_agg(json_build_object('supplier', x.supplier_id, 'part', x.part_no, 'cost', x.cost::text, 'days',
           x.lead_days)), '[]')
         FROM item_supplier x
         WHERE x.item_id = i.id
       ) AS sold
     FROM item i`,
  );
  const known = new Map<string, SheetItem>();
  const byPart = new Map<string, SheetItem>();
  const costs = new Map<string, ReturnType<typeof parseAmount>>();
  const days = new Map<number, number>();
  for (const i of items) {
    const packs = new Map(i.packs.map((p) => [p.name.toUpperCase(), asQty(p.units)]));
    const item: SheetItem = { item: i.item, code: i.code, decimals: i.decimals, isRetired: i.retired, packs };
    for (const text of [...i.barcodes, i.code]) known.set(text.toUpperCase(), item);
    for (const s of i.sold) {
      if (s.part !== '') byPart.set(`${s.supplier}|${s.part.toUpperCase()}`, item);
      costs.set(`${s.supplier}|${i.item}`, parseAmount(s.cost));
      days.set(s.supplier, Math.max(days.get(s.supplier) ?? 0, s.days));
    }
  }
  for (const [key, item] of byPart) known.set(key, item);
  const [now] = await query<{ today: string }>(db, `SELECT today_at(?) AS today`, [site]);
  const today = now?.today ?? '';
  const references = await query<{ supplier: number; reference: string; number: string }>(
    db,
    `SELECT supplier_id AS supplier, upper(reference) AS reference, number FROM purchase_order WHERE reference <> ''`,
  );
  const dueOf = (supplier: number): string => addDays(today, days.get(supplier) ?? 7);
  const { verdicts, orders } = judgePurchaseSheet(columns, rows, {
    suppliers: new Map(suppliers.flatMap((s) => [s.name, s.code].map((text) => [text.toUpperCase(), s] as const))),
    items: known,
    costs,
    references: new Map(references.map((r) => [`${r.supplier}|${r.reference}`, r.number])),
    dueOf,
    today,
  });
  return { verdicts: [...verdicts], orders };
}
