import type { ContentDelta } from '#core/floor';
import { carryDeltasOf, foldCarry, type CarryDoes, type CarryJob } from '#core/carrying';
import { foldCount, type CountDoes, type CountJob } from '#core/counting';
import { doesWords, jobOf, type Does } from '#core/hands';
import {
  adjustDeltasOf,
  moveDeltasOf,
  ownAdjustments,
  ownMoves,
  type AdjustDoes,
  type MoveDoes,
  type OwnAdjustment,
  type OwnMove,
} from '#core/moves';
import { foldRound, pickDeltasOf, type PickDoes, type RoundJob } from '#core/picking';
import { foldDelivery, type DeliveryJob, type DeliveryRef, type ReceiveDoes } from '#core/receiving';
import { foldBench, type BenchOrder, type PackDoes } from '#core/shipping';
import type { Stamp } from '#core/floor';
import type { FactKind, FactPart, Outcome } from '#contract/hands';
import type { Me } from '#contract/people';
import type { Keep } from './keep.ts';
import { NEW_META, PROGRAM, stampOf, type KeptAct, type Meta, type Taken } from './kept.ts';
import { heldByOne } from './one-request.ts';
import { LineError, type FactsAnswer, type Line, type LineFault } from './line.ts';
import { World } from './world.ts';

const MOST_TOLD_AT_ONCE = 100;
/** What is kept after it was told, so that its hand can take it back. */
const ON_STOCK: readonly Does['kind'][] = ['move.put', 'move.unit', 'adjust.say', 'move.undo'];
/** Moves are kept for undo as long as a shift. */
const SHIFT_MS = 12 * 3_600_000;
const SPARE_KEYS = 20;

/** What the screens show of the device beside their job. */
export type FloorState = {
  readonly me: Me | null;
  readonly device: string | null;
  /** The facts are there: scans can be taken. */
  readonly ready: boolean;
  /** How far the first fetch has come, 0 to 1. */
  readonly loading: number;
  readonly taken: Taken | null;
  readonly waiting: number;
  readonly clashes: readonly KeptAct[];
  readonly fault: LineFault | null;
  readonly lasting: boolean;
  /** Counts up with every change, for those who watch. */
  readonly turn: number;
};

/** How facts are taken in: with which acts in them, since which revision (null: they are everything), and whether they are kept on the
 *  device. */
type TakenFrom = Pick<FactsAnswer, 'revision' | 'now' | 'today' | 'trust' | 'onlyLotsThatRead'>;
type Taking = { readonly settled: readonly KeptAct[]; readonly since: string | null; readonly keeps: boolean };
type Clock = { now(): number; key(): string };
const CLOCK: Clock = { now: () => Date.now(), key: () => crypto.randomUUID() };

/** The floor on one device: what it knows, what was done on it, and what of that the server was told. One for each page; the page's tabs
 *  share what is kept. Nothing here draws. */
export class Floor {
  private readonly keep: Keep;
  private readonly line: Line;
  private readonly clock: Clock;
  private meta: Meta = NEW_META;
  private acts: readonly KeptAct[] = [];
  private ats = new Map<string, unknown>();
  private world: World | null = null;
  private taken: Taken | null = null;
  private site = 0;
  private hasRoom = true;
  /** What became of acts, as this page knows, and the device does not yet: it lay in facts that the page took without keeping them. */
  private owed: readonly { key: string; to: KeptAct | null }[] = [];
  private loading = 0;
  private fault: LineFault | null = null;
  private lastAt = 0;
  private turn = 0;
  private tail: Promise<unknown> = Promise.resolve();
  private taking: Promise<unknown> = Promise.resolve();
  private readonly watchers = new Set<() => void>();
  // Jobs as they stand, folded once for each turn: a step and its drawing ask for the same.
  private readonly folded = new Map<string, unknown>();
  private now: FloorState;

  constructor(keep: Keep, line: Line, clock: Clock = CLOCK) {
    this.keep = keep;
    this.line = line;
    this.clock = clock;
    this.now = this.state();
  }

  // What is shown

  watch = (watcher: () => void): (() => void) => {
    this.watchers.add(watcher);
    return () => this.watchers.delete(watcher);
  };
  get = (): FloorState => this.now;

  private state(): FloorState {
    const mine = this.acts;
    return {
      me: this.meta.me,
      device: this.meta.device?.name ?? null,
      ready: this.world !== null && this.taken !== null,
      loading: this.loading,
      taken: this.taken,
      waiting: mine.filter((a) => a.state === 'waiting').length,
      clashes: mine.filter((a) => a.state === 'clash'),
      fault: this.fault,
      lasting: this.keep.lasting,
      turn: this.turn,
    };
  }

