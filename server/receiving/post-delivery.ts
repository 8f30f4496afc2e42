import {
  addQty,
  sumQty,
  ZERO,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
} from '#core/base';
import { failedOf, linesAgreedShort, settleLines } from '#core/receiving';
import { OUTSIDE, type Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, lockRows, makeDocument, refuse, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials, insertCosts } from '#server/items';
import { findDefaultBin } from '#server/places';
import { ensureUnits, post } from '#server/stock';
import { failedMovements } from './inspect.ts';
import { selectFindings } from './store-inspect.ts';
import { settleNotices } from './store-notice.ts';
import { lockDelivery, updatePosted, type DeliveryRow } from './store.ts';
import { selectEntries, selectOtherDate, updateMovements } from './store-entries.ts';
import { closeAgreedShort, closePurchaseOrders, selectOpenLines, settlePurchaseLines } from './store-expected.ts';

export type PostDelivery = {
  readonly delivery: number;
  readonly site: number;
  readonly person: number;
  readonly supplierDoc?: string | undefined;
  readonly closeShort: boolean;
};

/** On what paper goods came, as the ledger says it. */
function cameOn({ number, back, orders }: DeliveryRow): string {
  if (back) return back.shipment === null ? `Brought back on ${number}` : `Brought back on ${number}, left with ${back.shipment.number}`;
  return `Received on ${orders.length === 0 ? number : orders.map((o) => o.number).join(', ')}`;
}

/** Makes a delivery stock: one movement per entry, from the supplier to arrivals or the bin that was chosen (C10); expired lots go to
 *  quarantine as failed, and what failed an inspection goes there from where it came in (C8, C11, C14).
 *  Errors: refuses what is posted already or empty, an entry whose date is not that of its lot, a serial that came in elsewhere meanwhile,
 *          a site without an arrivals bin.
 *  Locks:  the delivery, its purchase order, the lots, the logistic units, then what `post` locks. */
export async function postDelivery(
  trx: Trx,
  command: PostDelivery,
): Promise<{ receipt: string; pieces: string; movements: number; toQuarantine: number; failed: string }> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: delivery.state === 'posted' ? 'posted' : 'thrown away' });
  const orders = delivery.orders.map((o) => o.id);
  await lockRows(trx, 'purchaseOrder', orders);
  const entries = (await selectEntries(trx, delivery.id)).reverse();
  if (entries.length === 0) refuse({ code: 'receiving.empty', number: delivery.number });
  const arrivals = await findDefaultBin(trx, delivery.site_id, 'arrivals');
  const findings = await selectFindings(
    trx,
    entries.map((e) => e.id),
  );
  const someFailed = [...findings.values()].some((f) => failedOf(f) > 0);
  const quarantine = entries.some((e) => e.expired) || someFailed ? await findDefaultBin(trx, delivery.site_id, 'quarantine') : null;
  const lots = await ensureLots(
    trx,
    entries.flatMap((e) => (e.lot ? [{ item: e.item, code: e.lot, expires: e.expires, made: e.made }] : [])),
  );
  const other = await selectOtherDate(trx, delivery.id);
  if (other) refuse({ code: 'receiving.dateDiffers', item: other.code, lot: other.lot, known: other.known, given: other.given });
  const serials = await ensureSerials(
    trx,
    entries.flatMap((e) => (e.serial ? [{ item: e.item, code: e.serial }] : [])),
  );
  const units = await ensureUnits(
    trx,
    entries.flatMap((e) => (e.sscc ? [e.sscc] : [])),
  );
  const receipt = await makeDocument(trx, delivery.back ? 'return' : 'receipt', {
    site: delivery.site_id,
    person: command.person,
    subject: delivery.id,
  });
  const cameFrom = !delivery.back ? OUTSIDE.suppliers : delivery.back.ofJob ? OUTSIDE.jobs : OUTSIDE.customers;
  const movements = entries.map((e): Movement => ({
    item: e.item as ItemId,
    lot: e.lot ? (lots.get(`${e.item}|${e.lot}`) as LotId) : null,
    serial: e.serial ? (serials.get(`${e.item}|${e.serial}`) as SerialId) : null,
    qty: asQty(e.qty),
    from: { bin: cameFrom, unit: null, condition: 'sound' },
    to:
      e.expired && quarantine
        ? { bin: quarantine.id, unit: null, condition: 'failed' }
        : { bin: (e.to_bin ?? arrivals.id) as BinId, unit: e.sscc ? (units.get(e.sscc) ?? null) : null, condition: 'sound' },
    reason: cameOn(delivery),
  }));
  const came = entries.flatMap((e, n) => {
    const [finding, movement] = [findings.get(e.id), movements[n]];
    return finding && movement && !e.expired && failedOf(finding) > 0 ? [{ finding, movement }] : [];
  });
  const failing =
    quarantine && came.length > 0
      ? await failedMovements(trx, came, {
          site: delivery.site_id,
          number: delivery.number,
          quarantine: quarantine.id,
          items: [...new Set(movements.map((m) => m.item))],
        })
      : [];
  const posted = await post(trx, {
    document: receipt.id as DocumentId,
    person: command.person as PersonId,
    movements: [...movements, ...failing],
  });
  await updateMovements(
    trx,
    entries.map((e) => e.id),
    posted.slice(0, entries.length),
  );
  if (orders.length > 0) {
    const arrived = new Map<ItemId, Qty>();
    for (const e of entries) arrived.set(e.item as ItemId, addQty(arrived.get(e.item as ItemId) ?? ZERO, asQty(e.qty)));
    const settled = settleLines(await selectOpenLines(trx, delivery.id), arrived);
    await settlePurchaseLines(trx, delivery.id, settled);
    await closeAgreedShort(trx, delivery.id, linesAgreedShort(settled, delivery));
    await closePurchaseOrders(trx, orders, command.closeShort);
  }
  await updatePosted(trx, delivery.id, { receipt: receipt.id, supplierDoc: command.supplierDoc ?? null });
  const costs = entries.flatMap((e) => (e.cost === null ? [] : [{ item: e.item, cost: e.cost }]));
  if (costs.length > 0) {
    await insertCosts(trx, costs, { site: delivery.site_id, person: command.person, source: `receipt ${receipt.number}` });
    announce(trx, 'items');
  }
  await settleNotices(trx, { ssccs: [...units.keys()], orders });
  announce(trx, 'receiving', { delivery: delivery.id });
  return {
    receipt: receipt.number,
    pieces: qtyText(sumQty(movements.map((m) => m.qty))),
    movements: movements.length,
    toQuarantine: entries.filter((e) => e.expired).length,
    failed: qtyText(sumQty(failing.map((m) => m.qty))),
  };
}
