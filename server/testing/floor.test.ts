import 'fake-indexeddb/auto';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { randomUUID } from 'node:crypto';
import fc from 'fast-check';
import { COUNT_BEGINS, stepCount, type CountChoice } from '#core/counting';
import { meaningBy, type HandEvent } from '#core/floor';
import { stepMove, type MoveAt, type MoveChoice } from '#core/moves';
import { withCheckDigit } from '#core/items';
import { PICK_BEGINS, stepPick, stopsOf, type PickChoice } from '#core/picking';
import { RECEIVE_BEGINS, stepReceive, type ReceiveChoice } from '#core/receiving';
import type { ActIn } from '#contract/hands';
import type { Me } from '#contract/people';
import type { House } from '#server/kernel';
import { Floor, LineError, openKeep, type Line } from '#web/hands';
import { readFacts } from '../hands/facts.ts';
import { mergeActs } from '../hands/merge.ts';
import { openHand } from './hand.ts';
import { houseForTests } from './house.ts';

// Three handhelds, each with its own storage, against the real database: what is told is lost on the way, answered in vain, told twice,
// told again later out of its turn; pages crash between keeping and showing; the database breaks off what it is doing. At the end
// everybody has a connection.

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });
type Device = { id: string; name: string };
const devices: Device[] = [1, 2, 3].map((n) => ({ id: randomUUID(), name: `Property ${n}` }));
let people: Me[] = [];
const stage = {
  items: [] as { id: number; code: string }[],
  bins: [] as { id: number; address: string }[],
  delivery: 0,
  round: 0,
  count: 0,
  units: Array.from({ length: 40 }, (_, n) => withCheckDigit(`39520002${String(n).padStart(9, '0')}`)),
};

const one = async <Row>(sql: string, values: readonly unknown[] = []): Promise<Row> => {
  const [row] = await house.rows<Row>(sql, values);
  if (!row) throw new Error(`Nothing found by ${sql}`);
  return row;
};

beforeAll(async () => {
  const site = await one<{ id: number; name: string; timeZone: string }>(
    `SELECT id, name, time_zone AS "timeZone" FROM site WHERE id = ? `,
    [1],
  );
  people = (
    await house.rows<{ id: number; name: string; role: 'hand' }>(
      `SELECT id, name, role FROM person WHERE role = 'hand' ORDER BY id LIMIT 3`,
    )
  ).map((p) => ({ ...p, site, sites: [site] }) as unknown as Me);
  for (const d of devices) {
    await house.rows(`INSERT INTO device (id, name, secret_hash) VALUES (?, ?, '')`, [d.id, d.name]);
    await house.rows(`INSERT INTO device_person (device_id, person_id) SELECT ?, id FROM person WHERE role = 'hand'`, [d.id]);
  }
  await setStage();
}, 60_000);

/** A zone with six bins, three kinds of goods in them, a delivery that expects all three, a round that wants them, and a count of the
 *  zone. */
