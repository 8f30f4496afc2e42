import { addressOrder, splitAddress } from './address.ts';
import {
  aisleBox,
  aisleKey,
  bayOf,
  laneLength,
  WIDEST,
  type Box,
  type Cell,
  type FloorPlan,
  type PlanAisle,
  type PlanBin,
  type PlanSpot,
  type PlanThing,
} from './plan.ts';

/** An aisle as the addresses tell it: which bays it has, not where it stands. */
export type Row = Pick<PlanAisle, 'key' | 'zone' | 'name' | 'bays'>;
type Single = Pick<PlanSpot, 'zone' | 'address'>;
/** A part of a zone, laid out by itself: racks, or a piece of open floor. Its top row of cells is for its name. What stands in it is only
 *  put there (`build`, at its corner) once the floor is chosen: many are tried. */
type Block = { readonly w: number; readonly h: number; readonly build: (at: Cell) => { aisles: PlanAisle[]; spots: PlanSpot[] } };

const CELL_M = 1.5;
const LOOKED_AT = 1.75; // a plan is looked at on a field so much wider than it is high
const STRIP = 12; // and open floor lies before the racks as a strip so much longer than deep
const NAME = 1; // cells above a block, for its name
const WAY = 2; // cells from row to row: a way, and the name of what stands behind it
const GAP = 1; // cells between blocks side by side
const FRONT = 2; // cells along the front wall: doors and bench stand in it
const FEW = 4; // so many bays have something opposite
const FLOOR_MOST = 12; // more places at which goods wait are a rack of them
const CROWDED = 60; // single bins of a zone from which on their names are left to a closer look
const SIDEWAYS = 1.15; // aisles run away from the dock, unless the floor is so much better used otherwise
const WIDTHS = 40; // widths of the floor that are tried

/** How many cells a single bin takes with its name beside it. */
export const nameCells = (name: string): number => 2 + Math.ceil(name.length * 0.4);

/** Draws a plan from addresses alone (A10): each zone a block of its own, racks back to back with a lane between them, single bins where
 *  goods wait, arrivals at the dock and packing at the bench; as wide as it is looked at best.
 *  Shape:  same bins, same plan. No bins, an empty floor. */
export function generatePlan(bins: readonly PlanBin[]): FloorPlan {
  const { rows, singles } = partBins(bins);
  const uses = new Map(bins.map((b) => [b.zone, b.use ?? '']));
  const floors = byZone(singles).map((own) => ({ use: uses.get(own[0]?.zone ?? 0) ?? '', singles: own, rooms: roomsOf(own) }));
  const racks = byZone(rows);
  const tried = (['y', 'x'] as const).flatMap((along) =>
    widthsFor(rows, singles).map((width) => {
      const floor = layFloor(width, floors, racks, along);
      const size = Math.max(floor.width / LOOKED_AT, floor.height) * (along === 'x' ? SIDEWAYS : 1);
      return { floor, size: floor.width > WIDEST || floor.height > WIDEST ? size * WIDEST : size };
    }),
  );
  const [first, ...others] = tried as [(typeof tried)[number], ...typeof tried];
  const { floor } = others.reduce((best, next) => (next.size < best.size ? next : best), first);
  const built = floor.placed.map(({ block, x, y }) => block.build({ x, y }));
  return {
    cell: CELL_M,
    width: floor.width,
    height: floor.height,
    aisles: built.flatMap((b) => b.aisles),
    spots: built.flatMap((b) => b.spots),
    things: wallThings(floor.width),
  };
}

function byZone<T extends { readonly zone: number }>(things: readonly T[]): T[][] {
  const zones = new Map<number, T[]>();
  for (const thing of things) {
    const own = zones.get(thing.zone);
    if (own) own.push(thing);
    else zones.set(thing.zone, [thing]);
  }
  return [...zones.values()];
}

/** Which bins stand in racks along aisles, and which by themselves: those whose address has one level only, and the few places at which
 *  goods wait. */
