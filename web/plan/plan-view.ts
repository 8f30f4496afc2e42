import { bayCell, indexPlaces, type Cell, type FloorPlan } from '#core/places';
import type { ReplyOf, Routes } from '#contract';

export type Measures = ReplyOf<Routes['places.planMeasures']>;
export type Colouring = 'fill' | 'touches' | 'counted';
export type PlanBinView = { id: number; address: string; fill: number | null; items: number; touches: number; counted: number | null };
/** A bay as it is drawn: where it stands, and the bins that are folded onto it, the lowest first. A single bin is a bay without an
 *  aisle. */
export type BayView = Cell & { aisle: string; zone: number; bay: string; bins: PlanBinView[] };

/** Lays the measures of the bins onto the bays of the plan. */
export function bayViews(plan: FloorPlan, m: Measures): BayView[] {
  const bays: BayView[] = [];
  const draw = (bay: Omit<BayView, 'bins'>): BayView => {
    const drawn = { ...bay, bins: [] };
    bays.push(drawn);
    return drawn;
  };
  const bayOf = indexPlaces<BayView>(plan, {
    bay: (aisle, i) => draw({ ...bayCell(aisle, i), aisle: aisle.name, zone: aisle.zone, bay: aisle.bays[i] ?? '' }),
    spot: ({ x, y, zone, address }) => draw({ x, y, aisle: '', zone, bay: address }),
  });
  m.id.forEach((id, i) => {
    const [zone, address] = [m.zone[i] ?? 0, m.address[i] ?? ''];
    bayOf({ zone, address })?.bins.push({
      id,
      address,
      fill: m.fill[i] ?? null,
      items: m.items[i] ?? 0,
      touches: m.touches[i] ?? 0,
      counted: m.counted[i] ?? null,
    });
  });
  return bays;
}

/** Steps of a colouring: up to and including `upTo`, said as `says`. The colours go from paper to ink over teal; the last step is plum:
 *  look here. */
const SCALES: Readonly<Record<Colouring, readonly { upTo: number; says: string }[]>> = {
  fill: [
    { upTo: 0, says: 'empty' },
    { upTo: 25, says: 'to 25 %' },
    { upTo: 50, says: 'to 50 %' },
    { upTo: 75, says: 'to 75 %' },
    { upTo: 100, says: 'to 100 %' },
    { upTo: Infinity, says: 'over-full' },
  ],
  touches: [
    { upTo: 0, says: 'none' },
    { upTo: 2, says: 'to 2' },
    { upTo: 6, says: 'to 6' },
    { upTo: 15, says: 'to 15' },
    { upTo: Infinity, says: 'more' },
  ],
  counted: [
    { upTo: 7, says: 'to 7 days' },
    { upTo: 30, says: 'to 30 days' },
    { upTo: 90, says: 'to 90 days' },
    { upTo: 180, says: 'to 180 days' },
    { upTo: 99_999, says: 'longer' },
    { upTo: Infinity, says: 'never' },
  ],
};
const TEAL = ['#f3ecdc', '#cde0d8', '#96c4bb', '#55978f', '#1d5c55'];
const PLUM = '#7d1650';
// Bins without any limit have no share; what lies in them is only said to be there.
const UNKNOWN = '#d9cfbb';

const UNSAID = 'no limit set';
const colourAt = (colouring: Colouring, step: number): string => (colouring !== 'touches' && step === 5 ? PLUM : (TEAL[step] ?? PLUM));

/** What a figure is called under a colouring. */
const stepOf = (value: number | null, colouring: Colouring): number =>
  value === null ? -1 : SCALES[colouring].findIndex((s) => value <= s.upTo);

/** The key to the colours, in order, each with its bins. */
export function legendOf(colouring: Colouring, bays: readonly BayView[]): { colour: string; says: string; bins: PlanBinView[] }[] {
  const steps = SCALES[colouring].map((s, i) => ({ colour: colourAt(colouring, i), says: s.says, bins: [] as PlanBinView[] }));
  const unsaid = { colour: UNKNOWN, says: UNSAID, bins: [] as PlanBinView[] };
  for (const bay of bays) for (const bin of bay.bins) (steps[stepOf(valueOf(bin, colouring), colouring)] ?? unsaid).bins.push(bin);
  return unsaid.bins.length > 0 ? [...steps, unsaid] : steps;
}

/** The figure of one bin under a colouring; null where it has none. */
export function valueOf(bin: PlanBinView, colouring: Colouring): number | null {
  if (colouring === 'touches') return bin.touches;
  if (colouring === 'counted') return bin.counted ?? Infinity;
  return bin.fill ?? (bin.items === 0 ? 0 : null);
}

export const colourOf = (value: number | null, colouring: Colouring): string =>
  value === null ? UNKNOWN : colourAt(colouring, stepOf(value, colouring));

/** The figure of a bay: the fullest of its bins, the sum of their touches, the longest since a count. */
export function bayValue(bay: BayView, colouring: Colouring): number | null {
  const values = bay.bins.map((b) => valueOf(b, colouring)).filter((v): v is number => v !== null);
  if (values.length === 0) return null;
  return colouring === 'touches' ? values.reduce((a, b) => a + b, 0) : Math.max(...values);
}

/** The figure in words. */
export function sayValue(bin: PlanBinView, colouring: Colouring): string {
  if (colouring === 'touches') return `${bin.touches} ${bin.touches === 1 ? 'touch' : 'touches'}`;
  if (colouring === 'counted')
    return bin.counted === null ? 'never counted' : bin.counted === 0 ? 'counted today' : `counted ${bin.counted} days ago`;
  if (bin.fill !== null) return `${bin.fill} % full`;
  return bin.items === 0 ? 'empty' : `${bin.items} ${bin.items === 1 ? 'item' : 'items'}`;
}

/** The bay next to another in a direction, for walking the plan by keys: the nearest within the quarter that the arrow points to. */
export function bayBeside(bays: readonly BayView[], from: BayView, dx: number, dy: number): BayView {
  let best = from;
  let bestScore = Infinity;
  for (const bay of bays) {
    const [ahead, aside] = [
      (bay.x - from.x) * dx + (bay.y - from.y) * dy,
      Math.abs((bay.x - from.x) * dy) + Math.abs((bay.y - from.y) * dx),
    ];
    if (ahead <= 0 || aside > ahead) continue;
    const score = ahead + aside * 2;
    if (score < bestScore) [best, bestScore] = [bay, score];
  }
  return best;
}
