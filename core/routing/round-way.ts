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

export type CarryWay = {
  /** The bins where something is taken, and those where something is put, each in the order in which they are met. */
  readonly takes: readonly number[];
  readonly puts: readonly number[];
  /** How far each is from the one before it; the first put from the last take. */
  readonly takeLegs: readonly (number | null)[];
  readonly putLegs: readonly (number | null)[];
  readonly metres: number | null;
  readonly plain: number | null;
  readonly unreached: readonly number[];
};

// Longer than any walk, and shorter than what has no way: whoever went back to take more would pay it twice.
const TOLL = 100_000;

/** The way of a round that takes goods at some bins and puts them into others (I2, I5): everything is taken before anything is put.
 *  Shape:  from where it begins and back to there, as a cart does. One search for both halves: a step from a bin where something is put to
 *          one where something is taken costs a toll that no shortest way pays. A bin may be both. Else as `wayOfRound`.
 *  Units:  metres. */
export function wayOfCarry(
  { grid, placeOf }: WalkedFloor,
  walk: { readonly home: Omit<RoundBin, 'walk'> | null; readonly takes: readonly RoundBin[]; readonly puts: readonly RoundBin[] },
): CarryWay {
  const stops = [
    ...inWalkingOrder(walk.takes).map((bin) => ({ bin, isPut: false })),
    ...inWalkingOrder(walk.puts).map((bin) => ({ bin, isPut: true })),
  ];
  const home = walk.home && placeOf(walk.home);
  const known = stops.flatMap((stop) => {
    const cell = placeOf(stop.bin);
    return cell ? [{ ...stop, cell }] : [];
  });
  if (!home || known.length === 0)
    return {
      takes: stops.filter((s) => !s.isPut).map((s) => s.bin.id),
      puts: stops.filter((s) => s.isPut).map((s) => s.bin.id),
      takeLegs: walk.takes.map(() => null),
      putLegs: walk.puts.map(() => null),
      metres: null,
      plain: null,
      unreached: [],
    };
  const metres = walkingDistances(grid, [...known.map((k) => k.cell), home]);
  const isPut = (place: number): boolean => known[place]?.isPut ?? false;
  const begins = known.some((k) => !k.isPut);
  const tolled = metres.map((row, from) =>
    row.map(
      (far, to) => far + (to < known.length && !isPut(to) && isPut(from) ? TOLL : begins && from === known.length && isPut(to) ? TOLL : 0),
    ),
  );
  const places = { from: known.length, to: known.length, stops: known.map((_, i) => i) };
  const way = shortestWay(tolled, places);
  const order = [...way.order, ...way.unreached];
  const walked = order.flatMap((n) => known[n] ?? []);
  const all = [false, true].flatMap((put) => {
    const met = walked.filter((k) => k.isPut === put).map((k) => k.bin.id);
    // What the plan does not know is met after the bin before it in walking order.
    const own = stops.filter((s) => s.isPut === put);
    for (const [i, { bin }] of own.entries()) {
      if (met.includes(bin.id)) continue;
      const before = own[i - 1];
      met.splice(before ? met.indexOf(before.bin.id) + 1 : 0, 0, bin.id);
    }
    return met.map((id) => ({ id, put }));
  });
  const placeOfStop = (stop: { id: number; put: boolean } | undefined): number =>
    stop === undefined ? known.length : known.findIndex((k) => k.bin.id === stop.id && k.isPut === stop.put);
  const legs = all.map((stop, i) => {
    const [from, to] = [placeOfStop(all[i - 1]), placeOfStop(stop)];
    const far = metres[from]?.[to];
    return far !== undefined && Number.isFinite(far) ? far : null;
  });
  const sum = (order: readonly number[]): number | null => {
    const far = metresOf(metres, { ...places, stops: order });
    return Number.isFinite(far) ? far : null;
  };
  const many = all.filter((s) => !s.put).length;
  return {
    takes: all.slice(0, many).map((s) => s.id),
    puts: all.slice(many).map((s) => s.id),
    takeLegs: legs.slice(0, many),
    putLegs: legs.slice(many),
    metres: sum(way.order),
    plain: sum(places.stops.filter((s) => way.order.includes(s))),
    unreached: way.unreached.flatMap((n) => known[n]?.bin.id ?? []),
  };
}
