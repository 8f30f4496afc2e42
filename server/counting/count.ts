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
import { announce, asQty, makeDocument, query, refuse, type Db, type Trx } from '#server/kernel';
import { post } from '#server/stock';
import { findCount, selectCountBins, selectExpectedAtStart, selectMovedSince, selectTallies } from './store.ts';

/** Plans a count of a zone and notes what is expected there now (J2, J3). Nothing is locked: work goes on.
 *  Errors: a zone without bins; a zone of which a bin is already being counted. */
export async function makeCount(
  trx: Trx,
  command: { zone: number; blind: boolean; site: number; person: number },
): Promise<{ id: number; number: string; bins: number }> {
  const [zone] = await query<{ name: string; site_id: number }>(
    trx,
    `SELECT name, site_id FROM zone WHERE id = ? AND site_id = ? FOR UPDATE`,
    [command.zone, command.site],
  );
  if (!zone) return refuse({ code: 'places.unknownZone', id: command.zone });
  const [open] = await query<{ number: string }>(
    trx,
    `SELECT c.number FROM count_bin b JOIN stock_count c ON c.id = b.count_id JOIN bin ON bin.id = b.bin_id WHERE b.open AND bin.zone_id = ? LIMIT 1`,
    [command.zone],
  );
  if (open) refuse({ code: 'counting.zoneOpen', zone: zone.name, number: open.number });
  // Postings are kept out for the moment in which the expectation is noted, so that each one is either before it or after it.
  await query(trx, `LOCK TABLE balance IN SHARE MODE`);
  const [count] = await query<{ id: number; number: string }>(
    trx,
    `INSERT INTO stock_count (number, site_id, zone_id, blind, made_by, starts_after) SELECT 'CT-' || nextval('number_ct'), ?, ?, ?, ?, coalesce((SELECT max(id) FROM movement), 0) RETURNING id, number`,
    [command.site, command.zone, command.blind, command.person],
  );
  if (!count) throw new Error('An insert returned no row.');
  const bins = await query(trx, `INSERT INTO count_bin (count_id, bin_id) SELECT ?, id FROM bin WHERE zone_id = ? RETURNING 1`, [
    count.id,
    command.zone,
  ]);
  if (bins.length === 0) refuse({ code: 'counting.noBins', zone: zone.name });
  await query(
    trx,
    `INSERT INTO count_expected (count_id, bin_id, item_id, lot_id, serial_id, unit_id, condition, qty) SELECT ?, b.bin_id, b.item_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty FROM balance b JOIN bin ON bin.id = b.bin_id WHERE bin.zone_id = ? AND b.qty > 0`,
    [count.id, command.zone],
  );
  announce(trx, 'counting');
  return { ...count, bins: bins.length };
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
    (await selectTallies(db, count)).map((t) => ({ key: keyOf(t), bin: t.bin, qty: asQty(t.qty), at: t.at.getTime() })),
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

/** Posts a count: every difference becomes an adjustment on top of what is there by now; bins that nobody counted stay as they are.
 *  Errors: not open, nothing counted; `stock.binShort` where goods that the count misses were moved on meanwhile; a serial found that is elsewhere.
 *  Locks:  the count, then the balances. */
export async function postCount(
  trx: Trx,
  command: { count: number; person: number; overBinRules?: boolean },
): Promise<{ document: string; adjusted: number; uncounted: number }> {
  const count = await findCount(trx, command.count, { lock: true });
  if (count.state !== 'open')
    refuse({ code: 'counting.notOpen', number: count.number, state: count.state === 'posted' ? 'posted' : 'thrown away' });
  if (count.counted === 0) refuse({ code: 'counting.nothingCounted', number: count.number });
  const differences = (await readDifferences(trx, count.id)).filter((d) => d.difference !== 0);
  const document = await makeDocument(trx, 'count', { site: count.site_id, person: command.person, subject: count.id });
  const movements: Movement[] = [];
  for (const d of differences)
    movements.push(...(d.difference > 0 ? [adjustment(d, d.difference, 'sound', count.number)] : await lossOf(trx, d, count.number)));
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements,
    overBinRules: command.overBinRules ?? false,
  });
  await query(trx, `UPDATE count_bin SET open = false WHERE count_id = ?`, [count.id]);
  await query(trx, `UPDATE stock_count SET state = 'posted', posted_at = now(), document_id = ? WHERE id = ?`, [document.id, count.id]);
  await query(
    trx,
    `UPDATE trouble t SET settled_at = now() FROM count_bin b WHERE b.count_id = ? AND b.bin_id = t.bin_id AND t.settled_at IS NULL`,
    [count.id],
  );
  announce(trx, 'counting', { count: count.id });
  return { document: document.number, adjusted: movements.length, uncounted: count.bins - count.counted };
}

function adjustment(d: NamedDifference, difference: Qty, condition: Condition, number: string): Movement {
  const bin = { bin: d.bin as BinId, unit: null, condition };
  const outside = { bin: OUTSIDE.adjustments, unit: null, condition: 'sound' as const };
  return {
    item: d.item as ItemId,
    lot: d.lot as LotId | null,
    serial: d.serial as SerialId | null,
    qty: difference > 0 ? difference : subQty(ZERO, difference),
    reason: `Counted in ${number}`,
    ...(difference > 0 ? { from: outside, to: bin } : { from: bin, to: outside }),
  };
}

// Pieces that are missing are taken from sound stock first, then from the other conditions in the bin.
async function lossOf(trx: Trx, d: NamedDifference, number: string): Promise<Movement[]> {
  const there = await query<{ condition: Condition; qty: string }>(
    trx,
    `SELECT condition, qty FROM balance WHERE bin_id = ? AND item_id = ? AND lot_id IS NOT DISTINCT FROM ? AND serial_id IS NOT DISTINCT FROM ? AND unit_id IS NULL AND qty > 0 ORDER BY array_position(ARRAY['sound', 'inspect', 'held', 'failed'], condition)`,
    [d.bin, d.item, d.lot, d.serial],
  );
  let missing: number = -d.difference;
  const losses: Movement[] = [];
  for (const [i, row] of there.entries()) {
    if (missing === 0) break;
    const last = i === there.length - 1;
    const taken = last ? missing : Math.min(missing, asQty(row.qty));
    losses.push(adjustment(d, qty(-taken), row.condition, number));
    missing -= taken;
  }
  // Nothing there at all any more: the posting will refuse it by name rather than this silently dropping it.
  return losses.length > 0 ? losses : [adjustment(d, d.difference, 'sound', number)];
}
