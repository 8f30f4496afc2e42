import { seeded } from '#core/base';
import type { WantedOrder } from './write-order.ts';

/** Out of what orders are made by chance. `issued` and `due` are ISO days; the same seed gives the same orders. */
export type Catalogue = {
  readonly seed: number;
  readonly issued: string;
  readonly due: string;
  readonly customers: readonly { readonly code: string; readonly name: string }[];
  readonly items: readonly { readonly code: string; readonly name: string }[];
};

const OF_TEN = { changes: 2, cancellations: 1 };
const MOST_LINES = 5;
const MOST_PIECES = 6;

/** Orders one after the other: of ten, seven are new, two change an earlier one, one cancels an earlier one. Each earlier one is changed as
 *  often as it comes, and cancelled once. */
export function dripFrom(of: Catalogue): () => WantedOrder {
  const random = seeded(of.seed);
  const upTo = (most: number): number => Math.floor(random.next() * most);
  const open: WantedOrder[] = [];
  let made = 0;
  const linesBy = (): NonNullable<WantedOrder['lines']> => {
    const items = new Set(Array.from({ length: 1 + upTo(MOST_LINES) }, () => upTo(of.items.length)));
    return [...items].map((i, n) => ({
      no: String(n + 1),
      qty: String(1 + upTo(MOST_PIECES)),
      name: of.items[i]?.name ?? '',
      sellerCode: of.items[i]?.code ?? '',
    }));
  };
  return () => {
    made += 1;
    const chance = upTo(10);
    const at = upTo(open.length);
    const earlier = open[at];
    const paper = `SHOP-${of.seed}-${made}`;
    if (earlier && chance < OF_TEN.changes) {
      const lines = (earlier.lines ?? []).map((l, n) => ({ ...l, qty: String(1 + upTo(MOST_PIECES)), cancelled: n > 0 && upTo(3) === 0 }));
      return { ...earlier, kind: 'change', paper, lines };
    }
    if (earlier && chance < OF_TEN.changes + OF_TEN.cancellations) {
      open.splice(at, 1);
      return { ...earlier, kind: 'cancellation', paper, note: 'The buyer changed their mind', lines: [] };
    }
    const { issued, due } = of;
    const customer = of.customers[upTo(of.customers.length)] ?? { name: '' };
    const order: WantedOrder = { kind: 'order', reference: paper, issued, due, customer, lines: linesBy() };
    open.push(order);
    return order;
  };
}