async function setStage(): Promise<void> {
  const zone = (await lead.ask('places.makeZone', { body: { site: 1, code: 'PROP', name: 'Property', purpose: 'storage' } as never }))
    .reply as { id: number };
  const zoneId = zone.id ?? (await one<{ id: number }>(`SELECT id FROM zone WHERE code = ?`, ['PROP'])).id;
  for (let n = 1; n <= 6; n += 1) {
    await lead.ask('places.makeBin', { body: { zone: zoneId, address: `PR-0${n}` } });
  }
  stage.bins = await house.rows(`SELECT id, address FROM bin WHERE zone_id = ? ORDER BY id`, [zoneId]);
  for (const [n, tracking] of (['none', 'none', 'lot'] as const).entries()) {
    const code = `PROP-${n + 1}`;
    const { id } = (await lead.ask('items.make', { body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking } }))
      .reply;
    stage.items.push({ id, code });
    const lines = stage.bins.slice(0, 3).map((b) => ({ bin: b.address, qty: '5000', ...(tracking === 'lot' ? { lot: 'PL-1' } : {}) }));
    await lead.ask('stock.opening', { params: { id }, body: { lines } } as never);
  }
  const supplier = await one<{ id: number }>(`SELECT id FROM supplier ORDER BY id LIMIT ?`, [1]);
  const order = await one<{ id: number; number: string }>(
    `INSERT INTO purchase_order (number, supplier_id, site_id, due) VALUES ('PO-90001', ?, 1, DATE '2030-01-01') RETURNING id, number`,
    [supplier.id],
  );
  for (const i of stage.items)
    await house.rows(`INSERT INTO purchase_line (purchase_order_id, item_id, qty) VALUES (?, ?, 100000)`, [order.id, i.id]);
  stage.delivery = (await lead.ask('receiving.start', { body: { purchaseOrder: order.number } })).reply.id;
  await setPallets(supplier.id);
  const customer = await one<{ id: number }>(`SELECT id FROM customer ORDER BY id LIMIT ?`, [1]);
  const co = (
    await lead.ask('orders.make', {
      body: { customer: customer.id, due: '2030-01-01', lines: stage.items.map((i) => ({ item: i.id, qty: '4000' })) },
    })
  ).reply;
  await lead.ask('orders.promise', { body: { orders: [co.id], mode: 'free' } });
  stage.round = (await lead.ask('picking.make', { body: { orders: [co.id] } })).reply.id;
  stage.count = (await lead.ask('counting.make', { body: { zone: zoneId } })).reply.id;
}

/** Cartons of three at the bins of the round, some of two kinds of goods. */
async function setPallets(supplier: number): Promise<void> {
  const hand = await openHand(lead, (await one<{ id: number }>(`SELECT id FROM person WHERE name = 'Maren Oake'`)).id);
  const { id: delivery } = (await lead.ask('receiving.start', { body: { supplier } })).reply;
  for (const sscc of stage.units) {
    const goods = [];
    for (const [n, item] of stage.items.entries()) {
      if (n === 1 || (n === 2 && Number(sscc.at(-2)) % 2 === 0)) continue;
      const pack = await one<{ id: number }>(`SELECT id FROM pack WHERE item_id = ?`, [item.id]);
      goods.push({ item: item.id, pack: pack.id, qty: 3000, lot: n === 2 ? 'PL-1' : null, expires: null, made: null, serial: null });
    }
    expect((await hand.tells({ kind: 'receive.unit', delivery, sscc, goods })).outcome).toBe('done');
  }
  expect((await lead.ask('receiving.post', { params: { id: delivery }, body: {} })).status).toBe(200);
  for (const [n, sscc] of stage.units.entries())
    expect((await lead.ask('moves.unit', { params: { sscc }, body: { to: stage.bins[n % 3]?.address ?? '' } })).status).toBe(200);
  // What was told for the stage is none of the acts that the property reckons.
  await house.rows(`DELETE FROM hand_act`);
}

/** What becomes of a request on its way. */
type Weather = 'fair' | 'cutBefore' | 'cutAfter' | 'twice' | 'later' | 'broken';
type Stale = { device: Device; carrier: number; sentAt: number; acts: readonly ActIn[] };

/** A line that goes straight into the house, through the weather. `stale`: requests that are delivered again some time later. */
function lineOf(device: Device, weather: { now: Weather }, stale: Stale[]): Line {
  const into: House = { db: house.db, outbox: { nudge: () => undefined } as never, demo: false, version: 'test' };
  return {
    acts: async (_site, { sentAt, acts }) => {
      if (weather.now === 'cutBefore') throw new LineError({ kind: 'away' });
      const told = {
        device,
        carrier: people[0]?.id ?? 0,
        sentAt,
        acts: acts.map(({ key, seq, after, person, site, doneAt, does }) => ({
          key,
          seq,
          after,
          person,
          site,
          doneAt,
          does: does as ActIn['does'],
        })),
      };
      if (weather.now === 'twice') {
        const [first] = await Promise.all([mergeActs(into, told), mergeActs(into, told)]);
        return { outcomes: first, now: Date.now() };
      }
      if (weather.now === 'later') stale.push(told);
      const merging = mergeActs(into, told);
      if (weather.now === 'broken')
        await house
          .rows(
            `SELECT pg_terminate_backend(pid)
             FROM pg_stat_activity
             WHERE datname = current_database() AND pid <> pg_backend_pid() AND query LIKE '%INSERT INTO%' AND state <> ?`,
            ['idle'],
          )
          .catch(() => undefined);
      const outcomes = await merging.catch(() => {
        throw new LineError({ kind: 'away' });
      });
      if (weather.now === 'cutAfter') throw new LineError({ kind: 'away' });
      return { outcomes, now: Date.now() };
    },
    facts: async (site, { since, kind, after }) => {
      if (weather.now === 'cutBefore') throw new LineError({ kind: 'away' });
      const facts = await readFacts(house.db, { site, since, kind, after: after ?? 0 });
      return { ...facts, now: Date.now(), today: '2026-11-26', trust: false };
    },
    greet: () => Promise.resolve({ device: device.id, name: device.name }),
    me: () => Promise.resolve(people[0] ?? null),
  };
}

