import { promiseOrders } from '#server/orders';
import { announce, refuse, type Trx } from '#server/kernel';
import { makeRound } from './make-round.ts';
import { selectArrived, selectWaitingOrders } from './store-sources.ts';

/** Sends goods that have just come, and for which somebody waits, straight to the bench (C17): what is free of them is promised to the
 *  orders that wait, the most urgent first, and one round fetches it at arrivals.
 *  Errors: a delivery that is not posted or another site's; goods that are put away already, or for which nobody waits; what promising
 *          and making a round refuse.
 *  Locks:  the orders, then their items at the site. */
export async function roundFromDock(
  trx: Trx,
  command: { delivery: number; site: number; siteName: string; person: number; takenBy: number | null },
): Promise<{ id: number; number: string; orders: string[]; missing: { order: string; code: string; qty: string }[] }> {
  const { site } = command;
  const arrived = await selectArrived(trx, command.delivery);
  if (!arrived) return refuse({ code: 'receiving.unknownDelivery', id: command.delivery });
  if (arrived.site_id !== site) refuse({ code: 'people.otherSite', what: `Delivery ${arrived.number}`, site: arrived.site });
  if (arrived.state !== 'posted') refuse({ code: 'receiving.notPosted', number: arrived.number });
  const waiting = await selectWaitingOrders(trx, site, arrived.items);
  if (waiting.length === 0) return refuse({ code: 'picking.nobodyWaits', delivery: arrived.number });
  const orders = waiting.map((o) => o.id);
  await promiseOrders(trx, { orders, site, mode: 'free', items: arrived.items });
  const round = await makeRound(trx, { ...command, orders, dock: arrived.items });
  // Who looks at the delivery sees that nobody waits any more.
  announce(trx, 'receiving', { delivery: command.delivery });
  return { id: round.id, number: round.number, orders: waiting.map((o) => o.number), missing: round.missing };
}
