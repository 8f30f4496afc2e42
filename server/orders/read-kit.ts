import { eachOfKit, kitsInHand } from '#core/items';
import { subQty } from '#core/base';
import { qtyText } from '#contract/base';
import type { Order } from '#contract/orders';
import { asQty, type Db } from '#server/kernel';
import { selectAssemblies, selectKitOrder, selectKitParts } from './store-kits.ts';

/** Which kits an order makes, how many of them, how many could be made now of what is in hand, and when some were. */
export async function readKit(db: Db, order: number): Promise<Order['kit']> {
  const kit = await selectKitOrder(db, order);
  if (!kit) return null;
  const [qty, made] = [asQty(kit.qty), asQty(kit.made)];
  const parts = (await selectKitParts(db, order)).map((p) => ({ each: eachOfKit(asQty(p.qty), qty), inHand: asQty(p.in_hand) }));
  return {
    item: kit.item,
    code: kit.code,
    description: kit.description,
    qty: qtyText(qty),
    made: qtyText(made),
    ready: qtyText(kitsInHand(subQty(qty, made), parts)),
    for: kit.for_id === null ? null : { id: kit.for_id, number: kit.for_number ?? '', state: kit.for_state ?? '' },
    assemblies: (await selectAssemblies(db, order)).map((a) => ({ ...a, qty: qtyText(asQty(a.qty)), at: a.at.toISOString() })),
  };
}