  private changed(): void {
    this.reckon();
    for (const watcher of this.watchers) watcher();
  }

  // What is asked next is answered by what is so now; who watches may draw a moment later.
  private reckon(): void {
    this.turn += 1;
    this.folded.clear();
    this.world?.book.setDeltas(this.deltas());
    this.now = this.state();
  }

  private fold<Job>(name: string, make: () => Job): Job {
    if (!this.folded.has(name)) this.folded.set(name, make());
    return this.folded.get(name) as Job;
  }

  // What is known

  /** The facts, with what was done here folded in. Only where the floor is ready. */
  get facts(): World['book'] {
    if (!this.world) throw new Error('The facts are not there yet.');
    return this.world.book;
  }
  get trust(): boolean {
    return this.taken?.trust ?? false;
  }
  /** A delivery by its number in the house, or by the key under which it was begun on a device; also before the house has heard of it. */
  delivery(ref: DeliveryRef): DeliveryJob | undefined {
    return this.fold(`delivery:${ref}`, () => {
      const { world } = this;
      const begun = this.beginnings().find((d) => d.delivery === ref);
      const base = world?.delivery(ref) ?? (begun && world?.begunDelivery(begun));
      const jobs = world?.deliveryRefs(ref).map((r) => `delivery:${r}`) ?? [];
      return base && foldDelivery(base, this.own<ReceiveDoes>(...jobs));
    });
  }
  /** The deliveries here, each by the name that this device began it with, or by its number. */
  deliveries(): readonly DeliveryRef[] {
    const { world } = this;
    if (!world) return [];
    const known = world
      .ids('delivery')
      .map((id) => world.deliveryRefs(id).find((ref) => this.ats.has(`${this.site}/delivery:${ref}`)) ?? id);
    return [...known, ...this.beginnings().flatMap((d) => (world.delivery(d.delivery) ? [] : [d.delivery]))];
  }
  /** The suppliers, and what purchase orders are to come. */
  suppliers(): ReturnType<World['suppliers']> {
    return this.world?.suppliers() ?? [];
  }
  /** For what goods fail that arrive. */
  failureReasons(): ReturnType<World['failureReasons']> {
    return this.world?.failureReasons() ?? [];
  }
  /** What left in the last months. */
  shipments(): ReturnType<World['shipments']> {
    return this.world?.shipments() ?? [];
  }
  purchaseOrders(): ReturnType<World['purchaseOrders']> {
    return this.world?.purchaseOrders() ?? [];
  }
  // Deliveries that were begun here and that the facts may not have yet.
  private beginnings(): Extract<ReceiveDoes, { kind: 'receive.begin' }>[] {
    return this.pending().flatMap((a) => (a.does.kind === 'receive.begin' ? [a.does] : []));
  }
  round(id: number): RoundJob | undefined {
    return this.fold(`round:${id}`, () => {
      const base = this.world?.round(id);
      return base && foldRound(base, this.own<PickDoes>(`round:${id}`));
    });
  }
  carry(id: number): CarryJob | undefined {
    return this.fold(`carry:${id}`, () => {
      const base = this.world?.carry(id);
      return base && foldCarry(base, this.own<CarryDoes>(`carry:${id}`));
    });
  }
  count(id: number): CountJob | undefined {
    return this.fold(`count:${id}`, () => {
      const base = this.world?.count(id);
      return base && foldCount(base, this.own<CountDoes>(`count:${id}`));
    });
  }
  orders(): readonly BenchOrder[] {
    const acts = this.pending().filter((a) => a.job.startsWith('order:'));
    return this.world
      ? foldBench(
          this.world.orders(),
          acts.map((a) => ({ does: a.does as PackDoes, stamp: stampOf(a) })),
        )
      : [];
  }
  ids(kind: 'round' | 'carry' | 'count'): number[] {
    return this.world?.ids(kind) ?? [];
  }
  row(kind: FactKind, id: number): readonly unknown[] | undefined {
    return this.world?.table(kind).get(id);
  }
  ownMoves(person: number): readonly OwnMove[] {
    return ownMoves(this.actsOnStock<MoveDoes>(), person);
  }
  /** What this person said of stock that was not as the records have it. */
  ownAdjustments(person: number): readonly OwnAdjustment[] {
    return ownAdjustments(this.actsOnStock<AdjustDoes | Extract<MoveDoes, { kind: 'move.undo' }>>(), person);
  }
  private actsOnStock<D extends Does>(): { does: D; stamp: Stamp }[] {
    const acts = this.acts.filter((a) => a.job === 'moves' && a.state !== 'clash' && a.site === this.site && a.program === PROGRAM);
    return acts.map((a) => ({ does: a.does as D, stamp: stampOf(a) }));
  }
  /** What the server was not told yet, oldest first, in words. */
  waitingActs(): readonly { key: string; at: string; person: number; words: string }[] {
    const names = { item: (id: number) => this.world?.book.item(id)?.code, bin: (id: number) => this.world?.book.bin(id)?.address };
    return this.acts
      .filter((a) => a.state === 'waiting')
      .map(({ key, at, person, does, program }) => ({
        key,
        at,
        person,
        words: program === PROGRAM ? doesWords(does, names) : 'Done with an earlier version of this program',
      }));
  }
  /** What was done on this device under a key; of what was done elsewhere, or is told since long, it knows nothing. */
  doneHere(key: string): Does | undefined {
    return this.acts.find((a) => a.key === key)?.does;
  }
  /** Where the hand stands in a job: as it was left, also after a reload. */
  at<At>(job: string, begin: At): At {
    return (this.ats.get(`${this.site}/${job}`) as At | undefined) ?? begin;
  }

