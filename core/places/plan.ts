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
export type PlanBin = { readonly zone: number; readonly zoneCode: string; readonly address: string };
export type Cell = { readonly x: number; readonly y: number };

/** Whether a bin stands by itself: its address has one level only. */
export const isSpot = (address: string): boolean => splitAddress(address).levels.length < 2;

/** Where an address stands: its aisle and bay; the levels above are folded onto the bay. */
export function bayOf(address: string): { aisle: string; bay: string } {
  const { levels } = splitAddress(address);
  const [aisle = '', bay = ''] = levels;
  return { aisle, bay: bay === '' ? aisle : bay };
}

/** The key of the aisle of an address in a zone. */
export const aisleKey = (zone: number, address: string): string => `${zone}/${bayOf(address).aisle}`;

const FRONT = 4; // cells before the aisles: doors, bench, and room to turn
const CROSS = 2; // cells of a cross-aisle
const LEAST_ACROSS = 20; // aisles side by side before a new row of them begins, in a small house
const WIDEST = 600;

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

/** Draws a plan from addresses alone: single bins in front where goods wait, aisles side by side in the order of their zones, cross-aisles between
 *  the rows, doors and bench in front.
 *  Shape:  same bins, same plan. */
export function generatePlan(bins: readonly PlanBin[]): FloorPlan {
  const groups = groupAisles(bins);
  const across = acrossFor(groups);
  const singles = spotsOf(bins);
  const spots = layInRows(singles, spotRowWidth(singles, across), { x: 1, y: 3 });
  const front = Math.max(FRONT, ...spots.map((s) => s.y + 3));
  const aisles: PlanAisle[] = [];
  let [x, y, longest] = [1, front, 0];
  for (const group of groups) {
    if (aisles.length > 0 && aisles.length % across === 0) {
      y += longest + CROSS;
      [x, longest] = [1, 0];
    }
    const sides = group.bays.length > 3 ? 2 : 1;
    const aisle: PlanAisle = { ...group, x: x + (sides === 2 ? 1 : 0), y, along: 'y', sides, way: 'both' };
    aisles.push(aisle);
    longest = Math.max(longest, laneLength(aisle));
    x += roomAcross(group);
  }
  const width = Math.max(20, ...aisles.map((a) => a.x + 3), ...spots.map((s) => s.x + nameCells(s.address) + 1));
  return {
    cell: 1.5,
    width,
    height: y + longest + CROSS + 1,
    aisles,
    spots,
    things: [
      { kind: 'door', name: 'Dock', x: 1, y: 0, w: 4, h: 1 },
      { kind: 'bench', name: 'Bench', x: width - 6, y: 1, w: 4, h: 1 },
    ],
  };
}

// A name that is longer than its aisle is wide needs room of its own.
const roomAcross = (group: { bays: readonly string[]; name: string }): number =>
  Math.max(group.bays.length > 3 ? 3 : 2, Math.ceil(group.name.length / 2) + 1);
const nameCells = (name: string): number => 2 + Math.ceil(name.length * 0.4);

// As many aisles side by side as make the floor about as wide as it is deep; a small house stands in one row.
function acrossFor(groups: readonly { bays: readonly string[]; name: string }[]): number {
  const [count, wide, deep] = [
    groups.length,
    groups.reduce((sum, g) => sum + roomAcross(g), 0),
    groups.reduce((sum, g) => sum + laneLength({ bays: g.bays, sides: g.bays.length > 3 ? 2 : 1 }) + CROSS, 0),
  ];
  if (count === 0) return LEAST_ACROSS;
  const [meanWidth, meanDepth] = [wide / count, deep / count];
  const square = Math.ceil(Math.sqrt((count * meanDepth) / meanWidth));
  return Math.max(1, Math.min(Math.max(LEAST_ACROSS, square), Math.floor((WIDEST - 4) / Math.max(...groups.map(roomAcross)))));
}

const spotRowWidth = (spots: readonly { address: string }[], across: number): number =>
  Math.min(WIDEST - 20, Math.max(across * 3, Math.ceil(Math.sqrt(spots.reduce((sum, s) => sum + nameCells(s.address), 0) * 2)), 20));

// Single bins side by side, each with room for its name, in rows with a way between them.
function layInRows(spots: readonly Pick<PlanSpot, 'zone' | 'address'>[], width: number, from: Cell): PlanSpot[] {
  let { x, y } = from;
  return spots.map((spot) => {
    const room = nameCells(spot.address);
    if (x > from.x && x + room > from.x + width) [x, y] = [from.x, y + 2];
    const laid = { zone: spot.zone, address: spot.address, x, y };
    x += room;
    return laid;
  });
}

const spotKey = (spot: { zone: number; address: string }): string => `${spot.zone}/${spot.address}`;

function spotsOf(bins: readonly PlanBin[]): Pick<PlanSpot, 'zone' | 'address'>[] {
  return bins
    .filter((b) => isSpot(b.address))
    .map(({ zone, address }) => ({ zone, address }))
    .sort((a, b) => a.zone - b.zone || addressOrder(a.address, b.address));
}

