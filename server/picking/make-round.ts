import { wayOfRound } from '#core/routing';
import { qtyText } from '#contract/base';
import { announce, asQty, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { findOrder, lockOrders } from '#server/orders';
import { readFloor } from '#server/places';
import { ASKING, askingOf, lockStock } from '#server/stock';
import { chooseForLines } from './choose.ts';
import { insertPicks } from './store-picks.ts';
import { insertRound, lockFreeCart, selectWayPlaces, updateWay } from './store-rounds.ts';

type WantRow = Parameters<typeof askingOf>[0] & { line: number; item: number; code: string; order: string; qty: string };

/** Makes one walk for one or several orders: chooses bins and lots for what is promised and not yet picked or planned (G1, G2).
 *  Shape:  the parts of kits that are made for these orders are fetched with them (G9). `dock`: only these items, and only what
 *          lies at arrivals: goods that somebody waits for go straight to the bench (C17).
 *  Errors: refuses held or ended orders, an order where nothing can be picked, a site without a free cart bin.
 *  Locks:  the orders, then their items at the site: two people who make rounds for the same goods take turns. */
export async function makeRound(
  trx: Trx,
  command: {
    orders: readonly (number | string)[];
    site: number;
    siteName: string;
    person: number;
    takenBy: number | null;
    dock?: readonly number[];
  },
): Promise<{ id: number; number: string; stops: number; missing: { order: string; code: string; qty: string }[] }> {
  const ids: number[] = [];
  for (const wanted of new Set(command.orders)) ids.push((await findOrder(trx, wanted)).id);
  // Whoever walks for an order fetches the parts of the kits that are made for it.
  const making = command.dock === undefined ? await selectMakingFor(trx, ids) : [];
  const orders = await lockOrders(trx, [...new Set([...ids, ...making])], command.site);
  for (const order of orders) {
    if (order.state !== 'open') refuse({ code: 'orders.notOpen', number: order.number, state: order.state });
    if (order.held_for !== null) refuse({ code: 'orders.held', number: order.number, reason: order.held_for });
  }
  const lineItems = await query<{ item_id: number }>(trx, `SELECT DISTINCT item_id FROM order_line WHERE order_id = ANY(?::int[])`, [
    orders.map((o) => o.id),
  ]);
  const items = lineItems.map((l) => l.item_id).filter((item) => command.dock === undefined || command.dock.includes(item));
  await lockStock(
    trx,
    items.map((item) => ({ item, site: command.site })),
  );
  const rows = await query<WantRow>(
    trx,
    `SELECT l.id AS line, l.item_id AS item, i.code, o.number AS order, ${ASKING},
       p.qty - coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = l.id), 0)
             - coalesce(
               (
                 SELECT sum(rp.qty - rp.picked)
                 FROM round_pick rp
                 JOIN round r ON r.id = rp.round_id AND r.state = 'open'
                 WHERE rp.line_id = l.id
               ), 0
             ) AS qty
     FROM promise p
     JOIN order_line l ON l.id = p.line_id
     JOIN line_asking a ON a.line_id = l.id
     JOIN customer_order o ON o.id = l.order_id
     JOIN item i ON i.id = l.item_id
     WHERE o.id = ANY(?::int[]) AND o.site_id = ? AND l.item_id = ANY(?::int[]) ORDER BY o.priority, o.due, o.id, l.id`,
    [orders.map((o) => o.id), command.site, items],
  );
  const { picks, missing } = await chooseForLines(
    trx,
    command.site,
    rows.map((r) => ({ line: r.line, item: r.item, qty: asQty(r.qty), asking: askingOf(r) })),
    { use: command.dock === undefined ? 'shelf' : 'arrivals' },
  );
  if (picks.length === 0) {
    await refuseOnRound(trx, orders);
    refuse({ code: 'picking.nothingToPick', orders: orders.map((o) => o.number) });
  }
  const cart = await lockFreeCart(trx, command.site);
  if (!cart) return refuse({ code: 'picking.noCart', site: command.siteName });
  const document = await makeDocument(trx, 'round', { site: command.site, person: command.person });
  const round = await insertRound(trx, {
    number: document.number,
    document: document.id,
    site: command.site,
    cart,
    walker: command.takenBy,
    person: command.person,
  });
  const slots = new Map(orders.map((o, i) => [o.number, i + 1]));
  const slotOf = (line: number): number => slots.get(rows.find((r) => r.line === line)?.order ?? '') ?? 1;
  await insertPicks(
    trx,
    round,
    picks.map((p) => ({ ...p, slot: slotOf(p.line) })),
  );
  const places = await selectWayPlaces(trx, { site: command.site, cart, bins: [...new Set(picks.map((p) => p.bin))] });
  await updateWay(trx, round, wayOfRound(await readFloor(trx, command.site), places));
  announce(trx, 'picking');
  announce(trx, 'orders');
  return {
    id: round,
    number: document.number,
    stops: new Set(picks.map((p) => p.bin)).size,
    missing: missing.map((m) => {
      const row = rows.find((r) => r.line === m.line);
      return { order: row?.order ?? '', code: row?.code ?? '', qty: qtyText(m.qty) };
    }),
  };
}

// The orders that make kits for these and may be worked on.
async function selectMakingFor(trx: Trx, orders: readonly number[]): Promise<number[]> {
  const rows = await query<{ id: number }>(
    trx,
    `SELECT k.id
     FROM customer_order k
     JOIN order_line l ON l.id = k.kit_line
     WHERE l.order_id = ANY(?::int[]) AND k.state = 'open' AND k.held_for IS NULL`,
    [orders],
  );
  return rows.map((r) => r.id);
}

// An order whose goods are on a walk already is not short of promises: the walk is what was looked for.
async function refuseOnRound(trx: Trx, orders: readonly { id: number; number: string }[]): Promise<void> {
  const [round] = await query<{ id: number; number: string; order: string }>(
    trx,
    `SELECT r.id, r.number, o.number AS order
     FROM round r
     JOIN round_pick k ON k.round_id = r.id AND k.qty > 0
     JOIN order_line l ON l.id = k.line_id
     JOIN customer_order o ON o.id = l.order_id
     WHERE r.state = 'open' AND o.id = ANY(?::int[]) ORDER BY r.id LIMIT 1`,
    [orders.map((o) => o.id)],
  );
  if (round) refuse({ code: 'picking.onRound', order: round.order, round: round.id, number: round.number });
}
