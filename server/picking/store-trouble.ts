import { type Qty } from '#core/base';
import { dbQty, query, type Trx } from '#server/kernel';
import { type PickRow } from './store-picks.ts';

/** Settles a report of trouble at a site; false where none is open. */
export async function settleTrouble(trx: Trx, id: number, site: number): Promise<boolean> {
  const settled = await query(
    trx,
    `UPDATE trouble t SET settled_at = now_here() FROM bin b WHERE t.id = ? AND b.id = t.bin_id AND b.site_id = ?
      AND t.settled_at IS NULL RETURNING 1`,
    [id, site],
  );
  return settled.length > 0;
}

/** Writes that something was in the way of a pick: how much of it was open, and how much lies nowhere else. */
export async function insertTrouble(
  trx: Trx,
  met: { kind: string; pick: Pick<PickRow, 'id' | 'bin' | 'item' | 'line_id'>; open: Qty; lacking: Qty; person: number },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO trouble (kind, bin_id, item_id, pick_id, qty, person_id, line_id, missing) VALUES (?, ?, ?, ?, ?, ?, ?, ?)`,
    [met.kind, met.pick.bin, met.pick.item, met.pick.id, dbQty(met.open), met.person, met.pick.line_id, dbQty(met.lacking)],
  );
}

/** Asks for a bin to be counted: the report stands until a count has settled it. `qty` as the database keeps it; `kind`: what somebody met
 *  there, where they did. */
export async function askForCount(
  trx: Trx,
  of: { bin: number; item: number; qty: string; person: number; kind?: 'short' | 'damaged' | 'notFound' },
): Promise<void> {
  await query(trx, `INSERT INTO trouble (kind, bin_id, item_id, qty, person_id) VALUES (?, ?, ?, ?, ?)`, [
    of.kind ?? 'count',
    of.bin,
    of.item,
    of.qty,
    of.person,
  ]);
}
