import { parseAmount, type ItemId, type Qty } from '#core/base';
import { decideLines, decidePurchaseState, type PurchaseAct, type PurchasedItem, type WantedLine } from '#core/purchasing';
import { announce, asQty, query, refuse, valueOf, type Trx } from '#server/kernel';
import {
  changePurchaseLines,
  findPurchase,
  insertPurchase,
  insertPurchaseLines,
  lineOfRow,
  lockPurchase,
  selectByReference,
  selectPurchasedItems,
  selectPurchaseLines,
  updateApproved,
  updateLinesClosed,
  updatePurchase,
  updatePurchaseState,
  updateSent,
  type PurchaseHead,
} from './store.ts';

/** A line as it is asked for: the cost of one base unit as a decimal text, or what the supplier takes for it. */
export type AskedLine = { readonly line?: number | null; readonly item: number; readonly qty: Qty; readonly cost?: string | undefined };

async function wantedLines(
  trx: Trx,
  of: { site: number; supplier: number },
  asked: readonly AskedLine[],
): Promise<{ lines: readonly WantedLine[]; itemOf: (item: ItemId) => PurchasedItem }> {
  const rows = await selectPurchasedItems(trx, { ...of, items: asked.map((l) => l.item) });
  const items = new Map(rows.map((r) => [r.id as number, r]));
  const known = (item: number) => items.get(item) ?? refuse({ code: 'items.unknownItem', id: item });
  return {
    lines: asked.map((l) => ({
      line: l.line ?? null,
      item: l.item as ItemId,
      qty: l.qty,
      cost: parseAmount(l.cost ?? known(l.item).cost ?? '0'),
    })),
    itemOf: (item) => {
      const { code, decimals, retired } = known(item);
      return { code, decimals, isRetired: retired };
    },
  };
}

/** Makes a draft of a purchase order (B11). Nobody expects anything of it before it is approved.
 *  Errors: an unknown supplier or item, a quantity that an item cannot have, a reference that this supplier's orders have already. */
export async function makePurchase(
  trx: Trx,
  wish: {
    site: number;
    person: number;
    supplier: number;
    due: string;
    note?: string | undefined;
    reference?: string | undefined;
    lines: readonly AskedLine[];
  },
): Promise<{ id: number; number: string }> {
  const [supplier] = await query(trx, `SELECT 1 FROM supplier WHERE id = ?`, [wish.supplier]);
  if (!supplier) refuse({ code: 'items.unknownSupplier', text: String(wish.supplier) });
  const reference = wish.reference ?? '';
  const other = reference === '' ? undefined : await selectByReference(trx, wish.supplier, reference);
  if (other) refuse({ code: 'purchasing.referenceTaken', reference, number: other });
  const { lines, itemOf } = await wantedLines(trx, wish, wish.lines);
  valueOf(decideLines({ number: '', lines: [] }, lines, itemOf));
  const made = await insertPurchase(trx, { ...wish, note: wish.note ?? '', reference });
  await insertPurchaseLines(trx, { id: made.id, supplier: wish.supplier }, lines);
  announce(trx, 'purchasing', { purchaseOrder: made.id });
  return made;
}

/** Saves a purchase order as somebody wants it, all of its lines at once. Goods that have come stay on its lines; an order of which nothing
 *  is missing then is closed.
 *  Errors: what `decideLines` refuses, an order that has ended, one that was changed since `version`.
 *  Locks:  the order. */
export async function changePurchase(
  trx: Trx,
  wish: {
    order: number;
    site: number;
    person: number;
    version: number;
    due: string;
    note?: string | undefined;
    lines: readonly AskedLine[];
  },
): Promise<{ version: number; state: PurchaseHead['state'] }> {
  const order = await lockAs(trx, wish, 'change');
  const before = await selectPurchaseLines(trx, order.id);
  const { lines, itemOf } = await wantedLines(trx, { site: wish.site, supplier: order.supplier_id }, wish.lines);
  const changes = valueOf(decideLines({ number: order.number, lines: before.map(lineOfRow) }, lines, itemOf));
  await changePurchaseLines(trx, { id: order.id, supplier: order.supplier_id }, changes);
  const version = await updatePurchase(trx, order.id, { due: wish.due, note: wish.note ?? order.note });
  const after = await findPurchase(trx, order.id);
  const state = valueOf(decidePurchaseState(await factsOf(trx, after), 'change'));
  if (state !== after.state) await updatePurchaseState(trx, order.id, { state, person: wish.person });
  announce(trx, 'purchasing', { purchaseOrder: order.id });
  return { version: state === after.state ? version : version + 1, state };
}