type Hand = { floor: Floor; weather: { now: Weather }; person: number };

async function open(n: number, stale: Stale[], who = n): Promise<Hand> {
  const device = devices[n] as Device;
  const weather = { now: 'fair' as Weather };
  const floor = new Floor(await openKeep(`device-${device.id}`), lineOf(device, weather, stale));
  await floor.open();
  await floor.signedIn(people[who] as Me);
  await floor.workAt(1);
  return { floor, weather, person: people[who]?.id ?? 0 };
}

type Job = 'move' | 'receive' | 'pick' | 'count';
type Doing =
  | { do: 'scan'; job: Job; text: number }
  | { do: 'number'; job: Job; n: number }
  | { do: 'carton'; n: number }
  | { do: 'elsewhere'; bin: number }
  | { do: 'work'; job: Job; bin: number; to: number; item: number; n: number }
  | { do: 'undo'; job: Job }
  | { do: 'choose'; job: Job; choice: number }
  | { do: 'tell'; weather: Weather }
  | { do: 'take'; weather: Weather; keeps: boolean }
  | { do: 'crash' }
  | { do: 'colleague'; who: number }
  | { do: 'stale' };

const CHOICES: Readonly<Record<Job, readonly object[]>> = {
  move: [{ what: 'sure' }, { what: 'back' }, { what: 'lot', lot: 'PL-1' }],
  receive: [{ what: 'takeAnyway' }, { what: 'anotherLot' }, { what: 'sure' }, { what: 'goOn' }],
  pick: [{ what: 'lot' }, { what: 'noTrouble' }, { what: 'otherBin', reason: '' }],
  count: [{ what: 'add' }, { what: 'again' }, { what: 'verdict', verdict: 'none' }, { what: 'back' }, { what: 'anotherLot' }],
};

/** What a hand does in one go: the scans that belong together. */
function scriptOf(hand: Hand, d: Extract<Doing, { do: 'work' }>): readonly string[] {
  const [bin, to, item] = [stage.bins[d.bin]?.address ?? '', stage.bins[d.to]?.address ?? '', stage.items[d.item]?.code ?? ''];
  const lot = d.item === 2 ? ['PL-1'] : [];
  switch (d.job) {
    case 'move':
      return [bin, item, ...lot, `#${d.n}`, to];
    case 'receive':
      return [item, ...lot, `#${d.n}`];
    case 'count':
      return [bin, item, ...lot, `#${d.n}`];
    case 'pick': {
      const round = hand.floor.round(stage.round);
      const stop = round && stopsOf(round, hand.floor.facts).find((s) => s.open.length > 0);
      const code = hand.floor.facts.item(stop?.open[0]?.item ?? 0)?.code ?? '';
      return [stop?.bin.address ?? '', code];
    }
  }
}

/** The bin of the stop, and a carton that stands there. */
function cartonOf({ floor }: Hand, n: number): readonly string[] {
  const round = floor.round(stage.round);
  const stop = round && stopsOf(round, floor.facts).find((s) => s.open.length > 0);
  const here = stage.units.filter((sscc) => floor.facts.unit(sscc)?.bin === stop?.bin.id);
  return [stop?.bin.address ?? '', here[n % Math.max(1, here.length)] ?? ''];
}