export function partBins(bins: readonly PlanBin[]): { rows: Row[]; singles: Single[] } {
  const groups = new Map<string, { key: string; zone: number; name: string; bays: Set<string>; bins: PlanBin[] }>();
  const singles: Single[] = [];
  const single = ({ zone, address }: PlanBin): void => void singles.push({ zone, address });
  for (const bin of bins) {
    if (splitAddress(bin.address).levels.length < 2) {
      single(bin);
      continue;
    }
    const key = aisleKey(bin.zone, bin.address);
    const { aisle, bay } = bayOf(bin.address);
    const group = groups.get(key) ?? { key, zone: bin.zone, name: aisle, bays: new Set<string>(), bins: [] };
    group.bays.add(bay);
    group.bins.push(bin);
    groups.set(key, group);
  }
  const isOpenFloor = (g: { bays: Set<string>; bins: readonly PlanBin[] }): boolean =>
    g.bays.size <= FLOOR_MOST &&
    g.bins.length === g.bays.size &&
    g.bins.every((b) => b.use !== undefined && !['shelf', 'reserve'].includes(b.use));
  for (const group of groups.values()) if (isOpenFloor(group)) group.bins.forEach(single);
  return {
    rows: [...groups.values()]
      .filter((g) => !isOpenFloor(g))
      .sort((a, b) => a.zone - b.zone || addressOrder(a.name, b.name))
      .map(({ key, zone, name, bays }) => ({ key, zone, name, bays: [...bays].sort(addressOrder) })),
    singles: singles.sort((a, b) => a.zone - b.zone || addressOrder(a.address, b.address)),
  };
}

// From the narrowest that anything fits into to all of it side by side.
function widthsFor(rows: readonly Row[], singles: readonly Single[]): number[] {
  const [longest, deep] = [Math.max(0, ...rows.map((r) => r.bays.length)), rows.reduce((sum, r) => sum + r.bays.length / 2 + WAY, 0)];
  const least = Math.max(10, ...singles.map((s) => nameCells(s.address)));
  const all = Math.max(
    least,
    Math.min(WIDEST - 4, rows.length * 4 + longest + deep + singles.reduce((sum, s) => sum + nameCells(s.address), 0)),
  );
  const steps = Array.from({ length: WIDTHS }, (_, i) => Math.round(least * (all / least) ** (i / (WIDTHS - 1))));
  return [...new Set(steps)];
}

type Placed = { readonly block: Block; readonly x: number; readonly y: number };
type Floor = { readonly use: string; readonly singles: readonly Single[]; readonly rooms: readonly number[] };
type Laid = { readonly width: number; readonly height: number; readonly placed: readonly Placed[] };

// Open floor in front, between door and bench; racks behind, zone after zone.
function layFloor(asked: number, floors: readonly Floor[], racks: readonly (readonly Row[])[], along: 'x' | 'y'): Laid {
  const alone = racks.length === 1 && racks[0]?.length === 1;
  const blocks = racks.map((zone) => rackBlock(zone, asked, along, alone));
  const width = Math.max(asked, ...blocks.map((b) => b.w));
  const rank = (use: string): number => (use === 'arrivals' ? 0 : use === 'packing' ? 2 : 1);
  const inFront = [...floors].sort((a, b) => rank(a.use) - rank(b.use));
  const [front, top] = packed(
    inFront.map((f) => openFloor(f, width)),
    width,
    FRONT,
  );
  const [behind, bottom] = packed(blocks, width, top);
  const wide = Math.max(12, ...[...front, ...behind].map((p) => p.x + p.block.w + 1));
  const placed = [...front.map((p, i) => (inFront[i]?.use === 'packing' ? underBench(p, front, wide) : p)), ...behind];
  return { width: wide, height: Math.max(6, bottom), placed };
}

