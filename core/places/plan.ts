import { addressOrder, splitAddress } from './address.ts';

/** An aisle: a lane of walkable cells with bays along it, on one side or both. `up` is the order of its bays.
 *  The lane begins at (x, y) and runs along x or y; bay i stands beside lane cell ⌊i / sides⌋. */
export type PlanAisle = {
  readonly key: string;
  readonly zone: number;
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly along: 'x' | 'y';
  readonly sides: 1 | 2;
  readonly way: 'both' | 'up' | 'down';
  readonly bays: readonly string[];
};
export type PlanThing = {
  readonly kind: 'door' | 'bench' | 'wall';
  readonly name: string;
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
};

/** The plan of a floor on a grid of square cells (A10). Plain data; `cell` is the length of a cell's side in metres. */
export type FloorPlan = {
  readonly cell: number;
  readonly width: number;
  readonly height: number;
  readonly aisles: readonly PlanAisle[];
  readonly things: readonly PlanThing[];
};
export type PlanBin = { readonly zone: number; readonly zoneCode: string; readonly address: string };
export type Cell = { readonly x: number; readonly y: number };

/** Where an address stands: its aisle and bay; the levels above are folded onto the bay. One level alone is an aisle of one bay. */
export function bayOf(address: string): { aisle: string; bay: string } {
  const { levels } = splitAddress(address);
  const [aisle = '', bay = ''] = levels;
  return { aisle, bay: bay === '' ? aisle : bay };
}

/** The key of the aisle of an address in a zone. */
export const aisleKey = (zone: number, address: string): string => `${zone}/${bayOf(address).aisle}`;

const FRONT = 4; // cells before the aisles: doors, bench, and room to turn
const CROSS = 2; // cells of a cross-aisle
const ACROSS = 20; // aisles side by side before a new row of them begins

/** How many cells the lane of an aisle has. */
export const laneLength = (aisle: Pick<PlanAisle, 'bays' | 'sides'>): number => Math.max(1, Math.ceil(aisle.bays.length / aisle.sides));

/** The cell of the lane from which a bay is reached. */
export function laneCell(aisle: PlanAisle, bay: number): Cell {
  const at = Math.floor(bay / aisle.sides);
  return aisle.along === 'y' ? { x: aisle.x, y: aisle.y + at } : { x: aisle.x + at, y: aisle.y };
}

/** The cell on which a bay stands. */
export function bayCell(aisle: PlanAisle, bay: number): Cell {
  const lane = laneCell(aisle, bay);
  const side = aisle.sides === 2 && bay % 2 === 1 ? -1 : 1;
  return aisle.along === 'y' ? { x: lane.x + side, y: lane.y } : { x: lane.x, y: lane.y + side };
}

/** Draws a plan from addresses alone: aisles side by side in the order of their zones, cross-aisles between the rows, doors and bench in front.
 *  Shape:  same bins, same plan. */
export function generatePlan(bins: readonly PlanBin[]): FloorPlan {
  const aisles: PlanAisle[] = [];
  let [x, y, longest] = [1, FRONT, 0];
  for (const group of groupAisles(bins)) {
    if (aisles.length > 0 && aisles.length % ACROSS === 0) {
      y += longest + CROSS;
      [x, longest] = [1, 0];
    }
    const sides = group.bays.length > 3 ? 2 : 1;
    const aisle: PlanAisle = { ...group, x: x + (sides === 2 ? 1 : 0), y, along: 'y', sides, way: 'both' };
    aisles.push(aisle);
    longest = Math.max(longest, laneLength(aisle));
    // A name that is longer than its aisle is wide needs room of its own.
    x += Math.max(sides === 2 ? 3 : 2, Math.ceil(group.name.length / 2) + 1);
  }
  const width = Math.max(20, ...aisles.map((a) => a.x + 3));
  return {
    cell: 1.5,
    width,
    height: y + longest + CROSS + 1,
    aisles,
    things: [
      { kind: 'door', name: 'Dock', x: 1, y: 0, w: 4, h: 1 },
      { kind: 'bench', name: 'Bench', x: width - 6, y: 1, w: 4, h: 1 },
    ],
  };
}

