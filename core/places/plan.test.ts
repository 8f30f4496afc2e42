import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { bayCell, checkPlan, generatePlan, indexStops, laneCell, refreshPlan, walkGrid, walkingDistances, zoneAreas } from './index.ts';
import type { Box, Cell, FloorPlan, PlanAisle, PlanBin } from './index.ts';

const warehouse = (aisles: number, bays: number, levels = 2): PlanBin[] =>
  Array.from({ length: aisles * bays * levels }, (_, i) => ({
    zone: 1 + (Math.floor(i / (bays * levels)) % 2),

    address: [
      String.fromCharCode(65 + Math.floor(i / (bays * levels))),
      String(1 + (Math.floor(i / levels) % bays)).padStart(2, '0'),
      1 + (i % levels),
    ].join('-'),
  }));

/** The plainest search there is, written without a look at the other: one cell at a time, from a list, on rules spelled out. */
function plainSteps(plan: FloorPlan, from: Cell, to: Cell): number {
  const key = (c: Cell): string => `${c.x},${c.y}`;
  const racks = new Set(plan.aisles.flatMap((a) => a.bays.map((_, i) => key(bayCell(a, i)))));
  for (const t of plan.things)
    if (t.kind !== 'door') for (let x = 0; x < t.w; x += 1) for (let y = 0; y < t.h; y += 1) racks.add(key({ x: t.x + x, y: t.y + y }));
  const lanes = new Map<string, PlanAisle>();
  for (const a of plan.aisles) a.bays.forEach((_, i) => lanes.set(key(laneCell(a, i)), a));
  const allowed = (a: PlanAisle | undefined, dx: number, dy: number): boolean => {
    if (!a || a.way === 'both') return true;
    const along = a.along === 'y' ? dy : dx;
    return a.way === 'up' ? along >= 0 : along <= 0;
  };
  let edge: Cell[] = [from];
  const seen = new Set([key(from)]);
  for (let n = 0; edge.length > 0; n += 1) {
    if (edge.some((c) => c.x === to.x && c.y === to.y)) return n;
    const next: Cell[] = [];
    for (const c of edge)
      for (const [dx, dy] of [
        [1, 0],
        [0, 1],
        [-1, 0],
        [0, -1],
      ] as const) {
        const cell = { x: c.x + dx, y: c.y + dy };
        const inside = cell.x >= 0 && cell.y >= 0 && cell.x < plan.width && cell.y < plan.height;
        if (!inside || racks.has(key(cell)) || seen.has(key(cell))) continue;
        if (!allowed(lanes.get(key(c)), dx, dy) || !allowed(lanes.get(key(cell)), dx, dy)) continue;
        seen.add(key(cell));
        next.push(cell);
      }
    edge = next;
  }
  return Infinity;
}

const anyPlan = fc
  .record({
    aisles: fc.integer({ min: 1, max: 6 }),
    bays: fc.integer({ min: 1, max: 9 }),
    ways: fc.array(fc.constantFrom('both' as const, 'up' as const, 'down' as const), { minLength: 6, maxLength: 6 }),
    walls: fc.array(fc.record({ x: fc.nat(15), y: fc.nat(14), w: fc.integer({ min: 1, max: 4 }), h: fc.constant(1) }), { maxLength: 3 }),
  })
  .map(({ aisles, bays, ways, walls }): FloorPlan => {
    const plan = generatePlan(warehouse(aisles, bays));
    const lanes = plan.aisles.flatMap((a) => a.bays.map((_, i) => laneCell(a, i)));
    const free = walls.filter((w) => !lanes.some((c) => c.x >= w.x && c.x < w.x + w.w && c.y === w.y));
    return {
      ...plan,
      aisles: plan.aisles.map((a, i) => ({ ...a, way: ways[i] ?? 'both' })),
      things: [...plan.things, ...free.map((w, i) => ({ ...w, kind: 'wall' as const, name: `wall ${i}` }))],
    };
  });
const stopsOf = (plan: FloorPlan): Cell[] => plan.aisles.flatMap((a) => [laneCell(a, 0), laneCell(a, a.bays.length - 1)]).slice(0, 8);

