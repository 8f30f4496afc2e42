import { qty as asQty, subQty, sumQty, ZERO, type Qty } from '#core/base';

/** Goods of one item in one bin, all as good as each other for whoever takes them. Thousandths of the base unit. */
export type Shelved = {
  readonly bin: number;
  readonly qty: Qty;
  readonly walk: number;
  readonly isPickFace: boolean;
  /** How much a full pack of it holds, of each pack that is more than one. */
  readonly packs: readonly Qty[];
};
/** So much of an item is wanted, out of these. There is enough in them. */
export type Need<S extends Shelved> = { readonly qty: Qty; readonly sources: readonly S[] };
export type Taking<S extends Shelved> = { readonly source: S; readonly qty: Qty };

/** What a choice costs, the first difference decides: bins at which one stops that were no stop before; takings; packs opened; bins left
 *  with goods in them; takings out of reserve; places in walking order. */
export type CoverCost = readonly [stops: number, takings: number, opened: number, left: number, reserve: number, walk: number];

const NOTHING: CoverCost = [0, 0, 0, 0, 0, 0];
const MOST_LEAVES = 400;
const MOST_NODES = 20_000;
/** Needs of a group that is searched. */
const MOST_SEARCHED = 60;
const MOST_ENUMERATED = 10;

/** Chooses bins for all needs together, so that as few as can be are stopped at (G2).
 *  Shape:  one list of takings for each need, in their order. Of the bins from which an item is taken all but at most one are emptied of
 *          it. *          `stops`: bins at which one stops anyway; they cost nothing.
 *  Source: a set cover with quantities, solved by branch and bound for each group of needs that share bins, least cost first as `CoverCost`
 *          says. Exact up to sixty needs in a group and 20,000 branches; else the best that was found, or, in larger groups, what a
 *          greedy choice finds (Chvátal, 1979), without the bins that turn out not to be needed.
 *  Errors: throws where a need is larger than its sources: that is the caller's to see to. */
export function coverNeeds<S extends Shelved>(needs: readonly Need<S>[], stops: ReadonlySet<number>): readonly (readonly Taking<S>[])[] {
  const taken: (readonly Taking<S>[])[] = needs.map(() => []);
  for (const group of groupsOf(needs, stops)) {
    const own = group.map((n) => needs[n] as Need<S>);
    const best = own.length > MOST_SEARCHED ? greedyCover(own, stops) : searchCover(own, stops);
    for (const [i, n] of group.entries()) taken[n] = best[i] ?? [];
  }
  return taken;
}

/** What takings cost beside stops that are made anyway. */
export function costOfCover<S extends Shelved>(all: readonly (readonly Taking<S>[])[], stops: ReadonlySet<number>): CoverCost {
  const bins = new Set(all.flat().map((t) => t.source.bin));
  const own = all.map(costOfTakings).reduce(plus, NOTHING);
  return [[...bins].filter((b) => !stops.has(b)).length, own[1], own[2], own[3], own[4], own[5]];
}

// Needs that share no bin, beside those stopped at anyway, have nothing to do with each other.
function groupsOf<S extends Shelved>(needs: readonly Need<S>[], stops: ReadonlySet<number>): number[][] {
  const parent = needs.map((_, i) => i);
  const rootOf = (i: number): number => {
    const up = parent[i] ?? i;
    return up === i ? i : (parent[i] = rootOf(up));
  };
  const firstWith = new Map<number, number>();
  for (const [i, need] of needs.entries())
    for (const { bin } of need.sources) {
      if (stops.has(bin)) continue;
      const first = firstWith.get(bin);
      if (first === undefined) firstWith.set(bin, i);
      else parent[rootOf(i)] = rootOf(first);
    }
  const groups = new Map<number, number[]>();
  for (const i of needs.keys()) groups.set(rootOf(i), [...(groups.get(rootOf(i)) ?? []), i]);
  return [...groups.values()];
}

function searchCover<S extends Shelved>(needs: readonly Need<S>[], stops: ReadonlySet<number>): readonly (readonly Taking<S>[])[] {
  let best: { cost: CoverCost; taken: readonly (readonly Taking<S>[])[] } | null = null;
  let [nodes, leaves] = [0, 0];
  const opened = new Set<number>();
  const barred = new Set<number>();
  const isOpen = (bin: number): boolean => opened.has(bin) || stops.has(bin);
  const lackOf = (need: Need<S>): number => need.qty - sumQty(need.sources.filter((s) => isOpen(s.bin)).map((s) => s.qty));
  const visit = (): void => {
    nodes += 1;
    if (best && (nodes > MOST_NODES || leaves > MOST_LEAVES)) return;
    const lacking = needs.map((need) => ({ need, lack: lackOf(need) })).filter((l) => l.lack > 0);
    let least = 0;
    for (const { need, lack } of lacking)
      least = Math.max(
        least,
        binsFor(
          lack,
          need.sources.filter((s) => !isOpen(s.bin) && !barred.has(s.bin)),
        ),
      );
    // A tie is looked at: what comes after the stops decides it.
    if (best && opened.size + least > best.cost[0]) return;
    const [first] = lacking.toSorted((a, b) => a.need.sources.length - b.need.sources.length);
    if (!first) {
      leaves += 1;
      const taken = needs.map((need) =>
        takeFrom(
          need.qty,
          need.sources.filter((s) => isOpen(s.bin)),
        ),
      );
      const cost = costOfCover(taken, stops);
      if (!best || isLess(cost, best.cost)) best = { cost, taken };
      return;
    }
    const candidates = first.need.sources.filter((s) => !isOpen(s.bin) && !barred.has(s.bin));
    const helps = (bin: number): number => lacking.filter((l) => l.need.sources.some((s) => s.bin === bin && s.qty >= l.lack)).length;
    const order = candidates.toSorted((a, b) => helps(b.bin) - helps(a.bin) || b.qty - a.qty || a.walk - b.walk || a.bin - b.bin);
    for (const { bin } of order) {
      opened.add(bin);
      visit();
      opened.delete(bin);
      // Whatever is found without it from here on was not found with it.
      barred.add(bin);
    }
    for (const { bin } of order) barred.delete(bin);
  };
  visit();
  const found = best as { taken: readonly (readonly Taking<S>[])[] } | null;
  if (!found) throw new Error('A need is larger than what there is.');
  return found.taken;
}

