import { addQty, ZERO, type DocumentId, type ItemId, type PersonId, type Qty } from '#core/base';
import { decideBringBack, failedOf, linesAgreedShort, settleLines } from '#core/receiving';
import { reverseMovement, type Movement } from '#core/stock';
import { announce, asQty, lockRows, makeDocument, refuse, valueOf, type Trx } from '#server/kernel';
import { lockStock, post } from '#server/stock';
import { selectFindings } from './store-inspect.ts';
import { settleNotices } from './store-notice.ts';
import { lockDelivery, type DeliveryRow } from './store.ts';
import { selectEntries, selectReceivedStock, selectReversible, updateReversed } from './store-entries.ts';
import { changeSettled, closeAgreedShort, reopenPurchaseOrders, selectSettled } from './store-expected.ts';

/** Takes a line of a posted receipt back (C13): its movement is reversed, what the order got is less by it, and what is missing again is
 *  expected again. Goods that were put away meanwhile come back to where they were received first, on the same document.
 *  Errors: a delivery that is not posted; an entry that is not its, or was reversed before; goods that are not all here any more; what
 *          `post` refuses.
 *  Locks:  the delivery, its purchase orders, then what `post` locks. */
export async function reverseEntry(
  trx: Trx,
  command: { delivery: number; site: number; person: number; entry: number; reason: string },
): Promise<{ document: number; number: string; broughtBack: { bin: string; qty: Qty }[] }> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  if (delivery.state !== 'posted') refuse({ code: 'receiving.notPosted', number: delivery.number });
  const orders = delivery.orders.map((o) => o.id);
  await lockRows(trx, 'purchaseOrder', orders);
  const entry = await selectReversible(trx, delivery.id, command.entry);
  if (!entry) return refuse({ code: 'receiving.unknownEntry', id: command.entry });
  if (entry.reversed) refuse({ code: 'receiving.reversed', item: entry.code, document: entry.reversed });
  const received: Movement = {
    item: entry.item,
    lot: entry.lot,
    serial: entry.serial,
    qty: asQty(entry.qty),
    from: { bin: entry.from_bin, unit: null, condition: entry.from_condition },
    to: { bin: entry.to_bin, unit: entry.to_unit, condition: entry.to_condition },
    reason: '',
  };
  if (entry.to_unit !== null) await lockRows(trx, 'unit', [entry.to_unit]);
  // Where they lie is read when nobody else can carry them any more.
  await lockStock(trx, [{ item: entry.item, site: delivery.site_id }]);
  const lying = await selectReceivedStock(trx, delivery.site_id, received);
  // What expired went to quarantine as it came: there is nothing more to set apart of it.
  const finding = entry.to_condition === 'failed' ? undefined : (await selectFindings(trx, [entry.id])).get(entry.id);
  const failed = failedOf(finding ?? null);
  const lyingFailed =
    failed > 0 ? await selectReceivedStock(trx, delivery.site_id, { ...received, to: { condition: 'failed', unit: null } }) : [];
  const back = valueOf(
    decideBringBack({ item: entry.code, qty: received.qty, into: received.to.bin, failed }, [
      ...lyingFailed.map((l) => ({ ...l, qty: asQty(l.qty), failed: true })),
      ...lying.map((l) => ({ ...l, qty: asQty(l.qty) })),
    ]),
  );
  const document = await makeDocument(trx, 'reversal', {
    site: delivery.site_id,
    person: command.person,
    subject: delivery.receipt_id ?? 0,
  });
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    overBinRules: true,
    movements: [
      ...back.map((b): Movement => ({
        ...received,
        qty: b.qty,
        from: { bin: b.bin, unit: null, condition: b.failed ? 'failed' : received.to.condition },
        reason: command.reason,
      })),
      reverseMovement(received, entry.movement, command.reason),
    ],
  });
  await updateReversed(trx, entry.id, { document: document.id, reason: command.reason });
  await settleAgain(trx, delivery);
  await reopenPurchaseOrders(trx, orders);
  await settleNotices(trx, { ssccs: entry.sscc === null ? [] : [entry.sscc], orders });
  announce(trx, 'receiving', { delivery: delivery.id });
  return { document: document.id, number: document.number, broughtBack: back.map((b) => ({ bin: b.address, qty: b.qty })) };
}

// Hands out anew what is left of a receipt over the lines that it met, as it was when it was posted.
async function settleAgain(trx: Trx, { id: delivery, ...agreed }: DeliveryRow): Promise<void> {
  const met = await selectSettled(trx, delivery);
  const arrived = new Map<ItemId, Qty>();
  for (const e of await selectEntries(trx, delivery))
    if (e.reversal === null) arrived.set(e.item as ItemId, addQty(arrived.get(e.item as ItemId) ?? ZERO, asQty(e.qty)));
  const settled = settleLines(
    met.map((m) => ({ line: m.line, item: m.item, open: asQty(m.expected) })),
    arrived,
  );
  await changeSettled(trx, delivery, settled);
  await closeAgreedShort(trx, delivery, linesAgreedShort(settled, agreed));
}
