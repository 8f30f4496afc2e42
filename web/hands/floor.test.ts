import 'fake-indexeddb/auto';
import { describe, expect, it } from '@jest/globals';
import { openDB } from 'idb';
import { qty } from '#core/base';
import { meaningBy } from '#core/floor';
import { stepMove, type MoveAt } from '#core/moves';
import { decideBegin, RECEIVE_BEGINS, stepReceive, type DeliveryRef } from '#core/receiving';
import type { FactPart } from '#contract/hands';
import type { Me } from '#contract/people';
import { Courier } from './courier.ts';
import { Floor } from './floor.ts';
import { openKeep, type Keep } from './keep.ts';
import { PROGRAM, type KeptAct } from './kept.ts';
import { LineError, type FactsAnswer, type Line } from './line.ts';

const ME = { id: 7, name: 'A hand', role: 'hand', site: { id: 1, name: 'Yard', timeZone: 'Europe/London' }, sites: [] } as unknown as Me;
const part = (kind: FactPart['kind'], ...rows: unknown[][]): FactPart => ({ kind, rows, gone: [] });
const ITEM = [1, 'JAR-1', 'A jar', 'each', 0, 'none', 'dry', 0, 0, [[10, 'each', 1000, ['952000000011']]], []];
const bin = (id: number, address: string): unknown[] => [
  id,
  address,
  [],
  'Store',
  'storage',
  'shelf',
  true,
  id,
  false,
  false,
  null,
  null,
  null,
  null,
];
const deliveryRow = (id: number, keys: string[] = []): unknown[] => [
  id,
  `DL-${id}`,
  'scanning',
  2,
  '2026-11-26T08:00:00Z',
  [9],
  keys,
  '',
  null,
];
const FIRST = [
  part('item', ITEM),
  part('bin', bin(101, 'A-01'), bin(102, 'A-02')),
  part('balance', [1, 101, 1, null, null, null, 'sound', 9000]),
  part('supplier', [2, 'A supplier']),
  part('purchaseOrder', [9, 'PO-5', 2, '2026-11-30', [[1, 25_000, 0]]]),
  part('delivery', deliveryRow(5)),
];

/** A house with a scripted tongue: what it answers next is put into it. */
function scripted() {
  const said = {
    told: [] as KeptAct[][],
    away: false,
    revision: 1,
    parts: FIRST as FactPart[],
    outcome: (_: KeptAct): 'done' | 'failed' | 'clash' => 'done',
  };
  const answer = (parts: FactPart[]): FactsAnswer => ({
    revision: String(said.revision),
    parts,
    next: null,
    reset: false,
    now: Date.now(),
    today: '2026-11-26',
    trust: false,
    onlyLotsThatRead: false,
  });
  const line: Line = {
    acts: (_site, { acts }) => {
      if (said.away) return Promise.reject(new LineError({ kind: 'away' }));
      said.told.push([...acts]);
      const outcomes = acts.map((a) => ({
        key: a.key,
        outcome: said.outcome(a),
        says: said.outcome(a) === 'clash' ? 'It is not so.' : null,
      }));
      return Promise.resolve({ outcomes, now: Date.now() });
    },
    facts: () => (said.away ? Promise.reject(new LineError({ kind: 'away' })) : Promise.resolve(answer(said.parts))),
    greet: () => (said.away ? Promise.reject(new LineError({ kind: 'away' })) : Promise.resolve({ device: 'd', name: 'Handheld 1' })),
    me: () => Promise.resolve(ME),
  };
  return { said, line };
}

let made = 0;
async function opened(keep: Keep, line: Line): Promise<Floor> {
  const floor = new Floor(keep, line);
  await floor.open();
  await floor.signedIn(ME);
  await floor.workAt(1);
  return floor;
}
const newKeep = (): Promise<Keep> => openKeep(`floor-test-${(made += 1)}`);
const receive = (floor: Floor, text: string, ref: DeliveryRef = 5) =>
  floor.step(`delivery:${ref}`, RECEIVE_BEGINS, (at, stamp) => {
    const job = floor.delivery(ref);
    if (!job) throw new Error('The delivery is not there.');
    return stepReceive(at, { kind: 'scan', meaning: meaningBy(floor.facts, text) }, job, floor.facts, stamp);
  });
