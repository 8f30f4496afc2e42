import { qty, type ItemId, type Qty } from '#core/base';

/** One component of a kit: how much of it one kit takes, in thousandths of its base unit. */
export type KitPart = { readonly kit: ItemId; readonly part: ItemId; readonly qty: Qty };

/** Whether a kit with these parts would contain itself, directly or through other kits; the way round if so.
 *  Shape:  `parts` are all components of all kits, the new ones of `kit` included. Returns the items from the kit back to itself, or
 *          null. */
export function findKitCircle(kit: ItemId, parts: readonly KitPart[]): readonly ItemId[] | null {
  const byKit = new Map<ItemId, ItemId[]>();
  for (const p of parts) byKit.set(p.kit, [...(byKit.get(p.kit) ?? []), p.part]);
  // Each item is looked into once, however many ways lead to it: walking every way takes as long as there are ways.
  const cameFrom = new Map<ItemId, ItemId>();
  const todo: ItemId[] = [kit];
  for (let item = todo.pop(); item !== undefined; item = todo.pop()) {
    for (const part of byKit.get(item) ?? []) {
      if (part === kit) return [...wayTo(item, kit, cameFrom), kit];
      if (cameFrom.has(part)) continue;
      cameFrom.set(part, item);
      todo.push(part);
    }
  }
  return null;
}

function wayTo(item: ItemId, kit: ItemId, cameFrom: ReadonlyMap<ItemId, ItemId>): ItemId[] {
  const way = [item];
  for (let at = item; at !== kit;) {
    at = cameFrom.get(at) as ItemId;
    way.unshift(at);
  }
  return way;
}

/** How many whole kits the free stock of its parts makes: the scarcest part decides, and is named.
 *  Units:  quantities in thousandths; `kits` is a plain whole number. A part that is itself a kit counts by its own free stock only:
 *          what is not assembled yet is not there. Null for an item without parts. */
export function kitsPossible(parts: readonly { part: ItemId; qty: Qty; free: Qty }[]): { kits: number; scarcest: ItemId } | null {
  let best: { kits: number; scarcest: ItemId } | null = null;
  for (const p of parts) {
    const kits = Math.max(0, Math.floor(p.free / p.qty));
    if (best === null || kits < best.kits) best = { kits, scarcest: p.part };
  }
  return best;
}

/** What is short of each part to make so many kits. */
export function partsShort(parts: readonly { part: ItemId; qty: Qty; free: Qty }[], kits: number): { part: ItemId; short: Qty }[] {
  return parts.map((p) => ({ part: p.part, short: qty(Math.max(0, p.qty * kits - p.free)) })).filter((p) => p.short > 0);
}

/** How much of a part so many kits take. Units: thousandths. */
export function takenByKits(each: Qty, kits: Qty): Qty {
  return qty(Math.round((each * kits) / 1000));
}

/** How much of a part one kit takes, where so much of it is wanted for so many kits. Units: thousandths. */
export function eachOfKit(wanted: Qty, kits: Qty): Qty {
  return qty(Math.round((wanted * 1000) / kits));
}

/** How many whole kits can be made of what is in hand, at most `left`. Units: thousandths of a kit. */
export function kitsInHand(left: Qty, parts: readonly { readonly each: Qty; readonly inHand: Qty }[]): Qty {
  const whole = (n: number): number => Math.max(0, Math.floor(n)) * 1000;
  return qty(Math.min(whole(left / 1000), ...parts.map((p) => whole(p.inHand / p.each))));
}