describe('A10 the plan', () => {
  it('is drawn from the addresses alone, without anything standing on anything', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 26 }), fc.integer({ min: 1, max: 30 }), (aisles, bays) => {
        const bins = warehouse(aisles, bays);
        const plan = generatePlan(bins);
        expect(checkPlan(plan)).toBeNull();
        expect(bins.every((b) => indexStops(plan)(b) !== null)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
  it('folds the levels: all shelves of a bay are reached from one cell', () => {
    const plan = generatePlan(warehouse(2, 6, 5));
    expect(indexStops(plan)({ zone: 1, address: 'A-03-1' })).toEqual(indexStops(plan)({ zone: 1, address: 'A-03-5' }));
    expect(indexStops(plan)({ zone: 1, address: 'Z-03-1' })).toBeNull();
  });
  it('keeps what was placed when bins are added, and gives the new aisles a free place', () => {
    const drawn = generatePlan(warehouse(2, 6));
    const first = drawn.aisles[0] as PlanAisle;
    const moved: FloorPlan = { ...drawn, width: 40, aisles: drawn.aisles.map((a) => (a === first ? { ...a, x: 25 } : a)) };
    const grown = refreshPlan(moved, [...warehouse(4, 6), { zone: 1, address: 'A-07-1' }]);
    expect(grown.aisles.find((a) => a.key === first.key)).toMatchObject({ x: 25, bays: ['01', '02', '03', '04', '05', '06', '07'] });
    expect(grown.aisles).toHaveLength(4);
    expect(checkPlan(grown)).toBeNull();
  });
  it('new bays never grow into what stands behind, however the floor was arranged', () => {
    const change = fc.record({
      dx: fc.nat(8),
      dy: fc.nat(8),
      along: fc.constantFrom('x' as const, 'y' as const),
      sides: fc.constantFrom(1 as const, 2 as const),
    });
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 26 }),
        fc.integer({ min: 1, max: 8 }),
        fc.array(change, { minLength: 26, maxLength: 26 }),
        fc.array(fc.record({ aisle: fc.nat(25), bays: fc.integer({ min: 1, max: 12 }) }), { minLength: 1, maxLength: 4 }),
        fc.array(fc.constantFrom('ARRIVALS', 'BENCH-1', 'P1', 'P2', 'QUARANTINE'), { maxLength: 5 }),
        (aisles, bays, changes, growths, singles) => {
          const before = [...warehouse(aisles, bays), ...[...new Set(singles)].map((address) => ({ zone: 9, address }))];
          const drawn = generatePlan(before);
          // Things are moved about one by one; a change that would put something on something is not made.
          const arranged = drawn.aisles.reduce((plan, a, i) => {
            const c = changes[i % changes.length] as { dx: number; dy: number; along: 'x' | 'y'; sides: 1 | 2 };
            const next = { ...a, x: a.x + c.dx, y: a.y + c.dy, along: c.along, sides: c.sides };
            const tried = { ...plan, width: 120, height: 160, aisles: plan.aisles.map((o) => (o.key === a.key ? next : o)) };
            return checkPlan(tried) === null ? tried : plan;
          }, drawn);
          const more = growths.flatMap((g) =>
            Array.from({ length: g.bays }, (_, n) => ({
              zone: 1 + (g.aisle % 2),

              address: `${String.fromCharCode(65 + g.aisle)}-${String(bays + 1 + n).padStart(2, '0')}-1`,
            })),
          );
          const after = [...before, ...more, { zone: 9, address: 'NEW' }];
          const grown = refreshPlan(arranged, after);
          expect(checkPlan(grown)).toBeNull();
          const stop = indexStops(grown);
          expect(after.filter((b) => stop(b) === null)).toEqual([]);
        },
      ),
      { numRuns: 150 },
    );
  });
  it('single bins stand by themselves: ARRIVALS is no aisle, and 20,000 of them fit on a floor', () => {
    const plan = generatePlan([...warehouse(2, 6), { zone: 3, address: 'ARRIVALS' }]);
    expect(plan.aisles.map((a) => a.name)).not.toContain('ARRIVALS');
    expect(plan.spots).toMatchObject([{ zone: 3, address: 'ARRIVALS' }]);
    const many = generatePlan(Array.from({ length: 20_000 }, (_, i) => ({ zone: 1, address: `P${i}` })));
    expect(checkPlan(many)).toBeNull();
    const aisles = generatePlan(Array.from({ length: 20_000 }, (_, i) => ({ zone: 1, address: `R${Math.floor(i / 10)}-${i % 10}` })));
    expect(checkPlan(aisles)).toBeNull();
  });
  it('a plan that was saved with single bins as aisles keeps them where they stand', () => {
    const old = { ...generatePlan(warehouse(1, 4)), spots: undefined } as unknown as FloorPlan;
    const aisle: PlanAisle = { key: '9/DOCK1', zone: 9, name: 'DOCK1', x: 14, y: 9, along: 'y', sides: 1, way: 'both', bays: ['DOCK1'] };
    const bins = [...warehouse(1, 4), { zone: 9, address: 'DOCK1' }];
    expect(refreshPlan({ ...old, aisles: [...old.aisles, aisle] }, bins).spots).toEqual([{ zone: 9, address: 'DOCK1', x: 14, y: 9 }]);
  });
  it('asked for 20,000 stops, it reads the plan once', () => {
    const bins = Array.from({ length: 20_000 }, (_, i) => ({ zone: 1, address: `R${Math.floor(i / 10)}-${i % 10}` }));
    const plan = generatePlan(bins);
    let read = 0;
    const watched = {
      ...plan,
      get aisles() {
        read += 1;
        return plan.aisles;
      },
    };
    const stop = indexStops(watched);
    expect(bins.every((b) => stop(b) !== null)).toBe(true);
    expect(read).toBe(1);
  });
  it('says what would stand on what', () => {
    const plan = generatePlan(warehouse(2, 6));
    const [a, b] = plan.aisles as [PlanAisle, PlanAisle];
    expect(checkPlan({ ...plan, aisles: [a, { ...b, x: a.x }] })).toMatchObject({ code: 'places.planOverlap' });
    expect(checkPlan({ ...plan, aisles: [{ ...a, y: plan.height - 1 }, b] })).toMatchObject({ code: 'places.planOutside' });
  });
});

