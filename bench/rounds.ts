import { qty, seeded, type BinId, type ItemId, type LineId } from '#core/base';
import { chooseStock, type PickSource, type PickWant } from '#core/picking';
import { laneLength, measureBetween, walkGrid, walkingDistances, type Cell, type FloorPlan, type PlanAisle } from '#core/places';
import { firstCome, joinOrders, leastWalk, shortestWay, singly, type JoinProblem } from '#core/routing';
import type { Row } from './places-and-items.ts';

const [ORDERS, LINES, ITEMS, SLOTS] = [2000, 5, 8000, 10];
const [ROWS, AISLES, BAYS, LEVELS] = [2, 50, 100, 2];

/** A floor of 20,000 bins: two rows of fifty aisles, a hundred bays in each, two levels. */
function floor(): FloorPlan {
  const aisles: PlanAisle[] = [];
  for (let row = 0; row < ROWS; row += 1)
    for (let n = 0; n < AISLES; n += 1)
      aisles.push({
        key: `1/${row}-${n}`,
        zone: 1,
        name: `${row}-${n}`,
        x: 2 + n * 3,
        y: 2 + row * (BAYS / 2 + 4),
        along: 'y',
        sides: 2,
        way: 'both',
        bays: Array.from({ length: BAYS }, (_, i) => String(i)),
      });
  return { cell: 1.2, width: AISLES * 3 + 5, height: 2 + ROWS * (BAYS / 2 + 4), aisles, spots: [], things: [] };
}

/** Orders that are made into rounds: bins chosen over all of them, then joined; and the way of one long round. On one core, without a
 *  database: what the server and a worker reckon. */
export function roundRows(): Row[] {
  const random = seeded(1);
  const plan = floor();
  const cellOf = (bin: number): Cell => {
    const aisle = plan.aisles[Math.floor(bin / (BAYS * LEVELS))] as PlanAisle;
    return { x: aisle.x, y: aisle.y + (Math.floor(bin / (2 * LEVELS)) % laneLength(aisle)) };
  };
  const bins = plan.aisles.length * BAYS * LEVELS;
  const sources: PickSource[] = [];
  for (let item = 1; item <= ITEMS; item += 1)
    for (let n = random.int(1, 4); n > 0; n -= 1) {
      // Fast movers stand in the aisles nearest the bench, as in a house that somebody keeps.
      const bin = Math.floor(random.next() ** 2 * bins);
      const walk = bin;
      sources.push({
        ...{ bin: bin as BinId, item: item as ItemId, lot: null, serial: null, expires: null, arrived: null, walk },
        isPickFace: n === 1,
        qty: qty(random.int(5, 60) * 1000),
        packs: [qty(12_000)],
      });
    }
  const wants = Array.from({ length: ORDERS * LINES }, (_, line): PickWant => ({
    line: line as LineId,
    item: random.int(1, ITEMS) as ItemId,
    qty: qty(random.int(1, 6) * 1000),
  }));
  const begun = performance.now();
  const { picks } = chooseStock(wants, sources);
  const placeOf = new Map<number, number>();
  const cells: Cell[] = [];
  const placeAt = (cell: Cell): number => {
    const key = cell.y * plan.width + cell.x;
    if (!placeOf.has(key)) placeOf.set(key, cells.push(cell) - 1);
    return placeOf.get(key) as number;
  };
  const placesOf = new Map<number, number[]>();
  for (const p of picks) {
    const order = Math.floor(p.line / LINES);
    placesOf.set(order, [...(placesOf.get(order) ?? []), placeAt(cellOf(p.bin))]);
  }
  const orders = [...placesOf].map(([id, places]) => ({ id, places, grams: 900, millilitres: null, due: 0 }));
  const [from, to] = [placeAt({ x: 0, y: 0 }), placeAt({ x: Math.floor(plan.width / 2), y: 0 })];
  const metres = measureBetween(walkGrid(plan), cells);
  const problem: JoinProblem = { metres, from, to, orders, cart: { slots: SLOTS, grams: null, millilitres: null }, daysApart: 1 };
  let joined = firstCome({ ...problem, orders: [] });
  for (const best of joinOrders(problem)) joined = best;
  const seconds = (performance.now() - begun) / 1000;
  const lines = wants.length;
  const ways = Array.from({ length: 9 }, (_, round) => {
    const long = Array.from({ length: 60 }, (_, n) => cells[(round * 61 + n * 37) % cells.length] as Cell);
    const before = performance.now();
    const table = walkingDistances(walkGrid(plan), [...long, { x: 0, y: 0 }, { x: Math.floor(plan.width / 2), y: 0 }]);
    shortestWay(table, { from: 60, to: 61, stops: long.map((_, i) => i) });
    return performance.now() - before;
  }).sort((a, b) => a - b);
  const perLine = (far: number): number => far / lines;
  return [
    {
      name: `${ORDERS} orders of ${lines} lines over ${bins} bins made into ${joined.rounds.length} rounds`,
      value: seconds,
      unit: 's',
      aim: '<= 10 s',
    },
    { name: 'metres a line: orders joined', value: perLine(joined.metres), unit: 'm' },
    { name: 'metres a line: first come', value: perLine(firstCome(problem).metres), unit: 'm' },
    { name: 'metres a line: one by one', value: perLine(singly(problem).metres), unit: 'm' },
    { name: 'metres a line: no way is shorter', value: perLine(leastWalk(problem)), unit: 'm' },
    { name: 'the way of a round of 60 stops, floor read anew: p50 of nine', value: ways[4] as number, unit: 'ms', aim: '<= 200 ms' },
  ];
}