  // Acts that are not in the facts yet.
  private pending(): readonly KeptAct[] {
    return this.acts.filter((a) => a.site === this.site && a.program === PROGRAM && (a.state === 'waiting' || a.state === 'told'));
  }
  private own<D extends Does>(...jobs: readonly string[]): { does: D; stamp: Stamp }[] {
    return this.pending()
      .filter((a) => jobs.includes(a.job))
      .map((a) => ({ does: a.does as D, stamp: stampOf(a) }));
  }
  private deltas(): ContentDelta[] {
    const { world } = this;
    if (!world) return [];
    const back = (deltas: readonly ContentDelta[]): ContentDelta[] => deltas.map((d) => ({ ...d, qty: -d.qty as ContentDelta['qty'] }));
    const of = (does: Does): readonly ContentDelta[] => {
      switch (does.kind) {
        case 'move.put':
        case 'move.unit':
          return moveDeltasOf(does, world.book, (sscc) => world.book.unitAsTold(sscc));
        case 'adjust.say':
          return adjustDeltasOf(does, world.book);
        case 'pick.take':
        case 'pick.assemble':
          return pickDeltasOf(does, world.round(does.round), world.book);
        case 'carry.take':
        case 'carry.put':
          return carryDeltasOf(does, world.carry(does.carry), world.book, (sscc) => world.book.unitAsTold(sscc));
        case 'carry.undo': {
          const undone = this.pending().find((a) => a.key === does.act);
          return undone ? back(of(undone.does)) : [];
        }
        case 'move.undo': {
          const undone = this.acts.find((a) => a.key === does.act);
          return undone && undone.state !== 'clash' ? back(of(undone.does)) : [];
        }
        case 'pick.undo': {
          const undone = this.pending().find((a) => a.key === does.taken);
          return undone ? back(of(undone.does)) : [];
        }
        default:
          return [];
      }
    };
    return this.pending().flatMap((a) => [...of(a.does)]);
  }

  // Beginning

  /** Reads what was kept. Afterwards the device knows who works on it and what waits, with or without a server. */
  async open(): Promise<void> {
    const { meta, acts, ats } = await this.keep.load();
    const isOurs = meta.program === PROGRAM;
    this.meta = isOurs ? meta : { ...meta, program: PROGRAM };
    this.acts = acts;
    this.ats = isOurs ? ats : new Map();
    if (!isOurs) await this.noted(() => this.keep.beginProgram(PROGRAM));
    this.lastAt = acts.reduce((latest, a) => Math.max(latest, Date.parse(a.at)), 0);
    this.changed();
  }

  /** Goes to work at a site: reads what is kept of its facts. */
  async workAt(site: number): Promise<void> {
    if (this.site === site && this.world) return;
    this.site = site;
    this.world = null;
    this.taken = null;
    const kept = await this.keep.facts(site);
    if (this.site !== site) return;
    if (kept?.taken.program === PROGRAM) {
      const world = new World(kept.taken.today);
      world.book.onlyLotsThatRead = kept.taken.onlyLotsThatRead;
      world.apply(kept.parts);
      this.world = world;
      this.taken = kept.taken;
    }
    this.changed();
  }

