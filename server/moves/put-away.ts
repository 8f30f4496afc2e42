import { sumQty, type ItemId, type LotId } from '#core/base';
import { qtyText } from '#contract/base';
import type { PutAwayRow } from '#contract/moves';
import type { Condition } from '#core/stock';
import { asQty, query, type Db } from '#server/kernel';
import { suggestBins, type Homeless } from './suggest-bins.ts';

type WaitingRow = {
  bin: number;
  from: string;
  walk: number;
  item: ItemId;
  code: string;
  description: string;
  unit: string;
  barcode: string | null;
  lot_id: LotId | null;
  lot: string | null;
  expires: string | null;
  serial: string | null;
  condition: Condition;
  sscc: string | null;
  qty: string;
  since: Date;
  round: { id: number; number: string } | null;
};

/** What waits for its bin at arrivals, or has none yet, the oldest first, each with where it best goes and why. What is in one pallet or
 *  carton goes where most of it belongs. */
export async function readPutAway(db: Db, site: number, use: 'arrivals' | 'unplaced'): Promise<PutAwayRow[]> {
  const waiting = await query<WaitingRow>(
    db,
    `SELECT f.bin_id AS bin, f.address AS from, f.walk, f.item_id AS item, i.code, i.description, i.base_unit AS unit, f.lot_id,
       f.lot, f.expires, f.serial, f.condition, u.sscc, f.qty,
       first_barcode(i.id) AS barcode, (
         SELECT json_build_object('id', t.carry_id, 'number', c.number)
         FROM carry_open_task t
         JOIN carry c ON c.id = t.carry_id
         WHERE t.to_fetch > 0 AND CASE WHEN f.unit_id IS NULL THEN t.unit_id IS NULL AND t.from_bin = f.bin_id AND t.item_id = f.item_id
           AND t.lot_id IS NOT DISTINCT FROM f.lot_id AND t.serial_id IS NOT DISTINCT FROM f.serial_id AND t.condition = f.condition
           ELSE t.unit_id = f.unit_id END
         LIMIT 1) AS round,
       (SELECT m.at FROM movement m WHERE m.item_id = f.item_id AND m.to_bin = f.bin_id ORDER BY m.id DESC LIMIT 1) AS since
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     LEFT JOIN logistic_unit u ON u.id = f.unit_id
     WHERE f.site_id = ? AND f.use = ? AND f.qty > 0
     ORDER BY since, u.sscc NULLS FIRST, i.code, f.lot, f.serial
     LIMIT 300`,
    [site, use],
  );
  const looking = lookingFor(waiting);
  const suggestions = await suggestBins(
    db,
    site,
    looking.map(({ goods }) => goods),
  );
  const bins = new Map(looking.map(({ key }, n) => [key, suggestions[n] ?? null]));
  return waiting.map(({ lot_id: _, walk: __, ...w }) => ({
    ...w,
    qty: qtyText(asQty(w.qty)),
    since: w.since.toISOString(),
    suggestion: bins.get(keyOf(w)) ?? null,
  }));
}

const keyOf = (w: Pick<WaitingRow, 'sscc' | 'bin' | 'item' | 'lot' | 'serial' | 'condition'>): string =>
  w.sscc ?? [w.bin, w.item, w.lot, w.serial, w.condition].join('|');

// What is in a unit is one thing that looks for a bin: the goods of which most is in it.
function lookingFor(waiting: readonly WaitingRow[]): { key: string; goods: Homeless }[] {
  const together = new Map<string, WaitingRow[]>();
  for (const w of waiting) together.set(keyOf(w), [...(together.get(keyOf(w)) ?? []), w]);
  return [...together].map(([key, own]) => {
    const sumOf = (item: number) => sumQty(own.flatMap((w) => (w.item === item ? [asQty(w.qty)] : [])));
    const most = own.reduce((best, w) => (sumOf(w.item) > sumOf(best.item) ? w : best));
    return { key, goods: { item: most.item, lot: most.lot_id, qty: sumOf(most.item), walk: most.walk } };
  });
}
