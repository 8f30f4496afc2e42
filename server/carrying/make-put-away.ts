import { sumQty, type BinId, type ItemId, type LotId, type Qty } from '#core/base';
import { PUT_AWAY_WHY } from '#core/moves';
import { wayOfCarry } from '#core/routing';
import type { Condition } from '#core/stock';
import { asQty, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { suggestBins, type Homeless } from '#server/moves';
import { readFloor } from '#server/places';
import { lockStock } from '#server/stock';
import { insertCarry, selectWayBins, type NewTask } from './store.ts';

type Thing = {
  readonly bin: number;
  readonly item: number;
  readonly lot: string | null;
  readonly serial: string | null;
  readonly condition: string;
  readonly sscc: string | null;
};
type LyingRow = {
  bin: BinId;
  walk: number;
  item: ItemId;
  lot_id: LotId | null;
  lot: string | null;
  serial_id: number | null;
  serial: string | null;
  unit_id: number | null;
  sscc: string | null;
  condition: Condition;
  qty: string;
  planned: string;
};

/** Makes one walk of what lies at arrivals (I2): the shortest way through the bins where it best goes, beginning and ending at arrivals.
 *  Shape:  `only`: these things; else all that no other round is on its way for. Each thing goes where `suggestBins` says, with what the
 *          round and others bring there reckoned in. `homeless`: things for which no bin has room; they stay.
 *  Errors: `carrying.nothingToPutAway`.
 *  Locks:  the items at the site: two people who make rounds of the same goods take turns. */
export async function makePutAwayRound(
  trx: Trx,
  command: { site: number; siteName: string; person: number; takenBy: number | null; only?: readonly Thing[] | undefined },
): Promise<{ id: number; number: string; lines: number; homeless: number }> {
  const { site } = command;
  const there = await selectLyingAtArrivals(trx, site);
  await lockStock(
    trx,
    [...new Set(there.map((t) => t.item))].map((item) => ({ item, site })),
  );
  // Once more, now that nobody else can plan it.
  const lying = (await selectLyingAtArrivals(trx, site)).filter((l) => command.only?.some((o) => isIt(o, l)) ?? true);
  const things = thingsOf(lying);
  const goods = things.map((t): Homeless => ({ item: t.item, lot: t.lot, qty: t.qty, walk: t.walk }));
  const suggestions = await suggestBins(trx, site, goods);
  const tasks = things.flatMap((t, n): NewTask[] => {
    const to = suggestions[n];
    return to && (to.bin as number) !== t.from ? [{ ...t, to: to.bin, why: PUT_AWAY_WHY[to.why] }] : [];
  });
  if (tasks.length === 0) return refuse({ code: 'carrying.nothingToPutAway', site: command.siteName });
  const froms = new Set(tasks.map((t) => t.from));
  const bins = await selectWayBins(trx, [...new Set([...froms, ...tasks.map((t) => t.to)])]);
  const way = wayOfCarry(await readFloor(trx, site), {
    home: bins.find((b) => froms.has(b.id)) ?? null,
    takes: [],
    puts: bins.filter((b) => tasks.some((t) => t.to === b.id)),
  });
  const document = await makeDocument(trx, 'carry', { site, person: command.person });
  const id = await insertCarry(trx, {
    ...{ kind: 'putAway', number: document.number, document: document.id, site, cart: null, walker: command.takenBy },
    ...{ person: command.person, tasks, way },
  });
  return { id, number: document.number, lines: tasks.length, homeless: things.length - tasks.length };
}

const isIt = (o: Thing, l: LyingRow): boolean =>
  o.sscc !== null
    ? o.sscc === l.sscc
    : l.sscc === null && o.bin === l.bin && o.item === l.item && o.lot === l.lot && o.serial === l.serial && o.condition === l.condition;

type ThingRow = Omit<NewTask, 'to' | 'why' | 'item' | 'lot'> & { item: ItemId; lot: LotId | null; walk: number };

// A unit is one thing, named by the goods of which most is in it; loose goods are one thing of a lot and condition, less what rounds fetch.
function thingsOf(lying: readonly LyingRow[]): ThingRow[] {
  const loose = lying
    .filter((l) => l.unit_id === null)
    .map((l) => ({ ...thingOf(l), qty: (asQty(l.qty) - asQty(l.planned)) as Qty }))
    .filter((t) => t.qty > 0);
  const units = [...new Set(lying.flatMap((l) => l.unit_id ?? []))].map((unit) => {
    const own = lying.filter((l) => l.unit_id === unit);
    const sumOf = (item: number): number => sumQty(own.filter((l) => l.item === item).map((l) => asQty(l.qty)));
    const most = own.reduce((best, l) => (sumOf(l.item) > sumOf(best.item) ? l : best));
    return { ...thingOf(most), serial: null, qty: sumQty(own.map((l) => asQty(l.qty))) };
  });
  return [...units, ...loose];
}

const thingOf = (l: LyingRow): Omit<ThingRow, 'qty'> => ({
  item: l.item,
  from: l.bin,
  lot: l.lot_id,
  serial: l.serial_id,
  unit: l.unit_id,
  condition: l.condition,
  walk: l.walk,
});

/** What lies at the arrivals of a site and no other put-away round has, with what rounds that go from the dock to the bench fetch of it. */
async function selectLyingAtArrivals(trx: Trx, site: number): Promise<LyingRow[]> {
  return query<LyingRow>(
    trx,
    `SELECT f.bin_id AS bin, f.walk, f.item_id AS item, f.lot_id, f.lot, f.serial_id, f.serial, f.unit_id, u.sscc, f.condition, f.qty,
       coalesce((
         SELECT sum(k.qty - k.picked)
         FROM round_pick k
         JOIN round r ON r.id = k.round_id AND r.state = 'open'
         WHERE f.condition = 'sound' AND f.serial_id IS NULL AND k.bin_id = f.bin_id AND k.item_id = f.item_id
           AND k.lot_id IS NOT DISTINCT FROM f.lot_id AND k.qty > k.picked), 0)
       + coalesce((
         SELECT sum(t.to_fetch)
         FROM carry_open_task t
         WHERE t.from_bin = f.bin_id AND t.item_id = f.item_id AND t.lot_id IS NOT DISTINCT FROM f.lot_id
           AND t.serial_id IS NOT DISTINCT FROM f.serial_id AND t.condition = f.condition AND t.unit_id IS NULL), 0) AS planned
     FROM stock_fact f
     LEFT JOIN logistic_unit u ON u.id = f.unit_id
     WHERE f.site_id = ? AND f.use = 'arrivals' AND f.qty > 0
       AND NOT EXISTS (SELECT 1 FROM carry_open_task t WHERE t.unit_id = f.unit_id AND t.to_fetch > 0)
     ORDER BY f.item_id, f.bin_id, f.lot_id, f.serial_id
     LIMIT 300`,
    [site],
  );
}
