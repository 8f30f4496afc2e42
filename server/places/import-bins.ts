import { formatQty, type Qty } from '#core/base';
import { BIN_COLUMNS, judgeBinSheet, type BinImport, type BinRecord, type KnownBin } from '#core/places';
import {
  announce,
  asQty,
  byTitles,
  importSheet,
  lockRows,
  query,
  type Db,
  type JobContext,
  type SheetColumn,
  type Trx,
} from '#server/kernel';
import { deleteOldNames, insertOldNames, lockNames, OLD_NAMES } from './store.ts';

type Reads = Pick<Db, 'raw'>;
type BinRecordRow = Omit<KnownBin, 'units'> & { units: string | null };

/** Every bin of a site as import and export know it. */
export async function selectBinRecords(db: Reads, site: number): Promise<KnownBin[]> {
  const rows = await query<BinRecordRow>(
    db,
    `SELECT bin.id, z.code AS zone, bin.address, ${OLD_NAMES} AS "oldNames", bin.walk, bin.one_item AS "oneItem",
       bin.one_lot AS "oneLot", bin.storage_class AS "storageClass", bin.capacity AS units,
       bin.volume_ml AS "volumeMl", bin.weight_g AS "weightG", bin.arrow, bin.retired_at IS NOT NULL AS "isRetired",
         NOT EXISTS (SELECT 1 FROM balance b WHERE b.bin_id = bin.id AND b.qty > 0) AS "isEmpty"
     FROM bin JOIN zone z ON z.id = bin.zone_id WHERE bin.site_id = ? ORDER BY bin.walk, bin.id`,
    [site],
  );
  return rows.map((r) => ({ ...r, units: r.units === null ? null : asQty(r.units), oldNames: [...r.oldNames].sort() }));
}

const thousandths = (n: number | null): string => (n === null ? '' : formatQty(n as Qty));
/** The columns of the export: exactly what import reads. */
export const BIN_SHEET: readonly SheetColumn<BinRecord>[] = [
  { title: 'Zone', of: (b) => b.zone },
  { title: 'Address', of: (b) => b.address, width: 18 },
  { title: 'Old names', of: (b) => b.oldNames.join('; ') },
  { title: 'Walk', of: (b) => b.walk },
  { title: 'One item', of: (b) => (b.oneItem ? 'yes' : 'no') },
  { title: 'One lot', of: (b) => (b.oneLot ? 'yes' : 'no') },
  { title: 'Storage class', of: (b) => b.storageClass },
  { title: 'Room in units', of: (b) => thousandths(b.units) },
  { title: 'Room in litres', of: (b) => thousandths(b.volumeMl) },
  { title: 'Room in kg', of: (b) => thousandths(b.weightG) },
  { title: 'Arrow', of: (b) => b.arrow },
];

/** Imports bins (A4). */
export function importBins(
  context: JobContext<{ file: number; apply?: boolean }>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { site } = context.job;
  return importSheet<BinImport>(context, {
    locate: byTitles(BIN_COLUMNS),
    lock: async (trx) => {
      const zones = await query<{ id: number }>(trx, `SELECT id FROM zone WHERE site_id = ?`, [site]);
      await lockRows(
        trx,
        'zone',
        zones.map((z) => z.id),
      );
      await lockNames(trx, site);
    },
    judge: async (db, columns, rows) => {
      const zones = await query<{ code: string }>(db, `SELECT code FROM zone WHERE site_id = ?`, [site]);
      const bins = await selectBinRecords(db, site);
      return judgeBinSheet(columns, rows, { zones: new Set(zones.map((z) => z.code)), bins: new Map(bins.map((b) => [b.address, b])) });
    },
    write: async (trx, judged, _file, progress) => {
      await writeBins(trx, site, judged, progress);
      announce(trx, 'places');
    },
  });
}

const BATCH = 2000;

async function writeBins(trx: Trx, site: number, { make, change }: BinImport, progress: (done: number) => Promise<void>): Promise<void> {
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
  const ROWS = `unnest(?::text[], ?::text[], ?::int[], ?::boolean[], ?::boolean[], ?::text[], ?::numeric[], ?::bigint[], ?::bigint[], ?::text[]) WITH ORDINALITY
    AS r(zone, address, walk, one_item, one_lot, storage_class, capacity, volume_ml, weight_g, arrow, n) JOIN zone z ON z.site_id = ? AND z.code = r.zone`;
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
      `UPDATE bin SET zone_id = z.id, walk = coalesce(r.walk, bin.walk), version = bin.version + 1, one_item = r.one_item, one_lot = r.one_lot, storage_class = r.storage_class, capacity = r.capacity, volume_ml = r.volume_ml, weight_g = r.weight_g, arrow = r.arrow
       FROM ${ROWS} WHERE bin.site_id = z.site_id AND bin.address = r.address`,
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
