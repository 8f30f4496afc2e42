import { stepsFrom, type WalkGrid } from './distance.ts';
import type { Cell } from './plan.ts';

/** The cells over which one walks from each of these places to the next, by the shortest way.
 *  Shape:  the corners of the path alone, the places among them; a place to which there is no way begins a part of its own. As many parts
 *          as there are gaps, and one more; none without places.
 *  Source: the steps of a breadth-first search, walked back from where it ends. */
export function pathOver(grid: WalkGrid, places: readonly Cell[]): readonly (readonly Cell[])[] {
  const [first, ...rest] = places;
  if (!first) return [];
  const parts: Cell[][] = [[first]];
  let here = first;
  for (const next of rest) {
    const leg = legBetween(grid, here, next);
    if (leg === null) parts.push([next]);
    else parts.at(-1)?.push(...leg.slice(1));
    here = next;
  }
  return parts.map(cornersOf);
}

function legBetween(grid: WalkGrid, from: Cell, to: Cell): Cell[] | null {
  const { width } = grid.plan;
  const steps = stepsFrom(grid, from);
  const at = (c: Cell): number => c.y * width + c.x;
  if ((steps[at(to)] ?? -1) < 0) return null;
  const leg = [to];
  for (let here = to; steps[at(here)] !== 0;) {
    const before = SIDES.map(({ x, y }) => ({ x: here.x + x, y: here.y + y })).find(
      (c) =>
        c.x >= 0 &&
        c.y >= 0 &&
        c.x < width &&
        c.y < grid.plan.height &&
        steps[at(c)] === (steps[at(here)] as number) - 1 &&
        !isAgainst(grid, c, here),
    );
    if (!before) return null;
    leg.push(before);
    here = before;
  }
  return leg.reverse();
}

const SIDES: readonly Cell[] = [
  { x: 1, y: 0 },
  { x: -1, y: 0 },
  { x: 0, y: 1 },
  { x: 0, y: -1 },
];

const isAgainst = (grid: WalkGrid, from: Cell, to: Cell): boolean =>
  [from, to].some((c) => {
    const way = grid.oneWay.get(c.y * grid.plan.width + c.x);
    return way !== undefined && way.x === from.x - to.x && way.y === from.y - to.y;
  });

function cornersOf(path: readonly Cell[]): Cell[] {
  return path.filter((c, i) => {
    const [before, after] = [path[i - 1], path[i + 1]];
    if (!before || !after) return true;
    // Where one turns, or turns back.
    return before.x + after.x !== 2 * c.x || before.y + after.y !== 2 * c.y;
  });
}
