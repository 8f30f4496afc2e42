import { describe, expect, it } from '@jest/globals';
import { seeded } from '#core/base';
import { laneLength, measureBetween, walkGrid, walkingDistances, type Cell, type FloorPlan, type PlanAisle } from './index.ts';

/** A floor with aisles of one side and two, along and across, one-way or not, with walls here and there. */
function floorOf(seed: number): FloorPlan {
  const random = seeded(seed);
  const along = random.pick(['x', 'y'] as const);
  const sides = random.pick([1, 2] as const);
  const gap = random.int(sides + 1, 4);
  const aisles = Array.from({ length: random.int(1, 5) }, (_, n): PlanAisle => {
    const at = 2 + n * gap;
    return {
      key: `1/${n}`,
      zone: 1,
      name: String(n),
      x: along === 'y' ? at : 2,
      y: along === 'y' ? 2 : at,
      along,
      sides,
      way: random.pick(['both', 'both', 'up', 'down'] as const),
      bays: Array.from({ length: random.int(1, 16) }, (_unused, i) => String(i)),
    };
  });
  const size = 2 + aisles.length * gap + 2;
  const long = 2 + Math.max(...aisles.map(laneLength)) + 2;
  const [width, height] = along === 'y' ? [size, long] : [long, size];
  const walls = Array.from({ length: random.int(0, 3) }, () => ({
    kind: 'wall' as const,
    name: '',
    x: random.int(0, width - 1),
    y: random.int(0, height - 1),
    w: 1,
    h: 1,
  }));
  return { cell: random.pick([1, 1.2]), width, height, aisles, spots: [], things: walls };
}

describe('measuring between many stops (G2)', () => {
  it('law: as far as a walk over the whole floor says, whatever stands on it (300 floors, every cell)', () => {
    for (let seed = 1; seed <= 300; seed += 1) {
      const plan = floorOf(seed);
      const grid = walkGrid(plan);
      const random = seeded(seed + 1000);
      const cells = Array.from({ length: 14 }, (): Cell => ({ x: random.int(0, plan.width - 1), y: random.int(0, plan.height - 1) }));
      const lanes = plan.aisles.flatMap((a) =>
        [0, laneLength(a) - 1].map((i) => (a.along === 'y' ? { x: a.x, y: a.y + i } : { x: a.x + i, y: a.y })),
      );
      const stops = [...cells, ...lanes];
      const wanted = walkingDistances(grid, stops);
      const metres = measureBetween(grid, stops);
      const wrong = wanted.flatMap((row, a) =>
        row.flatMap((far, b) => {
          const said = metres(a, b);
          return Object.is(said, far) || Math.abs(said - far) < 1e-6 ? [] : [{ seed, a, b, far, said }];
        }),
      );
      expect(wrong).toEqual([]);
    }
  });
});
