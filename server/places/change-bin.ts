import { formatQty, type Qty } from '#core/base';
import { brokenRules, type BinRules, type BrokenRule } from '#core/places';
import type { BodyOf, Routes } from '#contract';
import { announce, asQty, lockRows, query, refuse, type Db, type Trx } from '#server/kernel';
import {
  deleteOldNames,
  insertBin,
  insertOldNames,
  lockNames,
  selectBin,
  selectTakenNames,
  type FoundBin,
  findZone,
  lockBinRow,
  updateBin,
  updateBinRestored,
  updateBinsRetired,
} from './store.ts';

/** Refuses names that mean another bin of the site already. The caller holds the names. */
async function refuseTakenNames(trx: Trx, site: number, own: number | null, names: readonly string[]): Promise<void> {
  const other = (await selectTakenNames(trx, site, names)).find((t) => t.bin !== own);
  if (other) refuse({ code: 'places.nameTaken', name: other.name, bin: other.address });
}

/** Makes a bin, after the last one of its zone on the walk (A3, A8).
 *  Errors: an unknown zone or one of another site; a name that means another bin of the site, be it an address or an old name. */
export async function makeBin(
  trx: Trx,
  site: { id: number; name: string },
  command: { zone: number; address: string; oldNames: readonly string[] },
): Promise<number> {
  await lockRows(trx, 'zone', [command.zone]);
  const zone = await findZone(trx, command.zone);
  if (zone.site_id !== site.id) refuse({ code: 'people.otherSite', what: `Zone ${zone.name}`, site: zone.site });
  await lockNames(trx, site.id);
  const [taken] = await query<{ address: string }>(trx, `SELECT address FROM bin WHERE site_id = ? AND address = ?`, [
    site.id,
    command.address,
  ]);
  if (taken) refuse({ code: 'places.binTaken', address: command.address, site: site.name });
  await refuseTakenNames(trx, site.id, null, [command.address, ...command.oldNames]);
  const bin = await insertBin(trx, command);
  await insertOldNames(
    trx,
    site.id,
    command.oldNames.map((name) => ({ bin, name })),
  );
  announce(trx, 'places');
  return bin;
}

/** Changes a bin's address, old names, zone, place on the walk and rules. The address that it had becomes an old name: the old label is
 *  still on the rack and must still scan (A3), however often the bin is renamed. Stock, history and counts stay with the bin.
 *  Shape:  the version that the record has now, and the rules that what lies there breaks already.
 *  Errors: `places.changedMeanwhile` where `version` is not that of the record; a name that means another bin; another zone of other powers
 *          while something lies in the bin.
 *  Locks:  the zones, the names of the site, the bin. */
export async function changeBin(
  trx: Trx,
  id: number,
  site: number,
  change: BodyOf<Routes['places.changeBin']>,
): Promise<{ version: number; broken: readonly BrokenRule[] }> {
  const seen = await findBinAt(trx, id, site);
  await lockRows(trx, 'zone', [seen.zone_id, change.zone]);
  await lockNames(trx, site);
  const bin = await lockBin(trx, id, site);
  if (bin.version !== change.version) refuse({ code: 'places.changedMeanwhile', what: `Bin ${bin.address}` });
  await refuseTakenNames(trx, site, id, [change.address, ...change.oldNames]);
  await refuseOtherPowers(trx, bin, change.zone);
  const renamed = change.address !== bin.address;
  await updateBin(trx, id, change, renamed || change.arrow !== bin.arrow);
  const keep = [...change.oldNames, ...(renamed ? [bin.address] : [])].map((name) => ({ bin: id, name }));
  await deleteOldNames(trx, [id], keep);
  await insertOldNames(trx, site, keep);
  announce(trx, 'places');
  return { version: bin.version + 1, broken: await selectBrokenRules(trx, id) };
}

async function refuseOtherPowers(trx: Trx, bin: FoundBin, to: number): Promise<void> {
  if (to === bin.zone_id) return;
  const zone = await findZone(trx, to);
  if (zone.site_id !== bin.site_id) refuse({ code: 'people.otherSite', what: `Zone ${zone.name}`, site: zone.site });
  if (zone.promisable === bin.promisable && zone.pickable === bin.pickable) return;
  const [held] = await query(trx, `SELECT 1 FROM balance WHERE bin_id = ? AND qty > 0 LIMIT 1`, [bin.id]);
  if (held) refuse({ code: 'places.zoneHoldsOthers', bin: bin.address, from: bin.zone, to: zone.name });
}

