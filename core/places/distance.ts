import { bayCell, indexPlaces, laneCell, laneLength, type Cell, type FloorPlan } from './plan.ts';

/** A plan made ready for walking: which cells are blocked, and which may only be walked one way. */
export type WalkGrid = { readonly plan: FloorPlan; readonly blocked: Uint8Array; readonly oneWay: ReadonlyMap<number, Cell> };

const NOT_REACHED = -1;

/** Prepares a plan for measuring. Racks, walls and the bench are blocked; a one-way lane lets nobody step against it. */
export function walkGrid(plan: FloorPlan): WalkGrid {
  const blocked = new Uint8Array(plan.width * plan.height);
  const oneWay = new Map<number, Cell>();
  const inside = (c: Cell): boolean => c.x >= 0 && c.y >= 0 && c.x < plan.width && c.y < plan.height;
  const at = (c: Cell): number => c.y * plan.width + c.x;
  for (const aisle of plan.aisles) {
    for (let bay = 0; bay < aisle.bays.length; bay += 1) {
      const cell = bayCell(aisle, bay);
      if (inside(cell)) blocked[at(cell)] = 1;
    }
    if (aisle.way === 'both') continue;
    const step = aisle.way === 'up' ? 1 : -1;
    for (let i = 0; i < laneLength(aisle); i += 1)
      oneWay.set(at(laneCell(aisle, i * aisle.sides)), aisle.along === 'y' ? { x: 0, y: step } : { x: step, y: 0 });
  }
  for (const thing of plan.things) {
    if (thing.kind === 'door') continue;
    for (let y = thing.y; y < thing.y + thing.h; y += 1)
      for (let x = thing.x; x < thing.x + thing.w; x += 1) if (inside({ x, y })) blocked[at({ x, y })] = 1;
  }
  return { plan, blocked, oneWay };
}

const STEPS: readonly Cell[] = [
  { x: 1, y: 0 },
  { x: -1, y: 0 },
  { x: 0, y: 1 },
  { x: 0, y: -1 },
];

/** Steps from one cell to every other, through aisles and cross-aisles; -1 where nobody can get. Moves are between neighbouring cells.
 *  A cell that is itself blocked can be stood at from its neighbours but not walked through; stops are lane cells, which are free.
 *  Source: breadth-first search (E. F. Moore, “The shortest path through a maze”, 1959). */
export function stepsFrom(grid: WalkGrid, from: Cell): Int32Array {
  const { width, height } = grid.plan;
  const steps = new Int32Array(width * height).fill(NOT_REACHED);
  const queue = new Int32Array(width * height);
  let [head, tail] = [0, 0];
  const start = from.y * width + from.x;
  steps[start] = 0;
  queue[tail++] = start;
  const { blocked, oneWay } = grid;
  const isOneWay = oneWay.size > 0;
  while (head < tail) {
    const here = queue[head++] as number;
    const x = here % width;
    const on = (steps[here] as number) + 1;
    const way = isOneWay ? oneWay.get(here) : undefined;
    for (let side = 0; side < 4; side += 1) {
      const next = here + (side === 0 ? 1 : side === 1 ? -1 : side === 2 ? width : -width);
      if ((side === 0 && x === width - 1) || (side === 1 && x === 0) || next < 0 || next >= steps.length) continue;
      if (steps[next] !== NOT_REACHED || blocked[next] === 1) continue;
      if (isOneWay) {
        // Leaving a one-way cell backwards, or entering one from its far end, is against the way.
        const step = STEPS[side] as Cell;
        if (isAgainst(way, step) || isAgainst(oneWay.get(next), step)) continue;
      }
      steps[next] = on;
      queue[tail++] = next;
    }
  }
  return steps;
}

const isAgainst = (way: Cell | undefined, step: Cell): boolean => way !== undefined && way.x === -step.x && way.y === -step.y;

/** A plan made ready for walking, with where one stands to reach each of its bins. */
export type WalkedFloor = { readonly grid: WalkGrid; readonly placeOf: ReturnType<typeof indexStops> };
/** Makes a plan ready: what is asked of it afterwards costs the same, however large it is. */
export const walkedFloor = (plan: FloorPlan): WalkedFloor => ({ grid: walkGrid(plan), placeOf: indexStops(plan) });

/** Metres from each stop to each other, by the shortest way; Infinity where there is none.
 *  Shape:  n cells in, n rows of n out; row i is from stop i. Symmetric where no aisle is one way.
 *  Units:  metres. */
export function walkingDistances(grid: WalkGrid, stops: readonly Cell[]): number[][] {
  const at = (c: Cell): number => c.y * grid.plan.width + c.x;
  // Bins above each other are reached from one cell.
  const walked = new Map<number, number[]>();
  return stops.map((from) => {
    const before = walked.get(at(from));
    if (before) return before;
    const steps = stepsFrom(grid, from);
    const row = stops.map((to) => {
      const n = steps[at(to)] ?? NOT_REACHED;
      return n === NOT_REACHED ? Infinity : n * grid.plan.cell;
    });
    walked.set(at(from), row);
    return row;
  });
}

/** Where one stands to reach each bin of a plan; null where the plan does not know the bin.
 *  Shape:  the plan is read once; every question after that costs the same, however many aisles there are. */
export const indexStops = (plan: FloorPlan): ((bin: { zone: number; address: string }) => Cell | null) =>
  indexPlaces<Cell>(plan, { spot: ({ x, y }) => ({ x, y }), bay: laneCell });
