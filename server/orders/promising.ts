import type { ItemId, LineId, OrderId, SiteId } from '#core/base';
import { sayAsking } from '#core/orders';
import { decidePromise, poolOf, type PromiseMode } from '#core/stock';
import { qtyText } from '#contract/base';
import type { Missing } from '#contract/orders';
import { announce, asQty, query, refuse, type Trx } from '#server/kernel';
import { ASKING, askingOf, lockStock, readFree, trimPromises } from '#server/stock';
import { explainLines } from './short.ts';
import { addPromises, lockOrders, NAMED, type NamedRow } from './store.ts';

type WishRow = NamedRow &
  Parameters<typeof askingOf>[0] & {
    line: LineId;
    order_id: OrderId;
    item: ItemId;
    site_id: SiteId;
    code: string;
    order: string;
    open: string;
    promised: string;
    whole_only: boolean;
  };
export type PromiseOutcome = { promised: number; missing: Missing[] };

/** Promises free stock to orders, most urgent first (F4).
 *  Shape:  returns how many lines got more than they had, and what could not be promised and why; `items`: only lines of these; `lines`:
 *          only these. An order of a customer who takes all or nothing is promised so, whatever is asked for.
 *  Errors: refuses orders that are held, not open, unknown, or of another site; then nothing is promised to any.
 *  Locks:  the orders, then their items at the site, so that two people never promise the same piece. */
export async function promiseOrders(
  trx: Trx,
  command: {
    orders: readonly number[];
    site: number;
    mode: PromiseMode;
    items?: readonly number[];
    lines?: readonly number[] | undefined;
  },
): Promise<PromiseOutcome> {
  for (const order of await lockOrders(trx, command.orders, command.site)) {
    if (order.state !== 'open') refuse({ code: 'orders.notOpen', number: order.number, state: order.state });
    if (order.held_for !== null) refuse({ code: 'orders.held', number: order.number, reason: order.held_for });
  }
  return givePromises(trx, command);
}

/** The same for orders that are locked and were judged. */
export async function givePromises(trx: Trx, command: Parameters<typeof promiseOrders>[1]): Promise<PromiseOutcome> {
  const [only, lines] = [command.items ?? null, command.lines ?? null];
  const items = await query<{ item: number }>(
    trx,
    `SELECT DISTINCT item_id AS item
     FROM order_line
     WHERE order_id = ANY(?::int[]) AND (?::int[] IS NULL OR item_id = ANY(?::int[])) AND (?::int[] IS NULL OR id = ANY(?::int[]))`,
    [command.orders, only, only, lines, lines],
  );
  if (items.length === 0) return refuse({ code: 'orders.noLines' });
  const pairs = items.map(({ item }) => ({ item, site: command.site }));
  await lockStock(trx, pairs);
  const wishes = await query<WishRow>(
    trx,
    `SELECT l.id AS line, o.id AS order_id, l.item_id AS item, o.site_id, i.code, o.number AS order, l.qty - l.shipped AS open,
       coalesce(p.qty, 0) AS promised, coalesce(c.whole_only, false) AS whole_only, ${ASKING}, ${NAMED} AS named
     FROM order_line l
     JOIN line_asking a ON a.line_id = l.id
     JOIN customer_order o ON o.id = l.order_id
     JOIN item i ON i.id = l.item_id
     LEFT JOIN customer c ON c.id = o.customer_id
     LEFT JOIN promise p ON p.line_id = l.id
     WHERE o.id = ANY(?::int[]) AND (?::int[] IS NULL OR l.item_id = ANY(?::int[])) AND (?::int[] IS NULL OR l.id = ANY(?::int[]))
     ORDER BY o.priority, o.due, o.id, l.id`,
    [command.orders, only, only, lines, lines],
  );
  const asked = wishes.map((w) => ({
    line: w.line,
    order: w.order_id,
    pool: poolOf(w.item, w.site_id),
    open: asQty(w.open),
    promised: asQty(w.promised),
    asking: askingOf(w),
    // Who takes all or nothing is asked for whole orders only: a line by itself would be part of one.
    isWhole: w.whole_only,
  }));
  const grants = decidePromise(asked, await readFree(trx, pairs, asked), command.mode);
  const given = grants.flatMap((g, i) => (g.granted > 0 ? [{ ...g, wish: wishes[i] as WishRow }] : []));
  await addPromises(
    trx,
    given.map((g) => ({ line: g.line, site: g.wish.site_id, item: g.wish.item, qty: g.granted })),
  );
  announce(trx, 'orders', { orders: command.orders });
  announce(trx, 'stock');
  const missing = grants.flatMap((g, i) => {
    const wish = wishes[i] as WishRow;
    return g.missing > 0
      ? [
          {
            order: wish.order,
            orderId: wish.order_id as number,
            item: wish.item as number,
            code: wish.code,
            qty: g.missing,
            asks: sayAsking({ ...wish.named, goodOn: wish.good_on }),
          },
        ]
      : [];
  });
  return {
    promised: given.length,
    missing: (await explainLines(trx, command.site, missing)).map(({ item: _, asks: __, ...m }) => ({ ...m, qty: qtyText(m.qty) })),
  };
}

/** Cuts promises that expired lots no longer back, everywhere. */
export async function trimAllPromises(trx: Trx): Promise<number> {
  const pairs = await query<{ item: ItemId; site: SiteId }>(
    trx,
    `SELECT p.item_id AS item, p.site_id AS site
     FROM (
       SELECT r.item_id, r.site_id, sum(r.qty) AS qty, bool_or(a.asks) AS asks
       FROM promise r
       JOIN line_asking a ON a.line_id = r.line_id
       GROUP BY 1, 2
     ) p
     LEFT JOIN (
       SELECT item_id, site_id, sum(qty) AS qty
       FROM stock_fact
       WHERE usable
       GROUP BY 1, 2
     ) f USING (item_id, site_id)
     WHERE p.asks OR p.qty > coalesce(f.qty, 0)`,
  );
  return pairs.length === 0 ? 0 : trimPromises(trx, pairs);
}
