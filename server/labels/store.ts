import type { LabelFace } from '#core/labels';
import type { WRONG_LABEL_SORTS } from '#contract/labels';
import { announce, query, type Db, type Trx, selectSorted, type SortBy, type SortKey } from '#server/kernel';

/** Queues labels to be printed, each with the words and codes that stand on it. */
export async function insertPrintJobs(
  trx: Trx,
  person: number,
  labels: readonly { title: string; face: LabelFace; copies: number }[],
): Promise<void> {
  await query(
    trx,
    `INSERT INTO print_job (title, face, copies, person_id)
     SELECT t, f::jsonb, c, ?
     FROM unnest(?::text[], ?::text[], ?::int[]) AS x(t, f, c)`,
    [person, labels.map((l) => l.title), labels.map((l) => JSON.stringify(l.face)), labels.map((l) => l.copies)],
  );
}

/** Lets a label be printed once more; false where there is none of that number. */
export async function retryPrintJob(trx: Trx, id: number): Promise<boolean> {
  const rows = await query(trx, `UPDATE print_job SET state = 'waiting', next_try = now_here(), tries = 0 WHERE id = ? RETURNING 1`, [id]);
  return rows.length > 0;
}

/** Labels that nobody has drawn yet, the oldest first. */
export function selectUndrawn(db: Db, limit: number): Promise<{ id: number; face: LabelFace }[]> {
  return query<{ id: number; face: LabelFace }>(
    db,
    `SELECT id, face FROM print_job WHERE svg IS NULL AND state = 'waiting' ORDER BY id LIMIT ?`,
    [limit],
  );
}

/** Keeps labels as they were drawn, or why they cannot be. What another drew meanwhile stays. */
export async function updateDrawn(trx: Trx, drawn: readonly { id: number; svg: string | null; why: string | null }[]): Promise<void> {
  await query(
    trx,
    `UPDATE print_job
     SET svg = x.svg, state = CASE WHEN x.svg IS NULL THEN 'failed' ELSE state END, said = x.why
     FROM unnest(?::int[], ?::text[], ?::text[]) AS x(id, svg, why)
     WHERE print_job.id = x.id AND print_job.svg IS NULL`,
    [drawn.map((d) => d.id), drawn.map((d) => d.svg), drawn.map((d) => d.why)],
  );
}

export type PrintJobRow = { id: number; svg: string; copies: number; title: string; tries: number };

/** The next label for the printer, locked; undefined where none waits. `SKIP LOCKED` lets several servers share one queue without printing
 *  anything twice. */
export async function lockNextPrintJob(trx: Trx): Promise<PrintJobRow | undefined> {
  const [job] = await query<PrintJobRow>(
    trx,
    `SELECT id, svg, copies, title, tries
     FROM print_job
     WHERE state <> 'printed' AND svg IS NOT NULL AND next_try <= now()
     ORDER BY id
     LIMIT 1
     FOR UPDATE SKIP LOCKED`,
  );
  return job;
}

/** Says that a label is printed. */
export async function updatePrinted(trx: Trx, id: number): Promise<void> {
  await query(trx, `UPDATE print_job SET state = 'printed', said = NULL WHERE id = ?`, [id]);
}

/** Says why a label could not be printed, and in how many seconds it is tried again. */
export async function updateNotPrinted(trx: Trx, id: number, why: { said: string; waitSeconds: number }): Promise<void> {
  await query(
    trx,
    `UPDATE print_job
     SET state = 'failed', said = ?, tries = tries + 1, next_try = now() + make_interval(secs => ?)
     WHERE id = ?`,
    [why.said, why.waitSeconds, id],
  );
}

/** Bins whose labels are wanted: these, or those of a zone. */
export type WantedBins = { bins?: readonly number[] | undefined; zone?: number | undefined; only?: 'all' | 'unlabelled' };
type BinFaceRow = { id: number; address: string; arrow: 'up' | 'down' | null; zone: string; site: string };

/** What stands on the labels of bins of a site, in walking order, so that the strip can be hung while walking. */
export function selectBinFaces(db: Pick<Trx, 'raw'>, site: number, { bins, zone, only }: WantedBins): Promise<BinFaceRow[]> {
  return query<BinFaceRow>(
    db,
    `SELECT b.id, b.address, b.arrow, z.name AS zone, s.name AS site
     FROM bin b
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = b.site_id
     WHERE b.site_id = ? AND CASE WHEN ?::int[] IS NULL THEN b.zone_id = ? AND b.retired_at IS NULL
       AND (NOT ?::boolean OR b.labelled_at IS NULL) ELSE b.id = ANY(?) END
     ORDER BY b.walk, b.id`,
    [site, bins ?? null, zone ?? null, only === 'unlabelled', bins ?? null],
  );
}

/** Notes that bins have their labels. */
export async function noteBinLabels(trx: Trx, bins: readonly { id: number }[]): Promise<void> {
  await query(trx, `UPDATE bin SET labelled_at = now_here() WHERE id = ANY(?::int[])`, [bins.map((b) => b.id)]);
  announce(trx, 'places');
}

