import type { Trx } from './database.ts';
import { query } from './query.ts';

/** The one lock order of the house: what stands earlier is locked earlier, in every transaction; within a rank, lower keys first. Two
 *  transactions that keep to it can never wait for each other in a circle.
 *  Source: docs/architecture.md, "Who waits for whom". */
export const LOCK_ORDER = [
  'zone',
  'names',
  'delivery',
  'purchaseOrder',
  'count',
  'round',
  'carry',
  'order',
  'hold',
  'item',
  'lot',
  'site',
  'unit',
  'stock',
  'bin',
] as const;
export type LockRank = (typeof LOCK_ORDER)[number];

/** Advisory locks, each class in a space of its own (the top byte of the number that PostgreSQL locks). */
export const LOCK_CLASS = { site: 1, stock: 2, bin: 3, job: 4, names: 5, tries: 6, staff: 7 } as const;

type Key = readonly [number, number];
type Held = { top: { rank: number; key: Key } | null; keys: Set<string> };
const held = new WeakMap<Trx, Held>();

const after = (a: Key, b: Key): boolean => a[0] > b[0] || (a[0] === b[0] && a[1] > b[1]);

const alone = new WeakSet<Trx>();

/** Says that nobody else works in the house while this transaction does: a company that is being loaded. Its order of locks is not
 *  watched. */
export function workAlone(trx: Trx): void {
  alone.add(trx);
}

/** Notes that a transaction locks these keys, and stops the program where that breaks the order of the house. What it holds already may be
 *  asked for again.
 *  Returns: those of the keys that it did not hold yet.
 *  Errors: throws: a broken order is a programmer's mistake that would, some busy day, be a deadlock. */
export function noteLocks(trx: Trx, rank: LockRank, keys: readonly Key[]): readonly Key[] {
  if (alone.has(trx)) return keys;
  const mine = held.get(trx) ?? { top: null, keys: new Set<string>() };
  held.set(trx, mine);
  const place = LOCK_ORDER.indexOf(rank);
  const fresh: Key[] = [];
  for (const key of [...keys].sort((a, b) => a[0] - b[0] || a[1] - b[1])) {
    const name = `${rank} ${key.join('/')}`;
    if (mine.keys.has(name)) continue;
    const { top } = mine;
    if (top && (top.rank > place || (top.rank === place && after(top.key, key))))
      throw new Error(`Lock order broken: ${name} was asked for after ${LOCK_ORDER[top.rank]} ${top.key.join('/')}.`);
    mine.keys.add(name);
    mine.top = { rank: place, key };
    fresh.push(key);
  }
  return fresh;
}

const TABLES = {
  zone: 'zone',
  delivery: 'delivery',
  purchaseOrder: 'purchase_order',
  count: 'stock_count',
  round: 'round',
  carry: 'carry',
  order: 'customer_order',
  hold: 'hold',
  item: 'item',
  unit: 'logistic_unit',
} as const;

/** Locks rows of one kind in order of id, and returns the ids that exist. What is decided about them is read afterwards, never before.
 *  Locks:  FOR NO KEY UPDATE: two who work on one document take turns, while rows that only point to it are written freely. */
export async function lockRows(trx: Trx, kind: keyof typeof TABLES, ids: readonly number[]): Promise<readonly number[]> {
  const wanted = [...new Set(ids)].sort((a, b) => a - b);
  noteLocks(
    trx,
    kind,
    wanted.map((id) => [id, 0]),
  );
  const rows = await query<{ id: number }>(trx, `SELECT id FROM ${TABLES[kind]} WHERE id = ANY(?::int[]) ORDER BY id FOR NO KEY UPDATE`, [
    wanted,
  ]);
  return rows.map((r) => r.id);
}
