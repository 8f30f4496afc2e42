import { fail, formatQty, isWholeStep, ok, type Amount, type ItemId, type Qty, type Result } from '#core/base';
import type { PurchasingError, PurchaseState } from './errors.ts';

/** A line as it is. Quantities in thousandths of the base unit, the cost of one base unit. */
export type PurchaseLine = {
  readonly line: number;
  readonly item: ItemId;
  readonly code: string;
  readonly qty: Qty;
  readonly received: Qty;
  readonly cost: Amount;
};
/** A line as somebody wants it; `line` is null where it is new. */
export type WantedLine = { readonly line: number | null; readonly item: ItemId; readonly qty: Qty; readonly cost: Amount };
/** What must be known of each item that is wanted. */
export type PurchasedItem = { readonly code: string; readonly decimals: number; readonly isRetired: boolean };

export type LineChange =
  | { readonly kind: 'add'; readonly item: ItemId; readonly qty: Qty; readonly cost: Amount }
  | { readonly kind: 'change'; readonly line: number; readonly qty: Qty; readonly cost: Amount }
  | { readonly kind: 'remove'; readonly line: number };

/** Decides what becomes of the lines of a purchase order that somebody saves as they want them.
 *  Shape:  the changes that make the lines of `before` those of `after`; a line that is not in `after` is removed.
 *  Errors: no lines, a quantity that the item cannot have or that is less than what has come, a line with goods that would go, a line that
 *          is not there or would be of another item, a retired item that is newly ordered. */
export function decideLines(
  order: { readonly number: string; readonly lines: readonly PurchaseLine[] },
  after: readonly WantedLine[],
  itemOf: (item: ItemId) => PurchasedItem,
): Result<readonly LineChange[], PurchasingError> {
  if (after.length === 0) return fail({ code: 'purchasing.noLines' });
  const before = new Map(order.lines.map((l) => [l.line, l]));
  const changes: LineChange[] = [];
  for (const wanted of after) {
    const { code, decimals, isRetired } = itemOf(wanted.item);
    if (wanted.qty <= 0) return fail({ code: 'purchasing.nothing', item: code });
    if (!isWholeStep(wanted.qty, decimals)) return fail({ code: 'purchasing.tooFine', item: code, decimals });
    if (wanted.line === null) {
      if (isRetired) return fail({ code: 'purchasing.retired', item: code });
      changes.push({ kind: 'add', item: wanted.item, qty: wanted.qty, cost: wanted.cost });
      continue;
    }
    const was = before.get(wanted.line);
    if (!was) return fail({ code: 'purchasing.unknownLine', number: order.number, line: wanted.line });
    before.delete(wanted.line);
    if (was.item !== wanted.item) return fail({ code: 'purchasing.lineIsOf', number: order.number, item: was.code });
    if (wanted.qty < was.received)
      return fail({ code: 'purchasing.belowReceived', item: code, received: formatQty(was.received), asked: formatQty(wanted.qty) });
    if (wanted.qty !== was.qty || wanted.cost !== was.cost)
      changes.push({ kind: 'change', line: was.line, qty: wanted.qty, cost: wanted.cost });
  }
  for (const gone of before.values()) {
    if (gone.received > 0) return fail({ code: 'purchasing.lineHasGoods', item: gone.code, received: formatQty(gone.received) });
    changes.push({ kind: 'remove', line: gone.line });
  }
  return ok(changes);
}

export type PurchaseAct = 'change' | 'approve' | 'send' | 'cancel' | 'close' | 'takeUp';
const ACT_WORDS: Readonly<Record<PurchaseAct, string>> = {
  change: 'changed',
  approve: 'approved',
  send: 'sent',
  cancel: 'cancelled',
  close: 'closed',
  takeUp: 'taken up again',
};
const FROM: Readonly<Record<PurchaseAct, readonly PurchaseState[]>> = {
  change: ['draft', 'open'],
  approve: ['draft'],
  send: ['open'],
  cancel: ['draft', 'open'],
  close: ['open'],
  takeUp: ['closed', 'cancelled'],
};

/** Whether an act is possible in a state at all; what a screen offers. */
export const canNow = (act: PurchaseAct, state: PurchaseState): boolean => FROM[act].includes(state);

/** Decides where an act takes a purchase order. What was cancelled before it was approved is a draft again when it is taken up.
 *  Shape:  `delivery` is the open delivery of it; `hasGoods`, whether anything of it has come; `missing`, whether anything has not.
 *  Errors: a state from which there is no such way; goods that have come, or are being scanned. */
export function decidePurchaseState(
  order: {
    readonly number: string;
    readonly state: PurchaseState;
    readonly wasApproved: boolean;
    readonly hasGoods: boolean;
    readonly missing: boolean;
    readonly delivery: string | null;
  },
  act: PurchaseAct,
): Result<PurchaseState, PurchasingError> {
  const { number, state } = order;
  if (!canNow(act, state)) return fail({ code: 'purchasing.notNow', number, state, act: ACT_WORDS[act] });
  switch (act) {
    case 'change':
      return ok(state === 'open' && !order.missing ? 'closed' : state);
    case 'approve':
      return ok('open');
    case 'send':
      return ok(state);
    case 'cancel':
    case 'close':
      if (order.delivery !== null) return fail({ code: 'purchasing.beingReceived', number, delivery: order.delivery });
      if (act === 'cancel' && order.hasGoods) return fail({ code: 'purchasing.hasGoods', number });
      return ok(act === 'cancel' ? 'cancelled' : 'closed');
    case 'takeUp':
      // What has come in full is expected by nobody: there is nothing to take up.
      if (!order.missing) return fail({ code: 'purchasing.notNow', number, state, act: ACT_WORDS[act] });
      return ok(order.wasApproved ? 'open' : 'draft');
  }
}