// What is packed stands at the right, where the bench is, if nothing else does.
function underBench(mine: Placed, all: readonly Placed[], wide: number): Placed {
  const isBeside = (p: Placed): boolean => p !== mine && p.x > mine.x && p.y < mine.y + mine.block.h && mine.y < p.y + p.block.h;
  return all.some(isBeside) ? mine : { ...mine, x: wide - 1 - mine.block.w };
}

const wallThings = (width: number): PlanThing[] => [
  { kind: 'door', name: 'Dock', x: 1, y: 0, w: 3, h: 1 },
  { kind: 'bench', name: 'Bench', x: width - 4, y: 0, w: 3, h: 1 },
];

// Each block where it comes nearest to the front, and there as far to the left as it goes.
// Source: the skyline heuristic for packing rectangles (E. K. Burke, G. Kendall, G. Whitwell, "A new placement heuristic for the orthogonal
// stock-cutting problem", 2004), without turning any.
function packed(blocks: readonly Block[], width: number, from: number): [Placed[], number] {
  const taken = new Uint16Array(width + 2).fill(from);
  const placed = blocks.map((block) => {
    const w = Math.min(block.w, width);
    let best = { x: 1, y: Infinity };
    for (let x = 1; x + w <= width + 1; x += 1) {
      // What is no nearer than its neighbour on the left was tried there.
      if (x > 1 && taken[x] === taken[x - 1]) continue;
      const y = Math.max(...taken.subarray(x, x + w));
      if (y < best.y) best = { x, y };
    }
    taken.fill(best.y + block.h + 1, best.x, best.x + w + GAP);
    return { block, ...best };
  });
  return [placed, blocks.length === 0 ? from : Math.max(...taken.subarray(1, width + 1))];
}

const roomsOf = (singles: readonly Single[]): number[] => singles.map((s) => (singles.length > CROWDED ? 2 : nameCells(s.address)));

function openFloor({ singles, rooms }: Floor, width: number): Block {
  const area = rooms.reduce((sum, room) => sum + room * 2, 0);
  const across = Math.min(
    width,
    rooms.reduce((most, room) => Math.max(most, room), Math.ceil(Math.sqrt(area * STRIP))),
  );
  // Calls back with the corner of each; returns how much room they take.
  const lay = (put: (i: number, x: number, y: number) => void): { w: number; h: number } => {
    let [x, y, w] = [0, NAME, 0];
    rooms.forEach((room, i) => {
      if (x > 0 && x + room > across) [x, y] = [0, y + 2];
      put(i, x, y);
      x += room;
      w = Math.max(w, x);
    });
    return { w, h: y + 1 };
  };
  return {
    ...lay(() => undefined),
    build: (at) => {
      const spots: PlanSpot[] = [];
      lay((i, x, y) => spots.push({ ...(singles[i] as Single), x: at.x + x, y: at.y + y }));
      return { aisles: [], spots };
    },
  };
}

// Aisles side by side with a lane each, so that their racks stand back to back; as many lines of them as the width asks for.
function rackBlock(rows: readonly Row[], width: number, along: 'x' | 'y', alone: boolean): Block {
  // One aisle and no other is a row of racks, or a wall of them: nothing stands opposite.
  const sidesOf = (row: Row): 1 | 2 => (row.bays.length < FEW || alone ? 1 : 2);
  const depthOf = (row: Row): number => laneLength({ bays: row.bays, sides: sidesOf(row) });
  const deepest = rows.reduce((most, row) => Math.max(most, depthOf(row)), 0);
  const lines =
    along === 'y'
      ? linesOf(rows, width, (row) => sidesOf(row) + 1)
      : inLines(rows, Math.ceil(rows.length / Math.max(1, Math.floor((width + WAY) / (deepest + WAY)))));
  const across = lines.map((line) => line.reduce((sum, row) => sum + sidesOf(row) + 1, 0));
  const deep = lines.map((line) => line.reduce((most, row) => Math.max(most, depthOf(row)), 0));
  const [wide, long] = [Math.max(...across), deep.reduce((sum, d) => sum + d + WAY, -WAY)];
  return {
    ...(along === 'y' ? { w: wide, h: long + NAME } : { w: long, h: wide + NAME }),
    build: (at) => {
      const aisles: PlanAisle[] = [];
      let start = 0;
      lines.forEach((line, n) => {
        let beside = 0;
        for (const row of line) {
          const sides = sidesOf(row);
          const lane = beside + (sides === 2 ? 1 : 0);
          const corner = along === 'y' ? { x: at.x + lane, y: at.y + NAME + start } : { x: at.x + start, y: at.y + NAME + lane };
          aisles.push({ ...row, ...corner, along, sides, way: 'both' });
          beside += sides + 1;
        }
        start += (deep[n] ?? 0) + WAY;
      });
      return { aisles, spots: [] };
    },
  };
}

