import type { Customer } from '#contract/orders';
import { query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type CustomerIn = {
  readonly code: string;
  readonly name: string;
  readonly address: string;
  readonly wholeOnly: boolean;
  readonly leastLife: number | null;
};

/** Customers by name, with how many orders of theirs are open. */
export function selectCustomers(db: Reads, q: string): Promise<Customer[]> {
  const like = `%${q.replace(/[\\%_]/g, (c) => `\\${c}`)}%`;
  return query<Customer>(
    db,
    `SELECT c.id, c.code, c.name, c.address, c.whole_only AS "wholeOnly", c.least_life AS "leastLife", c.version,
       (SELECT count(*) FROM customer_order o WHERE o.customer_id = c.id AND o.state = 'open')::int AS open
     FROM customer c
     WHERE c.code ILIKE ? OR c.name ILIKE ?
     ORDER BY lower(c.name), c.id
     LIMIT 1000`,
    [like, like],
  );
}

/** The customer who bears a code already, other than `but`. */
export async function findCustomerByCode(db: Reads, code: string, but: number): Promise<{ name: string } | undefined> {
  return (await query<{ name: string }>(db, `SELECT name FROM customer WHERE fold_name(code) = fold_name(?) AND id <> ?`, [code, but]))[0];
}

/** Writes a new customer; returns their number. */
export async function insertCustomer(trx: Trx, c: CustomerIn): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO customer (code, name, address, whole_only, least_life) VALUES (?, ?, ?, ?, ?) RETURNING id`,
    [c.code, c.name, c.address, c.wholeOnly, c.leastLife],
  );
  return made.id;
}

/** Changes a customer that is still as somebody saw it; false where it is not. */
export async function updateCustomer(trx: Trx, id: number, version: number, c: CustomerIn): Promise<boolean> {
  const changed = await query(
    trx,
    `UPDATE customer SET code = ?, name = ?, address = ?, whole_only = ?, least_life = ?, version = version + 1
     WHERE id = ? AND version = ?
     RETURNING 1`,
    [c.code, c.name, c.address, c.wholeOnly, c.leastLife, id, version],
  );
  return changed.length > 0;
}

/** The least life that customers take, in days; null where they say nothing. Undefined where there is no such customer. */
export async function findCustomer(db: Reads, id: number): Promise<{ id: number; leastLife: number | null } | undefined> {
  return (
    await query<{ id: number; leastLife: number | null }>(db, `SELECT id, least_life AS "leastLife" FROM customer WHERE id = ?`, [id])
  )[0];
}
