import { setImmediate as immediately, setTimeout as pause } from 'node:timers/promises';
import type { FactKind, FactPart } from '#contract/hands';
import { SharedAnswer, type Db } from '#server/kernel';
import { readFacts, type FactsReply } from './facts.ts';

/** What one reading found that began where another had ended. */
type Stretch = { readonly from: string; readonly parts: readonly FactPart[]; readonly rows: number };
type Asking = { readonly since: string; resolve(answer: SharedAnswer): void; reject(fault: unknown): void };

/** How many rows of what was read are kept for those who are behind. */
const MOST_ROWS = 4000;
/** How much longer than a reading it rests where several asked, and how long at most (milliseconds). */
const RESTS = 5;
const LONGEST_REST_MS = 200;

/** Follows a site as one device would, and tells all devices there what it read.
 *  Each thing that one hand does is news for every device of the site. Read for each of them, a hundred hands asked ten thousand times for
 *  what a hundred of them did; now each change is read once, and what is told is put together from the last readings, as far back as the
 *  one who asks is behind. A row is all that is known of a record: one that a device knows already does no harm.
 *  Nobody is told by a reading that began before they asked: what they told themselves is in it. */
export class Following {
  private readonly db: Db;
  private readonly site: number;
  private readonly most: number;
  private stretches: Stretch[] = [];
  /** The revision up to which it has read. */
  private head: string | null = null;
  private asking: Asking[] = [];
  private isReading = false;

  constructor(db: Db, site: number, most = MOST_ROWS) {
    this.db = db;
    this.site = site;
    this.most = most;
  }

  /** What changed since a revision. Who is further behind than what is kept reads by themselves. */
  since(since: string): Promise<SharedAnswer> {
    if (since !== this.head && !this.stretches.some((s) => s.from === since)) return this.alone(since);
    return new Promise((resolve, reject) => {
      this.asking.push({ since, resolve, reject });
      if (!this.isReading) void this.readAll();
    });
  }

  /** A reading of its own. It is given out under the revision up to which all had been read before it: so its device is told some rows
   *  twice, and from then on together with the others. */
  async beside(asked: { since: string | undefined; kind: FactKind | undefined; after: number }): Promise<FactsReply> {
    const { head } = this;
    const facts = await readFacts(this.db, { site: this.site, ...asked });
    if (facts.reset) return facts;
    if (head !== null && eraOf(head) === eraOf(facts.revision)) return { ...facts, revision: head };
    if (!this.isReading) {
      this.head = facts.revision;
      this.stretches = [];
    }
    return facts;
  }

  private async alone(since: string): Promise<SharedAnswer> {
    return SharedAnswer.of(JSON.stringify(await this.beside({ since, kind: undefined, after: 0 })));
  }

  private async readAll(): Promise<void> {
    this.isReading = true;
    while (this.asking.length > 0) {
      const asking = this.asking;
      this.asking = [];
      const begun = Date.now();
      const from = this.head ?? '';
      const reading = readFacts(this.db, { site: this.site, since: from, kind: undefined, after: 0 });
      const answer = reading.then((facts) => this.keep(from, facts, asking));
      // One after the other, each when what came in meanwhile has had its turn: nobody who scans waits for all these answers to be sent.
      for (const a of asking) {
        await answer
          .then((of) => of.get(a))
          .then((told) => told ?? this.alone(a.since))
          .then(a.resolve, a.reject);
        await immediately();
      }
      if (asking.length > 1) await pause(Math.min(LONGEST_REST_MS, RESTS * (Date.now() - begun)), undefined, { ref: false });
    }
    this.isReading = false;
  }

  // One answer for all whose revision is kept; they may have waited so long that it is not any more.
  private async keep(from: string, facts: FactsReply, asking: readonly Asking[]): Promise<ReadonlyMap<Asking, SharedAnswer>> {
    if (facts.reset) {
      this.head = null;
      this.stretches = [];
      const anew = await SharedAnswer.of(JSON.stringify(facts));
      return new Map(asking.map((a) => [a, anew]));
    }
    const stretches = [...this.stretches, { from, parts: facts.parts, rows: 1 + rowsOf(facts.parts) }];
    const places = asking.map((a) => ({ a, place: stretches.findIndex((s) => s.from === a.since) })).filter((p) => p.place >= 0);
    const parts = partsOf(stretches.slice(Math.min(...places.map((p) => p.place))));
    // Where something has been under way all the time, the next reading begins at the same place.
    if (facts.revision !== from) this.stretches = this.cut(stretches);
    this.head = facts.revision;
    const answer = await SharedAnswer.of(JSON.stringify({ ...facts, parts }));
    return new Map(places.map(({ a }) => [a, answer]));
  }

  private cut(stretches: readonly Stretch[]): Stretch[] {
    let rows = 0;
    return stretches.slice(stretches.findLastIndex((s) => (rows += s.rows) > this.most) + 1);
  }
}

const rowsOf = (parts: readonly FactPart[]): number => parts.reduce((n, p) => n + p.rows.length + p.gone.length, 0);

/** What several readings say together, the later ones over the earlier ones. */
function partsOf(stretches: readonly Stretch[]): FactPart[] {
  const kinds = new Map<FactKind, Map<number, unknown[] | null>>();
  for (const { parts } of stretches)
    for (const { kind, rows, gone } of parts) {
      const known = kinds.get(kind) ?? new Map<number, unknown[] | null>();
      kinds.set(kind, known);
      for (const row of rows) known.set(row[0] as number, row);
      for (const id of gone) known.set(id, null);
    }
  return [...kinds].map(([kind, known]) => ({
    kind,
    rows: [...known.values()].filter((row) => row !== null),
    gone: [...known].flatMap(([id, row]) => (row === null ? [id] : [])),
  }));
}

const eraOf = (revision: string): string => revision.slice(0, revision.indexOf('-'));

const houses = new WeakMap<Db, Map<number, Following>>();

/** Who follows a site in this process. */
export function followingOf(pool: Db, site: number): Following {
  const sites = houses.get(pool) ?? new Map<number, Following>();
  houses.set(pool, sites);
  const following = sites.get(site) ?? new Following(pool, site);
  sites.set(site, following);
  return following;
}
