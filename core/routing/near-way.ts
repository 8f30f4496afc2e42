import { seeded, type Random } from '#core/base';

/** Stops are 0 to n − 1, the place of beginning is n, that of the end n + 1; `d[a * size + b]` is the way from a to b in metres. One flat
 *  table is read far faster than rows. */
export type Table = { readonly n: number; readonly size: number; readonly d: Float64Array };

const KICKS = 400;
/** How many stops that follow each other are carried elsewhere together. */
const LONGEST_SEGMENT = 6;
/** How far apart the pieces are at most that a kick exchanges. */
const LONGEST_KICK = 30;
const SHORTER = 1e-9;

/** A way over all stops near the shortest: no longer than in the order in which they are numbered.
 *  Shape:  the stops in the order in which they are met. `effort` 1 is the usual; more searches longer. Equal input gives equal output.
 *  Source: iterated local search with Or-opt (Or, 1976), 2-opt with both directions weighed (Croes, 1958; Kanellakis and Papadimitriou,
 *          1980, for asymmetric tables), and the double bridge as its kick (Martin, Otto and Felten, 1991), which keeps every direction of
 *          walking. After a kick only stops whose neighbours changed are looked at (don't-look bits: Bentley, 1992): a kick changes four
 *          of sixty steps, and what it did not touch was searched before. */
export function nearOrder(table: Table, effort: number): number[] {
  const { n } = table;
  const given = Array.from({ length: n }, (_, i) => i);
  const search = new LocalSearch(table);
  let best = given;
  let shortest = Infinity;
  for (const start of [given, given.toReversed(), nearestNext(table)]) {
    const length = search.begin(start);
    if (length >= shortest && shortest < Infinity) continue;
    best = search.order();
    shortest = length;
  }
  search.begin(best);
  search.keep();
  const random = seeded(n);
  for (let kick = Math.ceil(KICKS * effort); kick > 0; kick -= 1) {
    const length = search.kick(random);
    if (length > shortest) {
      search.giveUp();
      continue;
    }
    shortest = length;
    search.keep();
  }
  return search.order();
}

