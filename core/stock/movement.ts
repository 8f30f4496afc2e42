import { addQty, subQty, ZERO, type BinId, type ItemId, type LotId, type Qty, type SerialId, type UnitId } from '#core/base';
import { keyText, type Condition, type StockKey } from './key.ts';

/** One end of a movement. A hold is a movement whose two ends differ only in condition. */
export type Place = { readonly bin: BinId; readonly unit: UnitId | null; readonly condition: Condition };

/** One row of the ledger: a positive quantity of one thing from one place to another. */
export type Movement = {
  readonly item: ItemId;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
  readonly qty: Qty;
  readonly from: Place;
  readonly to: Place;
  readonly reason: string;
  /** The movement that this one undoes. */
  readonly reverses?: number;
};

/** The two stock keys that a movement touches: where it leaves and where it arrives. */
export function movementKeys(movement: Movement): { from: StockKey; to: StockKey } {
  const { item, lot, serial } = movement;
  return { from: { item, lot, serial, ...movement.from }, to: { item, lot, serial, ...movement.to } };
}

/** The movement that undoes another. A correction is never an edit.
 *  Shape:  `id` is the ledger's number of the movement that is undone. */
export function reverseMovement(movement: Movement, id: number, reason: string): Movement {
  return { ...movement, from: movement.to, to: movement.from, reason, reverses: id };
}

/** Folds movements into balances. Outside bins are reckoned too (negative at suppliers), so the sum over all keys stays the same.
 *  Shape:  a map by `keyText`; the given map is not changed. Keys that come to zero are left out. */
export function applyMovements(balances: ReadonlyMap<string, Qty>, movements: Iterable<Movement>): Map<string, Qty> {
  const next = new Map(balances);
  const add = (key: StockKey, delta: Qty): void => {
    const text = keyText(key);
    const value = addQty(next.get(text) ?? ZERO, delta);
    if (value === 0) next.delete(text);
    else next.set(text, value);
  };
  for (const movement of movements) {
    const { from, to } = movementKeys(movement);
    add(from, subQty(ZERO, movement.qty));
    add(to, movement.qty);
  }
  return next;
}