const rack = (zone: number, aisles: readonly string[], bays: number): PlanBin[] =>
  aisles.flatMap((a) =>
    Array.from({ length: bays }, (_, b) => ({ zone, address: `${a}-${String(b + 1).padStart(2, '0')}-1`, use: 'shelf' })),
  );
const letters = (from: number, n: number): string[] =>
  Array.from({ length: n }, (_, i) => `${from + i < 26 ? '' : 'A'}${String.fromCharCode(65 + ((from + i) % 26))}`);
const front = (zone: number): PlanBin[] => [
  { zone, address: 'ARRIVALS', use: 'arrivals' },
  { zone: zone + 1, address: 'BENCH-1', use: 'packing' },
  { zone: zone + 1, address: 'BENCH-2', use: 'packing' },
];
const BUILDINGS: Readonly<Record<string, PlanBin[]>> = {
  'one row': rack(1, ['A'], 12),
  '40 aisles in two blocks': [...rack(1, letters(0, 20), 24), ...rack(2, letters(20, 20), 24), ...front(3)],
  'one long wall': [...rack(1, ['WALL'], 60), ...front(2)],
  'a mezzanine': [...rack(1, letters(0, 6), 16), ...rack(2, ['M1', 'M2', 'M3'], 10), ...front(3)],
  'a shop': ['COUNTER', 'WINDOW', 'SHELF1', 'SHELF2', 'BACK'].map((address, i) => ({ zone: 1 + (i % 2), address, use: 'shelf' })),
};

