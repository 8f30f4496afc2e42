import { formatQty, type Qty } from '#core/base';
import { BIN_COLUMNS, judgeBinSheet, type BinImport, type BinRecord, type KnownBin } from '#core/places';
import { announce, asQty, byTitles, importSheet, lockRows, query, type Db, type JobContext, type SheetColumn } from '#server/kernel';
import { lockNames, OLD_NAMES } from './store.ts';
import { writeBins } from './store-import.ts';

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
