import { pathOver, type Cell } from '#core/places';
import type { ReplyOf, Routes } from '#contract';
import type { Db } from '#server/kernel';
import { readFloor } from '#server/places';
import { findRound, selectWay, selectWayPlaces } from './store-rounds.ts';
import { selectPicks } from './store-picks.ts';
import { byWay } from '#core/picking';

type RoundMap = ReplyOf<Routes['picking.map']>;
const MOST_KEPT = 40;
// A way is walked over the plan once, however often somebody looks at it: by the round, its stops in their order, and the floor.
const kept = new WeakMap<object, Map<string, RoundMap>>();

/** The way of a round on the plan of its site (G2, A10): where one stands at each stop, and the path over them from the cart to the bench.
 *  Errors: `picking.unknownRound`. */
export async function readRoundMap(db: Pick<Db, 'raw'>, id: number): Promise<RoundMap> {
  const round = await findRound(db, id);
  // Kits that were made on the cart are no stop.
  const picks = (await selectPicks(db, id)).filter((p) => p.bin !== round.cart_bin);
  const bins = [...new Map(picks.map((p) => [p.bin, { id: p.bin, walk: p.walk }])).values()];
  const { way } = await selectWay(db, id);
  const order = byWay(bins, way).map((b) => b.id);
  const floor = await readFloor(db, round.site_id);
  const maps = kept.get(floor) ?? new Map<string, RoundMap>();
  kept.set(floor, maps);
  const key = `${id} ${order.join()}`;
  const known = maps.get(key);
  if (known) return known;
  const places = await selectWayPlaces(db, { site: round.site_id, cart: round.cart_bin, bins: order });
  const cellOf = (bin: { zone: number; address: string } | null): Cell | null => (bin ? floor.placeOf(bin) : null);
  const bench = cellOf(places.bench);
  const stops = order.flatMap((bin) => {
    const cell = cellOf(places.bins.find((b) => b.id === bin) ?? null);
    return cell ? [{ bin, ...cell }] : [];
  });
  const begin = cellOf(places.cart) ?? bench;
  const walked = [...(begin ? [begin] : []), ...stops.map(({ x, y }) => ({ x, y })), ...(bench ? [bench] : [])];
  const map: RoundMap = { plan: floor.grid.plan as RoundMap['plan'], parts: pathOver(floor.grid, walked).map((p) => [...p]), stops, bench };
  const [oldest] = maps.keys();
  if (maps.size >= MOST_KEPT && oldest !== undefined) maps.delete(oldest);
  maps.set(key, map);
  return map;
}