/** A cover of very many needs: what must be opened, then, need by need, the bin that helps most others, too. */
function greedyCover<S extends Shelved>(needs: readonly Need<S>[], stops: ReadonlySet<number>): readonly (readonly Taking<S>[])[] {
  const withBin = new Map<number, { need: number; qty: Qty }[]>();
  for (const [n, need] of needs.entries())
    for (const s of need.sources) withBin.set(s.bin, [...(withBin.get(s.bin) ?? []), { need: n, qty: s.qty }]);
  const lack = needs.map((need) => need.qty - sumQty(need.sources.filter((s) => stops.has(s.bin)).map((s) => s.qty)));
  const opened = new Set<number>();
  const change = (bin: number, by: 1 | -1): void => {
    for (const { need, qty } of withBin.get(bin) ?? []) lack[need] = (lack[need] as number) + by * qty;
  };
  const open = (bin: number): void => {
    opened.add(bin);
    change(bin, -1);
  };
  const helps = (bin: number): number =>
    (withBin.get(bin) ?? []).filter(({ need, qty }) => (lack[need] as number) > 0 && qty >= (lack[need] as number)).length;
  const fewestFirst = needs.map((need, n) => ({ need, n })).toSorted((a, b) => a.need.sources.length - b.need.sources.length);
  for (const { need, n } of fewestFirst)
    while ((lack[n] as number) > 0) {
      const closed = need.sources.filter((s) => !opened.has(s.bin) && !stops.has(s.bin));
      const best = closed.toSorted((a, b) => helps(b.bin) - helps(a.bin) || b.qty - a.qty || a.walk - b.walk || a.bin - b.bin)[0];
      if (!best) throw new Error('A need is larger than what there is.');
      open(best.bin);
    }
  for (const bin of [...opened]) {
    if ((withBin.get(bin) ?? []).some(({ need, qty }) => (lack[need] as number) + qty > 0)) continue;
    opened.delete(bin);
    change(bin, 1);
  }
  return needs.map((need) =>
    takeFrom(
      need.qty,
      need.sources.filter((s) => opened.has(s.bin) || stops.has(s.bin)),
    ),
  );
}

// How many of these at least it takes for so much; more than there are where they have too little.
function binsFor(lack: number, sources: readonly Shelved[]): number {
  let open = lack;
  let count = 0;
  for (const s of sources.toSorted((a, b) => b.qty - a.qty)) {
    if (open <= 0) break;
    open -= s.qty;
    count += 1;
  }
  return open <= 0 ? count : Number.MAX_SAFE_INTEGER;
}

/** Takes so much of one item out of bins that are stopped at, at the least cost. */
function takeFrom<S extends Shelved>(need: Qty, sources: readonly S[]): readonly Taking<S>[] {
  const largest = sources.toSorted((a, b) => b.qty - a.qty || a.walk - b.walk || a.bin - b.bin);
  const count = binsFor(need, largest);
  const sets = largest.length <= MOST_ENUMERATED ? subsetsOf(largest, count) : [largest.slice(0, count)];
  let best: { cost: CoverCost; taken: readonly Taking<S>[] } | null = null;
  for (const set of sets) {
    const over = sumQty(set.map((s) => s.qty)) - need;
    if (over < 0) continue;
    // One of them keeps what is over, the others are emptied.
    for (const keeps of over === 0 ? set.slice(0, 1) : set) {
      if (keeps.qty <= over) continue;
      const taken = set.map((source) => ({ source, qty: source === keeps ? subQty(source.qty, asQty(over)) : source.qty }));
      const cost = costOfTakings(taken);
      if (!best || isLess(cost, best.cost)) best = { cost, taken };
    }
  }
  return best?.taken ?? [];
}

function costOfTakings(taken: readonly Taking<Shelved>[]): CoverCost {
  return taken
    .map(({ source, qty }): CoverCost => [0, 1, openedBy(source, qty), qty < source.qty ? 1 : 0, source.isPickFace ? 0 : 1, source.walk])
    .reduce(plus, NOTHING);
}

/** How many kinds of full packs must be opened to take so much: loose pieces go first. */
function openedBy(source: Shelved, taken: Qty): number {
  return source.packs.filter((pack) => pack > ZERO && taken % pack > source.qty % pack).length;
}

const plus = (a: CoverCost, b: CoverCost): CoverCost => [a[0] + b[0], a[1] + b[1], a[2] + b[2], a[3] + b[3], a[4] + b[4], a[5] + b[5]];

/** Whether one cost is less than another: the first difference decides. */
export function isLess(a: CoverCost, b: CoverCost): boolean {
  const at = a.findIndex((cost, i) => cost !== b[i]);
  return at >= 0 && (a[at] ?? 0) < (b[at] ?? 0);
}

function* subsetsOf<S>(all: readonly S[], count: number, from = 0): Generator<readonly S[]> {
  if (count === 0) yield [];
  else
    for (let i = from; i <= all.length - count; i += 1) for (const rest of subsetsOf(all, count - 1, i + 1)) yield [all[i] as S, ...rest];
}
