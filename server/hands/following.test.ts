import { beforeAll, describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import type { Db, SharedAnswer } from '#server/kernel';
import { shelved } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';
import type { FactsReply } from './facts.ts';
import { Following } from './following.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });
const goods: { code: string; bins: { id: number; address: string }[] }[] = [];
beforeAll(async () => {
  for (const code of ['FLW-1', 'FLW-2', 'FLW-3'])
    goods.push({ code, bins: (await shelved(house, lead, { code, lying: [{ qty: '50' }, { qty: '50' }] })).bins });
});

/** A device that knows what it was told of what lies where, and nothing else. */
class Device {
  readonly known = new Map<number, unknown[]>();
  private revision = '';
  private readonly by: Following;

  constructor(by: Following) {
    this.by = by;
  }

  async everything(): Promise<void> {
    this.known.clear();
    this.revision = '';
    for (let next: FactsReply['next'] = { kind: 'balance', after: 0 }; next?.kind === 'balance';) {
      const page: FactsReply = await this.by.beside({ since: undefined, ...next });
      this.revision ||= page.revision;
      this.take(page);
      next = page.next;
    }
  }

  async news(): Promise<void> {
    const told = read(await this.by.since(this.revision));
    if (told.reset) return this.everything();
    this.take(told);
    this.revision = told.revision;
  }

  private take({ parts }: FactsReply): void {
    for (const { rows, gone } of parts.filter((p) => p.kind === 'balance')) {
      for (const row of rows) this.known.set(row[0] as number, row);
      for (const id of gone) this.known.delete(id);
    }
  }
}
const read = ({ plain }: SharedAnswer): FactsReply => JSON.parse(plain.toString()) as FactsReply;

const move = (of: number, there: boolean) => {
  const { code, bins } = goods[of] as (typeof goods)[number];
  const [from, to] = there ? bins : [bins[1], bins[0]];
  return lead.ask('moves.move', { body: { from: from?.address ?? '', to: to?.address ?? '', code, qty: '1' } });
};

describe('C18 what many devices take along together', () => {
  it('law: however they ask, each knows in the end what a new device knows, also who was long away', async () => {
    const doing = fc.oneof(
      { weight: 4, arbitrary: fc.record({ do: fc.constant('move' as const), of: fc.nat(2), there: fc.boolean() }) },
      { weight: 4, arbitrary: fc.record({ do: fc.constant('ask' as const), who: fc.uniqueArray(fc.nat(3), { minLength: 1 }) }) },
      { weight: 1, arbitrary: fc.record({ do: fc.constant('anew' as const), who: fc.nat(3) }) },
      // A command that is under way while they ask: what it did is told when it is done.
      { weight: 1, arbitrary: fc.record({ do: fc.constant('both' as const), of: fc.nat(2), who: fc.nat(3) }) },
    );
    const seen = { together: 0, alone: 0 };
    await fc.assert(
      fc.asyncProperty(fc.array(doing, { minLength: 8, maxLength: 25 }), fc.constantFrom(4, 4000), async (doings, most) => {
        const by = new Following(house.db, 1, most);
        const beside = by.beside.bind(by);
        by.beside = (asked) => {
          if (asked.since !== undefined) seen.alone += 1;
          return beside(asked);
        };
        const devices = Array.from({ length: 4 }, () => new Device(by));
        for (const d of devices) await d.everything();
        for (const d of doings) {
          if (d.do === 'move') await move(d.of, d.there);
          else if (d.do === 'anew') await devices[d.who]?.everything();
          else if (d.do === 'both') await Promise.all([move(d.of, true), devices[d.who]?.news(), move(d.of, false)]);
          else {
            seen.together += d.who.length - 1;
            await Promise.all(d.who.map((w) => devices[w]?.news()));
          }
        }
        await Promise.all(devices.map((d) => d.news()));
        const fresh = new Device(by);
        await fresh.everything();
        for (const d of devices) expect(d.known).toEqual(fresh.known);
      }),
      { numRuns: 12 },
    );
    expect(seen.together).toBeGreaterThan(10);
    expect(seen.alone).toBeGreaterThan(10);
  });
  it('those who ask at one moment are given one answer, and what was done before they asked is in it', async () => {
    const by = new Following(house.db, 1);
    // One asks alone, so that nothing rests when the three come.
    const before = new Device(by);
    await before.everything();
    await before.news();
    const { revision } = await by.beside({ since: undefined, kind: 'notice', after: 0 });
    await move(0, true);
    // The first begins a reading, the two others wait for the next.
    const told = await Promise.all([by.since(revision), by.since(revision), by.since(revision)]);
    expect(told[1]).toBe(told[2]);
    expect(told[0]).not.toBe(told[1]);
    for (const t of told) expect(read(t).parts.find((p) => p.kind === 'balance')?.rows.length).toBeGreaterThan(0);
  });
  it('a fault is told to all who asked, and the next who ask are answered', async () => {
    const by = new Following(house.db, 1);
    const { revision } = await by.beside({ since: undefined, kind: 'notice', after: 0 });
    const told = by as unknown as { db: Db };
    const { db } = told;
    told.db = { transaction: () => Promise.reject(new Error('no line')) } as unknown as Db;
    const asked = await Promise.allSettled([by.since(revision), by.since(revision)]);
    expect(asked.map((a) => a.status)).toEqual(['rejected', 'rejected']);
    told.db = db;
    expect(read(await by.since(revision)).reset).toBe(false);
  });
  it('a revision of another time of the database is told to begin anew', async () => {
    const by = new Following(house.db, 1);
    const { revision } = await by.beside({ since: undefined, kind: 'notice', after: 0 });
    expect(read(await by.since(`00000000-${revision.split('-')[1]}`)).reset).toBe(true);
    expect(read(await by.since(revision)).reset).toBe(false);
  });
});
