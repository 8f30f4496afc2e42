import type { ItemId, LineId, Qty, SiteId } from '#core/base';
import { decidePromise, type PromiseMode } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, dbQty, query, refuse, type Trx } from '#server/kernel';
import { lockPromises, selectUsableAndPromised, trimPromises } from '#server/stock';

type WishRow = {
  line: number;
  item: number;
  site_id: number;
  code: string;
  order: string;
  open: string;
  promised: string;
  held_for: string | null;
  state: string;
};
export type PromiseOutcome = { promised: number; missing: { order: string; code: string; qty: string }[] };

/** Promises free stock to orders, most urgent first (F4).
 *  Shape:  returns how many lines got more than they had, and what could not be promised.
 *  Errors: refuses orders that are held, not open or unknown; then nothing is promised to any.
 *  Locks:  the orders' items at the site, so that two people never promise the same piece. */
export async function promiseOrders(trx: Trx, orders: readonly number[], mode: PromiseMode): Promise<PromiseOutcome> {
  const wishes = await query<WishRow>(
    trx,
    `SELECT l.id AS line, l.item_id AS item, o.site_id, i.code, o.number AS order, l.qty - l.shipped AS open, coalesce(p.qty, 0) AS promised, o.held_for, o.state
     FROM order_line l JOIN customer_order o ON o.id = l.order_id JOIN item i ON i.id = l.item_id LEFT JOIN promise p ON p.line_id = l.id
     WHERE o.id = ANY(?::int[]) ORDER BY o.priority, o.due, o.id, l.id`,
    [orders],
  );
  if (wishes.length === 0) return refuse({ code: 'orders.noLines' });
  const held = wishes.find((w) => w.held_for !== null);
  if (held) refuse({ code: 'orders.held', number: held.order, reason: held.held_for ?? '' });
  const ended = wishes.find((w) => w.state !== 'open');
  if (ended) refuse({ code: 'orders.notOpen', number: ended.order, state: ended.state });
  const pairs = [...new Map(wishes.map((w) => [`${w.item}|${w.site_id}`, { item: w.item as ItemId, site: w.site_id as SiteId }])).values()];
  await lockPromises(trx, pairs);
  // Read again what is promised: it may have changed while this waited for its turn.
  const now = new Map(
    (
      await query<{ line_id: number; qty: string }>(trx, `SELECT line_id, qty FROM promise WHERE line_id = ANY(?::int[])`, [
        wishes.map((w) => w.line),
      ])
    ).map((p) => [p.line_id, asQty(p.qty)]),
  );
  const free = new Map((await selectUsableAndPromised(trx, pairs)).map((p) => [p.item as number, (p.usable - p.promised) as Qty]));
  const asked = wishes.map((w) => ({ line: w.line as LineId, item: w.item, open: asQty(w.open), promised: now.get(w.line) ?? (0 as Qty) }));
  const grants = decidePromise(asked, free, mode);
  const given = grants.flatMap((g, i) => (g.granted > 0 ? [{ ...g, wish: wishes[i] as WishRow }] : []));
  await query(
    trx,
    `INSERT INTO promise (line_id, site_id, item_id, qty) SELECT * FROM unnest(?::int[], ?::int[], ?::int[], ?::numeric[]) ON CONFLICT (line_id) DO UPDATE SET qty = promise.qty + excluded.qty`,
    [given.map((g) => g.line), given.map((g) => g.wish.site_id), given.map((g) => g.wish.item), given.map((g) => dbQty(g.granted))],
  );
  announce(trx, 'orders', { orders });
  announce(trx, 'stock');
  return {
    promised: given.length,
    missing: grants.flatMap((g, i) =>
      g.missing > 0 ? [{ order: wishes[i]?.order ?? '', code: wishes[i]?.code ?? '', qty: qtyText(g.missing) }] : [],
    ),
  };
}

/** Cuts promises that expired lots no longer back, everywhere. */
export async function trimAllPromises(trx: Trx): Promise<number> {
  const pairs = await query<{ item: ItemId; site: SiteId }>(
    trx,
    `SELECT p.item_id AS item, p.site_id AS site FROM (SELECT item_id, site_id, sum(qty) AS qty FROM promise GROUP BY 1, 2) p
     LEFT JOIN (SELECT item_id, site_id, sum(qty) AS qty FROM stock_fact WHERE condition = 'sound' AND promisable AND NOT expired GROUP BY 1, 2) f USING (item_id, site_id) WHERE p.qty > coalesce(f.qty, 0)`,
  );
  return pairs.length === 0 ? 0 : trimPromises(trx, pairs);
}
