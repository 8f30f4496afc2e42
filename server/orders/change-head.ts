import type { ItemId, SiteId } from '#core/base';
import { query, refuse, type Trx } from '#server/kernel';
import { trimPromises } from '#server/stock';
import { selectOnItsWay, updateHead, type LockedOrder, type OrderHead } from './store.ts';

/** Changes what stands at the head of an order. A promise of goods that must keep until a day is one no more when the day comes later.
 *  Errors: how long goods must keep, of an order that is on a round or in somebody's hands.
 *  Locks:  the order, which the caller holds; its items at the site where that changes. */
export async function changeHead(trx: Trx, order: LockedOrder, head: OrderHead): Promise<void> {
  const changesLife = (order.least_life ?? 0) !== (head.leastLife ?? 0) || ((head.leastLife ?? 0) > 0 && order.due !== head.due);
  if (changesLife && (await selectOnItsWay(trx, order.id))) refuse({ code: 'orders.lifeOnItsWay', number: order.number });
  await updateHead(trx, order.id, head);
  if (!changesLife) return;
  const items = await query<{ item: ItemId }>(trx, `SELECT DISTINCT item_id AS item FROM order_line WHERE order_id = ?`, [order.id]);
  await trimPromises(
    trx,
    items.map(({ item }) => ({ item, site: order.site_id as SiteId })),
  );
}