/** A bin twice that is not the one of the stop, and the goods of the stop: one of those into which others move a few. */
function elsewhereOf({ floor }: Hand, bin: number): readonly string[] {
  const round = floor.round(stage.round);
  const stop = round && stopsOf(round, floor.facts).find((s) => s.open.length > 0);
  const address = stage.bins[bin]?.address ?? '';
  return [address, address, floor.facts.item(stop?.open[0]?.item ?? 0)?.code ?? ''];
}

async function happen(
  hand: Hand,
  job: Job,
  event: (texts: readonly string[]) => HandEvent<never> | { kind: 'text'; text: string },
): Promise<void> {
  const { floor } = hand;
  if (!floor.get().ready) return;
  const texts = [...stage.bins.map((b) => b.address), ...stage.items.map((i) => i.code), 'PL-1', 'PL-2', 'QUARANTINE', 'UNKNOWN-7'];
  const raw = event(texts);
  const at = (): HandEvent<never> => (raw.kind === 'text' ? { kind: 'scan', meaning: meaningBy(floor.facts, raw.text) } : raw);
  switch (job) {
    case 'move':
      await floor.step('moves/bin', { step: 'from' } as MoveAt, (where) =>
        stepMove(where, at() as HandEvent<MoveChoice>, { facts: floor.facts, source: 'bin', own: floor.ownMoves(hand.person) }),
      );
      return;
    case 'receive':
      await floor.step(`delivery:${stage.delivery}`, RECEIVE_BEGINS, (where, stamp) => {
        const it = floor.delivery(stage.delivery);
        return it ? stepReceive(where, at() as HandEvent<ReceiveChoice>, it, floor.facts, stamp) : { at: where, does: [] };
      });
      return;
    case 'pick':
      await floor.step(`round:${stage.round}`, PICK_BEGINS, (where, stamp) => {
        const it = floor.round(stage.round);
        return it ? stepPick(where, at() as HandEvent<PickChoice>, it, floor.facts, stamp) : { at: where, does: [] };
      });
      return;
    case 'count':
      await floor.step(`count:${stage.count}`, COUNT_BEGINS, (where, stamp) => {
        const it = floor.count(stage.count);
        return it ? stepCount(where, at() as HandEvent<CountChoice>, it, floor.facts, stamp) : { at: where, does: [] };
      });
  }
}

type Kept = {
  key: string;
  kind: string;
  outcome: string;
  does: Record<string, never> & {
    qty: number;
    item: number;
    from: number;
    to: number;
    bin: number;
    act: string;
    taken: string;
    entry: string;
    tally: string;
    count: number;
  };
  settled: boolean;
  pick_bin: number | null;
};
const balances = async (): Promise<Record<string, number>> =>
  Object.fromEntries(
    (
      await house.rows<{ k: string; qty: number }>(
        `SELECT b.item_id || '/' || b.bin_id AS k, sum(b.qty)::float AS qty FROM balance b WHERE b.item_id = ANY(?::int[]) GROUP BY 1`,
        [stage.items.map((i) => i.id)],
      )
    ).map((r) => [r.k, r.qty]),
  );
const entrySum = (): Promise<{ qty: number }> =>
  one(`SELECT coalesce(sum(qty), 0)::float AS qty FROM delivery_entry WHERE delivery_id = ? AND taken_out_at IS NULL`, [stage.delivery]);
const entriesNow = (): Promise<{ key: string; qty: number }[]> =>
  house.rows(`SELECT key, qty::float AS qty FROM delivery_entry WHERE delivery_id = ? AND taken_out_at IS NULL`, [stage.delivery]);
const entriesEver = async (): Promise<ReadonlySet<string>> =>
  new Set((await house.rows<{ key: string }>(`SELECT key FROM delivery_entry WHERE delivery_id = ?`, [stage.delivery])).map((e) => e.key));
const tallySum = (): Promise<{ qty: number }> =>
  one(`SELECT coalesce(sum(qty), 0)::float AS qty FROM tally WHERE count_id = ? AND taken_out_at IS NULL`, [stage.count]);

