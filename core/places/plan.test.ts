import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { bayCell, checkPlan, generatePlan, laneCell, refreshPlan, stopOf, walkGrid, walkingDistances } from './index.ts';
import type { Cell, FloorPlan, PlanAisle, PlanBin } from './index.ts';

const warehouse = (aisles: number, bays: number, levels = 2): PlanBin[] =>
  Array.from({ length: aisles * bays * levels }, (_, i) => ({
    zone: 1 + (Math.floor(i / (bays * levels)) % 2),
    zoneCode: 'S',
    address: `${String.fromCharCode(65 + Math.floor(i / (bays * levels)))}-${String(1 + (Math.floor(i / levels) % bays)).padStart(2, '0')}-${1 + (i % levels)}`,
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
        expect(bins.every((b) => stopOf(plan, b) !== null)).toBe(true);
      }),
      { numRuns: 40 },
    );
  });
  it('folds the levels: all shelves of a bay are reached from one cell', () => {
    const plan = generatePlan(warehouse(2, 6, 5));
    expect(stopOf(plan, { zone: 1, address: 'A-03-1' })).toEqual(stopOf(plan, { zone: 1, address: 'A-03-5' }));
    expect(stopOf(plan, { zone: 1, address: 'Z-03-1' })).toBeNull();
  });
  it('keeps what was placed when bins are added, and gives the new aisles a free place', () => {
    const drawn = generatePlan(warehouse(2, 6));
    const first = drawn.aisles[0] as PlanAisle;
    const moved: FloorPlan = { ...drawn, width: 40, aisles: drawn.aisles.map((a) => (a === first ? { ...a, x: 25 } : a)) };
    const grown = refreshPlan(moved, [...warehouse(4, 6), { zone: 1, zoneCode: 'S', address: 'A-07-1' }]);
    expect(grown.aisles.find((a) => a.key === first.key)).toMatchObject({ x: 25, bays: ['01', '02', '03', '04', '05', '06', '07'] });
    expect(grown.aisles).toHaveLength(4);
    expect(checkPlan(grown)).toBeNull();
  });
  it('says what would stand on what', () => {
    const plan = generatePlan(warehouse(2, 6));
    const [a, b] = plan.aisles as [PlanAisle, PlanAisle];
    expect(checkPlan({ ...plan, aisles: [a, { ...b, x: a.x }] })).toMatchObject({ code: 'places.planOverlap' });
    expect(checkPlan({ ...plan, aisles: [{ ...a, y: plan.height - 1 }, b] })).toMatchObject({ code: 'places.planOutside' });
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
