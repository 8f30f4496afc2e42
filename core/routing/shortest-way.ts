import { seeded, type Random } from '#core/base';

/** A walk from one place over all stops to another: the stops in the order in which they are met, and how far it is. */
export type Way = {
  readonly order: readonly number[];
  readonly metres: number;
  /** Stops to which there is no way, or from which none leads on: in no order. */
  readonly unreached: readonly number[];
};
/** Places by their number in the table of metres. */
export type Walk = { readonly from: number; readonly to: number; readonly stops: readonly number[] };

/** Up to so many stops the shortest way is found for certain. */
export const MOST_EXACT = 12;
const KICKS = 140;
/** How many stops that follow each other are carried elsewhere together. */
const LONGEST_SEGMENT = 6;

/** The shortest way from a cart's place over all stops to the bench (G2): exact up to twelve stops, near the shortest above.
 *  Shape:  `metres[a][b]` from place a to place b, Infinity where there is no way; the two directions may differ. The order given is
 *          where the search begins, so that no way is longer than it. `effort` 1 is the usual; more searches longer. Equal input gives
 *          equal output.
 *  Units:  metres in, metres out.
 *  Source: Held and Karp, “A Dynamic Programming Approach to Sequencing Problems” (1962), for the exact part; above, iterated local search:
 *          Or-opt (Or, 1976), 2-opt with both directions weighed (Croes, 1958; Kanellakis and Papadimitriou, 1980, for asymmetric tables),
 *          and the double bridge as its kick (Martin, Otto and Felten, 1991), which keeps every direction of walking. */
export function shortestWay(metres: readonly (readonly number[])[], walk: Walk, effort = 1): Way {
  const between = (a: number, b: number): number => metres[a]?.[b] ?? Infinity;
  const isReached = (s: number): boolean => Number.isFinite(between(walk.from, s)) && Number.isFinite(between(s, walk.to));
  // Bins above each other are reached from one place: they are one stop here, whatever their number.
  const places: number[][] = [];
  for (const s of walk.stops.filter(isReached)) {
    const same = places.find((place) => place.every((p) => between(p, s) === 0 && between(s, p) === 0));
    if (same) same.push(s);
    else places.push([s]);
  }
  const unreached = walk.stops.filter((s) => !isReached(s));
  const n = places.length;
  const table = tableOf(between, { ...walk, stops: places.map(([first]) => first as number) });
  const order = n <= MOST_EXACT ? exactOrder(table, n) : nearOrder(table, n, effort);
  const found = order.flatMap((i) => places[i] ?? []);
  return { order: found, metres: metresOf(metres, { ...walk, stops: found }), unreached };
}

/** How far it is to walk stops in the order given.
 *  Units:  metres; Infinity where a part has no way. */
export function metresOf(metres: readonly (readonly number[])[], { from, to, stops }: Walk): number {
  const places = [from, ...stops, to];
  return places.slice(1).reduce((sum, place, i) => sum + (metres[places[i] as number]?.[place] ?? Infinity), 0);
}

// Stops are 0 to n − 1 here, the place of beginning is n, that of the end n + 1: one flat table is read far faster than rows.
type Table = { readonly n: number; readonly size: number; readonly d: Float64Array };
// Farther than any floor: what has no way is walked last and only where it must be.
const NO_WAY = 1e7;

function tableOf(between: (a: number, b: number) => number, { from, to, stops }: Walk): Table {
  const places = [...stops, from, to];
  const size = places.length;
  const d = new Float64Array(size * size);
  for (let a = 0; a < size; a += 1)
    for (let b = 0; b < size; b += 1) d[a * size + b] = Math.min(NO_WAY, a === b ? 0 : between(places[a] as number, places[b] as number));
  return { n: stops.length, size, d };
}

function lengthOf({ n, size, d }: Table, order: readonly number[]): number {
  let sum = 0;
  let here = n;
  for (const next of order) {
    sum += d[here * size + next] as number;
    here = next;
  }
  sum += d[here * size + n + 1] as number;
  return sum >= NO_WAY ? Infinity : sum;
}

// best[set of stops][last of them]: the shortest way from the beginning over the set to the last.
function exactOrder({ size, d }: Table, n: number): number[] {
  if (n === 0) return [];
  const all = (1 << n) - 1;
  const best = new Float64Array((all + 1) * n).fill(Infinity);
  const before = new Int8Array((all + 1) * n).fill(-1);
  for (let s = 0; s < n; s += 1) best[(1 << s) * n + s] = d[n * size + s] as number;
  for (let set = 1; set <= all; set += 1)
    for (let last = 0; last < n; last += 1) {
      const so = best[set * n + last] as number;
      if (so === Infinity) continue;
      for (let next = 0; next < n; next += 1) {
        if (set & (1 << next)) continue;
        const at = (set | (1 << next)) * n + next;
        const sum = so + (d[last * size + next] as number);
        if (sum < (best[at] as number)) {
          best[at] = sum;
          before[at] = last;
        }
      }
    }
  let last = 0;
  const whole = (s: number): number => (best[all * n + s] as number) + (d[s * size + n + 1] as number);
  for (let s = 1; s < n; s += 1) if (whole(s) < whole(last)) last = s;
  const order: number[] = [];
  for (let set = all; last >= 0;) {
    order.push(last);
    const previous = before[set * n + last] as number;
    set &= ~(1 << last);
    last = previous;
  }
  return order.reverse();
}

