import { maxQty, minQty, subQty, ZERO, type BinId, type ItemId, type LotId, type Qty } from '#core/base';
import { Allotment, askingKey, ASKS_NOTHING, asksNothing, type Asking } from '#core/stock';
import { chooseStock, type Allocation, type PickSource, type PickWant, type PlannedPick } from './choose.ts';

/** A want that may name its goods. */
export type AskedWant = PickWant & { readonly asking: Asking };
/** What is promised to a line that this round does not serve, and no round is on its way for. */
export type KeptForOthers = { readonly item: ItemId; readonly asking: Asking; readonly qty: Qty };

/** Chooses bins and lots as `chooseStock`, each line from what it asks for, and leaves to others what they named (F3, F10).
 *  Shape:  those who ask choose before those who take anything, each among the goods that all the others can spare; then the rest is chosen
 *          together, with their bins as stops that are made anyway. The wants come most urgent first.
 *  Units:  thousandths of the base unit. */
export function chooseAsked(wants: readonly AskedWant[], sources: readonly PickSource[], others: readonly KeptForOthers[]): Allocation {
  const named = new Set([...wants, ...others].filter((w) => !asksNothing(w.asking)).map((w) => w.item));
  const picks: PlannedPick[] = [];
  const missing: PickWant[] = [];
  const plain = wants.filter((w) => asksNothing(w.asking));
  let free = sources.filter((s) => !named.has(s.item));
  for (const item of named) {
    const own = wants.filter((w) => w.item === item);
    const kept = others.filter((o) => o.item === item && !asksNothing(o.asking));
    let lying = sources.filter((s) => s.item === item).toSorted(byLeaving);
    let open = own;
    for (const asking of distinct(own)) {
      const asked = own.filter((w) => askingKey(w.asking) === askingKey(asking));
      const chosen = chooseStock(asked, choiceFor(asking, lying, open, kept), new Set(picks.map((p) => p.bin)));
      picks.push(...chosen.picks);
      missing.push(...chosen.missing);
      lying = withoutPicks(lying, chosen.picks);
      open = open.filter((w) => !asked.includes(w));
    }
    free = [...free, ...choiceFor(ASKS_NOTHING, lying, open, kept)];
  }
  const rest = chooseStock(plain, free, new Set(picks.map((p) => p.bin)));
  return { picks: together([...picks, ...rest.picks]), missing: [...missing, ...rest.missing] };
}

const distinct = (wants: readonly AskedWant[]): Asking[] => [
  ...new Map(wants.filter((w) => !asksNothing(w.asking)).map((w) => [askingKey(w.asking), w.asking])).values(),
];

const byLeaving = (a: PickSource, b: PickSource): number =>
  (a.expires ?? '9999').localeCompare(b.expires ?? '9999') || (a.arrived ?? '9999').localeCompare(b.arrived ?? '9999') || a.walk - b.walk;

function choiceFor(asking: Asking, lying: readonly PickSource[], own: readonly AskedWant[], kept: readonly KeptForOthers[]): PickSource[] {
  const allotment = new Allotment(lying, [asking, ...own.map((w) => w.asking), ...kept.map((k) => k.asking)]);
  for (const w of [...own, ...kept]) allotment.give(w.asking, w.qty);
  return allotment.choiceOf(asking);
}

const isFrom = (source: PickSource, pick: PlannedPick): boolean =>
  source.bin === pick.bin && source.lot === pick.lot && source.serial === pick.serial;

function withoutPicks(lying: readonly PickSource[], picks: readonly PlannedPick[]): PickSource[] {
  const left = lying.map((s) => ({ ...s }));
  for (const pick of picks) {
    let open = pick.qty;
    for (const source of left.filter((s) => isFrom(s, pick))) {
      const taken = minQty(open, source.qty);
      source.qty = subQty(source.qty, taken);
      open = subQty(open, taken);
    }
  }
  return left.filter((s) => s.qty > 0);
}

// A line goes to a bin once for a lot, however its pieces were chosen.
function together(picks: readonly PlannedPick[]): PlannedPick[] {
  const joined = new Map<string, PlannedPick>();
  for (const pick of picks) {
    const key = `${pick.line}|${pick.bin}|${pick.lot ?? ''}`;
    const there = joined.get(key);
    joined.set(key, there ? { ...there, qty: (there.qty + pick.qty) as Qty } : pick);
  }
  return [...joined.values()];
}

/** Where open rounds are on their way for goods. `serials`: those that the line names. */
export type Planned = {
  readonly item: ItemId;
  readonly bin: BinId;
  readonly lot: LotId | null;
  readonly serials: readonly number[] | null;
  readonly qty: Qty;
};

/** What of goods no round is on its way for: the pieces that a line named are taken off first, then those that nobody named. */
export function lessPlanned(sources: readonly PickSource[], plans: readonly Planned[]): PickSource[] {
  const left = sources.map((s) => ({ ...s }));
  for (const plan of plans) {
    let open = plan.qty;
    const rank = (s: PickSource): number => (s.serial !== null && plan.serials?.includes(s.serial) ? 0 : s.serial === null ? 1 : 2);
    const there = left.filter((s) => s.item === plan.item && s.bin === plan.bin && s.lot === plan.lot);
    for (const source of there.toSorted((a, b) => rank(a) - rank(b))) {
      const taken = maxQty(ZERO, minQty(open, source.qty));
      source.qty = subQty(source.qty, taken);
      open = subQty(open, taken);
    }
  }
  return left.filter((s) => s.qty > 0);
}
