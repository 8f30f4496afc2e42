import { formatQty, minQty, subQty, type Qty } from '#core/base';
import type { CarryTrouble } from '#core/carrying';
import { announce, asQty, lockRows, query, refuse, type Trx } from '#server/kernel';
import { findItem, selectSerial } from '#server/items';
import { moveGoods, moveUnit } from '#server/moves';
import { askForCount } from '#server/picking';
import { selectBin, type FoundBin } from '#server/places';
import { lockStock, undoMovements } from '#server/stock';
import {
  insertCarried,
  lockCarryAt,
  selectCarried,
  selectTasks,
  updateCarriedBy,
  updateCarrier,
  updateCarryState,
  updateTaskQty,
  updateUndone,
  type CarryListRow,
  type TaskRow,
} from './store.ts';

/** An act on a round. `told`: it has happened on the floor; that the round is somebody else's meanwhile does not undo it. */
export type OnCarry = {
  readonly key: string;
  readonly carry: number;
  readonly site: number;
  readonly person: number;
  readonly device: string | null;
  readonly at: Date | null;
  readonly told: boolean;
};

export const carryStateWord = (state: CarryListRow['state']): string => ({ open: 'open', done: 'done', thrown: 'thrown away' })[state];

/** Locks an open round and one of its lines, as they are then.
 *  Errors: a round that has ended, is another site's or another hand's; a line that is not on it. */
async function lockTask(trx: Trx, act: Omit<OnCarry, 'key'>, task: string | number): Promise<{ carry: CarryListRow; task: TaskRow }> {
  const carry = await lockCarryAt(trx, act.carry, act.site);
  if (carry.state !== 'open') refuse({ code: 'carrying.ended', number: carry.number, state: carryStateWord(carry.state) });
  if (!act.told && carry.person_id !== null && carry.person_id !== act.person)
    refuse({ code: 'carrying.others', number: carry.number, person: carry.person ?? '' });
  const [line] = await selectTasks(trx, carry.id, task);
  return { carry, task: line ?? refuse({ code: 'carrying.unknownTask', number: carry.number }) };
}

const REASON = { putAway: 'Put away', refill: 'Refill' } as const;

/** Takes goods of a line onto the cart (I5).
 *  Errors: more than is planned; what `moveGoods` refuses, so a bin that holds less.
 *  Locks:  the round, then what `post` locks. */
export async function takeOnCart(trx: Trx, act: OnCarry & { task: string | number; serial: string | null; qty: Qty }): Promise<void> {
  const { carry, task } = await lockTask(trx, act, act.task);
  const open = subQty(asQty(task.qty), asQty(task.taken));
  const cart = carry.cart_bin === null ? undefined : await selectBin(trx, carry.cart_bin);
  if (!cart || act.qty > open)
    refuse({
      code: 'carrying.tooMany',
      item: task.code,
      asked: formatQty(act.qty),
      open: formatQty(cart ? open : (0 as Qty)),
      way: 'take',
    });
  const from = (await selectBin(trx, task.from_bin)) as FoundBin;
  // First it is on the cart, then it moves: nobody else may take it from there in between.
  const moved = await moveGoods(trx, {
    ...(await movingOf(trx, act, carry, task)),
    from,
    to: cart,
    reason: `${REASON[carry.kind]} ${carry.number}`,
    override: undefined,
  });
  const serial = await serialOf(trx, task, act.serial);
  const id = await insertCarried(trx, { ...act, task: task.id, way: 'take', serial, bin: task.from_bin });
  await updateCarriedBy(trx, id, moved.movements, moved.qty);
  await touched(trx, carry, act.person);
}

/** Puts goods of a line into a bin: off the cart, or straight from where they lie (I2).
 *  Shape:  `to` may be another bin than planned; `over` says why, where a rule of it speaks against that.
 *  Errors: more than can be put; what `moveGoods` and `moveUnit` refuse.
 *  Locks:  the round, then what `post` locks. */
export async function putFromCarry(
  trx: Trx,
  act: OnCarry & { task: string | number; serial: string | null; qty: Qty; to: FoundBin; override: string | undefined },
): Promise<void> {
  const { carry, task } = await lockTask(trx, act, act.task);
  // What lies there is an order's, or on its way to another site.
  if (['cart', 'packing', 'transit'].includes(act.to.use)) refuse({ code: 'stock.passingThrough', bin: act.to.address, item: task.code });
  const open = subQty(asQty(carry.cart_bin === null ? task.qty : task.taken), asQty(task.put));
  if (act.qty > open && task.sscc === null)
    refuse({ code: 'carrying.tooMany', item: task.code, asked: formatQty(act.qty), open: formatQty(open), way: 'put' });
  const serial = await serialOf(trx, task, act.serial);
  // First it is nobody's, then it moves: the ledger does not let go of goods that ride on a round.
  const id = await insertCarried(trx, { ...act, task: task.id, way: 'put', serial, bin: act.to.id });
  const reason = `${REASON[carry.kind]} ${carry.number}`;
  const round = { document: carry.document_id, number: carry.number };
  if (task.sscc !== null) {
    const moved = await moveUnit(trx, { ...act, sscc: task.sscc, to: act.to, reason, round });
    await updateTaskQty(trx, task.id, moved.qty, null);
    await updateCarriedBy(trx, id, moved.movements, moved.qty);
  } else {
    const from = (await selectBin(trx, carry.cart_bin ?? task.from_bin)) as FoundBin;
    const moved = await moveGoods(trx, { ...(await movingOf(trx, act, carry, task)), from, to: act.to, reason, override: act.override });
    await updateCarriedBy(trx, id, moved.movements, moved.qty);
  }
  await touched(trx, carry, act.person);
}

