import {
  qty,
  subQty,
  ZERO,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
} from '#core/base';
import { reckonDifferences, type CountDifference } from '#core/counting';
import { OUTSIDE, type Condition, type Movement } from '#core/stock';
import { announce, asQty, lockRows, makeDocument, query, refuse, type Db, type Trx } from '#server/kernel';
import { post } from '#server/stock';
import {
  closeCount,
  insertCount,
  lockOpenCount,
  selectCountBins,
  selectExpectedAtStart,
  selectMovedSince,
  selectOpenInZone,
  selectTallies,
} from './store.ts';

/** Plans a count of a zone and notes what is expected there now (J2, J3). Nothing is locked but the zone, against a second plan: work goes
 *  on.
 *  Errors: a zone without bins; a zone of which a bin is already being counted. */
export async function makeCount(
  trx: Trx,
  command: { zone: number; blind: boolean; site: number; person: number },
): Promise<{ id: number; number: string; bins: number }> {
  await lockRows(trx, 'zone', [command.zone]);
  const [zone] = await query<{ name: string }>(trx, `SELECT name FROM zone WHERE id = ? AND site_id = ?`, [command.zone, command.site]);
  if (!zone) return refuse({ code: 'places.unknownZone', id: command.zone });
  const open = await selectOpenInZone(trx, command.zone);
  if (open) refuse({ code: 'counting.zoneOpen', zone: zone.name, number: open.number });
  const count = await insertCount(trx, command);
  if (count.bins === 0) refuse({ code: 'counting.noBins', zone: zone.name });
  announce(trx, 'counting');
  return count;
}

export type NamedDifference = CountDifference & { item: number; lot: number | null; serial: number | null; moved: boolean };

/** Reads a count and reckons its differences, what moved meanwhile included. */
export async function readDifferences(db: Pick<Db, 'raw'>, count: number): Promise<NamedDifference[]> {
  const keyOf = (r: { bin: number; item: number; lot_id: number | null; serial_id: number | null }): string =>
    `${r.bin}|${r.item}|${r.lot_id ?? ''}|${r.serial_id ?? ''}`;
  const since = await selectMovedSince(db, count);
  const moved = new Set(since.map(keyOf));
  const differences = reckonDifferences(
    (await selectExpectedAtStart(db, count)).map((e) => ({ key: keyOf(e), bin: e.bin, qty: asQty(e.qty) })),
    (await selectTallies(db, count)).map((t) => ({ key: keyOf(t), bin: t.bin, qty: asQty(t.qty), at: t.at.getTime(), person: t.by_id })),
    since.map((s) => ({ key: keyOf(s), bin: s.bin, delta: qty(s.out ? -asQty(s.qty) : asQty(s.qty)), at: s.at.getTime() })),
    (await selectCountBins(db, count)).flatMap((b) =>
      b.verdict ? [{ bin: b.bin, verdict: b.verdict, at: b.verdict_at?.getTime() ?? 0 }] : [],
    ),
  );
  return differences.map((d) => {
    const [, item = '', lot = '', serial = ''] = d.key.split('|');
    return { ...d, item: Number(item), lot: lot ? Number(lot) : null, serial: serial ? Number(serial) : null, moved: moved.has(d.key) };
  });
}

/** Posts a count: every difference becomes an adjustment on top of what is there by now. Bins that nobody counted, and what moved while it
 *  was counted, stay as they are and are not counted.
 *  Errors: not open, nothing counted; `stock.binShort` where goods that the count misses were moved on meanwhile; a serial found that is
 *          elsewhere.
 *  Locks:  the count, then what `post` locks. */
export async function postCount(
  trx: Trx,
  command: { count: number; site: number; person: number; override?: string | undefined },
): Promise<{ document: string; adjusted: number; uncounted: number; lookAgain: number }> {
  const count = await lockOpenCount(trx, command.count, command.site);
  if (count.counted === 0) refuse({ code: 'counting.nothingCounted', number: count.number });
  const all = await readDifferences(trx, count.id);
  const again = new Set(all.filter((d) => d.state === 'lookAgain').map((d) => d.bin));
  const counted = (await selectCountBins(trx, count.id)).filter((b) => b.counted && !again.has(b.bin)).map((b) => b.bin);
  const document = await makeDocument(trx, 'count', { site: count.site_id, person: command.person, subject: count.id });
  const reason = [`Counted in ${count.number}`, command.override && `rule overridden: ${command.override}`].filter(Boolean).join(', ');
  const movements: Movement[] = [];
  for (const d of all.filter((x) => x.difference !== 0))
    movements.push(...(d.difference > 0 ? [adjustment(d, d.difference, 'sound', reason)] : await lossOf(trx, d, reason)));
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements,
    overBinRules: Boolean(command.override),
  });
  await closeCount(trx, count.id, document.id, counted);
  announce(trx, 'counting', { count: count.id });
  announce(trx, 'orders');
  return {
    document: document.number,
    adjusted: movements.length,
    uncounted: count.bins - counted.length,
    lookAgain: all.filter((d) => d.state === 'lookAgain').length,
  };
}

function adjustment(d: NamedDifference, difference: Qty, condition: Condition, reason: string): Movement {
  const bin = { bin: d.bin as BinId, unit: null, condition };
  const outside = { bin: OUTSIDE.adjustments, unit: null, condition: 'sound' as const };
  return {
    item: d.item as ItemId,
    lot: d.lot as LotId | null,
    serial: d.serial as SerialId | null,
    qty: difference > 0 ? difference : subQty(ZERO, difference),
    reason,
    ...(difference > 0 ? { from: outside, to: bin } : { from: bin, to: outside }),
  };
}

// Pieces that are missing are taken from sound stock first, then from the other conditions in the bin.
async function lossOf(trx: Trx, d: NamedDifference, reason: string): Promise<Movement[]> {
  const there = await query<{ condition: Condition; qty: string }>(
    trx,
    `SELECT condition, sum(qty) AS qty
     FROM balance
     WHERE bin_id = ? AND item_id = ? AND lot_id IS NOT DISTINCT FROM ? AND serial_id IS NOT DISTINCT FROM ? AND qty > 0
     GROUP BY condition
     ORDER BY array_position(ARRAY['sound', 'inspect', 'held', 'failed'], condition)`,
    [d.bin, d.item, d.lot, d.serial],
  );
  let missing: number = -d.difference;
  const losses: Movement[] = [];
  for (const [i, row] of there.entries()) {
    if (missing === 0) break;
    const last = i === there.length - 1;
    const taken = last ? missing : Math.min(missing, asQty(row.qty));
    losses.push(adjustment(d, qty(-taken), row.condition, reason));
    missing -= taken;
  }
  // Nothing there at all any more: the posting will refuse it by name rather than this silently dropping it.
  return losses.length > 0 ? losses : [adjustment(d, d.difference, 'sound', reason)];
}
