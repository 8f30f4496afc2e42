import { generatePlan, nameCells, partBins } from './draw-plan.ts';
import {
  aisleBox,
  aisleKey,
  bayCell,
  laneCell,
  laneLength,
  spotKey,
  type Cell,
  type FloorPlan,
  type PlanAisle,
  type PlanBin,
} from './plan.ts';
import { splitAddress } from './address.ts';

const WAY = 2; // cells behind the last thing: a way, and the name of what comes there

/** The same plan with bins that came since: new bays lengthen their aisle, and what stands behind moves on as far as it grows; new
 *  aisles and single bins stand behind the others. Aisles without any bin left go.
 *  Law:    a plan on which nothing stands on anything stays one. */
export function refreshPlan(saved: FloorPlan, bins: readonly PlanBin[]): FloorPlan {
  const plan = withSpots(saved);
  const isKnownSpot = has(plan.spots.map(spotKey), spotKey);
  const isKnownAisle = has(
    plan.aisles.map((a) => a.key),
    keyOfAisle,
  );
  // What stands on the plan stays what it is there, a rack or a place on the floor.
  const { rows, singles } = partBins(bins.filter((b) => !isKnownSpot(b)).map((b) => (isKnownAisle(b) ? { ...b, use: 'shelf' } : b)));
  const isWanted = has(bins.map(spotKey), spotKey);
  const bays = new Map(rows.map((row) => [row.key, row.bays]));
  let grown: FloorPlan = { ...plan, aisles: plan.aisles.filter((a) => bays.has(a.key)), spots: plan.spots.filter(isWanted) };
  for (const { key } of grown.aisles) grown = growAisle(grown, key, bays.get(key) ?? []);
  const isSingle = has(singles.map(spotKey), spotKey);
  const fresh = bins.filter((b) => !isKnownSpot(b) && (isSingle(b) || !isKnownAisle(b)));
  return fresh.length === 0 ? { ...grown, ...sizeFor(grown) } : behind(grown, generatePlan(fresh));
}

function behind(plan: FloorPlan, fresh: FloorPlan): FloorPlan {
  const first = Math.min(...fresh.aisles.map((a) => aisleBox(a).y), ...fresh.spots.map((s) => s.y));
  const down = sizeFor(plan).height - first;
  const whole = {
    ...plan,
    aisles: [...plan.aisles, ...fresh.aisles.map((a) => ({ ...a, y: a.y + down }))],
    spots: [...plan.spots, ...fresh.spots.map((s) => ({ ...s, y: s.y + down }))],
  };
  return { ...whole, ...sizeFor(whole) };
}

type Named = { zone: number; address: string };
const keyOfAisle = (bin: Named): string => aisleKey(bin.zone, bin.address);
function has<T>(keys: readonly string[], keyOf: (thing: T) => string): (thing: T) => boolean {
  const known = new Set(keys);
  return (thing) => known.has(keyOf(thing));
}

// Plans that were saved before single bins stood by themselves have each as an aisle of one bay.
function withSpots(plan: FloorPlan): FloorPlan {
  const isOne = (a: PlanAisle): boolean => a.bays.length === 1 && a.bays[0] === a.name && splitAddress(a.name).levels.length < 2;
  const known = plan.spots ?? [];
  const singles = plan.aisles.filter(isOne).map((a) => ({ zone: a.zone, address: a.name, x: a.x, y: a.y }));
  return { ...plan, aisles: plan.aisles.filter((a) => !isOne(a)), spots: [...known, ...singles] };
}

// Everything that begins beyond the end of the aisle moves on by as much as the lane grows. What still stands in the way stood beside the
// lane where no bay was: then the aisle itself goes behind the others.
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
      .map((c) => ({ x: c.x + 3, y: c.y + WAY + 1 })),
    ...plan.spots.map((s) => ({ x: s.x + nameCells(s.address) + 1, y: s.y + WAY + 1 })),
    ...plan.things.map((t) => ({ x: t.x + t.w, y: t.y + t.h })),
  ];
  return {
    width: ends.reduce((most, c) => Math.max(most, c.x), plan.width),
    height: ends.reduce((most, c) => Math.max(most, c.y), plan.height),
  };
}
