import { sumQty, type Qty } from '#core/base';
import { reckonEquation, type Condition, type Equation, type StockFact } from '#core/stock';
import { qtyText } from '#contract/base';
import type { ReplyOf, Routes } from '#contract';
import { asQty, query, type Db } from '#server/kernel';
import { findItem } from '#server/items';

/** The stock equation of an item, whole and by site, with every balance, promise and expected delivery that makes it (B9). */
export async function readEquation(db: Db, item: number): Promise<ReplyOf<Routes['stock.equation']>> {
  await findItem(db, item);
  const facts = await query<FactRow>(
    db,
    `SELECT f.bin_id AS bin, f.address, f.zone_code AS zone, f.purpose, f.site_id, f.site_name AS site, f.lot, f.expires,
       f.serial, f.condition, f.qty, f.promisable, f.expired, f.use
     FROM stock_fact f WHERE f.item_id = ? AND f.qty > 0 ORDER BY f.site_id, f.walk, f.expires, f.serial`,
    [item],
  );
  const promises = await query<PromiseRow>(
    db,
    `SELECT p.site_id, o.id AS order, o.number, c.name AS customer, o.due, p.qty,
       coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = p.line_id), 0) AS picked
     FROM promise p
     JOIN order_line l ON l.id = p.line_id
     JOIN customer_order o ON o.id = l.order_id
     JOIN order_party c ON c.order_id = o.id
     WHERE p.item_id = ?
     ORDER BY o.due, o.id`,
    [item],
  );
  const onOrder = await query<{ order: number; number: string; supplier: string; due: string; qty: string }>(
    db,
    `SELECT x.purchase_order_id AS order, x.number, s.name AS supplier, x.due, sum(x.open) AS qty
     FROM expected_line x
     JOIN supplier s ON s.id = x.supplier_id
     WHERE x.item_id = ?
     GROUP BY 1, 2, 3, 4
     ORDER BY 4, 1`,
    [item],
  );
  const sites = await query<{ id: number; name: string }>(db, `SELECT id, name FROM site ORDER BY id`);
  const reckon = (site: number | null): Equation =>
    reckonEquation(
      facts.filter((f) => site === null || f.site_id === site).map(factOf),
      sumQty(promises.filter((p) => site === null || p.site_id === site).map((p) => asQty(p.qty))),
    );
  return {
    total: {
      ...texts(reckon(null)),
      onOrder: qtyText(sumQty(onOrder.map((o) => asQty(o.qty)))),
      inTransit: qtyText(sumQty(facts.filter((f) => f.use === 'transit').map((f) => asQty(f.qty)))),
    },
    sites: sites.map((s) => ({ site: s.id, name: s.name, ...texts(reckon(s.id)) })),
    bins: facts.map((f) => ({
      bin: f.bin,
      address: f.address,
      zone: f.zone,
      site: f.site,
      lot: f.lot,
      expires: f.expires,
      serial: f.serial,
      condition: f.condition,
      ...partOf(f),
      qty: qtyText(asQty(f.qty)),
    })),
    promises: promises.map((p) => ({
      order: p.order,
      number: p.number,
      customer: p.customer,
      due: p.due,
      qty: qtyText(asQty(p.qty)),
      picked: qtyText(asQty(p.picked)),
    })),
    onOrder: onOrder.map((o) => ({ ...o, qty: qtyText(asQty(o.qty)) })),
  };
}

type FactRow = {
  bin: number;
  address: string;
  zone: string;
  purpose: string;
  site_id: number;
  site: string;
  lot: string | null;
  expires: string | null;
  serial: string | null;
  condition: Condition;
  qty: string;
  promisable: boolean;
  expired: boolean;
  use: string;
};
type PromiseRow = { site_id: number; order: number; number: string; customer: string; due: string; qty: string; picked: string };

const factOf = (f: FactRow): StockFact => ({ qty: asQty(f.qty), condition: f.condition, promisable: f.promisable, expired: f.expired });

function partOf(f: FactRow): { part: 'free' | 'held' | 'toInspect' | 'expired'; why: string } {
  if (f.expired) return { part: 'expired', why: `expired on ${f.expires}` };
  if (f.condition === 'inspect') return { part: 'toInspect', why: 'waits for inspection' };
  if (f.condition === 'held') return { part: 'held', why: 'under a hold' };
  if (f.condition === 'failed') return { part: 'held', why: 'failed' };
  if (!f.promisable) return { part: 'held', why: `zone ${f.zone} may not be promised` };
  return { part: 'free', why: 'free' };
}

function texts(e: Equation): Record<keyof Equation, string> {
  return Object.fromEntries(Object.entries(e).map(([name, value]) => [name, qtyText(value as Qty)])) as Record<keyof Equation, string>;
}