/** What the house must hold by a plain reckoning: every act that was done, once. */
function reckon(
  start: Record<string, number>,
  acts: readonly Kept[],
  cart: number,
  lastChange: ReadonlyMap<string, number> = new Map(),
  parted: ReadonlySet<string> = new Set(),
): { lying: Record<string, number>; entries: ReadonlyMap<string, number> } {
  const lying = { ...start };
  const move = (item: number, from: number, to: number, qty: number): void => {
    lying[`${item}/${from}`] = (lying[`${item}/${from}`] ?? 0) - qty;
    lying[`${item}/${to}`] = (lying[`${item}/${to}`] ?? 0) + qty;
  };
  const done = new Map(acts.filter((a) => a.outcome === 'done').map((a) => [a.key, a]));
  const entries = new Map<string, number>();
  for (const { key, kind, does } of done.values()) {
    if (kind === 'move.put') move(does.item, does.from, does.to, does.qty / 1000);
    if (kind === 'pick.take') move(does.item, does.bin, cart, does.qty / 1000);
    const undone = done.get(kind === 'move.undo' ? does.act : kind === 'pick.undo' ? does.taken : '');
    if (undone?.kind === 'move.put') move(undone.does.item, undone.does.to, undone.does.from, undone.does.qty / 1000);
    if (undone?.kind === 'pick.take') move(undone.does.item, cart, undone.does.bin, undone.does.qty / 1000);
    if (kind === 'receive.enter') entries.set(key, does.qty / 1000);
    // One person may change an entry from two devices at once: which came last only the delivery's lock knows.
    if (kind === 'receive.change' && entries.has(does.entry)) entries.set(does.entry, lastChange.get(does.entry) ?? does.qty / 1000);
    // So much of it goes into a bin: the part is an entry of its own, under the key of the act.
    const had = kind === 'receive.where' ? entries.get(does.entry) : undefined;
    const part = does.qty / 1000;
    if (had !== undefined && (lastChange.has(does.entry) ? parted.has(key) : part < had)) {
      entries.set(key, part);
      entries.set(does.entry, lastChange.get(does.entry) ?? had - part);
    }
    if (kind === 'receive.takeOut') entries.delete(does.entry);
  }
  return {
    lying: Object.fromEntries(Object.entries(lying).filter(([, qty]) => qty !== 0)),
    entries,
  };
}

const RUNS = Number(process.env['FLOOR_RUNS'] ?? 200);
const job = fc.constantFrom<Job>('move', 'receive', 'pick', 'count');
const weather = fc.constantFrom<Weather>('fair', 'cutBefore', 'cutAfter', 'twice', 'later', 'broken');
const doing: fc.Arbitrary<Doing> = fc.oneof(
  { weight: 10, arbitrary: fc.record({ do: fc.constant('scan' as const), job, text: fc.nat(12) }) },
  {
    weight: 24,
    arbitrary: fc.record({
      do: fc.constant('work' as const),
      job,
      bin: fc.nat(5),
      to: fc.nat(5),
      item: fc.nat(2),
      n: fc.integer({ min: 1, max: 40 }),
    }),
  },
  { weight: 8, arbitrary: fc.record({ do: fc.constant('number' as const), job, n: fc.integer({ min: 1, max: 9 }) }) },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('carton' as const), n: fc.nat(9) }) },
  { weight: 4, arbitrary: fc.record({ do: fc.constant('elsewhere' as const), bin: fc.integer({ min: 3, max: 5 }) }) },
  { weight: 4, arbitrary: fc.record({ do: fc.constant('undo' as const), job }) },
  { weight: 6, arbitrary: fc.record({ do: fc.constant('choose' as const), job, choice: fc.nat(4) }) },
  { weight: 6, arbitrary: fc.record({ do: fc.constant('tell' as const), weather }) },
  { weight: 3, arbitrary: fc.record({ do: fc.constant('take' as const), weather, keeps: fc.boolean() }) },
  { weight: 2, arbitrary: fc.constant({ do: 'crash' as const }) },
  { weight: 1, arbitrary: fc.record({ do: fc.constant('colleague' as const), who: fc.nat(2) }) },
  { weight: 2, arbitrary: fc.constant({ do: 'stale' as const }) },
);