const carry = async (floor: Floor, ...texts: string[]): Promise<void> => {
  for (const text of texts)
    await floor.step('moves/bin', { step: 'from' } as MoveAt, (at) =>
      stepMove(at, { kind: 'scan', meaning: meaningBy(floor.facts, text) }, { facts: floor.facts, source: 'bin', own: [] }),
    );
};
const arrived = (floor: Floor): number => floor.delivery(5)?.entries.reduce((sum, e) => sum + e.qty, 0) ?? -1;
const lying = (floor: Floor, id: number): number => floor.facts.contents(id).reduce((sum, c) => sum + c.qty, 0);

describe('C18 the floor on one device', () => {
  it('a reload without a server shows the very work, and where the hand stood', async () => {
    const keep = await newKeep();
    const { said, line } = scripted();
    const before = await opened(keep, line);
    await before.take();
    said.away = true;
    await receive(before, 'JAR-1');
    await receive(before, 'JAR-1');
    await carry(before, 'A-01', 'JAR-1');
    const after = await opened(keep, line);
    expect(after.get()).toMatchObject({ ready: true, waiting: 2 });
    expect(arrived(after)).toBe(2000);
    expect(after.at('moves/bin', null)).toMatchObject({ step: 'to', hand: { qty: qty(1000) } });
    await carry(after, 'A-02');
    expect([lying(after, 101), lying(after, 102)]).toEqual([8000, 1000]);
  });
  it('C1 a delivery is begun without a connection; it stays one when the house knows it, where a colleague began it too', async () => {
    const keep = await newKeep();
    const { said, line } = scripted();
    const before = await opened(keep, line);
    said.parts = FIRST.filter((p) => p.kind !== 'delivery');
    await before.take();
    said.away = true;
    const { does } = await before.step('deliveries', null, (at, stamp) => {
      const begun = decideBegin({ supplier: null, orders: [9] }, before.purchaseOrders(), stamp.key);
      if (!begun.ok) throw new Error(begun.error.code);
      return { at, does: [begun.value] };
    });
    const ref = does[0]?.delivery ?? '';
    await receive(before, 'JAR-1', ref);
    const floor = await opened(keep, line);
    expect(floor.deliveries()).toEqual([ref]);
    expect(floor.delivery(ref)).toMatchObject({ number: null, supplier: 'A supplier', orders: ['PO-5'], lines: [{ expected: 25_000 }] });
    said.away = false;
    await floor.tell();
    // The acts are told, the facts are older: it is still there, with the scan.
    expect(floor.delivery(ref)?.entries).toHaveLength(1);
    const [told] = said.told;
    const key = told?.[1]?.key ?? '';
    expect([floor.doneHere(key)?.kind, floor.doneHere('11111111-1111-4111-8111-111111111111')]).toEqual(['receive.enter', undefined]);
    said.parts = [
      part('delivery', deliveryRow(12, ['11111111-1111-4111-8111-111111111111', ref])),
      part('entry', [1, 12, key, 1, 1000, null, null, null, 7, '2026-11-26T08:00:00Z', false, null]),
    ];
    await floor.take();
    expect(floor.deliveries()).toEqual([ref]);
    expect(floor.delivery(ref)).toMatchObject({ number: 'DL-12', orders: ['PO-5'] });
    await receive(floor, 'JAR-1', ref);
    await receive(floor, 'JAR-1', 12);
    for (const name of [ref, 12, '11111111-1111-4111-8111-111111111111'])
      expect(floor.delivery(name)?.entries.reduce((sum, e) => sum + e.qty, 0)).toBe(3000);
    said.parts = [{ kind: 'delivery', rows: [], gone: [12] }];
    await floor.tell();
    await floor.take();
    expect([floor.delivery(ref), floor.delivery(12), floor.deliveries()]).toEqual([undefined, undefined, []]);
  });
  it('what was told is folded until the facts have it, and then no more: it is never seen twice, nor not at all', async () => {
    const keep = await newKeep();
    const { said, line } = scripted();
    const floor = await opened(keep, line);
    await floor.take();
    await carry(floor, 'A-01', 'JAR-1', 'A-02');
    const seen = [lying(floor, 102)];
    await floor.tell();
    seen.push(lying(floor, 102));
    said.parts = [part('balance', [1, 101, 1, null, null, null, 'sound', 8000], [2, 102, 1, null, null, null, 'sound', 1000])];
    said.revision = 2;
    await floor.take();
    seen.push(lying(floor, 102), lying(await opened(keep, line), 102));
    expect(seen).toEqual([1000, 1000, 1000, 1000]);
    expect(floor.ownMoves(7)).toHaveLength(1);
  });
  it('says that there is no connection, whatever it tries first', async () => {
    const { said, line } = scripted();
    const floor = await opened(await newKeep(), line);
    await floor.take();
    expect(floor.get().fault).toBeNull();
    for (const tried of [() => floor.greet(), () => receive(floor, 'JAR-1').then(() => floor.tell()), () => floor.take()]) {
      said.away = true;
      await expect(tried()).rejects.toBeInstanceOf(LineError);
      expect(floor.get().fault).toEqual({ kind: 'away' });
      said.away = false;
      await floor.take();
      expect(floor.get().fault).toBeNull();
    }
  });
  it('asked twice at once, it knows the newer answer afterwards, whichever comes first', async () => {
    const { said, line } = scripted();
    const waiting: (() => void)[] = [];
    let isSlow = false;
    const slow: Line = {
      ...line,
      facts: async (site, asked) => {
        // What it says is as of the moment at which it was asked.
        said.revision += 1;
        said.parts = said.revision > 2 ? [part('balance', [1, 101, 1, null, null, null, 'sound', said.revision * 1000])] : FIRST;
        const answer = await line.facts(site, asked);
        if (isSlow) await new Promise<void>((resolve) => waiting.push(resolve));
        return answer;
      },
    };
    const floor = await opened(await newKeep(), slow);
    await floor.take();
    isSlow = true;
    const both = [floor.take(), floor.take()];
    let ended = false;
    void Promise.all(both).then(() => (ended = true));
    while (!ended) {
      await new Promise((resolve) => setImmediate(resolve));
      waiting.pop()?.();
    }
    expect(lying(floor, 101)).toBe(4000);
    expect(floor.get().taken?.revision).toBe('4');
  });
  it('an answer that was lost, a failure and a session that ran out drop nothing; a clash is shown until it is seen', async () => {
    const { said, line } = scripted();
    const floor = await opened(await newKeep(), line);
    await floor.take();
    await receive(floor, 'JAR-1');
    said.away = true;
    await expect(floor.tell()).rejects.toThrow(LineError);
    expect(floor.get()).toMatchObject({ waiting: 1, fault: { kind: 'away' } });
    said.away = false;
    said.outcome = () => 'failed';
    expect(await floor.tell()).toBe(0);
    expect(floor.get().waiting).toBe(1);
    said.outcome = () => 'clash';
    await floor.tell();
    const [clash] = floor.get().clashes;
    expect(clash?.says).toBe('It is not so.');
    await floor.seen(clash?.key ?? '');
    expect(floor.get()).toMatchObject({ waiting: 0, clashes: [] });
    expect(new Set(said.told.flat().map((a) => a.key)).size).toBe(1);
  });
  it('acts of one job name each other in their order; a colleague’s are under the colleague’s name', async () => {
    const { said, line } = scripted();
    const floor = await opened(await newKeep(), line);
    await floor.take();
    await receive(floor, 'JAR-1');
    await floor.signedIn({ ...ME, id: 8 });
    await receive(floor, 'JAR-1');
    await carry(floor, 'A-01', 'JAR-1', 'A-02');
    await floor.tell();
    const [first, second, third] = said.told[0] ?? [];
    expect([first?.person, second?.person]).toEqual([7, 8]);
    expect([first?.after, second?.after, third?.after]).toEqual([null, first?.key, null]);
    expect([first?.seq, second?.seq, third?.seq]).toEqual([1, 2, 3]);
  });
  it('storage that is full: the scan is refused and nothing of it is shown; what was kept before stays', async () => {
    const keep = await newKeep();
    const { line } = scripted();
    let full = false;
    const tight: Keep = {
      ...keep,
      done: (acts, at) => (full ? Promise.reject(new DOMException('full', 'QuotaExceededError')) : keep.done(acts, at)),
    };
    const floor = await opened(tight, line);
    await floor.take();
    await receive(floor, 'JAR-1');
    full = true;
    await expect(receive(floor, 'JAR-1')).rejects.toThrow('full');
    expect([arrived(floor), floor.get().waiting]).toEqual([1000, 1]);
    full = false;
    await receive(floor, 'JAR-1');
    expect(arrived(await opened(keep, line))).toBe(2000);
  });
  it('storage that is full: what waits is told all the same, to a page that was opened anew, and once', async () => {
    const name = `floor-test-${(made += 1)}`;
    const { said, line } = scripted();
    const before = await opened(await openKeep(name), line);
    await before.take();
    await receive(before, 'JAR-1');
    const keep = await openKeep(name);
    const fullNow = () => Promise.reject(new DOMException('full', 'QuotaExceededError'));
    const after = await opened({ ...keep, done: fullNow, change: fullNow, meta: fullNow, takeFacts: fullNow }, line);
    expect(after.get()).toMatchObject({ ready: true, waiting: 1 });
    await after.tell();
    expect([said.told.length, after.get().waiting]).toEqual([1, 0]);
    await after.take();
    expect(after.get().fault).toBeNull();
    // The device could not note that it was told: opened again, it tells it again, under the same key.
    const again = await opened(await openKeep(name), line);
    expect(again.get().waiting).toBe(1);
    await again.tell();
    expect(said.told[1]?.[0]?.key).toBe(said.told[0]?.[0]?.key);
  });
  it('a new program sends what an older one wrote, and goes on with nothing that it does not understand', async () => {
    const name = `floor-test-${(made += 1)}`;
    const { said, line } = scripted();
    const before = await opened(await openKeep(name), line);
    await before.take();
    await receive(before, 'JAR-1');
    await carry(before, 'A-01', 'JAR-1');
    // The older program wrote all of that in words of its own.
    const db = await openDB(name);
    const tx = db.transaction(['acts', 'ats', 'meta', 'taken'], 'readwrite');
    const [[act], meta, taken] = await Promise.all([
      tx.objectStore('acts').getAll(),
      tx.objectStore('meta').get('meta'),
      tx.objectStore('taken').get(1),
    ]);
    await Promise.all([
      tx.objectStore('acts').put({ ...act, program: 'old', does: { kind: 'receive.scan', goods: 'JAR-1' } }),
      tx.objectStore('ats').put({ nobody: 'knows' }, '1/moves/bin'),
      tx.objectStore('meta').put({ ...meta, program: 'old' }, 'meta'),
      tx.objectStore('taken').put({ ...taken, program: 'old' }, 1),
      tx.done,
    ]);
    db.close();
    const after = await opened(await openKeep(name), line);
    expect(after.get()).toMatchObject({ ready: false, waiting: 1 });
    expect(after.waitingActs()).toMatchObject([{ words: expect.stringContaining('earlier version') }]);
    expect(after.at('moves/bin', 'at the beginning')).toBe('at the beginning');
    await after.take();
    expect(arrived(after)).toBe(0);
    await after.tell();
    expect(said.told.at(-1)).toMatchObject([{ does: { kind: 'receive.scan' } }]);
    // From now on it is this program's own; another opening asks for nothing anew.
    await receive(after, 'JAR-1');
    const again = await opened(await openKeep(name), line);
    expect(again.get().ready).toBe(true);
    expect(arrived(again)).toBe(1000);
    expect(PROGRAM).not.toBe('old');
  });
  it('a browser that keeps nothing says so, and works as long as the page lasts', async () => {
    const { said, line } = scripted();
    const real = globalThis.indexedDB;
    Object.defineProperty(globalThis, 'indexedDB', {
      value: {
        open: () => {
          throw new Error('not here');
        },
      },
      configurable: true,
    });
    const keep = await openKeep('never');
    Object.defineProperty(globalThis, 'indexedDB', { value: real, configurable: true });
    const floor = await opened(keep, line);
    expect(floor.get().lasting).toBe(false);
    await floor.take();
    await receive(floor, 'JAR-1');
    await floor.tell();
    expect(said.told[0]).toHaveLength(1);
    expect(arrived(floor)).toBe(1000);
  });
  it('two tabs: the older reading of one never overwrites what the other kept', async () => {
    const keep = await newKeep();
    const [old, fresh] = [scripted(), scripted()];
    const [a, b] = [await opened(keep, fresh.line), await opened(keep, old.line)];
    await a.take();
    fresh.said.parts = [part('balance', [1, 101, 1, null, null, null, 'sound', 4000])];
    fresh.said.revision = 2;
    await a.take();
    // The tab that does not tell reads what was so before, and is later.
    await b.take(false);
    fresh.said.parts = [];
    fresh.said.revision = 3;
    await a.take();
    expect(lying(await opened(keep, fresh.line), 101)).toBe(4000);
  });
  it('two tabs: a tab that knew more than the device keeps takes everything when it is the one that keeps', async () => {
    const keep = await newKeep();
    const { said, line } = scripted();
    const [first, second] = [await opened(keep, line), await opened(keep, line)];
    await first.take();
    await second.take(false);
    // What the second tab hears is not kept; then the first one is closed.
    said.parts = [part('balance', [1, 101, 1, null, null, null, 'sound', 4000])];
    said.revision = 2;
    await second.take(false);
    said.parts = [part('balance', [2, 102, 1, null, null, null, 'sound', 7000])];
    said.revision = 3;
    const everything = [
      ...FIRST,
      part('balance', [1, 101, 1, null, null, null, 'sound', 4000], [2, 102, 1, null, null, null, 'sound', 7000]),
    ];
    const now: Line = {
      ...line,
      facts: async (site, page) => ({ ...(await line.facts(site, page)), ...('since' in page ? {} : { parts: everything }) }),
    };
    Object.assign(second, { line: now });
    await second.take();
    for (const floor of [second, await opened(keep, line)]) expect([lying(floor, 101), lying(floor, 102)]).toEqual([4000, 7000]);
  });
  it('two tabs: what a tab settled without keeping it is not drawn again over what it keeps later', async () => {
    const keep = await newKeep();
    const { said, line } = scripted();
    const floor = await opened(keep, line);
    await floor.take();
    await carry(floor, 'A-01', 'JAR-1', 'A-02');
    await floor.tell();
    said.parts = [part('balance', [1, 101, 1, null, null, null, 'sound', 8000], [2, 102, 1, null, null, null, 'sound', 1000])];
    said.revision = 2;
    await floor.take(false);
    // A colleague carries it back; now this tab is the one that keeps.
    said.revision = 3;
    said.parts = FIRST;
    await floor.take();
    for (const page of [floor, await opened(keep, line)]) expect([lying(page, 101), lying(page, 102)]).toEqual([9000, 0]);
  });
  it('where another tab keeps something, the tab that tells tells it, and no other does', async () => {
    const keep = await newKeep();
    const { said, line } = scripted();
    const [teller, other] = [await opened(keep, line), await opened(keep, line)];
    await teller.take();
    await other.take(false);
    await receive(other, 'JAR-1');
    const silent = new Courier(other, { alone: false });
    silent.heard();
    silent.stop();
    await teller.reread();
    await new Promise<void>((resolve) => {
      const courier = new Courier(teller, { alone: true, onRun: () => said.told.length > 0 && (courier.stop(), resolve()) });
      courier.heard();
    });
    expect(said.told.flat()).toHaveLength(1);
    await other.reread();
    expect(other.get().waiting).toBe(0);
  });
});
