import { splitAddress } from './address.ts';

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

/** A single bin that stands on the floor by itself: arrivals, a bench, a pallet's place. It is no rack and no aisle; one walks up to it. */
export type PlanSpot = { readonly zone: number; readonly address: string; readonly x: number; readonly y: number };

/** The plan of a floor on a grid of square cells (A10). Plain data; `cell` is the length of a cell's side in metres. */
export type FloorPlan = {
  readonly cell: number;
  readonly width: number;
  readonly height: number;
  readonly aisles: readonly PlanAisle[];
  readonly spots: readonly PlanSpot[];
  readonly things: readonly PlanThing[];
};
/** A bin as a plan is drawn from it; `use` where it is known: goods wait in arrivals and at a bench, they do not live there. */
export type PlanBin = { readonly zone: number; readonly address: string; readonly use?: string };
export type Box = { readonly x: number; readonly y: number; readonly w: number; readonly h: number };
export type Cell = { readonly x: number; readonly y: number };

/** Where an address stands: its aisle and bay; the levels above are folded onto the bay. */
export function bayOf(address: string): { aisle: string; bay: string } {
  const { levels } = splitAddress(address);
  const [aisle = '', bay = ''] = levels;
  return { aisle, bay: bay === '' ? aisle : bay };
}

/** The key of the aisle of an address in a zone. */
export const aisleKey = (zone: number, address: string): string => `${zone}/${bayOf(address).aisle}`;

/** The most cells that a floor may have from side to side, or from front to back. */
export const WIDEST = 600;

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

/** The cells that an aisle covers: its lane and the bays beside it. */
export function aisleBox(aisle: PlanAisle): Box {
  const before = aisle.sides === 2 ? 1 : 0;
  return aisle.along === 'y'
    ? { x: aisle.x - before, y: aisle.y, w: before + 2, h: laneLength(aisle) }
    : { x: aisle.x, y: aisle.y - before, w: laneLength(aisle), h: before + 2 };
}

/** The key of a single bin on a plan. */
export const spotKey = (spot: { zone: number; address: string }): string => `${spot.zone}/${spot.address}`;

/** What stands for a bin on this plan: itself where it stands alone, else its bay.
 *  Shape:  the plan is read once; every question after that costs the same. Null where the plan does not know the bin. */
export function indexPlaces<T>(
  plan: FloorPlan,
  of: { spot: (spot: PlanSpot) => T; bay: (aisle: PlanAisle, bay: number) => T },
): (bin: { zone: number; address: string }) => T | null {
  const places = new Map<string, T>();
  for (const aisle of plan.aisles) aisle.bays.forEach((bay, i) => places.set(`${aisle.key}/${bay}`, of.bay(aisle, i)));
  for (const spot of plan.spots) places.set(spotKey(spot), of.spot(spot));
  return (bin) => places.get(spotKey(bin)) ?? places.get(`${aisleKey(bin.zone, bin.address)}/${bayOf(bin.address).bay}`) ?? null;
}

export type PlanFault =
  | { code: 'places.planOutside'; name: string }
  | { code: 'places.planOverlap'; name: string; other: string }
  | { code: 'places.planTooLarge'; width: number; height: number };

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
  for (const spot of plan.spots) {
    const fault = take(spot, `bin ${spot.address}`);
    if (fault) return fault;
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
