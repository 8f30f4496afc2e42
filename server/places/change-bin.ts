import { formatQty, type Qty } from '#core/base';
import type { BodyOf, Routes } from '#contract';
import { announce, asQty, query, refuse, type Trx } from '#server/kernel';
import { selectBin, type FoundBin } from './store.ts';

/** Refuses a name that already means another bin of the site, as its address or its alias. */
async function refuseName(trx: Trx, bin: FoundBin, name: string): Promise<void> {
  const [other] = await query<{ address: string }>(
    trx,
    `SELECT address FROM bin WHERE site_id = ? AND id <> ? AND (address = upper(?) OR alias = ? OR alias = upper(?)) LIMIT 1`,
    [bin.site_id, bin.id, name, name, name],
  );
  if (other) refuse({ code: 'places.nameTaken', name, bin: other.address });
}

/** Changes a bin's address, alias and rules. A bin that gets a new address keeps the old one as alias where it has none, because the old
 *  label is still on the rack and must still scan (A3). Stock, history and counts stay with the bin. */
export async function changeBin(trx: Trx, id: number, change: BodyOf<Routes['places.changeBin']>): Promise<void> {
  const bin = await lockBin(trx, id);
  const renamed = change.address !== bin.address;
  const alias = change.alias || (renamed ? bin.address : null);
  if (renamed) await refuseName(trx, bin, change.address);
  if (alias) await refuseName(trx, bin, alias);
  await query(
    trx,
    `UPDATE bin SET address = ?, alias = ?, one_item = ?, one_lot = ?, storage_class = ?, capacity = ?, volume_ml = ?, weight_g = ?, arrow = ?, labelled_at = CASE WHEN ? THEN NULL ELSE labelled_at END WHERE id = ?`,
    [
      change.address,
      alias,
      change.oneItem,
      change.oneLot,
      change.storageClass || null,
      change.units === null ? null : formatQty(change.units),
      change.litres, // thousandths of a litre are millilitres
      change.kilograms,
      change.arrow,
      renamed || change.arrow !== bin.arrow,
      id,
    ],
  );
  announce(trx, 'places');
}

async function lockBin(trx: Trx, id: number): Promise<FoundBin> {
  // FOR UPDATE waits for every posting that is on its way into the bin: they hold it FOR KEY SHARE.
  await query(trx, `SELECT 1 FROM bin WHERE id = ? AND id >= 100 FOR UPDATE`, [id]);
  return (await selectBin(trx, id)) ?? refuse({ code: 'places.unknownBin', text: String(id) });
}

/** Retires bins: they keep their history, take nothing in, and are listed no more. All or none.
 *  Errors: the first bin that holds something, is a site's default, is a home, or is in a round or count that is open. */
export async function retireBins(trx: Trx, ids: readonly number[]): Promise<number> {
  for (const id of [...new Set(ids)].sort((a, b) => a - b)) {
    const bin = await lockBin(trx, id);
    const [held] = await query<{ code: string; qty: string }>(
      trx,
      `SELECT i.code, sum(b.qty) AS qty FROM balance b JOIN item i ON i.id = b.item_id WHERE b.bin_id = ? AND b.qty > 0 GROUP BY i.code ORDER BY i.code LIMIT 1`,
      [id],
    );
    if (held) refuse({ code: 'places.binNotEmpty', bin: bin.address, holds: `${formatQty(asQty(held.qty) as Qty)} of ${held.code}` });
    const [use] = await query<{ why: string }>(
      trx,
      `SELECT 'it is the default bin for ' || CASE ?::int WHEN arrivals_bin THEN 'arrivals' WHEN packing_bin THEN 'packing' WHEN quarantine_bin THEN 'quarantine' WHEN scrap_bin THEN 'scrap' ELSE 'transit' END || ' of ' || name AS why FROM site WHERE ?::int IN (arrivals_bin, packing_bin, quarantine_bin, scrap_bin, transit_bin)
       UNION ALL SELECT 'it is a home of ' || i.code || '; unassign that first' FROM home_bin h JOIN item i ON i.id = h.item_id WHERE h.bin_id = ?
       UNION ALL SELECT 'round ' || r.number || ' uses it' FROM round r WHERE r.state = 'open' AND (r.cart_bin = ? OR EXISTS (SELECT 1 FROM round_pick p WHERE p.round_id = r.id AND p.bin_id = ? AND p.picked < p.qty))
       UNION ALL SELECT 'count ' || c.number || ' is open there' FROM count_bin cb JOIN stock_count c ON c.id = cb.count_id WHERE cb.open AND cb.bin_id = ? LIMIT 1`,
      Array<number>(6).fill(id),
    );
    if (use) refuse({ code: 'places.binInUse', bin: bin.address, why: use.why });
  }
  const rows = await query(trx, `UPDATE bin SET retired_at = now() WHERE id = ANY(?::int[]) AND retired_at IS NULL RETURNING 1`, [ids]);
  announce(trx, 'places');
  return rows.length;
}
