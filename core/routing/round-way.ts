import { walkingDistances, type Cell, type WalkedFloor } from '#core/places';
import { metresOf, shortestWay } from './shortest-way.ts';

/** A bin at which a round stops. `walk` is its place in plain walking order. */
export type RoundBin = { readonly id: number; readonly zone: number; readonly address: string; readonly walk: number };
export type RoundWay = {
  /** The bins in the order in which they are met. */
  readonly bins: readonly number[];
  /** How far each of them is from the one before it, the first from where the cart begins; null where the plan cannot say. */
  readonly legs: readonly (number | null)[];
  /** How far that is, from the cart's place to the bench; null where the plan knows too little to say. */
  readonly metres: number | null;
  /** How far plain walking order would be. */
  readonly plain: number | null;
  /** Bins of the plan to which nobody gets: walled in, or against every lane. They stand at the end of the way. */
  readonly unreached: readonly number[];
};

const inWalkingOrder = (bins: readonly RoundBin[]): RoundBin[] => bins.toSorted((a, b) => a.walk - b.walk || a.id - b.id);

/** The way of a round over its bins on the plan of its site (G2).
 *  Shape:  from where the cart begins to the bench where it ends; without a place for the cart it begins at the bench. Bins that the plan
 *          does not know stand where plain walking order has them: after the bin before them. Without a bench on the plan, or with fewer
 *          than two bins that it knows, the way is plain walking order.
 *  Units:  metres. */
export function wayOfRound(
  { grid, placeOf }: WalkedFloor,
  round: {
    readonly cart: Omit<RoundBin, 'walk'> | null;
    readonly bench: Omit<RoundBin, 'walk'> | null;
    readonly bins: readonly RoundBin[];
  },
): RoundWay {
  const bins = inWalkingOrder(round.bins);
  const bench = round.bench && placeOf(round.bench);
  const known = bins.flatMap((bin) => {
    const cell = placeOf(bin);
    return cell ? [{ bin, cell }] : [];
  });
  const plainWay: RoundWay = { bins: bins.map((b) => b.id), legs: bins.map(() => null), metres: null, plain: null, unreached: [] };
  if (!bench || known.length === 0) return plainWay;
  const begin: Cell = (round.cart && placeOf(round.cart)) ?? bench;
  const metres = walkingDistances(grid, [...known.map((k) => k.cell), begin, bench]);
  const walk = { from: known.length, to: known.length + 1, stops: known.map((_, i) => i) };
  const way = shortestWay(metres, walk);
  const idOf = (stop: number): number => known[stop]?.bin.id ?? 0;
  const reached = new Set(way.order);
  const order = [...way.order.map(idOf), ...way.unreached.map(idOf)];
  // What the plan does not know is met after the bin before it in walking order.
  for (const [i, bin] of bins.entries()) {
    if (order.includes(bin.id)) continue;
    const before = bins[i - 1];
    order.splice(before ? order.indexOf(before.id) + 1 : 0, 0, bin.id);
  }
  const plain = metresOf(metres, { ...walk, stops: walk.stops.filter((s) => reached.has(s)) });
  const isMeasured = (n: number | undefined): number | null => (n !== undefined && Number.isFinite(n) ? n : null);
  const stopOf = new Map(known.map((k, i) => [k.bin.id, i]));
  const legs = order.map((id, i) => {
    const [from, to] = [i === 0 ? walk.from : stopOf.get(order[i - 1] ?? 0), stopOf.get(id)];
    return from === undefined || to === undefined ? null : isMeasured(metres[from]?.[to]);
  });
  return { bins: order, legs, metres: isMeasured(way.metres), plain: isMeasured(plain), unreached: way.unreached.map(idOf) };
}
