import { isWholeStep, qty, type Qty } from '#core/base';

/** What is known of an item at a site when it is asked whether to buy it. Thousandths of the base unit.
 *  `here` is what can be used or waits for inspection; `coming` is on approved orders, `drafted` on drafts; `promised` to orders, and
 *  `waiting` is what orders want beyond that. `used` left in the last `days` days, `leadDays` pass until it comes. */
export type ReorderFacts = {
  readonly here: Qty;
  readonly coming: Qty;
  readonly drafted: Qty;
  readonly promised: Qty;
  readonly waiting: Qty;
  readonly used: Qty;
  readonly days: number;
  readonly leadDays: number;
  readonly least: Qty | null;
  readonly most: Qty | null;
  readonly pack: Qty;
  readonly decimals: number;
};

/** Why an item is to be bought: the strongest reason. */
export type ReorderReason = 'waiting' | 'least' | 'use';

/** The reckoning, each figure of which is shown. `level` is what should be there and coming at the least; `upTo`, how much should be. */
export type Reorder = {
  readonly position: Qty;
  readonly leadUse: Qty;
  readonly level: Qty;
  readonly upTo: Qty;
  readonly buy: Qty;
  readonly packs: number;
  readonly reason: ReorderReason | null;
};

/** Reckons what to buy of an item (B11): the position (here and coming, less what is promised and waited for) against the least, or what
 *  is used until the next can come, whichever is more; bought up to the most in whole packs.
 *  Shape:  `reason` is null and `buy` 0 where there is enough. Without a most it is bought up to the level and as much as is used while it
 *          is on its way.
 *  Units:  thousandths; `buy` is a whole number of packs, and of the item's steps.
 *  Source: the (s, S) rule with lot sizes: Silver, Pyke, Peterson, Inventory Management and Production Planning, "Order-Point,
 *          Order-Up-to-Level". */
export function reckonReorder(f: ReorderFacts): Reorder {
  const position = qty(f.here + f.coming + f.drafted - f.promised - f.waiting);
  const leadUse = stepUp(f.days > 0 ? Math.ceil((f.used * f.leadDays) / f.days) : 0, f.decimals);
  const level = qty(Math.max(f.least ?? 0, leadUse));
  const upTo = qty(Math.max(f.most ?? level + leadUse, level));
  const reason: ReorderReason | null = position < 0 ? 'waiting' : position >= level ? null : position < (f.least ?? 0) ? 'least' : 'use';
  if (reason === null) return { position, leadUse, level, upTo, buy: qty(0), packs: 0, reason };
  const packs = Math.max(1, Math.ceil((upTo - position) / f.pack));
  return { position, leadUse, level, upTo, buy: qty(packs * f.pack), packs, reason };
}

// To the next quantity that the item can have.
function stepUp(steps: number, decimals: number): Qty {
  const step = 10 ** (3 - decimals);
  const up = qty(Math.ceil(steps / step) * step);
  if (!isWholeStep(up, decimals)) throw new Error('A quantity was made that the item cannot have.');
  return up;
}
