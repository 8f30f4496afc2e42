import type { Response } from 'express';
import { formatQty, subQty, ZERO, type Qty } from '#core/base';
import { orderStops } from '#core/picking';
import { asQty, Paper, query, type House } from '#server/kernel';
import { selectHouse } from '#server/people';
import { findRound, selectWay } from './store-rounds.ts';
import { selectPicks, type PickRow } from './store-picks.ts';

/** The pick sheet of a round as PDF (F9): its stops in the order in which they are walked, what lies there by the records and what to take,
 *  for which order and slot, with room to write, totals, and a place to sign. Its code opens the round.
 *  Units:  kilograms; what has no weight on record is said to be missing in the sum.
 *  Errors: `picking.unknownRound`. */
export async function pickSheet(house: House, asked: { id: number }, res: Response): Promise<void> {
  const { db } = house;
  const round = await findRound(db, asked.id);
  const { company } = await selectHouse(db);
  const open = (await selectPicks(db, round.id)).filter((p) => asQty(p.qty) > asQty(p.picked));
  const { way, metres } = await selectWay(db, round.id);
  const stops = orderStops(open as never as (PickRow & { bin: never })[], way);
  const there = await selectThere(house, round.id);
  const paper = await Paper.open(res, { title: 'Pick sheet', number: round.number, company, file: `pick-sheet-${round.number}.pdf` });
  paper.blocks([
    [`${round.site}, ${round.cart}`, round.orders.join(', ')],
    [
      `${stops.length} ${stops.length === 1 ? 'stop' : 'stops'}${metres === null ? '' : `, ${Math.round(metres)} m`}`,
      round.person ? `Walked by ${round.person}` : '',
    ],
  ]);
  paper.table([
    { title: 'Bin', mm: 24 },
    { title: 'Item', mm: 62 },
    { title: 'There', mm: 16, isRight: true },
    { title: 'Take', mm: 22, isRight: true },
    { title: '  For', mm: 26 },
    { title: 'Taken; from where', mm: 24 },
  ]);
  let [units, grams, weightless] = [0, 0, 0];
  for (const stop of stops)
    for (const [n, p] of stop.picks.entries()) {
      const take = subQty(asQty(p.qty), asQty(p.picked));
      const lying = there.get(`${p.bin}|${p.item}|${p.lot_id ?? ''}`);
      units += take;
      if (lying?.grams) grams += (lying.grams * take) / 1000;
      else weightless += 1;
      const marks = [
        p.lot && `Lot ${p.lot}`,
        p.expires && `expires ${p.expires}`,
        p.serials ? `take ${p.serials.join(', ')}` : p.tracking.startsWith('serial') && 'write each serial',
      ]
        .filter(Boolean)
        .join(', ');
      paper.row([
        n === 0 ? p.address : '',
        [p.code, p.description, marks].filter(Boolean).join('\n'),
        formatQty(lying?.qty ?? ZERO),
        `${formatQty(take)} ${p.unit}`,
        `  ${p.order}\n  slot ${p.slot}`,
        '__________',
      ]);
    }
  paper.row(['', 'In all', '', formatQty(units as Qty), '', ''], true);
  paper.note(
    weightless === open.length && open.length > 0
      ? 'No weight of these items is on record.'
      : `${(grams / 1000).toFixed(2)} kg${weightless > 0 ? `, without ${weightless} picks whose weight nobody knows` : ''}.`,
  );
  paper.note('Carried by ____________________   Picked by ____________________   Checked by ____________________', 10);
  paper.end();
}

// What the records say lies where a round takes from, by bin, item and lot, and what one base unit weighs.
async function selectThere(house: House, round: number): Promise<Map<string, { qty: Qty; grams: number | null }>> {
  const rows = await query<{ bin: number; item: number; lot: number | null; qty: string; grams: number | null }>(
    house.db,
    `SELECT k.bin_id AS bin, k.item_id AS item, k.lot_id AS lot, nullif(i.weight_g, 0) AS grams, coalesce((
       SELECT sum(b.qty) FROM balance b
       WHERE b.bin_id = k.bin_id AND b.item_id = k.item_id AND b.lot_id IS NOT DISTINCT FROM k.lot_id AND b.condition = 'sound'), 0) AS qty
     FROM (SELECT DISTINCT bin_id, item_id, lot_id FROM round_pick WHERE round_id = ?) k
     JOIN item i ON i.id = k.item_id`,
    [round],
  );
  return new Map(rows.map((r) => [`${r.bin}|${r.item}|${r.lot ?? ''}`, { qty: asQty(r.qty), grams: r.grams }]));
}
