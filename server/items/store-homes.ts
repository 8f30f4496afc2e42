import { formatQty, type Qty } from '#core/base';
import { query, type Db, type Trx } from '#server/kernel';

/** Writes that an item lives in a bin, within limits; instead of what was said of the two before. */
export async function upsertHome(
  trx: Trx,
  home: { item: number; bin: number; role: string; min: Qty | null; max: Qty | null },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO home_bin (item_id, bin_id, role, min_qty, max_qty)
     VALUES (?, ?, ?, ?, ?)
     ON CONFLICT (item_id, bin_id) DO UPDATE SET role = excluded.role, min_qty = excluded.min_qty, max_qty = excluded.max_qty`,
    [home.item, home.bin, home.role, home.min === null ? null : formatQty(home.min), home.max === null ? null : formatQty(home.max)],
  );
}

/** Takes homes away; returns how many there were. */
export async function deleteHomes(trx: Trx, pairs: readonly { bin: number; item: number }[]): Promise<number> {
  const rows = await query(
    trx,
    `DELETE FROM home_bin h USING unnest(?::int[], ?::int[]) AS p(bin, item) WHERE h.bin_id = p.bin AND h.item_id = p.item RETURNING 1`,
    [pairs.map((p) => p.bin), pairs.map((p) => p.item)],
  );
  return rows.length;
}

/** Locks all homes: what an import compares with does not change under it. */
export async function lockHomes(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE home_bin IN SHARE ROW EXCLUSIVE MODE`);
}

/** The first of these bins that is of another site, and of which. */
export async function selectBinElsewhere(
  db: Pick<Db, 'raw'>,
  site: number,
  bins: readonly number[],
): Promise<{ address: string; site: string } | undefined> {
  const rows = await query<{ address: string; site: string }>(
    db,
    `SELECT b.address, s.name AS site
     FROM bin b
     JOIN site s ON s.id = b.site_id
     WHERE b.id = ANY(?::int[]) AND b.site_id <> ?
     LIMIT 1`,
    [bins, site],
  );
  return rows[0];
}

/** Writes that an item lives in a bin, without limits; what was said of the two before stays. */
export async function insertHome(trx: Trx, item: number, bin: number): Promise<void> {
  await query(trx, `INSERT INTO home_bin (item_id, bin_id) VALUES (?, ?) ON CONFLICT DO NOTHING`, [item, bin]);
}