function groupAisles(bins: readonly PlanBin[]): Pick<PlanAisle, 'key' | 'zone' | 'name' | 'bays'>[] {
  const groups = new Map<string, { key: string; zone: number; name: string; bays: Set<string> }>();
  for (const bin of bins) {
    if (isSpot(bin.address)) continue;
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

/** The same plan with bins that came since: new bays lengthen their aisle, and what stands behind moves on as far as it grows; new
 *  aisles and single bins stand behind the others. Aisles without any bin left go.
 *  Law:    a plan on which nothing stands on anything stays one. */
export function refreshPlan(saved: FloorPlan, bins: readonly PlanBin[]): FloorPlan {
  const plan = withSpots(saved);
  const groups = new Map(groupAisles(bins).map((g) => [g.key, g]));
  const wanted = new Map(spotsOf(bins).map((s) => [spotKey(s), s]));
  let grown: FloorPlan = {
    ...plan,
    aisles: plan.aisles.filter((a) => groups.has(a.key)),
    spots: plan.spots.filter((s) => wanted.has(spotKey(s))),
  };
  for (const { key } of grown.aisles) {
    const bays = groups.get(key)?.bays ?? [];
    groups.delete(key);
    grown = growAisle(grown, key, bays);
  }
  for (const spot of grown.spots) wanted.delete(spotKey(spot));
  const added = [...groups.values()];
  const behind = sizeFor(grown).height;
  const fresh = generatePlan([
    ...bins.filter((b) => !isSpot(b.address) && added.some((a) => a.key === aisleKey(b.zone, b.address))),
    ...[...wanted.values()].map((s) => ({ ...s, zoneCode: '' })),
  ]);
  const down = behind - (fresh.spots.length > 0 ? 3 : FRONT);
  const whole = {
    ...grown,
    aisles: [...grown.aisles, ...fresh.aisles.map((a) => ({ ...a, y: a.y + down }))],
    spots: [...grown.spots, ...fresh.spots.map((s) => ({ ...s, y: s.y + down }))],
  };
  return { ...whole, ...sizeFor(whole) };
}

// Plans that were saved before single bins stood by themselves have each as an aisle of one bay.
function withSpots(plan: FloorPlan): FloorPlan {
  const isOne = (a: PlanAisle): boolean => a.bays.length === 1 && a.bays[0] === a.name && isSpot(a.name);
  const known = plan.spots ?? [];
  const singles = plan.aisles.filter(isOne).map((a) => ({ zone: a.zone, address: a.name, x: a.x, y: a.y }));
  return { ...plan, aisles: plan.aisles.filter((a) => !isOne(a)), spots: [...known, ...singles] };
}

// Everything that begins beyond the end of the aisle moves on by as much as the lane grows. What still stands in the way stood beside the lane where
// no bay was: then the aisle itself goes behind the others.
function growAisle(plan: FloorPlan, key: string, bays: readonly string[]): FloorPlan {
  const aisle = plan.aisles.find((a) => a.key === key) as PlanAisle;
  const by = laneLength({ bays, sides: aisle.sides }) - laneLength(aisle);
  const end = aisle[aisle.along] + laneLength(aisle);
  const moveOn = <T extends Cell>(thing: T, begins: number): T =>
    by > 0 && begins >= end ? { ...thing, [aisle.along]: thing[aisle.along] + by } : thing;
  const beginOf = (a: PlanAisle): number => a[aisle.along] - (a.along !== aisle.along && a.sides === 2 ? 1 : 0);
  const moved = {
    ...plan,
    aisles: plan.aisles.map((a) => (a.key === key ? { ...a, bays } : moveOn(a, beginOf(a)))),
    spots: plan.spots.map((s) => moveOn(s, s[aisle.along])),
    things: plan.things.map((t) => moveOn(t, t[aisle.along])),
  };
  const sized = { ...moved, ...sizeFor(moved) };
  const grown = sized.aisles.find((a) => a.key === key) as PlanAisle;
  if (grown.bays.length <= aisle.bays.length || standsFree(sized, grown)) return sized;
  const behind = { ...grown, along: 'y' as const, x: 2, y: sized.height };
  const relaid = { ...sized, aisles: sized.aisles.map((a) => (a.key === key ? behind : a)) };
  return { ...relaid, ...sizeFor(relaid) };
}

function aisleCells(aisle: PlanAisle): Cell[] {
  return aisle.bays.flatMap((_, i) => [laneCell(aisle, i), bayCell(aisle, i)]);
}

function standsFree(plan: FloorPlan, aisle: PlanAisle): boolean {
  const own = new Set(aisleCells(aisle).map((c) => c.y * plan.width + c.x));
  const hits = (c: Cell): boolean => own.has(c.y * plan.width + c.x);
  if (aisleCells(aisle).some((c) => c.x < 0 || c.y < 0)) return false;
  if (plan.spots.some(hits) || plan.aisles.some((a) => a.key !== aisle.key && aisleCells(a).some(hits))) return false;
  return !plan.things.some(
    (t) => t.kind !== 'door' && aisleCells(aisle).some((c) => c.x >= t.x && c.x < t.x + t.w && c.y >= t.y && c.y < t.y + t.h),
  );
}

function sizeFor(plan: FloorPlan): { width: number; height: number } {
  const ends = [
    ...plan.aisles
      .flatMap((a) => [laneCell(a, 0), laneCell(a, Math.max(0, a.bays.length - 1))])
      .map((c) => ({ x: c.x + 3, y: c.y + CROSS + 1 })),
    ...plan.spots.map((s) => ({ x: s.x + nameCells(s.address) + 1, y: s.y + CROSS + 1 })),
    ...plan.things.map((t) => ({ x: t.x + t.w, y: t.y + t.h })),
  ];
  return {
    width: ends.reduce((most, c) => Math.max(most, c.x), plan.width),
    height: ends.reduce((most, c) => Math.max(most, c.y), plan.height),
  };
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
