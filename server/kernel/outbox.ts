import pg from 'pg';
import type { Db, Trx } from './database.ts';
import { query } from './query.ts';

/** What a change touched. The web drops what it knows of these topics and reads again. */
export type Topic =
  | 'stock'
  | 'places'
  | 'items'
  | 'purchasing'
  | 'receiving'
  | 'orders'
  | 'picking'
  | 'carrying'
  | 'shipping'
  | 'counting'
  | 'labels'
  | 'people'
  | 'jobs'
  | 'hands';
/** Which site a change concerns (null: all of them), and which records it touched; a list that is left out means that any may be. */
export type ChangeFacts = { readonly site?: number | null } & Readonly<
  Record<string, number | string | readonly number[] | null | undefined>
>;
export type Change = { readonly topic: Topic; readonly facts: ChangeFacts };

/** Topics of records that belong to a site; who works elsewhere need not hear of them. */
const OF_A_SITE: ReadonlySet<Topic> = new Set([
  'stock',
  'places',
  'purchasing',
  'receiving',
  'orders',
  'picking',
  'carrying',
  'shipping',
  'counting',
  'jobs',
  'hands',
]);

const pending = new WeakMap<Trx, Change[]>();

/** Notes a change; it is written with the transaction's last statement and so stands or falls with it. */
export function announce(trx: Trx, topic: Topic, facts: ChangeFacts = {}): void {
  const changes = pending.get(trx);
  if (changes) changes.push({ topic, facts });
  else pending.set(trx, [{ topic, facts }]);
}

/** Takes the changes noted so far, to be written. A command touches the records of the site where it was given, unless it said
 *  otherwise. */
export function takeChanges(trx: Trx, site: number | null): readonly Change[] {
  const changes = pending.get(trx) ?? [];
  pending.delete(trx);
  if (site === null) return changes;
  return changes.map((c) => (c.facts.site === undefined && OF_A_SITE.has(c.topic) ? { ...c, facts: { ...c.facts, site } } : c));
}

const CHANNEL = 'dock_row_changes';
const NUDGE_MS = 100;
const POLL_MS = 1000;
const AGAIN_MS = 500;
/** Passes committed changes of all server processes on to this one's listeners.
 *  A process says NOTIFY after its commit, at most every 100 ms: said inside the transaction it would make every commit of the database
 *  wait for the others (PostgreSQL orders notifications by a lock over all of them). If the process dies between commit and nudge,
 *  the rows are there and the poll finds them. */
export class Outbox {
  private readonly db: Db;
  private readonly url: string;
  private readonly listeners = new Set<(change: Change) => void>();
  // All of the transactions before `horizon` is told; of later ones, what is in `told` (by number, with its transaction).
  private readonly told = new Map<number, bigint>();
  private horizon = 0n;
  private client: pg.Client | null = null;
  private nudgeTimer: NodeJS.Timeout | null = null;
  private pollTimer: NodeJS.Timeout | null = null;
  private reading: Promise<void> | null = null;
  private closed = false;

  constructor(db: Db, url: string) {
    this.db = db;
    this.url = url;
  }

  /** Starts to listen. Changes from before this moment are not told. */
  async start(): Promise<void> {
    await this.look();
    await this.connect();
    this.pollTimer = setInterval(() => void this.read(), POLL_MS);
    this.pollTimer.unref();
  }

  /** Calls back for every change; returns how to stop. */
  listen(listener: (change: Change) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Tells all processes that something was committed. */
  nudge(): void {
    if (this.nudgeTimer || this.closed) return;
    this.nudgeTimer = setTimeout(() => {
      this.nudgeTimer = null;
      this.db.raw(`NOTIFY ${CHANNEL}`).then(undefined, () => undefined);
    }, NUDGE_MS);
  }

  async stop(): Promise<void> {
    this.closed = true;
    if (this.pollTimer) clearInterval(this.pollTimer);
    if (this.nudgeTimer) clearTimeout(this.nudgeTimer);
    await this.client?.end().catch(() => undefined);
    await this.reading;
  }

  // Listened to again after any outage, however long: until then the poll carries the news.
  private async connect(): Promise<void> {
    if (this.closed) return;
    const client = new pg.Client({ connectionString: this.url, keepAlive: true, connectionTimeoutMillis: 5000 });
    let lost = false;
    const again = (): void => {
      if (lost) return;
      lost = true;
      this.client = null;
      client.end().catch(() => undefined);
      if (!this.closed) setTimeout(() => void this.connect(), AGAIN_MS).unref();
    };
    client.on('error', again);
    client.on('end', again);
    client.on('notification', () => void this.read());
    try {
      await client.connect();
      await client.query(`LISTEN ${CHANNEL}`);
      this.client = client;
    } catch {
      again();
    }
  }

  private read(): Promise<void> {
    this.reading ??= this.readOnce()
      .catch(() => undefined)
      .finally(() => {
        this.reading = null;
      });
    return this.reading;
  }

  private async readOnce(): Promise<void> {
    for (const change of await this.look()) for (const listener of this.listeners) listener(change);
  }

  // What was committed and not told yet. A transaction that a snapshot does not see any more as running has all its rows there: nothing is
  // left to wait for. By numbers alone one could not tell, for a lower one may be committed later than a higher.
  private async look(): Promise<Change[]> {
    type Row = { horizon: string; id: number | null; topic: Topic; facts: ChangeFacts; xid: string };
    const rows = await query<Row>(
      this.db,
      `SELECT now.horizon::text, o.id, o.topic, o.facts, o.xid::text FROM (SELECT pg_snapshot_xmin(pg_current_snapshot()) AS horizon) now
       LEFT JOIN outbox o ON o.xid >= ?::text::xid8 AND o.id <> ALL(?::bigint[]) ORDER BY o.id`,
      [String(this.horizon), [...this.told.keys()]],
    );
    const horizon = BigInt(rows[0]?.horizon ?? this.horizon);
    const fresh = rows.filter((row) => row.id !== null);
    for (const row of fresh) this.told.set(row.id as number, BigInt(row.xid));
    for (const [id, xid] of this.told) if (xid < horizon) this.told.delete(id);
    this.horizon = horizon;
    return fresh.map(({ topic, facts }) => ({ topic, facts }));
  }
}