function nearOrder(table: Table, n: number, effort: number): number[] {
  const given = Array.from({ length: n }, (_, i) => i);
  const starts = [given, given.toReversed(), nearestNext(table, n)].map((order) => improved(table, order));
  let best = starts.reduce((a, b) => (lengthOf(table, b) < lengthOf(table, a) ? b : a));
  let shortest = lengthOf(table, best);
  const random = seeded(n);
  const kicks = KICKS * effort;
  for (let kick = 0; kick < kicks; kick += 1) {
    const tried = improved(table, doubleBridge(best, random));
    const length = lengthOf(table, tried);
    if (length > shortest) continue;
    best = tried;
    shortest = length;
  }
  return best;
}

function nearestNext({ size, d }: Table, n: number): number[] {
  const left = new Set(Array.from({ length: n }, (_, i) => i));
  const order: number[] = [];
  for (let here = n; left.size > 0;) {
    let next = -1;
    for (const s of left) if (next < 0 || (d[here * size + s] as number) < (d[here * size + next] as number)) next = s;
    left.delete(next);
    order.push(next);
    here = next;
  }
  return order;
}

// Two neighbouring pieces change places: no piece is walked the other way round.
function doubleBridge(order: readonly number[], random: Random): number[] {
  const longest = Math.max(2, Math.min(30, Math.floor(order.length / 2)));
  const from = random.int(0, order.length - 3);
  const span = Math.min(order.length - from, 2 + random.int(0, longest - 1));
  const middle = from + 1 + random.int(0, span - 2);
  return [...order.slice(0, from), ...order.slice(middle, from + span), ...order.slice(from, middle), ...order.slice(from + span)];
}

const SHORTER = 1e-9;

// Local search to its end. `path` holds the beginning and the end as well, at 0 and n + 1.
function improved(table: Table, order: readonly number[]): number[] {
  const { n } = table;
  const path = [n, ...order, n + 1];
  while (orOpt(table, path) || twoOpt(table, path));
  return path.slice(1, -1);
}

// Carries stops that follow each other to another place, forward or turned round; the first gain is taken.
function orOpt({ size, d }: Table, path: number[]): boolean {
  const end = path.length - 1;
  const far = (a: number, b: number): number => d[a * size + b] as number;
  let isShorter = false;
  for (let i = 1; i < end; i += 1)
    for (let many = 1; many <= LONGEST_SEGMENT && i + many <= end; many += 1) {
      const [before, first, last, after] = [path[i - 1], path[i], path[i + many - 1], path[i + many]] as [number, number, number, number];
      const gone = far(before, first) + far(last, after) - far(before, after);
      if (gone <= SHORTER) continue;
      let turn = 0;
      for (let k = i; k < i + many - 1; k += 1)
        turn += far(path[k + 1] as number, path[k] as number) - far(path[k] as number, path[k + 1] as number);
      let [gain, to, isTurned] = [SHORTER, -1, false];
      for (let j = 0; j < end; j += 1) {
        if (j >= i - 1 && j < i + many) continue;
        const [a, b] = [path[j], path[j + 1]] as [number, number];
        const base = gone + far(a, b);
        const forward = base - far(a, first) - far(last, b);
        const backward = base - far(a, last) - far(first, b) - turn;
        if (forward > gain) [gain, to, isTurned] = [forward, j, false];
        if (backward > gain) [gain, to, isTurned] = [backward, j, true];
      }
      if (to < 0) continue;
      const moved = path.splice(i, many);
      if (isTurned) moved.reverse();
      path.splice(to < i ? to + 1 : to + 1 - many, 0, ...moved);
      isShorter = true;
    }
  return isShorter;
}

// Walks a piece the other way round. What that costs in a table whose directions differ is read from sums along the path both ways.
function twoOpt({ size, d }: Table, path: number[]): boolean {
  const end = path.length - 1;
  const far = (a: number, b: number): number => d[a * size + b] as number;
  const [forth, back] = [new Float64Array(path.length), new Float64Array(path.length)];
  for (let k = 1; k < path.length; k += 1) {
    const [a, b] = [path[k - 1], path[k]] as [number, number];
    forth[k] = (forth[k - 1] as number) + far(a, b);
    back[k] = (back[k - 1] as number) + far(b, a);
  }
  let [gain, from, to] = [SHORTER, -1, -1];
  for (let i = 1; i < end - 1; i += 1)
    for (let j = i + 1; j < end; j += 1) {
      const [before, first, last, after] = [path[i - 1], path[i], path[j], path[j + 1]] as [number, number, number, number];
      const was = far(before, first) + far(last, after) + (forth[j] as number) - (forth[i] as number);
      const would = far(before, last) + far(first, after) + (back[j] as number) - (back[i] as number);
      if (was - would > gain) [gain, from, to] = [was - would, i, j];
    }
  if (from < 0) return false;
  for (let [i, j] = [from, to]; i < j; i += 1, j -= 1) [path[i], path[j]] = [path[j] as number, path[i] as number];
  return true;
}
