import { stepsFrom, type WalkGrid } from './distance.ts';
import type { Cell } from './plan.ts';

/** Metres from one stop to another by their numbers; Infinity where there is no way. */
export type Metres = (from: number, to: number) => number;

type Corridor = {
  /** From gate to gate. */
  readonly cells: readonly number[];
  /** How many steps up to each cell are against the way, there and back. */
  readonly againstUp: readonly number[];
  readonly againstDown: readonly number[];
  readonly gates: readonly { readonly gate: number; readonly at: number }[];
};

/** Measures between very many stops without a table of all of them.
 *  Shape:  n cells in; a question by two of their numbers answers what `walkingDistances` would say of them.
 *  Units:  metres. The floor is walked once from each end of a corridor in which somebody stops, not once from each stop: whoever leaves a
 *          corridor, a run of cells with one way on and one way back, leaves it at one of its ends.
 *  Source: contraction of vertices of degree two, as in any road network that is made ready for shortest paths. */
export function measureBetween(grid: WalkGrid, stops: readonly Cell[]): Metres {
  const { plan } = grid;
  const neighboursOf = neighbours(grid);
  const against = againstOf(grid);
  const corridors: Corridor[] = [];
  const placeOf = new Map<number, { corridor: number; at: number }>();
  const gates: number[] = [];
  const gateAt = new Map<number, number>();
  const gateOf = (cell: number): number => {
    const known = gateAt.get(cell);
    if (known !== undefined) return known;
    gateAt.set(cell, gates.length);
    return gates.push(cell) - 1;
  };
  for (const stop of stops) {
    const cell = stop.y * plan.width + stop.x;
    if (placeOf.has(cell)) continue;
    const cells = grid.blocked[cell] === 1 ? [cell] : corridorThrough(cell, neighboursOf);
    const up = cells.map((c, i) => (i === 0 ? 0 : against(cells[i - 1] as number, c) ? 1 : 0));
    const down = cells.map((c, i) => (i === 0 ? 0 : against(c, cells[i - 1] as number) ? 1 : 0));
    const ends = cells.length === 1 ? [0] : [0, cells.length - 1];
    const corridor = corridors.push({
      cells,
      againstUp: summed(up),
      againstDown: summed(down),
      gates: ends.map((at) => ({ gate: gateOf(cells[at] as number), at })),
    });
    // An end belongs to whichever corridor names it last: it is the same place.
    for (const [at, c] of cells.entries()) if (!placeOf.has(c) || c === cell) placeOf.set(c, { corridor: corridor - 1, at });
  }
  const between = new Int32Array(gates.length * gates.length);
  for (const [i, from] of gates.entries()) {
    const steps = stepsFrom(grid, { x: from % plan.width, y: Math.floor(from / plan.width) });
    for (const [j, to] of gates.entries()) between[i * gates.length + j] = steps[to] as number;
  }
  // Who stands in a blocked cell, beside the middle of a corridor, is in it without having come by its ends.
  const fromBlocked = new Map<number, Int32Array>();
  for (const stop of stops) {
    const cell = stop.y * plan.width + stop.x;
    if (grid.blocked[cell] === 1 && !fromBlocked.has(cell)) fromBlocked.set(cell, stepsFrom(grid, stop));
  }
  const cellOf = stops.map((s) => s.y * plan.width + s.x);
  const places = stops.map((s) => placeOf.get(s.y * plan.width + s.x) as { corridor: number; at: number });
  // By stop, flat: in which corridor and where, its two gates, and how far it is out to each and in from each.
  const [corridorOf, atOf] = [Int32Array.from(places, (p) => p.corridor), Int32Array.from(places, (p) => p.at)];
  const gatesOf = new Int32Array(stops.length * 2);
  const [outTo, inFrom] = [new Float64Array(stops.length * 2), new Float64Array(stops.length * 2)];
  for (const [i, { corridor, at }] of places.entries()) {
    const own = corridors[corridor] as Corridor;
    for (const side of [0, 1]) {
      const { gate, at: end } = (own.gates[side] ?? own.gates[0]) as { gate: number; at: number };
      gatesOf[i * 2 + side] = gate;
      outTo[i * 2 + side] = along(own, at, end);
      inFrom[i * 2 + side] = along(own, end, at);
    }
  }
  for (const [i, steps] of between.entries()) if (steps < 0) between[i] = FAR;
  const [many, isSomeBlocked] = [gates.length, fromBlocked.size > 0];
  return (from, to) => {
    if (isSomeBlocked) {
      const row = fromBlocked.get(cellOf[from] as number);
      if (row) {
        const steps = row[cellOf[to] as number] as number;
        return steps < 0 ? Infinity : steps * plan.cell;
      }
    }
    const [a, b] = [from * 2, to * 2];
    const [rowA, rowB] = [(gatesOf[a] as number) * many, (gatesOf[a + 1] as number) * many];
    const [gateA, gateB] = [gatesOf[b] as number, gatesOf[b + 1] as number];
    const [outA, outB, inA, inB] = [outTo[a] as number, outTo[a + 1] as number, inFrom[b] as number, inFrom[b + 1] as number];
    let best =
      corridorOf[from] === corridorOf[to]
        ? along(corridors[corridorOf[from] as number] as Corridor, atOf[from] as number, atOf[to] as number)
        : Infinity;
    best = Math.min(best, outA + (between[rowA + gateA] as number) + inA, outA + (between[rowA + gateB] as number) + inB);
    best = Math.min(best, outB + (between[rowB + gateA] as number) + inA, outB + (between[rowB + gateB] as number) + inB);
    return best >= FAR ? Infinity : best * plan.cell;
  };
}