  // What may be forgotten with the page: the acts themselves are kept, and telling one again does no harm. A device whose storage is full
  // must go on telling, or it would never have room again.
  private async noted<T>(write: () => Promise<T>): Promise<T | undefined> {
    try {
      return await write();
    } catch (error) {
      if (!(error instanceof DOMException)) throw error;
      return undefined;
    }
  }
  private async known(change: Partial<Omit<Meta, 'seq'>>): Promise<void> {
    this.meta = { ...this.meta, ...change };
    await this.noted(() => this.keep.meta(change));
  }

  /** Notes who works on the device now; null when they sign out. What others did here stays, and is told. */
  async signedIn(me: Me | null): Promise<void> {
    await this.known({ me });
    this.changed();
  }

  /** Makes the device known to the server, under a name where one is given. */
  async greet(name?: string): Promise<void> {
    try {
      const { device, name: named } = await this.line.greet(this.site, name);
      await this.known({ device: { id: device, name: named } });
      this.changed();
    } catch (error) {
      // That a name is refused is said where it was given.
      if (name === undefined) this.failed(error);
      throw error;
    }
  }

  // Doing

  /** Does one step of a job, after all that were begun before it. What was done is kept together with where the hand stands then, in one
   *  transaction, before this resolves; only then may a tone say so.
   *  Errors: rejects where the device could not keep it (its storage is full): then nothing was done. */
  step<At, Result extends { at: At; does: readonly Does[] }>(
    job: string,
    begin: At,
    decide: (at: At, stamp: Stamp) => Result,
  ): Promise<Result> {
    const work = this.tail.then(async () => {
      const { me } = this.meta;
      if (!me) throw new Error('Nobody is signed in on this device.');
      const doneAt = this.clock.now();
      // Strictly one after the other, whatever the clock does: what came later must also say so.
      this.lastAt = Math.max(doneAt - this.meta.ahead, this.lastAt + 1);
      const at = new Date(this.lastAt).toISOString();
      const stamp: Stamp = { key: this.clock.key(), at, person: me.id, more: Array.from({ length: SPARE_KEYS }, () => this.clock.key()) };
      const result = decide(this.at(job, begin), stamp);
      const made = result.does.map((does, n): Omit<KeptAct, 'seq'> => {
        const ofJob = jobOf(does);
        const before = this.acts.findLast((a) => a.job === ofJob && a.site === this.site);
        return {
          key: n === 0 ? stamp.key : this.clock.key(),
          after: before?.key ?? null,
          person: me.id,
          site: this.site,
          job: ofJob,
          doneAt,
          at,
          does,
          program: PROGRAM,
          state: 'waiting',
          says: null,
        };
      });
      const kept = await this.keep.done(made, { job: `${this.site}/${job}`, value: result.at });
      this.acts = [...this.acts, ...kept];
      this.ats.set(`${this.site}/${job}`, result.at);
      this.reckon();
      // The tone first: drawing what changed may take longer than a hand waits.
      setTimeout(() => {
        for (const watcher of this.watchers) watcher();
      });
      return result;
    });
    this.tail = work.catch(() => undefined);
    return work;
  }

  // Telling

  /** Tells the server what waits, a hundred acts at most and no more than one request holds, oldest first.
   *  Shape:  how many were answered for. The line's fault stays in sight until the next telling goes through.
   *  Errors: rejects with the line's fault; everything is still kept then. */
  async tell(): Promise<number> {
    const waiting = this.acts.filter((a) => a.state === 'waiting');
    const some = heldByOne(waiting.slice(0, MOST_TOLD_AT_ONCE));
    if (some.length === 0) return 0;
    try {
      const { outcomes, now } = await this.line.acts(this.site || (some[0]?.site ?? 0), {
        sentAt: this.clock.now(),
        waiting: waiting.length,
        acts: some,
      });
      await this.answered(outcomes, now);
      return outcomes.filter((o) => o.outcome !== 'failed').length;
    } catch (error) {
      this.failed(error);
      throw error;
    }
  }

  private async answered(outcomes: readonly Outcome[], now: number): Promise<void> {
    const byKey = new Map(outcomes.map((o) => [o.key, o]));
    const changes = this.acts.flatMap((act) => {
      const outcome = byKey.get(act.key);
      if (!outcome || act.state !== 'waiting' || outcome.outcome === 'failed') return [];
      const state = outcome.says === null ? ('told' as const) : ('clash' as const);
      return [{ key: act.key, to: { ...act, state, says: outcome.says } }];
    });
    await this.noted(() => this.keep.change(changes));
    this.replace(changes);
    this.fault = null;
    await this.known({ ahead: this.clock.now() - now });
    this.changed();
  }

