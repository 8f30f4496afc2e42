import { seeded, type Random } from '#core/base';
import { laneLength, walkGrid, walkingDistances, type Cell, type FloorPlan, type PlanAisle } from '#core/places';

/** A made-up floor: rows of aisles that stand beside each other, cross-aisles between them, some lanes one-way. One can get from everywhere
 *  to everywhere: of two neighbours that are one-way, the second goes back. */
export function madeFloor(random: Random): FloorPlan {
  const [aisles, rows, bays] = [random.int(2, 11), random.int(1, 2), random.int(6, 30)];
  const oneWay = random.chance(0.5);
  const made: PlanAisle[] = [];
  for (let row = 0; row < rows; row += 1)
    for (let a = 0; a < aisles; a += 1)
      made.push({
        key: `1/${row}-${a}`,
        zone: 1,
        name: `${row}-${a}`,
        x: 2 + a * 3,
        y: 2 + row * (Math.ceil(bays / 2) + 2),
        along: 'y',
        sides: 2,
        way: oneWay && a + 1 < aisles + (aisles % 2 === 0 ? 1 : 0) ? (a % 2 === 0 ? 'up' : 'down') : 'both',
        bays: Array.from({ length: bays }, (_, i) => String(i)),
      });
  return {
    cell: 1,
    width: aisles * 3 + 3,
    height: 2 + rows * (laneLength({ bays: made[0]?.bays ?? [], sides: 2 }) + 2) + 1,
    aisles: made,
    spots: [],
    things: [],
  };
}

/** A round on a made-up floor: the table of metres, with its stops first, then the cart's place and the bench; and the stops in plain
 *  walking order, aisle by aisle and there and back. */
export function madeRound(seed: number, many: number): { metres: number[][]; from: number; to: number; stops: number[] } {
  const random = seeded(seed);
  const plan = madeFloor(random);
  const cells = Array.from({ length: many }, () => {
    const n = random.int(0, plan.aisles.length - 1);
    const aisle = plan.aisles[n] as PlanAisle;
    const at = random.int(0, laneLength(aisle) - 1);
    return { n, at: n % 2 === 0 ? at : -at, cell: { x: aisle.x, y: aisle.y + at } };
  }).sort((a, b) => a.n - b.n || a.at - b.at);
  const ends: Cell[] = [
    { x: 0, y: 0 },
    { x: random.chance(0.5) ? 0 : plan.width - 1, y: plan.height - 1 },
  ];
  const metres = walkingDistances(walkGrid(plan), [...cells.map((c) => c.cell), ...ends]);
  return { metres, from: many, to: many + 1, stops: cells.map((_, i) => i) };
}
