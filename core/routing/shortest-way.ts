import { nearOrder, type Table } from './near-way.ts';

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
  const order = n <= MOST_EXACT ? exactOrder(table, n) : nearOrder(table, effort);
  const found = order.flatMap((i) => places[i] ?? []);
  return { order: found, metres: metresOf(metres, { ...walk, stops: found }), unreached };
}

/** How far it is to walk stops in the order given.
 *  Units:  metres; Infinity where a part has no way. */
export function metresOf(metres: readonly (readonly number[])[], { from, to, stops }: Walk): number {
  const places = [from, ...stops, to];
  return places.slice(1).reduce((sum, place, i) => sum + (metres[places[i] as number]?.[place] ?? Infinity), 0);
}

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
