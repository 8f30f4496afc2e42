import type { Qty } from '#core/base';
import { dbQty, lockRows, query, queryOne, refuse, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type CountListRow = {
  id: number;
  number: string;
  site_id: number;
  site: string;
  zone_id: number;
  zone: string;
  blind: boolean;
  state: 'open' | 'posted' | 'thrown';
  by: string;
  at: Date;
  bins: number;
  counted: number;
};
const LISTED = `SELECT c.id, c.number, c.site_id, s.name AS site, c.zone_id, z.name AS zone, c.blind, c.state, p.name AS by, c.at,
    (SELECT count(*) FROM count_bin b WHERE b.count_id = c.id) AS bins,
  (
    SELECT count(*)
    FROM count_bin b
    WHERE b.count_id = c.id AND (
      b.verdict IS NOT NULL
        OR EXISTS (SELECT 1 FROM tally t WHERE t.count_id = c.id AND t.bin_id = b.bin_id AND t.taken_out_at IS NULL)
    )
  ) AS counted
  FROM stock_count c JOIN site s ON s.id = c.site_id JOIN zone z ON z.id = c.zone_id JOIN person p ON p.id = c.made_by`;

/** The counts of a site, newest first. */
export async function selectCounts(db: Reads, site: number): Promise<CountListRow[]> {
  return query<CountListRow>(db, `${LISTED} WHERE c.site_id = ? AND c.state <> 'thrown' ORDER BY c.state, c.id DESC LIMIT 100`, [site]);
}

/** The count, refusing `counting.unknownCount`. */
export async function findCount(db: Reads, id: number): Promise<CountListRow> {
  return (
    (await query<CountListRow>(db, `${LISTED} WHERE c.id = ?`, [id]))[0] ?? refuse({ code: 'counting.unknownCount', text: String(id) })
  );
}

/** Locks a count and reads it as it is then.
 *  Errors: `counting.unknownCount`; `people.otherSite` where it is another site's than `site`. */
export async function lockCount(trx: Trx, id: number, site: number): Promise<CountListRow> {
  await lockRows(trx, 'count', [id]);
  const count = await findCount(trx, id);
  if (count.site_id !== site) refuse({ code: 'people.otherSite', what: `Count ${count.number}`, site: count.site });
  return count;
}

/** The same for one that must be open. */
export async function lockOpenCount(trx: Trx, id: number, site: number): Promise<CountListRow> {
  const count = await lockCount(trx, id, site);
  if (count.state !== 'open')
    refuse({ code: 'counting.notOpen', number: count.number, state: count.state === 'posted' ? 'posted' : 'thrown away' });
  return count;
}

/** Writes a count with its bins and with what lies in them now: one statement, one snapshot, which the count keeps. Nothing waits for it
 *  and it waits for nothing; a posting that is under way is after it. `starts_after` only narrows the search: nothing runs for an hour. */
export async function insertCount(
  trx: Trx,
  count: { zone: number; blind: boolean; site: number; person: number },
): Promise<{ id: number; number: string; bins: number }> {
  const made = await queryOne<{ id: number; number: string; bins: number }>(
    trx,
    `WITH begun AS (
       INSERT INTO stock_count (number, site_id, zone_id, blind, made_by, began, starts_after)
       SELECT 'CT-' || nextval('number_ct'), ?, ?, ?, ?, pg_current_snapshot(),
         coalesce((SELECT max(id) FROM movement WHERE coalesce(told, at) < now_here() - interval '1 hour'), 0)
       RETURNING id, number),
     bins AS (
       INSERT INTO count_bin (count_id, bin_id)
       SELECT begun.id, bin.id
       FROM begun, bin
       WHERE bin.zone_id = ? AND bin.retired_at IS NULL
       RETURNING bin_id
     ),
     noted AS (
       INSERT INTO count_expected (count_id, bin_id, item_id, lot_id, serial_id, unit_id, condition, qty)
       SELECT begun.id, b.bin_id, b.item_id, b.lot_id, b.serial_id, b.unit_id, b.condition, b.qty
       FROM begun, bins
       JOIN balance b USING (bin_id)
       WHERE b.qty > 0)
     SELECT id, number, (SELECT count(*) FROM bins) AS bins FROM begun`,
    [count.site, count.zone, count.blind, count.person, count.zone],
  );
  return made;
}

export type TallyRow = {
  id: number;
  bin: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  lot_id: number | null;
  lot: string | null;
  serial_id: number | null;
  serial: string | null;
  qty: string;
  by: string;
  by_id: number;
  at: Date;
};

/** Who counted these goods of a logistic unit by its label already. */
export async function selectUnitTallied(
  db: Reads,
  of: { count: number; sscc: string; item: number; lot: number | null; serial: number | null },
): Promise<string | undefined> {
  const rows = await query<{ by: string }>(
    db,
    `SELECT p.name AS by
     FROM tally t
     JOIN person p ON p.id = t.person_id
     WHERE t.count_id = ? AND t.sscc = ? AND t.item_id = ? AND t.lot_id IS NOT DISTINCT FROM ?::int
       AND t.serial_id IS NOT DISTINCT FROM ?::int AND t.taken_out_at IS NULL
     LIMIT 1`,
    [of.count, of.sscc, of.item, of.lot, of.serial],
  );
  return rows[0]?.by;
}

/** The tallies that stand in a count, newest first: all, or those of an item in a bin. */
export async function selectTallies(db: Reads, count: number, only?: { bin: number; item: number }): Promise<TallyRow[]> {
  return query<TallyRow>(
    db,
    `SELECT t.id, t.bin_id AS bin, t.item_id AS item, i.code, i.description, i.base_unit AS unit, t.lot_id, l.code AS lot,
       t.serial_id, s.code AS serial, t.qty, p.name AS by, p.id AS by_id, t.at
     FROM tally t
     JOIN item i ON i.id = t.item_id
     JOIN person p ON p.id = t.person_id
     LEFT JOIN lot l ON l.id = t.lot_id
     LEFT JOIN serial s ON s.id = t.serial_id
     WHERE t.count_id = ? AND t.taken_out_at IS NULL AND (?::int IS NULL OR t.bin_id = ? AND t.item_id = ?) ORDER BY t.id DESC`,
    [count, only?.bin ?? null, only?.bin ?? null, only?.item ?? null],
  );
}

export type ExpectedRow = { bin: number; item: number; lot_id: number | null; serial_id: number | null; qty: string };
export type SinceRow = ExpectedRow & { at: Date; out: boolean };

/** What was expected when the count began, sound stock and all other conditions together: a counter sees pieces, not conditions. */
export async function selectExpectedAtStart(db: Reads, count: number): Promise<ExpectedRow[]> {
  return query<ExpectedRow>(
    db,
    `SELECT bin_id AS bin, item_id AS item, lot_id, serial_id, sum(qty) AS qty FROM count_expected WHERE count_id = ? GROUP BY 1, 2, 3, 4`,
    [count],
  );
}

// What the count's snapshot did not see. Counts that were begun before snapshots were kept go by the ledger's number; those that came back
// with a backup by the numbers of what they saw.
const SINCE =
  `m.id > c.starts_after AND m.id <> ALL(c.seen) AND (c.began IS NULL OR NOT pg_visible_in_snapshot(m.xid, c.began)) AND ` +
  `m.from_bin <> m.to_bin`;

/** What moved into and out of the count's bins after it began. */
export async function selectMovedSince(db: Reads, count: number): Promise<SinceRow[]> {
  return query<SinceRow>(
    db,
    `SELECT m.to_bin AS bin, m.item_id AS item, m.lot_id, m.serial_id, m.qty, m.at, false AS out
     FROM stock_count c JOIN count_bin b ON b.count_id = c.id JOIN movement m ON m.to_bin = b.bin_id WHERE c.id = ? AND ${SINCE}
     UNION ALL SELECT m.from_bin, m.item_id, m.lot_id, m.serial_id, m.qty, m.at, true
     FROM stock_count c JOIN count_bin b ON b.count_id = c.id JOIN movement m ON m.from_bin = b.bin_id WHERE c.id = ? AND ${SINCE}`,
    [count, count],
  );
}

/** Ends a count: its bins are free for the next one; those that were wholly counted are counted, and what was reported of them is
 *  settled. */
export async function closeCount(trx: Trx, count: number, document: number, counted: readonly number[]): Promise<void> {
  await query(
    trx,
    `WITH bins AS (UPDATE count_bin SET open = false, counted_at = CASE WHEN bin_id = ANY(?::int[]) THEN now_here() END WHERE count_id = ?),
     settled AS (UPDATE trouble SET settled_at = now_here() WHERE bin_id = ANY(?::int[]) AND settled_at IS NULL)
     UPDATE stock_count SET state = 'posted', posted_at = now_here(), document_id = ? WHERE id = ?`,
    [counted, count, counted, document, count],
  );
}

/** The bins of a count in walking order, with what was said of each. */
export async function selectCountBins(
  db: Reads,
  count: number,
): Promise<{ bin: number; address: string; verdict: 'none' | 'asExpected' | null; verdict_at: Date | null; counted: boolean }[]> {
  return query(
    db,
    `SELECT b.id AS bin, b.address, c.verdict, c.verdict_at,
       c.verdict IS NOT NULL
         OR EXISTS (SELECT 1 FROM tally t WHERE t.count_id = c.count_id AND t.bin_id = c.bin_id AND t.taken_out_at IS NULL) AS counted
     FROM count_bin c JOIN bin b ON b.id = c.bin_id WHERE c.count_id = ? ORDER BY b.walk, b.id`,
    [count],
  );
}

/** Takes a tally out of its count; false where it is not in it any more. */
export async function takeOutTally(trx: Trx, count: number, tally: number): Promise<boolean> {
  const done = await query(
    trx,
    `UPDATE tally SET taken_out_at = now_here() WHERE id = ? AND count_id = ? AND taken_out_at IS NULL RETURNING 1`,
    [tally, count],
  );
  return done.length > 0;
}

/** Throws an open count away, or takes a thrown one up again. */
export async function updateThrown(trx: Trx, count: number, thrown: boolean): Promise<void> {
  await query(trx, `UPDATE count_bin SET open = ? WHERE count_id = ?`, [!thrown, count]);
  await query(trx, `UPDATE stock_count SET state = ? WHERE id = ?`, [thrown ? 'thrown' : 'open', count]);
}

/** An open count that has a bin of this zone. */
export async function selectOpenInZone(db: Reads, zone: number): Promise<{ number: string } | undefined> {
  return (
    await query<{ number: string }>(
      db,
      `SELECT c.number
       FROM count_bin b
       JOIN stock_count c ON c.id = b.count_id
       JOIN bin ON bin.id = b.bin_id
       WHERE b.open AND bin.zone_id = ?
       LIMIT 1`,
      [zone],
    )
  )[0];
}

/** Writes a tally, told by a device under a key of its own; what was said of its bin as a whole no longer holds. Returns its number. */
export async function insertTally(
  trx: Trx,
  told: {
    key: string;
    count: number;
    bin: number;
    item: number;
    lot: number | null;
    serial: number | null;
    sscc: string | null;
    qty: Qty;
    person: number;
    device: string | null;
    at: Date | null;
  },
): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `WITH said AS (UPDATE count_bin SET verdict = NULL, verdict_at = NULL WHERE count_id = ? AND bin_id = ? AND verdict IS NOT NULL)
     INSERT INTO tally (key, count_id, bin_id, item_id, lot_id, serial_id, sscc, qty, person_id, device, at)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, coalesce(?::timestamptz, now_here()))
     RETURNING id`,
    [
      told.count,
      told.bin,
      told.key,
      told.count,
      told.bin,
      told.item,
      told.lot,
      told.serial,
      told.sscc,
      dbQty(told.qty),
      told.person,
      told.device,
      told.at,
    ],
  );
  return made.id;
}