describe('C18 J7 I1 the floor is merged exactly once', () => {
  it('whatever is lost, doubled, late or broken off: every act is done once or waits as a clash, and the ledger is their sum', async () => {
    const cart = (await one<{ cart_bin: number }>(`SELECT cart_bin FROM round WHERE id = ?`, [stage.round])).cart_bin;
    const stale: Stale[] = [];
    const hands = [await open(0, stale), await open(1, stale), await open(2, stale)];
    for (const h of hands) await h.floor.take();
    let clashes = 0;
    let acts = 0;
    const tell = async (n: number, how: Weather): Promise<void> => {
      const { floor, weather: over } = hands[n] as Hand;
      over.now = how;
      await floor.tell().catch((error: unknown) => {
        if (!(error instanceof LineError)) throw error;
      });
      over.now = 'fair';
    };
    const run = async (n: number, d: Doing): Promise<void> => {
      const hand = hands[n] as Hand;
      switch (d.do) {
        case 'scan':
          return happen(hand, d.job, (texts) => ({ kind: 'text', text: texts[d.text % texts.length] ?? '' }));
        case 'work':
          for (const text of scriptOf(hand, d))
            await happen(hand, d.job, () => (text.startsWith('#') ? { kind: 'number', text: text.slice(1) } : { kind: 'text', text }));
          return;
        case 'carton':
        case 'elsewhere': {
          const texts = d.do === 'carton' ? cartonOf(hand, d.n) : elsewhereOf(hand, d.bin);
          for (const text of texts) await happen(hand, 'pick', () => ({ kind: 'text', text }));
          return;
        }
        case 'number':
          return happen(hand, d.job, () => ({ kind: 'number', text: String(d.n) }));
        case 'undo':
          return happen(hand, d.job, () => ({ kind: 'undo' }));
        case 'choose':
          return happen(hand, d.job, () => ({ kind: 'choose', choice: CHOICES[d.job][d.choice % CHOICES[d.job].length] as never }));
        case 'tell':
          return tell(n, d.weather);
        case 'take':
          hand.weather.now = d.weather;
          // Not keeping it is what a tab does that is not the one that tells; a crash afterwards finds what was kept before.
          await hand.floor.take(d.keeps).catch(() => undefined);
          hand.weather.now = 'fair';
          return;
        case 'crash':
          // The page goes in the middle of whatever it was doing; only what was kept comes back.
          void hand.floor.tell().catch(() => undefined);
          hands[n] = await open(
            n,
            stale,
            people.findIndex((p) => p.id === hand.person),
          );
          return;
        case 'colleague':
          hand.person = people[d.who]?.id ?? 0;
          return hand.floor.signedIn(people[d.who] as Me);
        case 'stale': {
          const late = stale.shift();
          if (late) await mergeActs({ db: house.db, outbox: { nudge: () => undefined } as never, demo: false, version: 'test' }, late);
        }
      }
    };
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(fc.nat(2), doing), { minLength: 5, maxLength: 40 }), async (plan) => {
        const start = await balances();
        const before = new Set((await house.rows<{ key: string }>(`SELECT key FROM hand_act`)).map((r) => r.key));
        for (const [n, d] of plan) await run(n, d);
        // Everybody comes back to where there is a connection, and tells all that they hold, two of them at once.
        for (let round = 0; round < 12 && hands.some((h) => h.floor.get().waiting > 0); round += 1)
          await Promise.all([0, 1, 2].map((n) => tell(n, 'fair')));
        for (const late of stale.splice(0))
          await mergeActs({ db: house.db, outbox: { nudge: () => undefined } as never, demo: false, version: 'test' }, late);
        expect(hands.map((h) => h.floor.get().waiting)).toEqual([0, 0, 0]);
        const kept = (
          await house.rows<Kept>(
            `SELECT a.key, a.kind, a.outcome, a.does, c.settled_at IS NOT NULL AS settled,
               (c.key IS NOT NULL) = (a.outcome = 'clash') AS sound
             FROM hand_act a
             LEFT JOIN hand_clash c USING (key)
             ORDER BY a.told, a.device_id, a.seq`,
          )
        ).filter((a) => !before.has(a.key));
        expect(kept.every((a) => (a as unknown as { sound: boolean }).sound)).toBe(true);
        acts += kept.length;
        clashes += kept.filter((a) => a.outcome === 'clash').length;
        // What was undone or changed now may have been done in an earlier run: the reckoning is of all of them.
        const all = await house.rows<Kept>(
          `SELECT key, kind, outcome, does, told, device_id, seq FROM hand_act ORDER BY told, device_id, seq`,
        );
        const changed = await house.rows<{ key: string; qty: number; devices: number }>(
          `SELECT x.key, x.devices, (
             SELECT c.qty_now::float
             FROM entry_change c
             JOIN delivery_entry e ON e.id = c.entry_id
             WHERE e.key = x.key::uuid AND NOT c.taken_out
             ORDER BY c.id DESC
             LIMIT 1
           ) AS qty
           FROM (
             SELECT does->>'entry' AS key, count(DISTINCT device_id)::int AS devices
             FROM hand_act
             WHERE kind IN ('receive.change', 'receive.where') AND outcome = 'done'
             GROUP BY 1
           ) x`,
        );
        const lastChange = new Map(changed.filter((c) => c.devices > 1 && c.qty !== null).map((c) => [c.key, c.qty]));
        const entered = new Map((await entriesNow()).map((e) => [e.key, e.qty]));
        const [now, then] = [
          reckon({}, all, cart, lastChange, await entriesEver()),
          reckon(
            {},
            all.filter((a) => before.has(a.key)),
            cart,
          ),
        ];
        const expected: Record<string, number> = { ...start };
        for (const k of new Set([...Object.keys(now.lying), ...Object.keys(then.lying)])) {
          const qty = (start[k] ?? 0) + (now.lying[k] ?? 0) - (then.lying[k] ?? 0);
          if (qty === 0) delete expected[k];
          else expected[k] = qty;
        }
        expect(await balances()).toEqual(expected);
        // Each that is not as it was told, with all that was told of it.
        const wrong = [...new Set([...entered.keys(), ...now.entries.keys()])]
          .filter((key) => entered.get(key) !== now.entries.get(key))
          .map((key) => ({ is: entered.get(key), told: all.filter((a) => a.key === key || a.does.entry === key) }));
        expect(wrong).toEqual([]);
        for (const [n, h] of hands.entries()) {
          await h.floor.take();
          // What the device keeps is what the page shows, also for a page that is opened now without a connection.
          const opened = await open(
            n,
            stale,
            Math.max(
              0,
              people.findIndex((p) => p.id === h.person),
            ),
          );
          const byKey = (of: readonly { key: string }[] = []) => of.toSorted((a, b) => (a.key < b.key ? -1 : 1));
          expect(byKey(opened.floor.count(stage.count)?.tallies)).toEqual(byKey(h.floor.count(stage.count)?.tallies));
          expect(byKey(opened.floor.delivery(stage.delivery)?.entries)).toEqual(byKey(h.floor.delivery(stage.delivery)?.entries));
          const shown = h.floor.delivery(stage.delivery)?.entries.reduce((sum, e) => sum + e.qty, 0);
          expect(shown).toBe((await entrySum()).qty * 1000);
          expect(h.floor.count(stage.count)?.tallies.reduce((sum, t) => sum + t.qty, 0)).toBe((await tallySum()).qty * 1000);
        }
      }),
      { numRuns: RUNS, endOnFailure: true },
    );
    expect(acts).toBeGreaterThan(2 * RUNS);
    expect(clashes).toBeGreaterThan(0);
    const { cartons, elsewhere } = await one<{ cartons: number; elsewhere: number }>(
      `SELECT count(*) FILTER (WHERE does->>'sscc' IS NOT NULL)::int AS cartons,
         count(*) FILTER (WHERE kind = 'pick.elsewhere')::int AS elsewhere
       FROM hand_act
       WHERE outcome = 'done'`,
    );
    expect([cartons > 0, elsewhere > 0]).toEqual([true, true]);
    await house.expectCleanAudit();
  }, 600_000);
});
