import { formatQty } from '#core/base';
import type { BinImport, BinRecord } from '#core/places';
import { query, type Trx } from '#server/kernel';
import { deleteOldNames, insertOldNames } from './store.ts';

const BATCH = 2000;

/** Writes bins as a sheet tells them: new ones, and changed ones with a version more, and their old names. */
export async function writeBins(
  trx: Trx,
  site: number,
  { make, change }: BinImport,
  progress: (done: number) => Promise<void>,
): Promise<void> {
  const arrays = (bins: readonly BinRecord[]): unknown[] => [
    bins.map((b) => b.zone),
    bins.map((b) => b.address),
    bins.map((b) => b.walk),
    bins.map((b) => b.oneItem),
    bins.map((b) => b.oneLot),
    bins.map((b) => b.storageClass),
    bins.map((b) => (b.units === null ? null : formatQty(b.units))),
    bins.map((b) => b.volumeMl),
    bins.map((b) => b.weightG),
    bins.map((b) => b.arrow),
  ];
  const ROWS = `unnest(?::text[], ?::text[], ?::int[], ?::boolean[], ?::boolean[], ?::text[], ?::numeric[], ?::bigint[], ?::bigint[],
      ?::text[]) WITH ORDINALITY
      AS r(zone, address, walk, one_item, one_lot, storage_class, capacity, volume_ml, weight_g, arrow, n)
    JOIN zone z ON z.site_id = ? AND z.code = r.zone`;
  for (let i = 0; i < make.length; i += BATCH) {
    await query(
      trx,
      // A bin without a place on the walk comes after the last one of its zone.
      `INSERT INTO bin (site_id, zone_id, address, walk, one_item, one_lot, storage_class, capacity, volume_ml, weight_g, arrow)
       SELECT z.site_id, z.id, r.address, coalesce(r.walk, (SELECT coalesce(max(walk), 0) FROM bin WHERE zone_id = z.id) + r.n),
         r.one_item, r.one_lot, r.storage_class, r.capacity, r.volume_ml, r.weight_g, r.arrow
       FROM ${ROWS}`,
      [...arrays(make.slice(i, i + BATCH)), site],
    );
    await progress(Math.min(make.length, i + BATCH));
  }
  for (let i = 0; i < change.length; i += BATCH) {
    await query(
      trx,
      `UPDATE bin
       SET zone_id = z.id, walk = coalesce(r.walk, bin.walk), version = bin.version + 1, one_item = r.one_item, one_lot = r.one_lot,
         storage_class = r.storage_class, capacity = r.capacity, volume_ml = r.volume_ml, weight_g = r.weight_g, arrow = r.arrow
       FROM ${ROWS}
       WHERE bin.site_id = z.site_id AND bin.address = r.address`,
      [...arrays(change.slice(i, i + BATCH)), site],
    );
    await progress(Math.min(make.length + change.length, make.length + i + BATCH));
  }
  await writeOldNames(trx, site, [...make, ...change]);
}

async function writeOldNames(trx: Trx, site: number, bins: readonly BinRecord[]): Promise<void> {
  const ids = new Map(
    (
      await query<{ id: number; address: string }>(trx, `SELECT id, address FROM bin WHERE site_id = ? AND address = ANY(?::text[])`, [
        site,
        bins.map((b) => b.address),
      ])
    ).map((r) => [r.address, r.id]),
  );
  const keep = bins.flatMap((b) => b.oldNames.map((name) => ({ bin: ids.get(b.address) as number, name })));
  await deleteOldNames(trx, [...ids.values()], keep);
  await insertOldNames(trx, site, keep);
}