/** Says how much a tally is of. */
export async function updateTally(trx: Trx, tally: number, qty: Qty): Promise<void> {
  await query(trx, `UPDATE tally SET qty = ? WHERE id = ?`, [dbQty(qty), tally]);
}

/** Begins a bin of a count again: what was told of it until then goes, and a verdict stands for all of it, or none. */
export async function beginBinAgain(
  trx: Trx,
  said: { count: number; bin: number; verdict: 'none' | 'asExpected' | null; at: Date | null },
): Promise<void> {
  await query(
    trx,
    `UPDATE tally SET taken_out_at = now_here()
     WHERE count_id = ? AND bin_id = ? AND taken_out_at IS NULL AND at <= coalesce(?::timestamptz, now_here())`,
    [said.count, said.bin, said.at],
  );
  await query(
    trx,
    `UPDATE count_bin
     SET verdict = ?, verdict_at = CASE WHEN ?::text IS NOT NULL THEN coalesce(?::timestamptz, now_here()) END
     WHERE count_id = ? AND bin_id = ?`,
    [said.verdict, said.verdict, said.at, said.count, said.bin],
  );
}

/** Takes out of a count what others than this person found in a bin. */
export async function takeOutOthersTallies(trx: Trx, of: { count: number; bin: number; person: number }): Promise<void> {
  await query(
    trx,
    `UPDATE tally SET taken_out_at = now_here() WHERE count_id = ? AND bin_id = ? AND person_id <> ? AND taken_out_at IS NULL`,
    [of.count, of.bin, of.person],
  );
}
