import { doesWords } from '#core/hands';
import { sentenceOf, query, type Db } from '#server/kernel';
import type { ClashOut } from '#contract/hands';
import type { ClashRow } from './store.ts';
import { offersFor } from './settle.ts';

type Reads = Pick<Db, 'raw'>;

/** Clashes as a lead reads them: what was done, what stood against it, and what settles it. */
export async function clashesOut(db: Reads, rows: readonly ClashRow[]): Promise<ClashOut[]> {
  const does = rows.map((r) => r.does as unknown as Record<string, unknown>);
  const numbers = (keys: readonly string[]): number[] => does.flatMap((d) => keys.flatMap((k) => (typeof d[k] === 'number' ? [d[k]] : [])));
  const items = await query<{ id: number; code: string }>(db, `SELECT id, code FROM item WHERE id = ANY(?::int[])`, [numbers(['item'])]);
  const bins = await query<{ id: number; address: string }>(db, `SELECT id, address FROM bin WHERE id = ANY(?::int[])`, [
    numbers(['bin', 'from', 'to']),
  ]);
  const [codes, addresses] = [new Map(items.map((i) => [i.id, i.code])), new Map(bins.map((b) => [b.id, b.address]))];
  const names = { item: (id: number) => codes.get(id), bin: (id: number) => addresses.get(id) };
  const papers = await papersOf(db, rows);
  return rows.map((r) => ({
    key: r.key,
    kind: r.kind,
    what: doesWords(r.does, names),
    against: sentenceOf(r.refusal),
    document: papers.get(r.job) ?? null,
    by: r.by,
    at: r.at.toISOString(),
    told: r.told.toISOString(),
    device: r.device,
    settlements: r.settled_at === null ? offersFor(r).map((o) => ({ how: o.how, label: o.label, wants: o.wants ?? 'nothing' })) : [],
    settled:
      r.settled_at === null ? null : { at: r.settled_at.toISOString(), by: r.settled_by ?? r.by, how: settledWords(r.settled_how ?? '') },
  }));
}

const PAPERS = {
  delivery: ['delivery', '/deliveries/'],
  round: ['round', '/rounds/'],
  carry: ['carry', '/carries/'],
  count: ['stock_count', '/counts/'],
  order: ['customer_order', '/orders/'],
} as const;

async function papersOf(db: Reads, rows: readonly ClashRow[]): Promise<ReadonlyMap<string, { name: string; path: string }>> {
  const found = new Map<string, { name: string; path: string }>();
  const keys = rows.flatMap((r) => /^delivery:([0-9a-f-]{36})$/.exec(r.job)?.[1] ?? []);
  const begun = await query<{ key: string; id: number; number: string }>(
    db,
    `SELECT k.key, d.id, d.number FROM delivery_key k JOIN delivery d ON d.id = k.delivery_id WHERE k.key = ANY(?::uuid[])`,
    [keys],
  );
  for (const d of begun) found.set(`delivery:${d.key}`, { name: d.number, path: `/deliveries/${d.id}` });
  for (const [kind, [table, path]] of Object.entries(PAPERS)) {
    const ids = rows.flatMap((r) => (new RegExp(`^${kind}:\\d+$`).test(r.job) ? [Number(r.job.slice(kind.length + 1))] : []));
    if (ids.length === 0) continue;
    const named = await query<{ id: number; number: string }>(db, `SELECT id, number FROM ${table} WHERE id = ANY(?::int[])`, [ids]);
    for (const n of named) found.set(`${kind}:${n.id}`, { name: n.number, path: `${path}${n.id}` });
  }
  return found;
}

const SETTLED: Readonly<Record<string, string>> = {
  takenBack: 'taken back by the hand',
  drop: 'dropped',
  followUp: 'entered into a follow-up delivery',
  date: 'entered with the date that was keyed',
  known: 'entered with the date that is known',
  tie: 'tied to an item and entered',
  serial: 'entered under another serial',
  post: 'posted what was there',
  count: 'dropped, the bins are to be counted',
  accept: 'accepted as it lies',
  back: 'to be carried back',
  bringBack: 'the bin is in use again, and the goods in it',
  putBack: 'to be put back from the cart',
  asFound: 'accepted as found, the bin is to be counted',
  seen: 'seen',
  add: 'added',
  instead: 'stands instead of what was counted before',
  asMove: 'posted as a move',
  again: 'done after all',
};
const settledWords = (how: string): string => SETTLED[how] ?? how;
