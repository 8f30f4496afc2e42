import { formatQty, ONE, subQty, sumQty, ZERO, type DocumentId, type PersonId, type Qty } from '#core/base';
import { needsExpiry, needsLot, needsSerialOnArrival } from '#core/items';
import { OUTSIDE, type Condition, type Movement } from '#core/stock';
import type { BodyOf, Routes } from '#contract';
import { announce, asQty, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials, findItem, openWork } from '#server/items';
import { post } from './post.ts';

type Line = BodyOf<Routes['stock.changeTracking']>['lines'][number];
type BalanceRow = {
  bin_id: number;
  address: string;
  lot_id: number | null;
  serial_id: number | null;
  unit_id: number | null;
  condition: Condition;
  qty: string;
};

/** Changes how an item is tracked (B4). Without stock that is a word on the record. With stock, the lots or serials of everything that is there
 *  must be named, bin by bin; the ledger takes it out as it was and puts it in as it is named, on one document, so that not a piece is lost.
 *  Errors: work that is open on the item; a bin whose named quantities do not come to what lies there; a lot, date or serial that is missing.
 *  Locks:  the item, then the balances. */
export async function changeTracking(
  trx: Trx,
  command: BodyOf<Routes['stock.changeTracking']> & { item: number; site: number; person: number },
): Promise<{ document: string | null; lines: number }> {
  const item = await findItem(trx, command.item, { lock: true });
  const where = await openWork(trx, item.id);
  if (where) refuse({ code: 'items.trackingOpen', item: item.code, where });
  const there = await query<BalanceRow>(
    trx,
    `SELECT b.bin_id, bin.address, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty FROM balance b JOIN bin ON bin.id = b.bin_id WHERE b.item_id = ? AND b.qty > 0 ORDER BY b.bin_id, b.id FOR UPDATE OF b`,
    [item.id],
  );
  await query(trx, `UPDATE item SET tracking = ? WHERE id = ?`, [command.tracking, item.id]);
  announce(trx, 'items');
  const named = needsLot(command.tracking) || needsSerialOnArrival(command.tracking);
  const loses = there.some((b) => b.lot_id !== null || b.serial_id !== null);
  if (there.length === 0 || (!named && !loses)) return { document: null, lines: 0 };
  const lines = named ? command.lines : there.map((b): Line => ({ bin: b.bin_id, condition: b.condition, qty: asQty(b.qty) }));
  refuseUnevenSums(item.code, there, lines);
  for (const line of lines) {
    if (needsLot(command.tracking) && !line.lot) refuse({ code: 'receiving.lotWanted', item: item.code });
    if (needsExpiry(command.tracking) && !line.expires) refuse({ code: 'receiving.dateWanted', item: item.code, lot: line.lot ?? '' });
    if (needsSerialOnArrival(command.tracking) && (!line.serial || line.qty !== ONE))
      refuse({ code: 'receiving.serialWanted', item: item.code });
  }
  const lots = await ensureLots(
    trx,
    lines.flatMap((l) => (l.lot && needsLot(command.tracking) ? [{ item: item.id, code: l.lot, expires: l.expires ?? null }] : [])),
  );
  const serials = await ensureSerials(
    trx,
    lines.flatMap((l) => (l.serial && needsSerialOnArrival(command.tracking) ? [{ item: item.id, code: l.serial }] : [])),
  );
  const reason = `Tracked ${command.tracking} from now on`;
  const outside = { bin: OUTSIDE.adjustments, unit: null, condition: 'sound' };
  const out = there.map((b) => ({
    item: item.id,
    lot: b.lot_id,
    serial: b.serial_id,
    qty: asQty(b.qty),
    reason,
    from: { bin: b.bin_id, unit: b.unit_id, condition: b.condition },
    to: outside,
  }));
  const back = lines.map((l) => ({
    item: item.id,
    lot: l.lot && needsLot(command.tracking) ? lots.get(`${item.id}|${l.lot}`) : null,
    serial: l.serial && needsSerialOnArrival(command.tracking) ? serials.get(`${item.id}|${l.serial}`) : null,
    qty: l.qty,
    reason,
    from: outside,
    to: { bin: l.bin, unit: null, condition: l.condition },
  }));
  const document = await makeDocument(trx, 'tracking', { site: command.site, person: command.person });
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: [...out, ...back] as unknown as Movement[],
    // The goods lie where they lay; a rule that they break now they broke before.
    overBinRules: true,
  });
  return { document: document.number, lines: lines.length };
}

function refuseUnevenSums(item: string, there: readonly BalanceRow[], lines: readonly Line[]): void {
  const key = (bin: number, condition: string): string => `${bin}|${condition}`;
  const sums = new Map<string, { address: string; there: Qty; given: Qty }>();
  for (const b of there) {
    const at = sums.get(key(b.bin_id, b.condition)) ?? { address: b.address, there: ZERO, given: ZERO };
    sums.set(key(b.bin_id, b.condition), { ...at, there: sumQty([at.there, asQty(b.qty)]) });
  }
  for (const l of lines) {
    const at = sums.get(key(l.bin, l.condition)) ?? { address: String(l.bin), there: ZERO, given: ZERO };
    sums.set(key(l.bin, l.condition), { ...at, given: sumQty([at.given, l.qty]) });
  }
  const uneven = [...sums.values()].find((s) => subQty(s.there, s.given) !== 0);
  if (uneven)
    refuse({ code: 'items.trackingSum', item, bin: uneven.address, there: formatQty(uneven.there), given: formatQty(uneven.given) });
}
