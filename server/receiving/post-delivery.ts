import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId } from '#core/base';
import { OUTSIDE, type Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials } from '#server/items';
import { findDefaultBin } from '#server/places';
import { post } from '#server/stock';
import { lockDelivery, selectEntries } from './store.ts';

export type PostDelivery = {
  readonly delivery: number;
  readonly person: number;
  readonly supplierDoc?: string | undefined;
  readonly closeShort: boolean;
};

/** Makes a delivery stock: one movement per entry, from the supplier to arrivals; expired lots go to quarantine as failed (C8, C14).
 *  Errors: refuses what is posted already or empty, a serial that came in elsewhere meanwhile, a site without an arrivals bin.
 *  Locks:  the delivery, then the balances. */
export async function postDelivery(
  trx: Trx,
  command: PostDelivery,
): Promise<{ receipt: string; pieces: string; movements: number; toQuarantine: number }> {
  const delivery = await lockDelivery(trx, command.delivery);
  if (delivery.state === 'posted' || delivery.state === 'thrown')
    refuse({ code: 'receiving.notOpen', number: delivery.number, state: delivery.state === 'posted' ? 'posted' : 'thrown away' });
  const entries = (await selectEntries(trx, delivery.id)).reverse();
  if (entries.length === 0) refuse({ code: 'receiving.empty', number: delivery.number });
  const arrivals = await findDefaultBin(trx, delivery.site_id, 'arrivals');
  const quarantine = entries.some((e) => e.expired) ? await findDefaultBin(trx, delivery.site_id, 'quarantine') : null;
  const lots = await ensureLots(
    trx,
    entries.flatMap((e) => (e.lot ? [{ item: e.item, code: e.lot, expires: e.expires }] : [])),
  );
  const serials = await ensureSerials(
    trx,
    entries.flatMap((e) => (e.serial ? [{ item: e.item, code: e.serial }] : [])),
  );
  const receipt = await makeDocument(trx, 'receipt', { site: delivery.site_id, person: command.person, subject: delivery.id });
  const movements = entries.map((e): Movement => ({
    item: e.item as ItemId,
    lot: e.lot ? (lots.get(`${e.item}|${e.lot}`) as LotId) : null,
    serial: e.serial ? (serials.get(`${e.item}|${e.serial}`) as SerialId) : null,
    qty: asQty(e.qty),
    from: { bin: OUTSIDE.suppliers, unit: null, condition: 'sound' },
    to:
      e.expired && quarantine
        ? { bin: quarantine.id, unit: null, condition: 'failed' }
        : { bin: arrivals.id as BinId, unit: null, condition: 'sound' },
    reason: `Received on ${delivery.purchase_order ?? delivery.number}`,
  }));
  await post(trx, { document: receipt.id as DocumentId, person: command.person as PersonId, movements });
  if (delivery.purchase_order_id !== null) await settlePurchaseOrder(trx, delivery.purchase_order_id, delivery.id, command.closeShort);
  await query(
    trx,
    `UPDATE delivery SET state = 'posted', receipt_id = ?, supplier_doc = coalesce(?, supplier_doc), touched = now() WHERE id = ?`,
    [receipt.id, command.supplierDoc ?? null, delivery.id],
  );
  announce(trx, 'receiving', { delivery: delivery.id });
  return {
    receipt: receipt.number,
    pieces: qtyText(sumQty(movements.map((m) => m.qty))),
    movements: movements.length,
    toQuarantine: entries.filter((e) => e.expired).length,
  };
}

// What arrived is spread over the order's lines of the item, oldest first; the last line takes what is over.
async function settlePurchaseOrder(trx: Trx, order: number, delivery: number, closeShort: boolean): Promise<void> {
  await query(
    trx,
    `WITH arrived AS (SELECT item_id, sum(qty) AS qty FROM delivery_entry WHERE delivery_id = ? AND taken_out_at IS NULL GROUP BY 1),
     lines AS (SELECT l.id, l.item_id, l.qty - l.received AS open, sum(l.qty - l.received) OVER w - (l.qty - l.received) AS before, row_number() OVER w = count(*) OVER (PARTITION BY l.item_id) AS last
       FROM purchase_line l WHERE l.purchase_order_id = ? AND NOT l.closed WINDOW w AS (PARTITION BY l.item_id ORDER BY l.id))
     UPDATE purchase_line l SET received = l.received + CASE WHEN x.last THEN greatest(a.qty - x.before, 0) ELSE least(greatest(a.qty - x.before, 0), x.open) END
     FROM lines x JOIN arrived a ON a.item_id = x.item_id WHERE l.id = x.id`,
    [delivery, order],
  );
  if (closeShort) await query(trx, `UPDATE purchase_line SET closed = true WHERE purchase_order_id = ? AND received < qty`, [order]);
  await query(
    trx,
    `UPDATE purchase_order SET state = 'closed' WHERE id = ? AND NOT EXISTS (SELECT 1 FROM purchase_line l WHERE l.purchase_order_id = purchase_order.id AND NOT l.closed AND l.received < l.qty)`,
    [order],
  );
}
