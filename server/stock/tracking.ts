import { formatQty, ONE, subQty, sumQty, ZERO, type DocumentId, type PersonId, type Qty } from '#core/base';
import { needsExpiry, needsLot, needsSerialOnArrival } from '#core/items';
import { OUTSIDE, type Condition, type Movement } from '#core/stock';
import type { BodyOf, Routes } from '#contract';
import { announce, asQty, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials, lockItem, openWork } from '#server/items';
import { post } from './post.ts';
import { lockStock, updateTracking } from './store.ts';

type Line = BodyOf<Routes['stock.changeTracking']>['lines'][number];
type BalanceRow = {
  bin_id: number;
  site_id: number;
  address: string;
  expired: boolean;
  promisable: boolean;
  lot_id: number | null;
  serial_id: number | null;
  unit_id: number | null;
  condition: Condition;
  qty: string;
};

/** Changes how an item is tracked (B4). Without stock that is a word on the record. With stock, the lots or serials of everything that is
 *  there must be named, bin by bin; the ledger takes it out as it was and puts it in as it is named, on one document a site, so that not a
 *  piece is lost.
 *  Errors: work that is open on the item; a bin whose named quantities do not come to what lies there; a lot, date or serial that is
 *          missing; expired goods that would be free without their date.
 *  Locks:  the item, then its stock at every site. */
export async function changeTracking(
  trx: Trx,
  command: BodyOf<Routes['stock.changeTracking']> & { item: number; person: number },
): Promise<{ document: string | null; lines: number }> {
  const item = await lockItem(trx, command.item);
  const where = await openWork(trx, item.id);
  if (where) refuse({ code: 'items.trackingOpen', item: item.code, where });
  for (const line of command.lines) {
    if (needsLot(command.tracking) && !line.lot) refuse({ code: 'receiving.lotWanted', item: item.code });
    if (needsExpiry(command.tracking) && !line.expires) refuse({ code: 'receiving.dateWanted', item: item.code, lot: line.lot ?? '' });
    if (needsSerialOnArrival(command.tracking) && (!line.serial || line.qty !== ONE))
      refuse({ code: 'receiving.serialWanted', item: item.code });
  }
  const lots = await ensureLots(
    trx,
    command.lines.flatMap((l) => (l.lot && needsLot(command.tracking) ? [{ item: item.id, code: l.lot, expires: l.expires ?? null }] : [])),
  );
  const serials = await ensureSerials(
    trx,
    command.lines.flatMap((l) => (l.serial && needsSerialOnArrival(command.tracking) ? [{ item: item.id, code: l.serial }] : [])),
  );
  const sites = await query<{ site: number }>(trx, `SELECT id AS site FROM site`);
  await lockStock(
    trx,
    sites.map(({ site }) => ({ item: item.id, site })),
  );
  const there = await query<BalanceRow>(
    trx,
    `SELECT bin_id, site_id, address, lot_id, serial_id, unit_id, condition, qty, expired, promisable
     FROM stock_fact
     WHERE item_id = ? AND qty > 0
     ORDER BY bin_id, balance_id`,
    [item.id],
  );
  const freed = there.find((b) => b.expired && b.promisable && b.condition === 'sound');
  if (freed && needsExpiry(item.tracking) && !needsExpiry(command.tracking))
    refuse({ code: 'items.trackingFreesExpired', item: item.code, qty: formatQty(asQty(freed.qty)), bin: freed.address });
  await updateTracking(trx, item.id, command.tracking);
  announce(trx, 'items');
  const named = needsLot(command.tracking) || needsSerialOnArrival(command.tracking);
  const loses = there.some((b) => b.lot_id !== null || b.serial_id !== null);
  if (there.length === 0 || (!named && !loses)) return { document: null, lines: 0 };
  const lines = named ? command.lines : there.map((b): Line => ({ bin: b.bin_id, condition: b.condition, qty: asQty(b.qty) }));
  refuseUnevenSums(item.code, there, lines);
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
  const siteOf = new Map(there.map((b) => [b.bin_id, b.site_id]));
  const numbers: string[] = [];
  for (const site of [...new Set(there.map((b) => b.site_id))].sort((a, b) => a - b)) {
    const document = await makeDocument(trx, 'tracking', { site, person: command.person });
    const own = [...out, ...back].filter((m) => [m.from.bin, m.to.bin].some((bin) => siteOf.get(bin) === site));
    await post(trx, {
      document: document.id as DocumentId,
      person: command.person as PersonId,
      movements: own as unknown as Movement[],
      // The goods lie where they lay; a rule that they break now they broke before.
      overBinRules: true,
    });
    numbers.push(document.number);
  }
  return { document: numbers.join(', '), lines: lines.length };
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
