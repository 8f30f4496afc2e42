import { formatQty, isWholeStep, roundAmount, type Qty } from '#core/base';
import { reckonReorder } from '#core/purchasing';
import { qtyText } from '#contract/base';
import type { ReorderRow } from '#contract/purchasing';
import { announce, asQty, query, refuse, type Db, type Trx } from '#server/kernel';
import { findItem } from '#server/items';
import { makePurchase } from './save.ts';
import { countLevels, selectDayIn, selectLeadDays, selectReorderFacts, upsertLevel, type ReorderFactRow } from './store-reorder.ts';

/** How far back "used lately" looks, in days. */
export const USED_DAYS = 28;
/** How long an item is reckoned to need where no supplier says. */
const LEAD_DAYS = 7;

/** What to buy for a site, with the reckoning of each (B11).
 *  Shape:  those of which there is too little; with `item`, that one whatever there is of it. */
export async function readReorder(
  db: Db,
  of: { site: number; supplier?: number | undefined; item?: number | undefined },
): Promise<{ days: number; rows: ReorderRow[]; levels: number }> {
  const facts = await selectReorderFacts(db, { site: of.site, days: USED_DAYS, supplier: of.supplier ?? null, item: of.item ?? null });
  const rows = facts.map(rowOf).filter((row) => row.reason !== null || of.item !== undefined);
  return { days: USED_DAYS, rows, levels: await countLevels(db, of.site) };
}

function rowOf(f: ReorderFactRow): ReorderRow {
  const pack = f.packs.find((p) => p.id === f.pack_id) ?? f.packs[0] ?? { id: 0, name: f.unit, units: '1' };
  const leadDays = f.lead_days ?? LEAD_DAYS;
  const reckoned = reckonReorder({
    here: asQty(f.here),
    coming: asQty(f.coming),
    drafted: asQty(f.drafted),
    promised: asQty(f.promised),
    waiting: asQty(f.waiting),
    used: asQty(f.used),
    days: USED_DAYS,
    leadDays,
    least: f.least === null ? null : asQty(f.least),
    most: f.most === null ? null : asQty(f.most),
    pack: asQty(pack.units),
    decimals: f.decimals,
  });
  const text = (value: string): string => qtyText(asQty(value));
  return {
    item: f.item,
    code: f.code,
    description: f.description,
    unit: f.unit,
    here: text(f.here),
    coming: text(f.coming),
    drafted: text(f.drafted),
    promised: text(f.promised),
    waiting: text(f.waiting),
    used: text(f.used),
    leadDays,
    least: f.least === null ? null : text(f.least),
    most: f.most === null ? null : text(f.most),
    pack,
    packs: f.packs,
    position: qtyText(reckoned.position),
    leadUse: qtyText(reckoned.leadUse),
    level: qtyText(reckoned.level),
    upTo: qtyText(reckoned.upTo),
    buy: qtyText(reckoned.buy),
    buyPacks: reckoned.packs,
    reason: reckoned.reason,
    supplier:
      f.supplier_id === null
        ? null
        : { id: f.supplier_id, name: f.supplier ?? '', cost: roundAmount(f.cost ?? '0', 4), partNo: f.part_no ?? '' },
  };
}

/** Says how much of an item a site wants at the least and at the most, and in which pack it is bought; nothing of all three is no level.
 *  Errors: an unknown item or pack, quantities that the item cannot have, a least over the most. */
export async function setLevel(
  trx: Trx,
  level: { site: number; item: number; least: Qty | null; most: Qty | null; pack: number | null },
): Promise<void> {
  const item = await findItem(trx, level.item);
  for (const amount of [level.least, level.most])
    if (amount !== null && !isWholeStep(amount, item.decimals))
      refuse({ code: 'purchasing.tooFine', item: item.code, decimals: item.decimals });
  if (level.most !== null && level.most <= 0) refuse({ code: 'purchasing.nothing', item: item.code });
  if (level.least !== null && level.most !== null && level.least > level.most)
    refuse({ code: 'purchasing.levelsCross', item: item.code, least: formatQty(level.least), most: formatQty(level.most) });
  if (level.pack !== null) {
    const [pack] = await query(trx, `SELECT 1 FROM pack WHERE id = ? AND item_id = ?`, [level.pack, item.id]);
    if (!pack) refuse({ code: 'items.unknownPack', id: level.pack });
  }
  const text = (amount: Qty | null): string | null => (amount === null ? null : formatQty(amount));
  await upsertLevel(trx, { item: item.id, site: level.site, least: text(level.least), most: text(level.most), pack: level.pack });
  announce(trx, 'purchasing', { items: [item.id] });
}

/** Makes a draft for each supplier of what is to be bought (B11), due when the slowest of it can be there.
 *  Errors: an item that nobody sells, unless a supplier is named; a quantity that the item cannot have. All or none. */
export async function draftPurchases(
  trx: Trx,
  wish: { site: number; person: number; lines: readonly { item: number; supplier: number | null; qty: Qty }[] },
): Promise<{ id: number; number: string; supplier: string; lines: number }[]> {
  const bySupplier = new Map<number, Map<number, Qty>>();
  for (const line of wish.lines) {
    const supplier = line.supplier ?? (await supplierOf(trx, line.item));
    const lines = bySupplier.get(supplier) ?? new Map<number, Qty>();
    bySupplier.set(supplier, lines.set(line.item, ((lines.get(line.item) ?? 0) + line.qty) as Qty));
  }
  const made = [];
  for (const [supplier, lines] of bySupplier) {
    const [named] = await query<{ name: string }>(trx, `SELECT name FROM supplier WHERE id = ?`, [supplier]);
    const due = await selectDayIn(trx, wish.site, await selectLeadDays(trx, supplier, [...lines.keys()]));
    const { id, number } = await makePurchase(trx, { ...wish, supplier, due, lines: [...lines].map(([item, qty]) => ({ item, qty })) });
    made.push({ id, number, supplier: named?.name ?? '', lines: lines.size });
  }
  return made;
}

async function supplierOf(trx: Trx, item: number): Promise<number> {
  const { code } = await findItem(trx, item);
  const [row] = await query<{ supplier: number }>(
    trx,
    `SELECT supplier_id AS supplier FROM item_supplier WHERE item_id = ? ORDER BY cost = 0, cost, supplier_id LIMIT 1`,
    [item],
  );
  return row?.supplier ?? refuse({ code: 'purchasing.noSupplier', item: code });
}