  private replace(changes: readonly { key: string; to: KeptAct | null }[]): void {
    const by = new Map(changes.map((c) => [c.key, c.to]));
    this.acts = this.acts.flatMap((a) => {
      const to = by.get(a.key);
      return to === undefined ? [a] : to === null ? [] : [to];
    });
  }

  private failed(error: unknown): void {
    this.fault = error instanceof LineError ? error.fault : { kind: 'away' };
    this.changed();
  }

  /** The hand has read that an act waits for the lead: it need not be shown any more. */
  async seen(key: string): Promise<void> {
    const changes = [{ key, to: null }];
    await this.noted(() => this.keep.change(changes));
    this.replace(changes);
    this.changed();
  }

  /** Reads again which acts are kept: another tab may have told some. */
  async reread(): Promise<void> {
    const { meta, acts, ats } = await this.keep.load();
    this.meta = meta;
    this.acts = acts;
    this.ats = ats;
    this.changed();
  }

  // Taking along

  /** Brings the device's facts up to what the server knows: what changed, or everything, a page at a time.
   *  Shape:  acts that were told before it began are in the facts then, and are folded no more. `keeps`: what was taken is kept on the
   *          device; only one tab may, or an older reading of one would overwrite a newer of the other.
   *  Errors: rejects with the line's fault; what is known stays known. */
  take(keeps = true): Promise<void> {
    // One after the other: an older answer that came last would show again what was so before.
    const next = this.taking.then(() => this.takeOnce(keeps));
    this.taking = next.catch(() => undefined);
    return next;
  }

  private async takeOnce(keeps: boolean): Promise<void> {
    const { site } = this;
    if (site === 0) return;
    try {
      const settled = this.acts.filter((a) => a.state === 'told' && a.site === site);
      const how = { settled, keeps: keeps && this.hasRoom };
      const since = this.world && this.taken ? this.taken.revision : null;
      const known = since === null ? null : await this.line.facts(site, { since });
      const isIn = known && !known.reset && (await this.takeIn(site, this.world as World, known.parts, known, { ...how, since }));
      // The device may keep older facts than this page knows: another tab kept them, or the page began without being the one that keeps.
      if (!isIn) await this.takeEverything(site, { ...how, since: null });
      this.fault = null;
      this.changed();
    } catch (error) {
      this.failed(error);
      throw error;
    }
  }

  private async takeEverything(site: number, how: Taking): Promise<void> {
    const world = new World('');
    let next: { kind?: FactKind; after?: number } | null = {};
    let first: TakenFrom | null = null;
    const parts: FactPart[] = [];
    for (let pages = 1; next !== null; pages += 1) {
      const page: Awaited<ReturnType<Line['facts']>> = await this.line.facts(site, next);
      first ??= page;
      parts.push(...page.parts);
      next = page.next;
      this.loading = pages / (pages + 3);
      this.changed();
    }
    if (!first || this.site !== site) return;
    world.apply(parts);
    await this.takeIn(site, world, parts, first, how);
    this.loading = 1;
  }

  private async takeIn(
    site: number,
    world: World,
    parts: readonly FactPart[],
    from: TakenFrom,
    { settled, since, keeps }: Taking,
  ): Promise<boolean> {
    const now = this.clock.now();
    const { revision, today, trust, onlyLotsThatRead } = from;
    const taken: Taken = { revision, at: now, today, trust, onlyLotsThatRead, program: PROGRAM };
    const old = now - SHIFT_MS;
    const gone = this.acts.filter((a) => a.state === 'done' && a.doneAt < old);
    const acts = [
      ...this.owed,
      ...settled.map((a) => ({
        key: a.key,
        to: ON_STOCK.includes(a.does.kind) ? { ...a, state: 'done' as const } : null,
      })),
      ...gone.map((a) => ({ key: a.key, to: null })),
    ];
    if (keeps) {
      const kept = await this.noted(() => this.keep.takeFacts(site, { taken, parts, since, acts }));
      if (kept === false) return false;
      // A full device keeps its older facts, with the acts that they lack, until it is opened anew.
      this.hasRoom = kept !== undefined;
    }
    this.owed = keeps ? [] : acts;
    if (this.site !== site) return true;
    // The row of a job comes with the acts that made it: both change in one turn, or a scan would be seen twice or not at all.
    if (since !== null) world.apply(parts);
    world.book.today = today;
    world.book.onlyLotsThatRead = onlyLotsThatRead;
    this.world = world;
    this.taken = taken;
    this.replace(acts);
    await this.known({ ahead: now - from.now });
    return true;
  }
}
