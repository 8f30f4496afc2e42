import { qty, type Qty } from '#core/base';
import type { FactBook, HandEvent } from '#core/floor';
import { GOODS, play, scanOf } from '../floor/testing.ts';
import { foldDelivery, lineOf, RECEIVE_BEGINS, receivingSaid, stepReceive, type DeliveryJob, type ReceiveChoice } from './index.ts';

export type ReceiveEvent = HandEvent<ReceiveChoice>;
export const whole = (n: number): Qty => qty(n * 1000);
export const key = (text: string): ReceiveEvent => ({ kind: 'number', text });
export const choose = (choice: ReceiveChoice): ReceiveEvent => ({ kind: 'choose', choice });
export const undo: ReceiveEvent = { kind: 'undo' };

const { jar, rope, lot, dated, serial } = GOODS;
/** A delivery of one order that expects 25 of each of the goods of the test's floor. */
export const DELIVERY: DeliveryJob = {
  ...{ id: 1, number: 'DL-1', state: 'scanning', supplier: 'Made-up Supplies', orders: ['PO-1'], back: null, entries: [] },
  paper: { doc: '', date: null },
  lines: [jar, rope, lot, dated, serial].map((item) => ({ item: item.id, expected: whole(25), waiting: 0 })),
};

/** A hand that receives a delivery on a floor of these facts: what it scans, and what a row of events comes to. */
export function receiver(facts: FactBook, delivery = DELIVERY) {
  const receive = (events: readonly ReceiveEvent[], job = delivery) => {
    const played = play(RECEIVE_BEGINS, events, (at, event: ReceiveEvent, done: Parameters<typeof foldDelivery>[1], stamp) =>
      stepReceive(at, event, foldDelivery(job, done), facts, stamp),
    );
    const after = foldDelivery(job, played.done);
    return { ...played, after, words: played.said.map(receivingSaid), arrived: (item: { id: number }) => lineOf(after, item.id).arrived };
  };
  return { receive, scan: (text: string): ReceiveEvent => scanOf(facts, text) };
}
