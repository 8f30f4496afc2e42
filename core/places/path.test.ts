import { describe, expect, it } from '@jest/globals';
import { seeded } from '#core/base';
import { laneLength, pathOver, walkGrid, walkingDistances, type Cell, type FloorPlan, type PlanAisle } from './index.ts';

function floorOf(seed: number): FloorPlan {
  const random = seeded(seed);
  const aisles = Array.from({ length: random.int(2, 5) }, (_, n): PlanAisle => ({
    ...{ key: `1/${n}`, zone: 1, name: String(n), x: 2 + n * 3, y: 2, along: 'y', sides: 2 },
    way: random.pick(['both', 'up', 'down'] as const),
    bays: Array.from({ length: random.int(4, 20) }, (_unused, i) => String(i)),
  }));
  return { cell: 1, width: 3 + aisles.length * 3, height: 4 + Math.max(...aisles.map(laneLength)), aisles, spots: [], things: [] };
}

describe('the path of a round (G2)', () => {
  it('law: as long as it is far, straight between its corners, over free cells, and through every place (200 floors)', () => {
    for (let seed = 1; seed <= 200; seed += 1) {
      const plan = floorOf(seed);
      const grid = walkGrid(plan);
      const random = seeded(seed + 500);
      const places = Array.from({ length: 5 }, (): Cell => {
        const aisle = random.pick(plan.aisles) as PlanAisle;
        return { x: aisle.x, y: aisle.y + random.int(0, laneLength(aisle) - 1) };
      });
      const metres = walkingDistances(grid, places);
      const far = places.slice(1).map((_, i) => metres[i]?.[i + 1] ?? Infinity);
      const parts = pathOver(grid, places);
      expect(parts).toHaveLength(1 + far.filter((f) => f === Infinity).length);
      let length = 0;
      for (const part of parts)
        for (const [i, to] of part.slice(1).entries()) {
          const from = part[i] as Cell;
          expect(from.x === to.x || from.y === to.y).toBe(true);
          length += Math.abs(from.x - to.x) + Math.abs(from.y - to.y);
          for (let x = Math.min(from.x, to.x); x <= Math.max(from.x, to.x); x += 1)
            for (let y = Math.min(from.y, to.y); y <= Math.max(from.y, to.y); y += 1) expect(grid.blocked[y * plan.width + x]).toBe(0);
        }
      expect(length).toBe(far.filter(Number.isFinite).reduce((a, b) => a + b, 0));
    }
  });
  it('of no place is no path; of one it is that place', () => {
    const grid = walkGrid(floorOf(1));
    expect(pathOver(grid, [])).toEqual([]);
    expect(pathOver(grid, [{ x: 2, y: 2 }])).toEqual([[{ x: 2, y: 2 }]]);
  });
});