/** The rules of a bin that what lies in it breaks already. */
export async function selectBrokenRules(db: Pick<Db, 'raw'>, id: number): Promise<readonly BrokenRule[]> {
  const bin = (await selectBin(db, id)) ?? refuse({ code: 'places.unknownBin', text: String(id) });
  const rules: BinRules = {
    bin: bin.id,
    address: bin.address,
    oneItem: bin.one_item,
    oneLot: bin.one_lot,
    storageClass: bin.storage_class,
    units: bin.capacity === null ? null : asQty(bin.capacity),
    volumeMl: bin.volume_ml,
    weightG: bin.weight_g,
  };
  const content = await query<{
    item: number;
    code: string;
    lot: number | null;
    qty: string;
    storage_class: string;
    ml: number;
    g: number;
  }>(
    db,
    `SELECT b.item_id AS item, i.code, b.lot_id AS lot, sum(b.qty) AS qty, i.storage_class, i.volume_ml AS ml, i.weight_g AS g
     FROM balance b JOIN item i ON i.id = b.item_id WHERE b.bin_id = ? AND b.qty > 0 GROUP BY b.item_id, b.lot_id, i.id ORDER BY i.code`,
    [id],
  );
  return brokenRules(
    rules,
    content.map((c) => ({
      item: c.item as never,
      itemCode: c.code,
      lot: c.lot as never,
      qty: asQty(c.qty),
      storageClass: c.storage_class,
      unitMl: c.ml,
      unitG: c.g,
    })),
  );
}

async function findBinAt(db: Pick<Db, 'raw'>, id: number, site: number): Promise<FoundBin> {
  const bin = (await selectBin(db, id)) ?? refuse({ code: 'places.unknownBin', text: String(id) });
  if (bin.site_id !== site) refuse({ code: 'people.otherSite', what: `Bin ${bin.address}`, site: bin.site });
  return bin;
}

async function lockBin(trx: Trx, id: number, site: number): Promise<FoundBin> {
  await lockBinRow(trx, id);
  return findBinAt(trx, id, site);
}

/** Brings a retired bin back. */
export async function restoreBin(trx: Trx, id: number, site: number): Promise<void> {
  const bin = await lockBin(trx, id, site);
  if (!bin.retired) refuse({ code: 'places.binInUse', bin: bin.address, why: 'it is not retired' });
  await updateBinRestored(trx, id);
  announce(trx, 'places');
}

/** Retires bins: they keep their history, take nothing in, and are listed no more. All or none.
 *  Errors: the first bin that holds something, is a site's default, is a home, or is in a round or count that is open. */
export async function retireBins(trx: Trx, ids: readonly number[], site: number): Promise<number> {
  for (const id of [...new Set(ids)].sort((a, b) => a - b)) {
    const bin = await lockBin(trx, id, site);
    const [held] = await query<{ code: string; qty: string }>(
      trx,
      `SELECT i.code, sum(b.qty) AS qty
       FROM balance b
       JOIN item i ON i.id = b.item_id
       WHERE b.bin_id = ? AND b.qty > 0
       GROUP BY i.code
       ORDER BY i.code
       LIMIT 1`,
      [id],
    );
    if (held) refuse({ code: 'places.binNotEmpty', bin: bin.address, holds: `${formatQty(asQty(held.qty) as Qty)} of ${held.code}` });
    const [use] = await query<{ why: string }>(
      trx,
      `SELECT 'it is the default bin for ' || CASE ?::int WHEN arrivals_bin THEN 'arrivals' WHEN packing_bin THEN 'packing'
         WHEN quarantine_bin THEN 'quarantine' WHEN scrap_bin THEN 'scrap' ELSE 'transit' END || ' of ' || name AS why
       FROM site
       WHERE ?::int IN (arrivals_bin, packing_bin, quarantine_bin, scrap_bin, transit_bin)
       UNION ALL SELECT 'it is a home of ' || i.code || '; unassign that first'
       FROM home_bin h
       JOIN item i ON i.id = h.item_id
       WHERE h.bin_id = ?
       UNION ALL SELECT 'round ' || r.number || ' uses it'
       FROM round r
       WHERE r.state = 'open'
         AND (r.cart_bin = ? OR EXISTS (SELECT 1 FROM round_pick p WHERE p.round_id = r.id AND p.bin_id = ? AND p.picked < p.qty))
       UNION ALL SELECT c.number || ' uses it'
       FROM carry c
       WHERE c.state = 'open' AND (c.cart_bin = ? OR EXISTS (
         SELECT 1 FROM carry_open_task t WHERE t.carry_id = c.id AND t.to_bring > 0 AND (t.from_bin = ? OR t.to_bin = ?)))
       UNION ALL SELECT 'count ' || c.number || ' is open there'
       FROM count_bin cb
       JOIN stock_count c ON c.id = cb.count_id
       WHERE cb.open AND cb.bin_id = ?
       LIMIT 1`,
      Array<number>(9).fill(id),
    );
    if (use) refuse({ code: 'places.binInUse', bin: bin.address, why: use.why });
  }
  const retired = await updateBinsRetired(trx, ids);
  announce(trx, 'places');
  return retired;
}
