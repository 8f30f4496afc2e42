import type { BinId, ItemId, LotId, Qty, SerialId } from '#core/base';
import type { FailedPart, Finding } from '#core/receiving';
import { asQty, dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

export type InspectableRow = {
  id: number;
  item: ItemId;
  code: string;
  decimals: number;
  qty: Qty;
  expired: boolean;
  /** Where it was received: null as long as it is not posted. */
  posted: { lot: LotId | null; serial: SerialId | null; bin: BinId } | null;
  /** The document that reversed it. */
  reversed: string | null;
  finding: Finding | null;
};

/** An entry of a delivery as it is looked at, by its number or key; undefined where it is none of the delivery, or was taken out. */
export async function selectInspectable(
  db: Reads,
  delivery: number,
  entry: { readonly id: number } | { readonly key: string },
): Promise<InspectableRow | undefined> {
  const [row] = await query<{
    id: number;
    item: ItemId;
    code: string;
    decimals: number;
    qty: string;
    expired: boolean;
    lot: LotId | null;
    serial: SerialId | null;
    bin: BinId | null;
    reversed: string | null;
  }>(
    db,
    `SELECT e.id, e.item_id AS item, i.code, i.decimals, e.qty, coalesce(m.to_condition = 'failed', false) AS expired, m.lot_id AS lot,
       m.serial_id AS serial, m.to_bin AS bin, (SELECT v.number FROM document v WHERE v.id = e.reversal_id) AS reversed
     FROM delivery_entry e
     JOIN item i ON i.id = e.item_id
     LEFT JOIN movement m ON m.id = e.movement_id
     WHERE e.delivery_id = ? AND e.taken_out_at IS NULL AND ${'id' in entry ? 'e.id = ?' : 'e.key = ?'}`,
    [delivery, 'id' in entry ? entry.id : entry.key],
  );
  if (!row) return undefined;
  const { lot, serial, bin, ...rest } = row;
  const found = await selectFindings(db, [row.id]);
  return { ...rest, qty: asQty(row.qty), posted: bin === null ? null : { lot, serial, bin }, finding: found.get(row.id) ?? null };
}

export type FoundOut = Finding & { readonly by: string; readonly at: Date; readonly document: { id: number; number: string } | null };

/** What stands of each of these entries. */
export async function selectFindings(db: Reads, entries: readonly number[]): Promise<ReadonlyMap<number, FoundOut>> {
  const rows = await query<{
    entry: number;
    checked: string;
    note: string;
    failed: { reason: number; qty: string }[];
    by: string;
    at: Date;
    document: { id: number; number: string } | null;
  }>(
    db,
    `SELECT f.entry_id AS entry, f.checked, f.note, p.name AS by, f.at,
       (
         SELECT coalesce(json_agg(json_build_object('reason', x.reason_id, 'qty', x.qty::text) ORDER BY x.reason_id), '[]')
         FROM inspection_failure x
         WHERE x.inspection_id = f.id
       ) AS failed,
       (SELECT json_build_object('id', d.id, 'number', d.number) FROM document d WHERE d.id = f.document_id) AS document
     FROM finding f
     JOIN person p ON p.id = f.person_id
     WHERE f.entry_id = ANY(?::int[])`,
    [entries],
  );
  return new Map(
    rows.map(({ entry, failed, checked, ...r }): [number, FoundOut] => [
      entry,
      { ...r, checked: asQty(checked), failed: failed.map((f) => ({ reason: f.reason, qty: asQty(f.qty) })) },
    ]),
  );
}

/** The pictures that were taken of the goods of a delivery, by entry, the oldest first. */
export async function selectPhotos(db: Reads, delivery: number): Promise<ReadonlyMap<number, readonly number[]>> {
  const rows = await query<{ entry: number; files: number[] }>(
    db,
    `SELECT x.entry_id AS entry, json_agg(x.file_id ORDER BY x.at, x.file_id) AS files
     FROM inspection_photo x
     JOIN delivery_entry e ON e.id = x.entry_id
     WHERE e.delivery_id = ?
     GROUP BY x.entry_id`,
    [delivery],
  );
  return new Map(rows.map((r) => [r.entry, r.files]));
}

/** Keeps what was found of an entry; it stands instead of what was found before. `document`: by which its goods were moved for it. */
export async function insertFinding(
  trx: Trx,
  found: Finding & {
    key: string;
    entry: number;
    person: number;
    device: string | null;
    at: Date | null;
    document: number | null;
  },
): Promise<void> {
  const { id } = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO inspection (key, entry_id, checked, note, person_id, device, at, document_id)
     VALUES (?, ?, ?, ?, ?, ?, coalesce(?::timestamptz, now_here()), ?)
     RETURNING id`,
    [found.key, found.entry, dbQty(found.checked), found.note, found.person, found.device, found.at, found.document],
  );
  await insertFailures(trx, id, found.failed);
}

async function insertFailures(trx: Trx, inspection: number, failed: readonly FailedPart[]): Promise<void> {
  if (failed.length === 0) return;
  await query(
    trx,
    `INSERT INTO inspection_failure (inspection_id, reason_id, qty) SELECT ?::bigint, * FROM unnest(?::int[], ?::numeric[])`,
    [inspection, failed.map((f) => f.reason), failed.map((f) => dbQty(f.qty))],
  );
}

/** Keeps a picture of the goods of an entry. */
export async function insertPhoto(trx: Trx, photo: { entry: number; file: number; person: number; at: Date | null }): Promise<void> {
  await query(
    trx,
    `INSERT INTO inspection_photo (entry_id, file_id, person_id, at) VALUES (?, ?, ?, coalesce(?::timestamptz, now_here()))
     ON CONFLICT DO NOTHING`,
    [photo.entry, photo.file, photo.person, photo.at],
  );
}

/** What kind of file this is; undefined where there is none. */
export async function selectFileKind(db: Reads, file: number): Promise<{ name: string; type: string } | undefined> {
  return (await query<{ name: string; type: string }>(db, `SELECT name, type FROM file WHERE id = ?`, [file]))[0];
}

/** How many pictures there are of an entry. */
export async function countPhotos(db: Reads, entry: number): Promise<number> {
  return (await queryOne<{ n: number }>(db, `SELECT count(*) AS n FROM inspection_photo WHERE entry_id = ?`, [entry])).n;
}

export type ReasonRow = { id: number; name: string; retired: boolean; used: number };

/** The reasons for which goods fail, by name, those that are used no more among them. */
export function selectReasons(db: Reads): Promise<ReasonRow[]> {
  return query(
    db,
    `SELECT r.id, r.name, r.retired_at IS NOT NULL AS retired,
       (SELECT count(*) FROM inspection_failure x WHERE x.reason_id = r.id) AS used
     FROM failure_reason r
     ORDER BY lower(r.name)`,
  );
}

/** Writes a reason for failing: a new one where `id` is null. False where the name is another's already. */
export async function writeReason(trx: Trx, reason: { id: number | null; name: string; retired: boolean }): Promise<boolean> {
  const [other] = await query(trx, `SELECT 1 FROM failure_reason WHERE lower(name) = lower(?) AND id IS DISTINCT FROM ?::int`, [
    reason.name,
    reason.id,
  ]);
  if (other) return false;
  if (reason.id === null) await query(trx, `INSERT INTO failure_reason (name) VALUES (?)`, [reason.name]);
  else
    await query(
      trx,
      `UPDATE failure_reason SET name = ?, retired_at = CASE WHEN ? THEN coalesce(retired_at, now_here()) END WHERE id = ?`,
      [reason.name, reason.retired, reason.id],
    );
  return true;
}

export type FailureRow = {
  entry: number;
  delivery: number;
  number: string;
  at: Date;
  by: string;
  supplier: string | null;
  item: number;
  code: string;
  description: string;
  unit: string;
  reason: string;
  qty: string;
  checked: string;
  arrived: string;
  lot: string | null;
  note: string;
  photos: number[];
};

// What customers bring back has no supplier.
const FROM_WHOM = `CASE WHEN d.is_return THEN 'brought back' ELSE coalesce(s.name, 'nobody said') END`;
const OF_FAILURES = `
  FROM finding f
  JOIN inspection_failure x ON x.inspection_id = f.id
  JOIN failure_reason r ON r.id = x.reason_id
  JOIN delivery_entry e ON e.id = f.entry_id AND e.taken_out_at IS NULL
  JOIN delivery d ON d.id = e.delivery_id AND d.state <> 'thrown'
  JOIN item i ON i.id = e.item_id
  JOIN person p ON p.id = f.person_id
  LEFT JOIN supplier s ON s.id = d.supplier_id
  WHERE d.site_id = ? AND f.at >= ?::date AND f.at < ?::date + 1`;

/** What failed at a site between two days, the newest first. */
export function selectFailures(db: Reads, of: { site: number; from: string; to: string; limit: number }): Promise<FailureRow[]> {
  return query(
    db,
    `SELECT e.id AS entry, d.id AS delivery, d.number, f.at, p.name AS by, ${FROM_WHOM} AS supplier, i.id AS item, i.code, i.description,
       i.base_unit AS unit, r.name AS reason, x.qty, f.checked, e.qty AS arrived, e.lot, f.note,
       (
         SELECT coalesce(json_agg(h.file_id ORDER BY h.at), '[]')
         FROM inspection_photo h
         WHERE h.entry_id = e.id
       ) AS photos
     ${OF_FAILURES}
     ORDER BY f.at DESC, f.id DESC, r.name
     LIMIT ?`,
    [of.site, of.from, of.to, of.limit],
  );
}

export type FailureSum = { name: string; reason: string; qty: string };

/** How many failed between two days, by supplier or item, and by reason. */
export function sumFailures(db: Reads, of: { site: number; from: string; to: string; by: 'supplier' | 'item' }): Promise<FailureSum[]> {
  const name = of.by === 'supplier' ? FROM_WHOM : 'i.code';
  return query(
    db,
    `SELECT ${name} AS name, r.name AS reason, sum(x.qty) AS qty ${OF_FAILURES} GROUP BY 1, 2 ORDER BY sum(sum(x.qty)) OVER (
       PARTITION BY ${name}) DESC, 1, 2`,
    [of.site, of.from, of.to],
  );
}

/** How many were looked at, of how many that arrived, between two days; by supplier. */
export function sumChecked(
  db: Reads,
  of: { site: number; from: string; to: string },
): Promise<{ supplier: string; checked: string; failed: string }[]> {
  return query(
    db,
    `SELECT ${FROM_WHOM} AS supplier, sum(f.checked) AS checked, sum(f.failed) AS failed
     FROM finding f
     JOIN delivery_entry e ON e.id = f.entry_id AND e.taken_out_at IS NULL
     JOIN delivery d ON d.id = e.delivery_id AND d.state <> 'thrown'
     LEFT JOIN supplier s ON s.id = d.supplier_id
     WHERE d.site_id = ? AND f.at >= ?::date AND f.at < ?::date + 1
     GROUP BY 1
     ORDER BY 3 DESC, 1`,
    [of.site, of.from, of.to],
  );
}
