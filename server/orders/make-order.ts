import { isWholeStep, type Qty } from '#core/base';
import { qtyText } from '#contract/base';
import { announce, query, refuse, type Db, type Trx } from '#server/kernel';
import { findCustomer } from './store-customers.ts';
import { writeNames, type Named } from './name-goods.ts';
import { findByReference, findLine, insertLines, insertOrder, replaceExtras, type NewOrder } from './store.ts';

export type LineIn = Named & { readonly item: number; readonly qty: Qty };

/** Enters an order of whatever kind, from whatever source (F1–F3).
 *  Shape:  who it is for is the customer, the job or the site that its kind asks for; the least life is the customer's, unless it is said.
 *  Errors: nobody to whom it goes, a reference of that customer that is here already, an item that is none or is retired, a quantity that
 *          is nothing or too fine for its item. Then nothing is written. */
export async function makeOrder(
  trx: Trx,
  order: Omit<NewOrder, 'customer' | 'job' | 'toSite' | 'kind'> & {
    kind: 'customer' | 'job' | 'transfer';
    customer?: number | undefined;
    job?: string | undefined;
    toSite?: number | undefined;
    lines: readonly LineIn[];
    extras: readonly { text: string; qty: Qty }[];
  },
): Promise<{ id: number; number: string }> {
  const who = await findParty(trx, order);
  if (who.customer !== null) await refuseKnownReference(trx, { customer: who.customer, reference: order.reference });
  await checkLines(trx, order.lines);
  const made = await insertOrder(trx, { ...order, ...who, leastLife: order.leastLife ?? who.leastLife });
  await addLines(trx, { id: made.id, site: order.site }, order.lines);
  await replaceExtras(trx, made.id, order.extras);
  announce(trx, 'orders', { order: made.id });
  return made;
}

/** Writes lines of an order, with what they name of their goods; returns their numbers. The lines were checked. */
export async function addLines(trx: Trx, order: { id: number; site: number }, lines: readonly LineIn[]): Promise<number[]> {
  const ids = await insertLines(trx, order.id, lines);
  for (const [n, line] of lines.entries()) {
    if (!line.lot && !line.bin && !line.serials?.length) continue;
    const found = await findLine(trx, order.id, ids[n] ?? 0);
    if (found) await writeNames(trx, { ...found, order: order.id, line: ids[n] ?? 0, site: order.site, qty: line.qty }, line);
  }
  return ids;
}

/** Refuses a reference that another order of the customer bears. */
export async function refuseKnownReference(trx: Trx, of: { customer: number; reference: string; but?: number }): Promise<void> {
  if (of.reference === '') return;
  const there = await findByReference(trx, of);
  if (there) refuse({ code: 'orders.referenceKnown', reference: of.reference, number: there.number, order: there.id });
}

async function findParty(
  trx: Trx,
  order: { kind: string; site: number; customer?: number | undefined; job?: string | undefined; toSite?: number | undefined },
): Promise<{ customer: number | null; job: string | null; toSite: number | null; leastLife: number | null }> {
  const nobody = { customer: null, job: null, toSite: null, leastLife: null };
  if (order.kind === 'job') return order.job ? { ...nobody, job: order.job } : refuse({ code: 'orders.whoFor', kind: 'job' });
  if (order.kind === 'transfer') {
    if (order.toSite === undefined) return refuse({ code: 'orders.whoFor', kind: 'transfer' });
    const [site] = await query<{ name: string }>(trx, `SELECT name FROM site WHERE id = ?`, [order.toSite]);
    if (!site) return refuse({ code: 'orders.unknownSite', id: order.toSite });
    if (order.toSite === order.site) return refuse({ code: 'orders.toItself', site: site.name });
    return { ...nobody, toSite: order.toSite };
  }
  if (order.customer === undefined) return refuse({ code: 'orders.whoFor', kind: 'customer' });
  const customer = await findCustomer(trx, order.customer);
  if (!customer) return refuse({ code: 'orders.unknownCustomer', id: order.customer });
  return { ...nobody, customer: customer.id, leastLife: customer.leastLife };
}

/** Refuses lines of items that are none or retired, and quantities that are nothing or too fine. One read for all of them. */
export async function checkLines(db: Pick<Db, 'raw'>, lines: readonly LineIn[]): Promise<void> {
  const items = await query<{ id: number; code: string; decimals: number; retired: boolean }>(
    db,
    `SELECT id, code, decimals, retired_at IS NOT NULL AS retired FROM item WHERE id = ANY(?::int[])`,
    [[...new Set(lines.map((l) => l.item))]],
  );
  const known = new Map(items.map((i) => [i.id, i]));
  for (const line of lines) {
    const item = known.get(line.item);
    if (!item) return refuse({ code: 'orders.unknownItem', id: line.item });
    if (item.retired) refuse({ code: 'orders.retired', item: item.code });
    if (line.qty <= 0) refuse({ code: 'orders.nothing', item: item.code });
    if (!isWholeStep(line.qty, item.decimals))
      refuse({ code: 'stock.finerThanItem', item: item.code, asked: qtyText(line.qty), decimals: item.decimals });
  }
}
