import { randomUUID } from 'node:crypto';
import type { BinId } from '#core/base';
import type { BinToFill, Finding, SheetEntry } from '#core/receiving';
import { dbQty, query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

/** Keeps others from receiving a sheet, or taking one up again, until this has ended. Scans do not wait for it. */
export async function lockSheets(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE delivery_sheet IN SHARE ROW EXCLUSIVE MODE`);
}

/** The number of another delivery that was read from a sheet of this one and was not thrown away, or null. */
export async function selectOtherOfSheets(db: Reads, delivery: number): Promise<string | null> {
  const [row] = await query<{ number: string }>(
    db,
    `SELECT d.number
     FROM delivery_sheet own
     JOIN delivery_sheet s ON s.contents = own.contents AND s.delivery_id <> own.delivery_id
     JOIN delivery d ON d.id = s.delivery_id
     WHERE own.delivery_id = ? AND d.state <> 'thrown'
     LIMIT 1`,
    [delivery],
  );
  return row?.number ?? null;
}

/** The number of the delivery that was read from this sheet before and was not thrown away, or null. */
export async function selectDeliveryOfSheet(db: Reads, contents: string): Promise<string | null> {
  const [row] = await query<{ number: string }>(
    db,
    `SELECT d.number FROM delivery_sheet s JOIN delivery d ON d.id = s.delivery_id WHERE s.contents = ? AND d.state <> 'thrown' LIMIT 1`,
    [contents],
  );
  return row?.number ?? null;
}

/** The dates of these lots and the places of these serials, whatever their items, by “item|label”: what is kept, and what stands in
 *  deliveries that have not ended. */
export async function selectLabelsKnown(
  db: Reads,
  labels: { lots: readonly string[]; serials: readonly string[] },
): Promise<{ lots: Map<string, string>; serials: Map<string, string> }> {
  const lots = await query<{ item: number; code: string; expires: string }>(
    db,
    `SELECT e.item_id AS item, e.lot AS code, e.expires
     FROM delivery_entry e
     JOIN delivery d ON d.id = e.delivery_id
     WHERE e.lot = ANY(?::text[]) AND e.expires IS NOT NULL AND e.taken_out_at IS NULL AND d.state IN ('scanning', 'review')
     UNION ALL
     SELECT item_id, code, expires FROM lot WHERE code = ANY(?::text[]) AND expires IS NOT NULL`,
    [labels.lots, labels.lots],
  );
  const serials = await query<{ item: number; code: string; place: string }>(
    db,
    `SELECT e.item_id AS item, e.serial AS code, 'scanned in delivery ' || d.number AS place
     FROM delivery_entry e
     JOIN delivery d ON d.id = e.delivery_id
     WHERE e.serial = ANY(?::text[]) AND e.taken_out_at IS NULL AND d.state IN ('scanning', 'review')
     UNION ALL
     SELECT s.item_id, s.code, 'bin ' || bin.address
     FROM serial s
     JOIN balance b ON b.serial_id = s.id AND b.qty > 0
     JOIN bin ON bin.id = b.bin_id
     WHERE s.code = ANY(?::text[])`,
    [labels.serials, labels.serials],
  );
  return {
    lots: new Map(lots.map((l) => [`${l.item}|${l.code}`, l.expires])),
    serials: new Map(serials.map((s) => [`${s.item}|${s.code}`, s.place])),
  };
}

/** Writes what a sheet says into a delivery, in the order of its rows. */
export async function insertSheetEntries(
  trx: Trx,
  into: { delivery: number; contents: string; person: number },
  entries: readonly SheetEntry[],
): Promise<void> {
  const keys = entries.map(() => randomUUID());
  const of = <K extends keyof SheetEntry>(key: K): SheetEntry[K][] => entries.map((e) => e[key]);
  await query(
    trx,
    `WITH touched AS (UPDATE delivery SET touched = now_here() WHERE id = ?)
     INSERT INTO delivery_entry (key, delivery_id, item_id, pack_id, qty, lot, expires, made, serial, to_bin, cost, person_id, at)
     SELECT x.key, ?, x.item, x.pack, x.qty, x.lot, x.expires, x.made, x.serial, x.bin, x.cost, ?, now_here()
     FROM unnest(?::uuid[], ?::int[], ?::int[], ?::numeric[], ?::text[], ?::date[], ?::date[], ?::text[], ?::int[], ?::numeric[])
       WITH ORDINALITY AS x (key, item, pack, qty, lot, expires, made, serial, bin, cost, n)
     ORDER BY x.n`,
    [
      into.delivery,
      into.delivery,
      into.person,
      keys,
      of('item'),
      of('pack'),
      entries.map((e) => dbQty(e.qty)),
      of('lot'),
      of('expires'),
      of('made'),
      of('serial'),
      of('bin'),
      of('cost'),
    ],
  );
  await insertFindings(
    trx,
    into.person,
    entries.flatMap((e, n) => (e.finding ? [{ ...e.finding, entry: keys[n] as string }] : [])),
  );
  await query(trx, `INSERT INTO delivery_sheet (delivery_id, contents) VALUES (?, ?)`, [into.delivery, into.contents]);
}

/** Writes what a sheet says was found of the entries that it made, each by the key of its entry. */
async function insertFindings(trx: Trx, person: number, findings: readonly (Finding & { entry: string })[]): Promise<void> {
  if (findings.length === 0) return;
  const parts = findings.flatMap((f) => f.failed.map((part) => ({ ...part, entry: f.entry })));
  await query(
    trx,
    `WITH said AS (
       INSERT INTO inspection (key, entry_id, checked, person_id)
       SELECT gen_random_uuid(), e.id, x.checked, ?
       FROM unnest(?::uuid[], ?::numeric[]) AS x(entry, checked)
       JOIN delivery_entry e ON e.key = x.entry
       RETURNING id, entry_id)
     INSERT INTO inspection_failure (inspection_id, reason_id, qty)
     SELECT said.id, x.reason, x.qty
     FROM unnest(?::uuid[], ?::int[], ?::numeric[]) AS x(entry, reason, qty)
     JOIN delivery_entry e ON e.key = x.entry
     JOIN said ON said.entry_id = e.id`,
    [
      person,
      findings.map((f) => f.entry),
      findings.map((f) => dbQty(f.checked)),
      parts.map((p) => p.entry),
      parts.map((p) => p.reason),
      parts.map((p) => dbQty(p.qty)),
    ],
  );
}

/** The bins of a site by every name that scans, folded. */
export async function selectBinsNamed(db: Reads, site: number): Promise<ReadonlyMap<string, BinToFill & { id: BinId }>> {
  const rows = await query<{ name: string; id: BinId; address: string; use: string }>(
    db,
    `SELECT n.name, b.id, b.address, b.use
     FROM bin_name n
     JOIN bin b ON b.id = n.bin_id
     WHERE b.site_id = ? AND b.retired_at IS NULL`,
    [site],
  );
  return new Map(rows.map(({ name, ...bin }) => [name, bin]));
}
