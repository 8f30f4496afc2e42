import type { Qty } from '#core/base';

/** How far an order has come, as its lists tell it (F1). */
export type OrderStep = 'new' | 'promised' | 'onRound' | 'atBench' | 'packed' | 'held' | 'shipped' | 'cancelled';
/** What is known of an order's way. Quantities in thousandths of the base unit; `putDown` of what lies at the bench. */
export type OrderWay = {
  readonly state: 'open' | 'shipped' | 'cancelled';
  readonly isHeld: boolean;
  readonly isOnRound: boolean;
  readonly putDown: Qty;
  readonly isPacked: boolean;
  readonly promised: readonly Qty[];
};

/** Reckons how far an order has come: the furthest step of it that is not undone. An end stands before a hold, and a hold before all
 *  else: nobody works on what is held. */
export function reckonStep(way: OrderWay): OrderStep {
  if (way.state === 'cancelled') return 'cancelled';
  if (way.isHeld) return 'held';
  if (way.state === 'shipped') return 'shipped';
  if (way.isOnRound) return 'onRound';
  if (way.putDown > 0) return way.isPacked ? 'packed' : 'atBench';
  return way.promised.some((qty) => qty > 0) ? 'promised' : 'new';
}
