import type { WRONG_LABEL_SORTS } from '#contract/labels';
import { announce, query, type Db, type Trx, selectSorted, type SortBy, type SortKey } from '#server/kernel';

/** Bins whose labels are wanted: these, or those of a zone. */
export type WantedBins = { bins?: readonly number[] | undefined; zone?: number | undefined; only?: 'all' | 'unlabelled' };
type BinFaceRow = { id: number; zoneId: number; address: string; arrow: 'up' | 'down' | null; zone: string; site: string };

/** What stands on the labels of bins of a site, in walking order, so that the strip can be hung while walking. */
export function selectBinFaces(db: Pick<Trx, 'raw'>, site: number, { bins, zone, only }: WantedBins): Promise<BinFaceRow[]> {
  return query<BinFaceRow>(
    db,
    `SELECT b.id, b.zone_id AS "zoneId", b.address, b.arrow, z.name AS zone, s.name AS site
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

/** SQL for what an item costs on the day of the site `s`; null where nobody said a price: that is none, and not a price of nothing. */
export const priceToday = (item: string): string =>
  `(SELECT round(a.amount, 2) FROM item_amount a
    WHERE a.item_id = ${item} AND a.kind = 'price' AND a.holds_from <= today_in(s.time_zone)
    ORDER BY a.holds_from DESC, a.id DESC LIMIT 1)`;

/** Notes what stands on shelves from now on: what was printed. A label that fails at the printer stays in the queue until it is printed. */
export async function noteShelfLabels(trx: Trx, site: number, pairs: readonly { bin: number; item: number }[]): Promise<void> {
  await query(
    trx,
    `INSERT INTO shelf_label (bin_id, item_id, price)
     SELECT DISTINCT b.id, x.item, ${priceToday('x.item')}
     FROM unnest(?::int[], ?::int[]) AS x(bin, item)
     JOIN bin b ON b.id = x.bin
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = z.site_id
     WHERE z.shows_price AND b.site_id = ? AND ${priceToday('x.item')} IS NOT NULL
     ON CONFLICT (bin_id, item_id) DO UPDATE SET price = excluded.price, printed_at = now_here()`,
    [pairs.map((p) => p.bin), pairs.map((p) => p.item), site],
  );
  announce(trx, 'labels');
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
  db: Pick<Trx, 'raw'>,
  site: number,
  day: string | null,
  after: (string | number)[] | null,
  limit: number,
  item: number | null = null,
): Promise<{ rows: WrongRow[]; total: number }> {
  const found = await query<(WrongRow | { bin: null }) & { total: number }>(
    db,
    `${WRONG}
     SELECT t.total, w.*
     FROM (SELECT count(*) AS total FROM wrong WHERE item = coalesce(?, item)) t
     LEFT JOIN (
       SELECT * FROM wrong
       WHERE item = coalesce(?, item) AND (walk, bin, item) > (?, ?, ?)
       ORDER BY walk, bin, item
       LIMIT ?) w ON true
     ORDER BY w.walk, w.bin, w.item`,
    [...wrongValues(site, day), item, item, after?.[0] ?? -1, after?.[1] ?? 0, after?.[2] ?? 0, limit],
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