function nearestNext({ n, size, d }: Table): number[] {
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

/** One way that is shortened in place. `path` holds the beginning and the end as well, at 0 and n + 1. */
class LocalSearch {
  private readonly table: Table;
  private readonly end: number;
  private readonly path: Int32Array;
  private readonly kept: Int32Array;
  private readonly spare: Int32Array;
  private readonly at: Int32Array;
  // Sums along the path both ways: what a piece costs when it is walked the other way round, without walking it.
  private readonly forth: Float64Array;
  private readonly against: Float64Array;
  private readonly queue: number[] = [];
  private readonly isQueued: Uint8Array;

  constructor(table: Table) {
    this.table = table;
    this.end = table.n + 1;
    const many = table.n + 2;
    [this.path, this.kept, this.spare, this.at] = [new Int32Array(many), new Int32Array(many), new Int32Array(many), new Int32Array(many)];
    [this.forth, this.against] = [new Float64Array(many), new Float64Array(many)];
    this.isQueued = new Uint8Array(many);
  }

  order(): number[] {
    return [...this.path.subarray(1, this.end)];
  }

  /** Takes an order and shortens it: how long it is then. */
  begin(order: readonly number[]): number {
    this.path[0] = this.table.n;
    this.path.set(order, 1);
    this.path[this.end] = this.table.n + 1;
    this.measure(0);
    for (let i = 0; i <= this.end; i += 1) this.look(this.path[i] as number);
    return this.improve();
  }

  keep(): void {
    this.kept.set(this.path);
  }

  /** Goes back to what was kept last. */
  giveUp(): void {
    this.path.set(this.kept);
    this.measure(0);
  }

  /** Two neighbouring pieces change places, none of them the other way round; then the way is shortened from there. */
  kick(random: Random): number {
    const { path, end } = this;
    const n = end - 1;
    const longest = Math.max(2, Math.min(LONGEST_KICK, n >> 1));
    const from = random.int(1, n - 2);
    const until = Math.min(end, from + 2 + random.int(0, longest - 1));
    const middle = from + 1 + random.int(0, until - from - 2);
    this.exchange(from, middle, until);
    for (const i of [from - 1, from, from + until - middle - 1, from + until - middle, until - 1, until]) this.look(path[i] as number);
    return this.improve();
  }

  private look(stop: number): void {
    if (this.isQueued[stop]) return;
    this.isQueued[stop] = 1;
    this.queue.push(stop);
  }

  private measure(from: number): void {
    const { path, at, forth, against, end } = this;
    const { size, d } = this.table;
    if (from === 0) at[path[0] as number] = 0;
    for (let k = Math.max(1, from); k <= end; k += 1) {
      const a = path[k - 1] as number;
      const b = path[k] as number;
      at[b] = k;
      forth[k] = (forth[k - 1] as number) + (d[a * size + b] as number);
      against[k] = (against[k - 1] as number) + (d[b * size + a] as number);
    }
  }

  private exchange(from: number, middle: number, until: number): void {
    this.spare.set(this.path.subarray(from, middle));
    this.path.copyWithin(from, middle, until);
    this.path.set(this.spare.subarray(0, middle - from), from + until - middle);
    this.measure(from);
  }

  private turn(from: number, until: number): void {
    this.path.subarray(from, until).reverse();
    this.measure(from);
  }

  private improve(): number {
    for (let head = 0; head < this.queue.length; head += 1) {
      const stop = this.queue[head] as number;
      this.isQueued[stop] = 0;
      while (this.carry(stop) || this.turnAt(stop));
    }
    this.queue.length = 0;
    return this.forth[this.end] as number;
  }

  /** Carries stops that follow each other, this one their first or last, to where that is best, forward or turned round. */
  private carry(stop: number): boolean {
    const { path, forth, against, end } = this;
    const { size, d } = this.table;
    const here = this.at[stop] as number;
    if (here === 0 || here === end) return false;
    let [best, from, until, to, isTurned] = [SHORTER, 0, 0, -1, false];
    for (let side = 0; side < 2; side += 1)
      for (let many = 1 + side; many <= LONGEST_SEGMENT; many += 1) {
        const i = side === 0 ? here : here - many + 1;
        const j = i + many;
        if (i < 1 || j > end) break;
        const [before, first, last, after] = [path[i - 1], path[i], path[j - 1], path[j]] as [number, number, number, number];
        const [firstRow, lastRow] = [first * size, last * size];
        const gone = (d[before * size + first] as number) + (d[lastRow + after] as number) - (d[before * size + after] as number);
        if (gone <= best) continue;
        const turn = (against[j - 1] as number) - (against[i] as number) - (forth[j - 1] as number) + (forth[i] as number);
        for (let k = 0; k < end; k += 1) {
          if (k === i - 1) k = j;
          if (k >= end) break;
          const a = (path[k] as number) * size;
          const b = path[k + 1] as number;
          const base = gone + (d[a + b] as number);
          if (base <= best) continue;
          const forward = base - (d[a + first] as number) - (d[lastRow + b] as number);
          const backward = base - (d[a + last] as number) - (d[firstRow + b] as number) - turn;
          if (forward > best) [best, from, until, to, isTurned] = [forward, i, j, k, false];
          if (backward > best) [best, from, until, to, isTurned] = [backward, i, j, k, true];
        }
      }
    if (to < 0) return false;
    for (const i of [from - 1, from, until - 1, until, to, to + 1]) this.look(path[i] as number);
    if (isTurned) path.subarray(from, until).reverse();
    if (to < from) this.exchange(to + 1, from, until);
    else this.exchange(from, until, to + 1);
    return true;
  }

  /** Walks a piece that begins or ends beside this stop the other way round. */
  private turnAt(stop: number): boolean {
    const { path, end } = this;
    const here = this.at[stop] as number;
    let best = SHORTER;
    let from = -1;
    let until = -1;
    for (let i = Math.max(1, here); i <= here + 1; i += 1)
      for (let j = i + 1; j < end; j += 1) {
        const gain = this.gainOfTurn(i, j);
        if (gain > best) [best, from, until] = [gain, i, j];
      }
    for (let j = Math.min(here, end - 1); j >= here - 1; j -= 1)
      for (let i = 1; i < j; i += 1) {
        const gain = this.gainOfTurn(i, j);
        if (gain > best) [best, from, until] = [gain, i, j];
      }
    if (from < 0) return false;
    for (const i of [from - 1, from, until, until + 1]) this.look(path[i] as number);
    this.turn(from, until + 1);
    return true;
  }

  // What is saved when the piece from i to j, both in it, is walked the other way round.
  private gainOfTurn(i: number, j: number): number {
    const { path, forth, against } = this;
    const { size, d } = this.table;
    const before = path[i - 1] as number;
    const first = path[i] as number;
    const last = path[j] as number;
    const after = path[j + 1] as number;
    const was = (d[before * size + first] as number) + (d[last * size + after] as number) + (forth[j] as number) - (forth[i] as number);
    const would =
      (d[before * size + last] as number) + (d[first * size + after] as number) + (against[j] as number) - (against[i] as number);
    return was - would;
  }
}
