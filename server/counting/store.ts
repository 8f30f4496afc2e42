import { query, refuse, type Db } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
export type CountListRow = {
  id: number;
  number: string;
  site_id: number;
  zone_id: number;
  zone: string;
  blind: boolean;
  state: 'open' | 'posted' | 'thrown';
  by: string;
  at: Date;
  bins: number;
  counted: number;
  starts_after: number;
};
const LISTED = `SELECT c.id, c.number, c.site_id, c.zone_id, z.name AS zone, c.blind, c.state, p.name AS by, c.at, c.starts_after, (SELECT count(*) FROM count_bin b WHERE b.count_id = c.id) AS bins,
  (SELECT count(*) FROM count_bin b WHERE b.count_id = c.id AND (b.verdict IS NOT NULL OR EXISTS (SELECT 1 FROM tally t WHERE t.count_id = c.id AND t.bin_id = b.bin_id AND t.taken_out_at IS NULL))) AS counted
  FROM stock_count c JOIN zone z ON z.id = c.zone_id JOIN person p ON p.id = c.made_by`;

/** The counts of a site, newest first. */
export async function selectCounts(db: Reads, site: number): Promise<CountListRow[]> {
  return query<CountListRow>(db, `${LISTED} WHERE c.site_id = ? AND c.state <> 'thrown' ORDER BY c.state, c.id DESC LIMIT 100`, [site]);
}

/** The count, refusing `counting.unknownCount`. Locks it where asked. */
export async function findCount(db: Reads, id: number, { lock = false } = {}): Promise<CountListRow> {
  if (lock) await query(db, `SELECT 1 FROM stock_count WHERE id = ? FOR UPDATE`, [id]);
  return (
    (await query<CountListRow>(db, `${LISTED} WHERE c.id = ?`, [id]))[0] ?? refuse({ code: 'counting.unknownCount', text: String(id) })
  );
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
  at: Date;
};

/** The tallies that stand in a count, newest first. */
export async function selectTallies(db: Reads, count: number): Promise<TallyRow[]> {
  return query<TallyRow>(
    db,
    `SELECT t.id, t.bin_id AS bin, t.item_id AS item, i.code, i.description, i.base_unit AS unit, t.lot_id, l.code AS lot, t.serial_id, s.code AS serial, t.qty, p.name AS by, t.at
     FROM tally t JOIN item i ON i.id = t.item_id JOIN person p ON p.id = t.person_id LEFT JOIN lot l ON l.id = t.lot_id LEFT JOIN serial s ON s.id = t.serial_id
     WHERE t.count_id = ? AND t.taken_out_at IS NULL ORDER BY t.id DESC`,
    [count],
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

/** What moved into and out of the count's bins after it began. */
export async function selectMovedSince(db: Reads, count: number): Promise<SinceRow[]> {
  return query<SinceRow>(
    db,
    `SELECT m.to_bin AS bin, m.item_id AS item, m.lot_id, m.serial_id, m.qty, m.at, false AS out FROM movement m JOIN count_bin b ON b.bin_id = m.to_bin AND b.count_id = ? JOIN stock_count c ON c.id = b.count_id WHERE m.id > c.starts_after AND m.from_bin <> m.to_bin
     UNION ALL SELECT m.from_bin, m.item_id, m.lot_id, m.serial_id, m.qty, m.at, true FROM movement m JOIN count_bin b ON b.bin_id = m.from_bin AND b.count_id = ? JOIN stock_count c ON c.id = b.count_id WHERE m.id > c.starts_after AND m.from_bin <> m.to_bin`,
    [count, count],
  );
}

/** The bins of a count in walking order, with what was said of each. */
export async function selectCountBins(
  db: Reads,
  count: number,
): Promise<{ bin: number; address: string; verdict: 'none' | 'asExpected' | null; verdict_at: Date | null }[]> {
  return query(
    db,
    `SELECT b.id AS bin, b.address, c.verdict, c.verdict_at FROM count_bin c JOIN bin b ON b.id = c.bin_id WHERE c.count_id = ? ORDER BY b.walk, b.id`,
    [count],
  );
}
