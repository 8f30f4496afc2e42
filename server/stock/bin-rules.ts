import { checkBinRules, type BinRules, type Goods } from '#core/places';
import { isOutside, type Movement } from '#core/stock';
import { asQty, query, refuse, together, type Db, type Trx } from '#server/kernel';
import { lockBinRules, type BinFactRow, type ItemFactRow, type PostingFactRows } from './store.ts';

type Reads = Pick<Db, 'raw'>;
type RuleRow = Pick<
  BinFactRow,
  'id' | 'address' | 'one_item' | 'one_lot' | 'storage_class' | 'capacity' | 'volume_ml' | 'weight_g' | 'retired'
>;
const RULES = `SELECT id, address, one_item, one_lot, storage_class, capacity, volume_ml, weight_g, retired_at IS NOT NULL AS retired
  FROM bin
  WHERE id = ANY(?::int[])
  ORDER BY id`;

const rulesOf = (r: RuleRow): BinRules => ({
  bin: r.id,
  address: r.address,
  oneItem: r.one_item,
  oneLot: r.one_lot,
  storageClass: r.storage_class,
  units: r.capacity === null ? null : asQty(r.capacity),
  volumeMl: r.volume_ml,
  weightG: r.weight_g,
});
const hasRules = (r: BinRules): boolean =>
  r.oneItem || r.oneLot || [r.storageClass, r.units, r.volumeMl, r.weightG].some((limit) => limit !== null);

/** The rules of bins and what lies in them, as core judges them. */
export async function loadBins(db: Reads, bins: readonly number[]): Promise<ReadonlyMap<number, { rules: BinRules; content: Goods[] }>> {
  const rows = await query<RuleRow>(db, RULES, [bins]);
  const content = await loadContent(
    db,
    rows.map((r) => r.id),
  );
  return new Map(rows.map((r) => [r.id, { rules: rulesOf(r), content: content.get(r.id) ?? [] }]));
}

type GoodsRow = {
  bin: number;
  item: number;
  code: string;
  lot: number | null;
  qty: string;
  storage_class: string;
  volume_ml: number;
  weight_g: number;
};
const goodsOf = (r: Omit<GoodsRow, 'bin'>): Goods => ({
  item: r.item as Goods['item'],
  itemCode: r.code,
  lot: r.lot as Goods['lot'],
  qty: asQty(r.qty),
  storageClass: r.storage_class,
  unitMl: r.volume_ml,
  unitG: r.weight_g,
});

async function loadContent(db: Reads, bins: readonly number[]): Promise<Map<number, Goods[]>> {
  const content = new Map<number, Goods[]>();
  if (bins.length === 0) return content;
  const rows = await query<GoodsRow>(
    db,
    `SELECT b.bin_id AS bin, b.item_id AS item, i.code, b.lot_id AS lot, sum(b.qty) AS qty, i.storage_class, i.volume_ml, i.weight_g
     FROM balance b
     JOIN item i ON i.id = b.item_id
     WHERE b.bin_id = ANY(?::int[]) AND b.qty > 0 GROUP BY b.bin_id, b.item_id, b.lot_id, i.id`,
    [bins],
  );
  for (const row of rows) content.set(row.bin, [...(content.get(row.bin) ?? []), goodsOf(row)]);
  return content;
}

/** Refuses movements that a rule of a bin forbids, by core's one decision; and any into a retired bin.
 *  Locks:  bins with rules that take stock in, so that two people filling one bin take turns and neither rule is passed by both. The caller
 *          holds the bins themselves. */
export async function refuseAgainstBinRules(
  trx: Trx,
  movements: readonly Movement[],
  facts: PostingFactRows,
  overrule: boolean,
): Promise<void> {
  // A change of condition in one bin brings nothing in.
  const entering = movements.filter((m) => !isOutside(m.to.bin) && m.from.bin !== m.to.bin);
  if (entering.length === 0) return;
  const rows = facts.bins.filter((b) => entering.some((m) => m.to.bin === b.id));
  const retired = rows.find((r) => r.retired);
  if (retired) refuse({ code: 'places.binRetired', bin: retired.address });
  const ruled = rows.map(rulesOf).filter(hasRules);
  if (overrule || ruled.length === 0) return;
  const bins = ruled.map((r) => r.bin);
  const [, content] = await together([lockBinRules(trx, bins), loadContent(trx, bins)]);
  const items = new Map(facts.items.map((i) => [i.item, i]));
  for (const rules of ruled) {
    const coming = entering
      .filter((m) => m.to.bin === rules.bin)
      .map((m): Goods => ({ ...goodsOf({ ...(items.get(m.item) as ItemFactRow), lot: m.lot, qty: '0' }), qty: m.qty }));
    const leaving = movements.filter((m) => m.from.bin === rules.bin && m.to.bin !== rules.bin);
    const staying = (content.get(rules.bin) ?? []).map((g) => ({
      ...g,
      qty: (g.qty - leaving.filter((m) => m.item === g.item && m.lot === g.lot).reduce((sum, m) => sum + m.qty, 0)) as Goods['qty'],
    }));
    const broken = checkBinRules(rules, staying, coming);
    if (broken) refuse(broken);
  }
}
