import type { ReplyOf, Routes } from '#contract';
import { poolOf, type Change, type Db, type Topic } from '#server/kernel';
import { homeReader } from './home.ts';
import { readRow } from './row.ts';

/** Reads figures of a site: all of them, or (`touched`) at least what these topics can have changed since they were read last. */
type Reckon<F> = (site: number, touched: ReadonlySet<Topic> | null) => Promise<F>;

/** What many look at and nobody asks for alone: reckoned once for each site, however many look, and told when it is another.
 *  `reckon` reads it, whole for whoever asks, else what was touched; `leastMs` passes between two readings that nobody asked for. */
export class Figures<F> {
  private readonly reckon: Reckon<F>;
  private readonly leastMs: number;
  private readonly watchers = new Map<number, number>();
  private readonly last = new Map<number, string>();
  private readonly due = new Map<number, NodeJS.Timeout>();
  private readonly readAt = new Map<number, number>();
  private readonly listeners = new Set<(site: number, figures: F) => void>();
  private readonly running = new Map<number, { now: Promise<F>; next: Promise<F> | null; isNextWhole: boolean }>();
  /** What was touched at each site since its last reading began; null where only the whole will do. */
  private readonly touched = new Map<number, Set<Topic> | null>();

  constructor(reckon: Reckon<F>, leastMs: number) {
    this.reckon = reckon;
    this.leastMs = leastMs;
  }

  /** What they are. However many ask, one reading runs and one waits: whoever comes while one runs gets the next, which sees all that they
   *  did. */
  read(site: number): Promise<F> {
    return this.ask(site, true);
  }

  private ask(site: number, isWhole: boolean): Promise<F> {
    const running = this.running.get(site);
    if (!running) return this.begin(site, isWhole);
    running.isNextWhole ||= isWhole;
    const next = (): Promise<F> => this.begin(site, running.isNextWhole);
    running.next ??= running.now.then(next, next);
    return running.next;
  }

  private begin(site: number, isWhole: boolean): Promise<F> {
    const now = this.reckon(site, isWhole ? null : (this.touched.get(site) ?? null));
    this.touched.set(site, new Set());
    const entry = { now, next: null, isNextWhole: false };
    this.running.set(site, entry);
    this.readAt.set(site, Date.now());
    const ended = (): void => {
      if (this.running.get(site) === entry) this.running.delete(site);
    };
    now.then(ended, () => {
      // What it should have read is not known any more.
      this.touched.set(site, null);
      ended();
    });
    return now;
  }

  /** Says that somebody looks at a site; returns how to look away. */
  watch(site: number): () => void {
    this.watchers.set(site, (this.watchers.get(site) ?? 0) + 1);
    return () => {
      const left = (this.watchers.get(site) ?? 1) - 1;
      if (left > 0) this.watchers.set(site, left);
      else {
        this.watchers.delete(site);
        this.last.delete(site);
      }
    };
  }

  /** Calls back with figures that are other than those that were told before. */
  onNew(listener: (site: number, figures: F) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Something changed at a site, or at all (null). Where somebody looks, it is reckoned soon, however often it is said meanwhile. */
  touch(site: number | null, topic: Topic | null): void {
    for (const [known, topics] of this.touched) {
      if (site !== null && site !== known) continue;
      if (topic === null) this.touched.set(known, null);
      else topics?.add(topic);
    }
    for (const watched of this.watchers.keys()) if (site === null || site === watched) this.schedule(watched);
  }

  stop(): void {
    for (const timer of this.due.values()) clearTimeout(timer);
    this.due.clear();
    this.watchers.clear();
  }

  private schedule(site: number): void {
    if (this.due.has(site)) return;
    const wait = Math.max(0, (this.readAt.get(site) ?? 0) + this.leastMs - Date.now());
    this.due.set(
      site,
      setTimeout(() => {
        this.due.delete(site);
        void this.tell(site);
      }, wait),
    );
  }

  private async tell(site: number): Promise<void> {
    const figures = await this.ask(site, false).catch(() => null);
    if (figures === null || !this.watchers.has(site)) return;
    const text = JSON.stringify(figures);
    if (this.last.get(site) === text) return;
    this.last.set(site, text);
    for (const listener of this.listeners) listener(site, figures);
  }
}

const ROW_MS = 400;
const HOME_MS = 1000;
/** What these topics tell may be in the row or at home. */
const SHOWN: ReadonlySet<Topic> = new Set([
  'stock',
  'places',
  'items',
  'purchasing',
  'receiving',
  'orders',
  'picking',
  'shipping',
  'counting',
  'labels',
  'people',
  'hands',
]);

export type Desk = { readonly row: Figures<ReplyOf<Routes['desk.row']>>; readonly home: Figures<ReplyOf<Routes['desk.home']>> };
const desks = new WeakMap<Db, Desk>();

/** The row and home of every site, as this process reckons them. */
export function deskOf(asked: Db): Desk {
  // Reckoned for everybody, also where the one who asked has gone.
  const db = poolOf(asked);
  const known = desks.get(db);
  if (known) return known;
  const made = {
    row: new Figures(async (site) => ({ stations: await readRow(db, site) }), ROW_MS),
    home: new Figures(homeReader(db), HOME_MS),
  };
  desks.set(db, made);
  return made;
}

/** Says to both that something changed. */
export function touchDesk({ row, home }: Desk, change: Change): void {
  if (!SHOWN.has(change.topic)) return;
  const site = typeof change.facts.site === 'number' ? change.facts.site : null;
  row.touch(site, change.topic);
  home.touch(site, change.topic);
}