// More steps than any floor has cells.
const FAR = 1_000_000;

function along(c: Corridor, from: number, to: number): number {
  const sums = from <= to ? c.againstUp : c.againstDown;
  const isFree = (sums[Math.max(from, to)] as number) === (sums[Math.min(from, to)] as number);
  return isFree ? Math.abs(to - from) : Infinity;
}

const summed = (steps: readonly number[]): number[] => {
  let sum = 0;
  return steps.map((s) => (sum += s));
};

// The run of cells around one that all have two neighbours, with the cell at each end at which it meets something else.
function corridorThrough(cell: number, neighboursOf: (cell: number) => readonly number[]): number[] {
  const around = neighboursOf(cell);
  if (around.length !== 2) return [cell];
  const seen = new Set([cell]);
  const arm = (first: number): number[] => {
    const run: number[] = [];
    let here = first;
    while (!seen.has(here)) {
      seen.add(here);
      run.push(here);
      const on = neighboursOf(here);
      if (on.length !== 2) break;
      const next = on.find((n) => !seen.has(n));
      if (next === undefined) break;
      here = next;
    }
    return run;
  };
  const before = arm(around[0] as number);
  return [...before.reverse(), cell, ...arm(around[1] as number)];
}

function neighbours(grid: WalkGrid): (cell: number) => readonly number[] {
  const { width, height } = grid.plan;
  return (cell) => {
    const x = cell % width;
    const y = (cell - x) / width;
    return [
      ...(x > 0 ? [cell - 1] : []),
      ...(x < width - 1 ? [cell + 1] : []),
      ...(y > 0 ? [cell - width] : []),
      ...(y < height - 1 ? [cell + width] : []),
    ].filter((c) => grid.blocked[c] !== 1);
  };
}

// Whether a step is against a one-way lane, as it is left or entered.
function againstOf(grid: WalkGrid): (from: number, to: number) => boolean {
  const { width } = grid.plan;
  const isAgainst = (way: Cell | undefined, dx: number, dy: number): boolean => way !== undefined && way.x === -dx && way.y === -dy;
  return (from, to) => {
    const [dx, dy] = [(to % width) - (from % width), Math.floor(to / width) - Math.floor(from / width)];
    return isAgainst(grid.oneWay.get(from), dx, dy) || isAgainst(grid.oneWay.get(to), dx, dy);
  };
}