async function movingOf(trx: Trx, act: OnCarry & { serial: string | null; qty: Qty }, carry: CarryListRow, task: TaskRow) {
  const { site, person, device, at, qty } = act;
  return {
    site,
    person,
    device,
    at,
    qty,
    item: await findItem(trx, task.item),
    lot: task.lot,
    serial: act.serial ?? task.serial,
    condition: task.condition,
    newLot: null,
    round: { document: carry.document_id, number: carry.number },
  };
}

async function serialOf(trx: Trx, task: TaskRow, serial: string | null): Promise<number | null> {
  const code = serial ?? task.serial;
  if (task.tracking !== 'serial') return null;
  if (code === null) return refuse({ code: 'carrying.serialWanted', item: task.code });
  return (await selectSerial(trx, task.item, code))?.id ?? refuse({ code: 'moves.unknownSerial', item: task.code, serial: code });
}

async function touched(trx: Trx, carry: CarryListRow, person: number): Promise<void> {
  if (carry.person_id === null) await updateCarrier(trx, carry.id, person);
  await updateCarryState(trx, carry.id, person);
  announce(trx, 'carrying', { carry: carry.id });
}

/** Takes back what was taken or put by mistake: it lies where it lay, and is still to be carried. A round that was done is open again.
 *  Errors: nothing of that act to take back; goods that were put since; a cart that is on another round; what `post` refuses.
 *  Locks:  the round, then what `post` locks. */
export async function undoCarried(trx: Trx, act: Omit<OnCarry, 'key'> & { act: string }): Promise<void> {
  const carry = await lockCarryAt(trx, act.carry, act.site);
  if (carry.state === 'thrown') refuse({ code: 'carrying.ended', number: carry.number, state: carryStateWord(carry.state) });
  const done = await selectCarried(trx, carry.id, act.act);
  if (!done) return refuse({ code: 'carrying.unknownTask', number: carry.number });
  const [task] = await selectTasks(trx, carry.id, done.task_id);
  if (!task) return refuse({ code: 'carrying.unknownTask', number: carry.number });
  if (carry.state === 'done' && carry.cart_bin !== null) {
    const [busy] = await query(trx, `SELECT 1 FROM cart_at_work WHERE bin_id = ?`, [carry.cart_bin]);
    if (busy) refuse({ code: 'carrying.cartTaken', number: carry.number, cart: carry.cart ?? '' });
  }
  if (task.unit_id !== null) await lockRows(trx, 'unit', [task.unit_id]);
  await lockStock(trx, [{ item: task.item, site: carry.site_id }]);
  if (done.way === 'take' && asQty(done.qty) > subQty(asQty(task.taken), asQty(task.put)))
    refuse({ code: 'carrying.putAlready', item: task.code });
  const reason = `Undone: ${carry.number}`;
  const undo = { document: carry.document_id, movements: done.movements, person: act.person, reason, device: act.device, at: act.at };
  if (done.way === 'take') {
    await updateUndone(trx, done.id, act.person);
    await undoMovements(trx, undo);
  } else {
    // It rides on the cart again, once it has moved back there.
    await undoMovements(trx, undo);
    await updateUndone(trx, done.id, act.person);
  }
  await touched(trx, carry, act.person);
}

/** Reports that a line cannot be carried as planned: it ends at what was taken, or put, and the bin is counted where the records have more
 *  there than was found.
 *  Errors: as `lockTask`.
 *  Locks:  the round, then the item at the site. */
export async function reportCarryTrouble(
  trx: Trx,
  act: Omit<OnCarry, 'key'> & { task: string | number; trouble: CarryTrouble },
): Promise<void> {
  const { carry, task } = await lockTask(trx, act, act.task);
  const has = asQty(carry.cart_bin === null ? task.put : task.taken);
  const open = subQty(asQty(task.qty), has);
  if (open <= 0) return;
  await lockStock(trx, [{ item: task.item, site: carry.site_id }]);
  const [lying] = await query<{ qty: string }>(
    trx,
    `SELECT coalesce(sum(qty), 0) AS qty
     FROM balance
     WHERE bin_id = ? AND item_id = ? AND lot_id IS NOT DISTINCT FROM ?::int AND (?::int IS NULL OR serial_id = ?)`,
    [task.from_bin, task.item, task.lot_id, task.serial_id, task.serial_id],
  );
  await updateTaskQty(trx, task.id, has, act.trouble);
  // Somebody carried it elsewhere meanwhile: the records know, and nothing is wrong.
  const doubted = minQty(open, asQty(lying?.qty ?? '0'));
  if (doubted > 0)
    await askForCount(trx, { bin: task.from_bin, item: task.item, qty: formatQty(doubted), person: act.person, kind: act.trouble });
  await touched(trx, carry, act.person);
}