describe('A10 a drawn plan reads like a floor', () => {
  const touches = (a: Box, b: Box): boolean => a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;
  // A zone and the row of cells above it, in which its name stands.
  const named = ({ box }: { box: Box }): Box => ({ x: box.x, y: box.y - 1, w: box.w, h: box.h + 1 });
  it.each(Object.entries(BUILDINGS))(
    '%s: zones stand apart with room for their names, and the building is no larger than they',
    (_, bins) => {
      const plan = generatePlan(bins);
      expect(checkPlan(plan)).toBeNull();
      const areas = zoneAreas(plan).map(named);
      areas.forEach((a, i) => {
        expect(areas.slice(i + 1).filter((b) => touches(a, b))).toEqual([]);
        expect(plan.things.filter((t) => touches(a, t))).toEqual([]);
      });
      expect(zoneAreas(plan)).toHaveLength(new Set(bins.map((b) => b.zone)).size);
      expect(plan.height - Math.max(...areas.map((a) => a.y + a.h))).toBeLessThanOrEqual(2);
      expect(plan.width).toBeLessThanOrEqual(Math.max(12, ...areas.map((a) => a.x + a.w + 3)));
    },
  );
  it('an aisle alone is a row of racks along the building; of many, racks stand back to back with a lane between', () => {
    const row = generatePlan(BUILDINGS['one row'] ?? []);
    expect(row.aisles).toMatchObject([{ along: 'x', sides: 1 }]);
    const [a, b] = generatePlan(BUILDINGS['40 aisles in two blocks'] ?? []).aisles as [PlanAisle, PlanAisle];
    expect(bayCell(a, 0).x + 1).toBe(bayCell(b, 1).x);
    expect(b.x - a.x).toBe(3);
  });
  it('arrivals stand at the dock and packing at the bench, and neither is an aisle', () => {
    const plan = generatePlan(BUILDINGS['a mezzanine'] ?? []);
    const spot = new Map(plan.spots.map((s) => [s.address, s]));
    const [door, bench] = plan.things;
    expect(spot.get('ARRIVALS')?.x).toBe(door?.x);
    expect((spot.get('BENCH-2')?.x ?? 0) >= (bench?.x ?? 0) - 4).toBe(true);
    // Once it stands as a rack, because somebody arranged it so or it was saved so, it stays one; a third bench joins it.
    const saved: FloorPlan = {
      ...plan,
      spots: plan.spots.filter((s) => s.zone !== 4),
      aisles: [
        ...plan.aisles,
        { key: '4/BENCH', zone: 4, name: 'BENCH', x: 12, y: 2, along: 'y', sides: 1, way: 'both', bays: ['1', '2'] },
      ],
    };
    const grown = refreshPlan(saved, [...(BUILDINGS['a mezzanine'] ?? []), { zone: 4, address: 'BENCH-3', use: 'packing' }]);
    expect(grown.aisles.find((a) => a.key === '4/BENCH')?.bays).toEqual(['1', '2', '3']);
    expect(grown.spots.map((s) => s.address)).toEqual(['ARRIVALS']);
  });
  it('outlines a zone that stands at two places twice', () => {
    const plan = generatePlan(rack(1, ['A', 'B'], 8));
    const [a, b] = plan.aisles as [PlanAisle, PlanAisle];
    expect(zoneAreas({ ...plan, aisles: [a, { ...b, x: b.x + 9 }] })).toHaveLength(2);
  });
});

describe('A10 walking distances', () => {
  it('equal those of a plain search, also one way and round walls', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const stops = stopsOf(plan);
        const metres = walkingDistances(walkGrid(plan), stops);
        stops.forEach((from, i) => stops.forEach((to, j) => expect(metres[i]?.[j]).toBe(plainSteps(plan, from, to) * plan.cell)));
      }),
      { numRuns: 60 },
    );
  });
  it('are the same there and back where aisles are two-way', () => {
    fc.assert(
      fc.property(anyPlan, (drawn) => {
        const plan = { ...drawn, aisles: drawn.aisles.map((a) => ({ ...a, way: 'both' as const })) };
        const metres = walkingDistances(walkGrid(plan), stopsOf(plan));
        metres.forEach((row, i) => row.forEach((d, j) => expect(d).toBe(metres[j]?.[i])));
      }),
      { numRuns: 40 },
    );
  });
  it('are never longer by way of a third place', () => {
    fc.assert(
      fc.property(anyPlan, (plan) => {
        const d = walkingDistances(walkGrid(plan), stopsOf(plan));
        for (const row of d)
          for (const [j, direct] of row.entries())
            for (const k of d.keys()) expect(direct).toBeLessThanOrEqual((row[k] ?? 0) + (d[k]?.[j] ?? 0));
        expect(d.every((row, i) => row[i] === 0)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
});
