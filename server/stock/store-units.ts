import type { LotId, Qty, SerialId, UnitId } from '#core/base';
import { isSscc } from '#core/items';
import type { Condition } from '#core/stock';
import { asQty, lockRows, query, refuse, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

/** Logistic units by their SSCC, made where they are new, and locked: what enters them is theirs alone until the transaction ends.
 *  Errors: `stock.unknownUnit` for what is no SSCC. */
export async function ensureUnits(trx: Trx, ssccs: readonly string[]): Promise<ReadonlyMap<string, UnitId>> {
  const wanted = [...new Set(ssccs)].sort();
  if (wanted.length === 0) return new Map();
  const wrong = wanted.find((s) => !isSscc(s));
  if (wrong !== undefined) refuse({ code: 'stock.unknownUnit', sscc: wrong });
  await query(trx, `INSERT INTO logistic_unit (sscc) SELECT * FROM unnest(?::text[]) ON CONFLICT (sscc) DO NOTHING`, [wanted]);
  const rows = await query<{ id: UnitId; sscc: string }>(trx, `SELECT id, sscc FROM logistic_unit WHERE sscc = ANY(?::text[])`, [wanted]);
  await lockRows(
    trx,
    'unit',
    rows.map((r) => r.id),
  );
  return new Map(rows.map((r) => [r.sscc, r.id]));
}

/** The unit of this number; undefined where none ever came. */
export async function selectUnit(db: Reads, sscc: string): Promise<{ id: UnitId; sscc: string } | undefined> {
  return (await query<{ id: UnitId; sscc: string }>(db, `SELECT id, sscc FROM logistic_unit WHERE sscc = ?`, [sscc]))[0];
}

/** What lies in a unit now, as it stands in its bin. */
export type UnitContent = {
  readonly item: number;
  readonly code: string;
  readonly description: string;
  readonly measure: string;
  readonly lotId: LotId | null;
  readonly serialId: SerialId | null;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly expired: boolean;
  readonly serial: string | null;
  readonly condition: Condition;
  readonly qty: Qty;
  readonly bin: number;
  readonly address: string;
  readonly use: string;
  readonly site: number;
  readonly siteName: string;
};

/** What lies in a unit, first what expires first. */
export async function selectUnitContent(db: Reads, unit: number): Promise<UnitContent[]> {
  const rows = await query<Omit<UnitContent, 'qty'> & { qty: string }>(
    db,
    `SELECT f.item_id AS item, i.code, i.description, i.base_unit AS measure, f.lot_id AS "lotId", f.serial_id AS "serialId", f.lot,
       f.expires, f.expired, f.serial, f.condition, f.qty, f.bin_id AS bin, f.address, f.use, f.site_id AS site,
       w.name AS "siteName"
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     JOIN site w ON w.id = f.site_id
     WHERE f.unit_id = ? AND f.qty > 0
     ORDER BY i.code, f.expires NULLS LAST, f.lot, f.serial, f.condition`,
    [unit],
  );
  return rows.map((r) => ({ ...r, qty: asQty(r.qty) }));
}

/** Where a unit stands; undefined where nothing of it is in stock. */
export async function selectUnitPlace(db: Reads, sscc: string): Promise<{ bin: string; site: number } | undefined> {
  const rows = await query<{ bin: string; site: number }>(
    db,
    `SELECT bin.address AS bin, bin.site_id AS site
     FROM logistic_unit u
     JOIN balance b ON b.unit_id = u.id
     JOIN bin ON bin.id = b.bin_id
     WHERE u.sscc = ?
     LIMIT 1`,
    [sscc],
  );
  return rows[0];
}