const inLines = <T>(all: readonly T[], most: number): T[][] =>
  Array.from({ length: Math.ceil(all.length / most) }, (_, i) => all.slice(i * most, (i + 1) * most));

function linesOf(rows: readonly Row[], width: number, roomOf: (row: Row) => number): Row[][] {
  const whole = rows.reduce((sum, row) => sum + roomOf(row), 0);
  // Lines of like width look planned; one full and one of two aisles does not.
  const even = Math.max(Math.max(...rows.map(roomOf)), whole / Math.max(1, Math.ceil(whole / width)));
  const lines: Row[][] = [[]];
  let x = 0;
  for (const row of rows) {
    if (x > 0 && x >= even - roomOf(row) / 2 - 0.5 && x + roomOf(row) > even) {
      lines.push([]);
      x = 0;
    }
    lines.at(-1)?.push(row);
    x += roomOf(row);
  }
  return lines;
}

/** A zone on the floor: the boxes that hold all of its racks and single bins, those that stand together in one.
 *  Shape:  by zone; an arranged plan may have one zone at several places, and zones that lie over one another. */
export function zoneAreas(plan: FloorPlan): { zone: number; box: Box }[] {
  const boxes = new Map<number, Box[]>();
  const note = (zone: number, box: Box): void => void (boxes.get(zone)?.push(box) ?? boxes.set(zone, [box]));
  for (const aisle of plan.aisles) note(aisle.zone, aisleBox(aisle));
  const crowded = new Map<number, number>();
  for (const spot of plan.spots) crowded.set(spot.zone, (crowded.get(spot.zone) ?? 0) + 1);
  for (const spot of plan.spots)
    note(spot.zone, { x: spot.x, y: spot.y, w: (crowded.get(spot.zone) ?? 0) > CROWDED ? 1 : nameCells(spot.address), h: 1 });
  return [...boxes].flatMap(([zone, parts]) => together(parts).map((box) => ({ zone, box })));
}

const MOST_PARTS = 400; // of more the whole is outlined: to compare each with each would be felt

function together(parts: readonly Box[]): Box[] {
  if (parts.length > MOST_PARTS) return [parts.reduce(around)];
  const areas: Box[] = [];
  for (const part of parts) {
    let grown = part;
    for (let i = 0; i < areas.length;) {
      if (isNear(areas[i] as Box, grown)) {
        grown = around(grown, areas[i] as Box);
        areas.splice(i, 1);
        // What is larger now may touch what it did not.
        i = 0;
      } else i += 1;
    }
    areas.push(grown);
  }
  return areas;
}

function around(a: Box, b: Box): Box {
  const [x, y] = [Math.min(a.x, b.x), Math.min(a.y, b.y)];
  return { x, y, w: Math.max(a.x + a.w, b.x + b.w) - x, h: Math.max(a.y + a.h, b.y + b.h) - y };
}
const isNear = (a: Box, b: Box): boolean =>
  a.x <= b.x + b.w + GAP && b.x <= a.x + a.w + GAP && a.y <= b.y + b.h + WAY && b.y <= a.y + a.h + WAY;