async function lockAs(trx: Trx, of: { order: number; site: number; version?: number }, act: PurchaseAct): Promise<PurchaseHead> {
  const order = await lockPurchase(trx, of.order, of.site);
  if (of.version !== undefined && of.version !== order.version) refuse({ code: 'purchasing.changedMeanwhile', number: order.number });
  valueOf(decidePurchaseState({ ...(await factsOf(trx, order)), missing: true }, act));
  return order;
}

async function factsOf(trx: Trx, order: PurchaseHead) {
  const lines = await selectPurchaseLines(trx, order.id);
  return {
    number: order.number,
    state: order.state,
    wasApproved: order.approved_at !== null,
    hasGoods: lines.some((l) => asQty(l.received) > 0),
    missing: lines.some((l) => !l.closed && asQty(l.received) < asQty(l.qty)),
    delivery: order.delivery,
  };
}

/** Approves a draft: from now on its goods are expected at the dock.
 *  Errors: an order that is no draft, one that was changed since `version`, a line of an item that was retired meanwhile.
 *  Locks:  the order. */
export async function approvePurchase(trx: Trx, of: { order: number; site: number; person: number; version: number }): Promise<void> {
  const order = await lockAs(trx, of, 'approve');
  const retired = (await selectPurchaseLines(trx, order.id)).find((l) => l.retired);
  if (retired) refuse({ code: 'purchasing.retired', item: retired.code });
  await updateApproved(trx, order.id, of.person);
  await updatePurchaseState(trx, order.id, { state: 'open', person: of.person });
  announce(trx, 'purchasing', { purchaseOrder: order.id });
}

/** Notes that an approved order went to its supplier, and how. Errors and locks as `approvePurchase`. */
export async function sendPurchase(
  trx: Trx,
  of: { order: number; site: number; person: number; as: 'pdf' | 'ubl' | 'other' },
): Promise<void> {
  const order = await lockAs(trx, of, 'send');
  await updateSent(trx, order.id, of);
  announce(trx, 'purchasing', { purchaseOrder: order.id });
}

/** Ends a purchase order: cancels one of which nothing has come, or closes one short, so that the rest is expected no longer.
 *  Errors: an order that has ended, one that is being received, a cancelling of one of which goods have come.
 *  Locks:  the order. */
export async function endPurchase(
  trx: Trx,
  of: { order: number; site: number; person: number; act: 'cancel' | 'close'; reason: string },
): Promise<void> {
  const order = await lockAs(trx, of, of.act);
  if (of.act === 'close') await updateLinesClosed(trx, order.id, true);
  await updatePurchaseState(trx, order.id, {
    state: of.act === 'close' ? 'closed' : 'cancelled',
    person: of.person,
    reason: of.reason,
  });
  announce(trx, 'purchasing', { purchaseOrder: order.id });
}

/** Takes up again what was cancelled or closed short: what has not come is expected once more.
 *  Errors: an order that goes on, one of which all has come.
 *  Locks:  the order. */
export async function takeUpPurchase(trx: Trx, of: { order: number; site: number; person: number }): Promise<void> {
  const order = await lockPurchase(trx, of.order, of.site);
  await updateLinesClosed(trx, order.id, false);
  const state = valueOf(decidePurchaseState(await factsOf(trx, order), 'takeUp'));
  await updatePurchaseState(trx, order.id, { state, person: of.person });
  announce(trx, 'purchasing', { purchaseOrder: order.id });
}