function groupAisles(bins: readonly PlanBin[]): Pick<PlanAisle, 'key' | 'zone' | 'name' | 'bays'>[] {
  const groups = new Map<string, { key: string; zone: number; name: string; bays: Set<string> }>();
  for (const bin of bins) {
    const key = aisleKey(bin.zone, bin.address);
    const { aisle, bay } = bayOf(bin.address);
    const group = groups.get(key) ?? { key, zone: bin.zone, name: aisle, bays: new Set<string>() };
    group.bays.add(bay);
    groups.set(key, group);
  }
  return [...groups.values()]
    .sort((a, b) => a.zone - b.zone || addressOrder(a.name, b.name))
    .map((g) => ({ ...g, bays: [...g.bays].sort(addressOrder) }));
}

/** The same plan with bins that came since: new bays lengthen their aisle, new aisles stand behind the others; nothing that was placed moves.
 *  Aisles without any bin left go. */
export function refreshPlan(plan: FloorPlan, bins: readonly PlanBin[]): FloorPlan {
  const groups = new Map(groupAisles(bins).map((g) => [g.key, g]));
  const kept = plan.aisles.flatMap((aisle) => {
    const group = groups.get(aisle.key);
    groups.delete(aisle.key);
    return group ? [{ ...aisle, bays: group.bays }] : [];
  });
  const added = [...groups.values()];
  if (added.length === 0) return { ...plan, aisles: kept, ...sizeFor(plan, kept) };
  const behind = sizeFor(plan, kept).height;
  const fresh = generatePlan(bins.filter((b) => added.some((a) => a.key === aisleKey(b.zone, b.address)))).aisles.map((a) => ({
    ...a,
    y: a.y - FRONT + behind,
  }));
  const aisles = [...kept, ...fresh];
  return { ...plan, aisles, ...sizeFor(plan, aisles) };
}

function sizeFor(plan: FloorPlan, aisles: readonly PlanAisle[]): { width: number; height: number } {
  const ends = aisles.flatMap((a) => [laneCell(a, 0), laneCell(a, Math.max(0, a.bays.length - 1))]);
  return { width: Math.max(plan.width, ...ends.map((c) => c.x + 3)), height: Math.max(plan.height, ...ends.map((c) => c.y + CROSS + 1)) };
}

export type PlanFault =
  | { code: 'places.planOutside'; name: string }
  | { code: 'places.planOverlap'; name: string; other: string }
  | { code: 'places.planTooLarge'; width: number; height: number };

const WIDEST = 600;

/** Whether a plan can be walked as drawn: nothing outside the floor, no two things on one cell. The first fault, or null. */
export function checkPlan(plan: FloorPlan): PlanFault | null {
  if (plan.width > WIDEST || plan.height > WIDEST) return { code: 'places.planTooLarge', width: plan.width, height: plan.height };
  const taken = new Map<number, string>();
  const take = (cell: Cell, name: string): PlanFault | null => {
    if (cell.x < 0 || cell.y < 0 || cell.x >= plan.width || cell.y >= plan.height) return { code: 'places.planOutside', name };
    const at = cell.y * plan.width + cell.x;
    const other = taken.get(at);
    if (other !== undefined && other !== name) return { code: 'places.planOverlap', name, other };
    taken.set(at, name);
    return null;
  };
  for (const aisle of plan.aisles) {
    for (let bay = 0; bay < aisle.bays.length; bay += 1) {
      const fault = take(laneCell(aisle, bay), `aisle ${aisle.name}`) ?? take(bayCell(aisle, bay), `aisle ${aisle.name}`);
      if (fault) return fault;
    }
  }
  for (const thing of plan.things) {
    if (thing.kind === 'door') continue;
    for (let y = thing.y; y < thing.y + thing.h; y += 1)
      for (let x = thing.x; x < thing.x + thing.w; x += 1) {
        const fault = take({ x, y }, thing.name || thing.kind);
        if (fault) return fault;
      }
  }
  return null;
}