/** Notes what stands on shelves from now on: what was printed. A label that fails at the printer stays in the queue until it is printed. */
export async function noteShelfLabels(trx: Trx, pairs: readonly { bin: number; item: number }[]): Promise<void> {
  await query(
    trx,
    `INSERT INTO shelf_label (bin_id, item_id, price)
     SELECT DISTINCT b.id, x.item, round(amount_on(x.item, 'price', today_in(s.time_zone)), 2)
     FROM unnest(?::int[], ?::int[]) AS x(bin, item)
     JOIN bin b ON b.id = x.bin
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = z.site_id
     WHERE z.shows_price
     ON CONFLICT (bin_id, item_id) DO UPDATE SET price = excluded.price, printed_at = now_here()`,
    [pairs.map((p) => p.bin), pairs.map((p) => p.item)],
  );
}

type WrongRow = {
  bin: number;
  address: string;
  zone: string;
  walk: number;
  item: number;
  code: string;
  description: string;
  onLabel: string | null;
  now: string;
  since: string;
};

// Judged once, and counted and read from there: home asks it again and again. Bound with the site, a day or null, and the site.
const WRONG = `WITH shown AS (
    SELECT b.id AS bin_id
    FROM bin b
    JOIN zone z ON z.id = b.zone_id
    WHERE z.site_id = ? AND z.shows_price),
  place AS (
    SELECT h.bin_id, h.item_id FROM home_bin h JOIN shown USING (bin_id)
    UNION
    SELECT x.bin_id, x.item_id FROM balance x JOIN shown USING (bin_id)),
  priced AS (
    SELECT p.bin_id, p.item_id, l.price AS on_label, a.amount, a.holds_from
    FROM place p
    LEFT JOIN shelf_label l ON l.bin_id = p.bin_id AND l.item_id = p.item_id
    JOIN LATERAL (
      SELECT round(amount, 2) AS amount, holds_from
      FROM item_amount
      WHERE item_id = p.item_id AND kind = 'price' AND holds_from <= coalesce(?::date, today_at(?))
      ORDER BY holds_from DESC, id DESC
      LIMIT 1) a ON true),
  wrong AS MATERIALIZED (
    SELECT b.id AS bin, b.address, z.name AS zone, b.walk, i.id AS item, i.code, i.description,
      r.on_label::text AS "onLabel", r.amount::text AS now, r.holds_from::text AS since
    FROM priced r
    JOIN bin b ON b.id = r.bin_id
    JOIN zone z ON z.id = b.zone_id
    JOIN item i ON i.id = r.item_id
    WHERE r.on_label IS DISTINCT FROM r.amount)`;
const wrongValues = (site: number, day: string | null): unknown[] => [site, day, site];

/** Shelf labels that are wrong (D4), or will be on a day: in zones that show prices, wherever an item lives or lies. In walking order. */
export async function selectWrongLabels(
  db: Db,
  site: number,
  day: string | null,
  after: (string | number)[] | null,
  limit: number,
): Promise<{ rows: WrongRow[]; total: number }> {
  const found = await query<(WrongRow | { bin: null }) & { total: number }>(
    db,
    `${WRONG}
     SELECT t.total, w.*
     FROM (SELECT count(*) AS total FROM wrong) t
     LEFT JOIN (
       SELECT * FROM wrong
       WHERE (walk, bin, item) > (?, ?, ?)
       ORDER BY walk, bin, item
       LIMIT ?) w ON true
     ORDER BY w.walk, w.bin, w.item`,
    [...wrongValues(site, day), after?.[0] ?? -1, after?.[1] ?? 0, after?.[2] ?? 0, limit],
  );
  const rows = found.flatMap(({ total: _, ...row }) => (row.bin === null ? [] : [row as WrongRow]));
  return { rows, total: found[0]?.total ?? 0 };
}

const SORTS: Readonly<Record<(typeof WRONG_LABEL_SORTS)[number], SortKey>> = {
  bin: { sql: 'address', kind: 'text' },
  code: { sql: 'code', kind: 'text' },
  description: { sql: 'lower(description)', kind: 'text' },
  on: { sql: `coalesce("onLabel"::numeric, -1)`, kind: 'decimal' },
  now: { sql: 'now::numeric', kind: 'decimal' },
  since: { sql: 'since', kind: 'text' },
};

/** The same in an order that somebody chose. */
export function selectWrongLabelsSorted(
  db: Db,
  where: {
    site: number;
    day: string | null;
    by: SortBy<(typeof WRONG_LABEL_SORTS)[number]>;
    after: string | undefined;
    limit: number;
  },
): Promise<{ rows: (WrongRow & { id: string })[]; next: string | null }> {
  return selectSorted<WrongRow & { id: string }, (typeof WRONG_LABEL_SORTS)[number]>(db, {
    ...where,
    rows: `${WRONG} SELECT bin || '|' || item AS id, * FROM wrong`,
    values: wrongValues(where.site, where.day),
    keys: SORTS,
    idKind: 'text',
  });
}
