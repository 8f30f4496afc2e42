import { FACT_KINDS, type FactKind, type FactPart } from '#contract/hands';
import { KEEP_PLANS, query, queryOne, together, TOGETHER, type Db } from '#server/kernel';
import { ONLY_LOTS_THAT_READ } from '#server/items';
import { KEPT_SERIALS, NAMED_SERIALS } from '#server/picking';

type Reads = Pick<Db, 'raw'>;
/** Which rows are wanted: those of these ids, or a page of all after an id. */
type Want = { readonly site: number; readonly ids: readonly number[] | null; readonly after: number; readonly limit: number };
type FactRow = { id: number; row: unknown[] };

const PAGE = 4000;
/** More changes than that are told by beginning anew. */
const MOST_CHANGES = 20_000;
const thousandths = (amount: string): string => `((${amount}) * 1000)::bigint`;

// Each select gives an id and the row as a plain array, in the order that the device reads (web/hands/rows.ts). Costs and prices are in
// none of them.
const SELECTS: Readonly<Record<FactKind, string>> = {
  item: `SELECT i.id,
      json_build_array(i.id, i.code, i.description, i.base_unit, i.decimals, i.tracking, i.storage_class, i.volume_ml, i.weight_g,
      (SELECT coalesce(json_agg(json_build_array(p.id, p.name, ${thousandths('p.units')},
         (
           SELECT coalesce(json_agg(c.code ORDER BY c.code), '[]') FROM barcode c WHERE c.item_id = p.item_id AND c.pack_id = p.id
         )) ORDER BY p.units, p.id), '[]') FROM pack p WHERE p.item_id = i.id),
      (
        SELECT coalesce(json_agg(json_build_array(h.bin_id, ${thousandths('h.max_qty')})), '[]')
        FROM home_bin h
        JOIN bin b ON b.id = h.bin_id
        WHERE h.item_id = i.id AND b.site_id = ?
      ), i.shelf_life_months) AS row
    FROM item i WHERE i.retired_at IS NULL AND i.id > 0`,
  bin: `SELECT b.id,
      json_build_array(b.id, b.address, (SELECT coalesce(json_agg(n.name), '[]') FROM bin_name n WHERE n.bin_id = b.id
      AND n.name <> fold_name(b.address)),
      z.name, z.purpose, b.use, z.pickable, b.walk, b.one_item, b.one_lot, b.storage_class, ${thousandths('b.capacity')},
        b.volume_ml, b.weight_g) AS row
    FROM bin b JOIN zone z ON z.id = b.zone_id WHERE b.site_id = ? AND b.retired_at IS NULL`,
  foreignBin: `SELECT b.id, json_build_array(b.id, b.address, w.name) AS row
    FROM bin b
    JOIN site w ON w.id = b.site_id
    WHERE b.site_id <> ? AND b.retired_at IS NULL`,
  lot: `SELECT l.id, json_build_array(l.id, l.item_id, l.code, l.expires) AS row FROM lot l
    WHERE ?::int IS NOT NULL AND (l.arrived > now_here() - interval '400 days' OR EXISTS (SELECT 1 FROM balance b WHERE b.lot_id = l.id))`,
  balance: `SELECT f.id, json_build_array(f.id, f.bin_id, f.item_id, l.code, l.expires, s.code, f.condition,
      ${thousandths('f.qty')}, u.sscc) AS row
    FROM balance f
    JOIN bin b ON b.id = f.bin_id
    LEFT JOIN lot l ON l.id = f.lot_id
    LEFT JOIN serial s ON s.id = f.serial_id
    LEFT JOIN logistic_unit u ON u.id = f.unit_id
    WHERE b.site_id = ? AND f.qty > 0`,
  supplier: `SELECT s.id, json_build_array(s.id, s.name, (s.over_percent * 100)::int, (s.short_percent * 100)::int) AS row
    FROM supplier s WHERE ?::int IS NOT NULL`,
  purchaseOrder: `SELECT o.id, json_build_array(o.id, o.number, o.supplier_id, o.due,
      (SELECT coalesce(json_agg(json_build_array(x.item_id, ${thousandths('x.qty')}, (SELECT count(DISTINCT c.id) FROM order_line l
        JOIN customer_order c ON c.id = l.order_id
           LEFT JOIN promise p ON p.line_id = l.id
           WHERE l.item_id = x.item_id AND c.state = 'open' AND c.site_id = o.site_id
             AND l.qty > l.shipped + coalesce(p.qty, 0))) ORDER BY x.first), '[]')
       FROM (
         SELECT item_id, sum(open) AS qty, min(id) AS first
         FROM expected_line
         WHERE purchase_order_id = o.id
         GROUP BY item_id
       ) x)) AS row
    FROM purchase_order o
    WHERE o.site_id = ? AND o.state = 'open'
      AND EXISTS (SELECT 1 FROM expected_line x WHERE x.purchase_order_id = o.id)`,
  delivery: `SELECT d.id, json_build_array(d.id, d.number, d.state, d.supplier_id, d.touched,
      (SELECT coalesce(json_agg(x.purchase_order_id ORDER BY x.purchase_order_id), '[]') FROM delivery_order x WHERE x.delivery_id = d.id),
      (SELECT coalesce(json_agg(k.key), '[]') FROM delivery_key k WHERE k.delivery_id = d.id),
      d.supplier_doc, d.supplier_doc_date, d.is_return, d.shipment_id, c.name) AS row
    FROM delivery d
    LEFT JOIN customer c ON c.id = d.customer_id
    WHERE d.site_id = ? AND d.state IN ('scanning', 'review')`,
  entry: `SELECT e.id,
      json_build_array(e.id, e.delivery_id, e.key, e.item_id, ${thousandths('e.qty')}, e.lot, e.expires, e.serial, e.person_id,
        e.at, e.handed_in_at IS NOT NULL, e.made,
        (SELECT json_build_array(${thousandths('f.checked')}, f.note, (
           SELECT coalesce(json_agg(json_build_array(x.reason_id, ${thousandths('x.qty')}) ORDER BY x.reason_id), '[]')
           FROM inspection_failure x WHERE x.inspection_id = f.id))
         FROM finding f WHERE f.entry_id = e.id),
        (SELECT count(*) FROM inspection_photo h WHERE h.entry_id = e.id), e.to_bin, e.sscc) AS row
    FROM delivery_entry e
    JOIN delivery d ON d.id = e.delivery_id
    WHERE d.site_id = ? AND d.state IN ('scanning', 'review') AND e.taken_out_at IS NULL`,
  round: `SELECT r.id,
      json_build_array(r.id, r.number, r.state, r.person_id, r.cart_bin, (SELECT w.packing_bin FROM site w WHERE w.id = r.site_id), r.at,
      (SELECT coalesce(json_agg(json_build_array(k.key, o.number, k.line_id, k.slot, k.bin_id, k.item_id, l.code,
      ${thousandths('k.qty')}, k.trouble, ${NAMED_SERIALS}, a.lot_id IS NOT NULL, a.bin_id IS NOT NULL, a.good_on, ${KEPT_SERIALS})
      ORDER BY k.id), '[]')
       FROM round_pick k
       JOIN line_asking a ON a.line_id = k.line_id
       JOIN order_line ol ON ol.id = k.line_id
       JOIN customer_order o ON o.id = ol.order_id
       LEFT JOIN lot l ON l.id = k.lot_id
       -- Kits that were made on the cart are no stop.
       WHERE k.round_id = r.id AND k.bin_id <> r.cart_bin),
      (SELECT coalesce(json_agg(json_build_array(t.key, k.key, ${thousandths('t.qty')}, coalesce(s.code, t.serial_out),
        coalesce(t.person_id, 0), t.at, v.code, t.shipped OR t.assembly_id IS NOT NULL) ORDER BY t.id), '[]')
       -- What went into kits was taken all the same.
       FROM picked t
       JOIN round_pick k ON k.id = t.pick_id
       LEFT JOIN serial s ON s.id = t.serial_id
       LEFT JOIN lot v ON v.id = t.lot_id
       WHERE k.round_id = r.id AND t.returned_at IS NULL),
      r.way, r.legs,
      (SELECT coalesce(json_agg(json_build_array(o.id, o.number, o.kit_id, ${thousandths('o.kit_qty')}, ${thousandths('o.kit_made')},
         (SELECT x.number FROM order_line l JOIN customer_order x ON x.id = l.order_id WHERE l.id = o.kit_line),
         (
           SELECT min(k.slot)
           FROM round_pick k
           JOIN order_line l ON l.id = k.line_id
           JOIN order_line y ON y.order_id = l.order_id
           WHERE k.round_id = r.id AND y.id = o.kit_line
         ),
         (
           SELECT json_agg(json_build_array(l.id, l.item_id, ${thousandths('l.qty')}) ORDER BY l.id)
           FROM order_line l
           WHERE l.order_id = o.id
         ),
         (
           SELECT coalesce(json_agg(json_build_array(a.key, ${thousandths('a.qty')}, a.person_id, a.at) ORDER BY a.id), '[]')
           FROM assembly a
           WHERE a.order_id = o.id AND a.apart_at IS NULL
         )) ORDER BY o.id), '[]')
       -- From the few orders of the round, and not from all that ever were.
       FROM (SELECT DISTINCT l.order_id FROM round_pick k JOIN order_line l ON l.id = k.line_id WHERE k.round_id = r.id) its
       JOIN customer_order o ON o.id = its.order_id
       WHERE o.kind = 'kit' AND o.state <> 'cancelled')) AS row
    FROM round r WHERE r.site_id = ? AND r.state = 'open'`,
  carry: `SELECT c.id,
      json_build_array(c.id, c.number, c.kind, c.state, c.person_id, c.cart_bin, c.at,
      (SELECT coalesce(json_agg(json_build_array(t.key, t.item_id, t.from_bin, l.code, s.code, u.sscc, t.condition,
         ${thousandths('t.qty')}, t.to_bin, t.why, t.trouble) ORDER BY t.id), '[]')
       FROM carry_task t
       LEFT JOIN lot l ON l.id = t.lot_id
       LEFT JOIN serial s ON s.id = t.serial_id
       LEFT JOIN logistic_unit u ON u.id = t.unit_id
       WHERE t.carry_id = c.id),
      (SELECT coalesce(json_agg(json_build_array(d.key, t.key, d.way, ${thousandths('d.qty')}, s.code, d.bin_id, d.person_id, d.at)
         ORDER BY d.id), '[]')
       FROM carried d
       JOIN carry_task t ON t.id = d.task_id
       LEFT JOIN serial s ON s.id = d.serial_id
       WHERE t.carry_id = c.id AND d.undone_at IS NULL),
      c.take_way, c.take_legs, c.put_way, c.put_legs) AS row
    FROM carry c WHERE c.site_id = ? AND c.state = 'open'`,
  order: `SELECT o.id, json_build_array(o.id, o.number, c.name, o.held_for, o.packed_at IS NOT NULL,
      (
        SELECT coalesce(json_agg(json_build_array(l.item_id, ${thousandths('l.qty - l.shipped')}) ORDER BY l.id), '[]')
        FROM order_line l
        WHERE l.order_id = o.id AND l.qty > l.shipped
      ),
      (SELECT coalesce(json_agg(json_build_array(t.key, t.item_id, v.code, coalesce(s.code, t.serial_out), ${thousandths('t.qty')},
        t.put_down) ORDER BY t.id), '[]')
       FROM in_hand t
       JOIN order_line l ON l.id = t.line_id
       LEFT JOIN lot v ON v.id = t.lot_id
       LEFT JOIN serial s ON s.id = t.serial_id
       WHERE l.order_id = o.id)) AS row
    FROM customer_order o JOIN order_party c ON c.order_id = o.id WHERE o.site_id = ? AND o.state = 'open' AND o.kind <> 'kit'
      AND EXISTS (SELECT 1 FROM in_hand t JOIN order_line l ON l.id = t.line_id WHERE l.order_id = o.id)`,
  count: `SELECT c.id, json_build_array(c.id, c.number, z.name, c.blind, c.state) AS row
    FROM stock_count c
    JOIN zone z ON z.id = c.zone_id
    WHERE c.site_id = ? AND c.state = 'open'`,
  countBin: `SELECT (x.count_id::bigint << 32) | x.bin_id AS id,
      json_build_array((x.count_id::bigint << 32) | x.bin_id, x.count_id, x.bin_id, b.address, b.walk, x.verdict) AS row
    FROM count_bin x JOIN stock_count c ON c.id = x.count_id JOIN bin b ON b.id = x.bin_id WHERE c.site_id = ? AND c.state = 'open'`,
  tally: `SELECT t.id,
      json_build_array(t.id, t.count_id, t.key, t.bin_id, t.item_id, l.code, s.code, ${thousandths('t.qty')}, t.person_id, t.at,
        t.sscc) AS row
    FROM tally t JOIN stock_count c ON c.id = t.count_id LEFT JOIN lot l ON l.id = t.lot_id LEFT JOIN serial s ON s.id = t.serial_id
    WHERE c.site_id = ? AND c.state = 'open' AND t.taken_out_at IS NULL`,
  shipment: `SELECT s.id, json_build_array(s.id, s.number, o.number, c.name, s.at,
      (SELECT coalesce(json_agg(json_build_array(l.item_id, ${thousandths(`l.qty - coalesce((SELECT sum(r.qty) FROM returned_line r
         WHERE r.shipment_id = s.id AND r.item_id = l.item_id), 0)`)}) ORDER BY l.item_id), '[]')
       FROM shipped_line l WHERE l.shipment_id = s.id)) AS row
    FROM shipment s
    JOIN customer_order o ON o.id = s.order_id
    JOIN order_party c ON c.order_id = o.id
    WHERE o.site_id = ? AND o.kind <> 'transfer' AND s.at > now_here() - interval '120 days'`,
  // What has come of it already is not announced any more.
  notice: `SELECT n.id, json_build_array(n.id, n.number, n.supplier_id, s.name,
      (SELECT coalesce(json_agg(DISTINCT l.purchase_order_id), '[]') FROM notice_line l
       WHERE l.notice_id = n.id AND l.purchase_order_id IS NOT NULL),
      (SELECT coalesce(json_agg(json_build_array(x.sscc, x.goods)), '[]')
       FROM (
         SELECT l.sscc, json_agg(json_build_array(l.item_id, l.pack_id, ${thousandths('l.qty')}, l.lot, l.expires, l.made, l.serial)
           ORDER BY l.id) AS goods
         FROM notice_line l
         WHERE l.notice_id = n.id AND l.sscc IS NOT NULL AND NOT EXISTS (SELECT 1 FROM came_unit c WHERE c.sscc = l.sscc AND c.at >= n.at)
         GROUP BY l.sscc
         -- What a scan could not take without a question is scanned thing by thing.
         HAVING bool_and(l.is_whole)
       ) x)) AS row
    FROM notice n
    JOIN supplier s ON s.id = n.supplier_id
    WHERE n.site_id = ? AND n.state = 'coming'`,
  failureReason: `SELECT r.id, json_build_array(r.id, r.name) AS row
    FROM failure_reason r
    WHERE ?::int IS NOT NULL AND r.retired_at IS NULL`,
};
const ID: Readonly<Record<FactKind, string>> = {
  item: 'i.id',
  bin: 'b.id',
  foreignBin: 'b.id',
  lot: 'l.id',
  balance: 'f.id',
  supplier: 's.id',
  purchaseOrder: 'o.id',
  delivery: 'd.id',
  entry: 'e.id',
  round: 'r.id',
  carry: 'c.id',
  order: 'o.id',
  count: 'c.id',
  countBin: '((x.count_id::bigint << 32) | x.bin_id)',
  tally: 't.id',
  failureReason: 'r.id',
  shipment: 's.id',
  notice: 'n.id',
};

function selectFacts(db: Reads, kind: FactKind, { site, ids, after, limit }: Want): Promise<FactRow[]> {
  const id = ID[kind];
  return ids === null
    ? query<FactRow>(db, `${SELECTS[kind]} AND ${id} > ? ORDER BY ${id} LIMIT ?`, [site, after, limit])
    : query<FactRow>(db, `${SELECTS[kind]} AND ${id} = ANY(?::bigint[])`, [site, ids]);
}

export type FactsReply = {
  revision: string;
  parts: FactPart[];
  next: { kind: FactKind; after: number } | null;
  reset: boolean;
  /** What time it is in the house (milliseconds since 1970) and which day at the site, and whether its bench trusts the pick. */
  now: number;
  today: string;
  trust: boolean;
  /** Whether the house takes only lots that the code of a label can hold. */
  onlyLotsThatRead: boolean;
};

/** What a device does not know yet of a site.
 *  Shape:  without `since`, everything, a page at a time by kind and id, under the revision of its first page; with it, what changed
 *          since: whole rows, and the ids of those that are gone. Rows that changed while it was read come again with the next reading,
 *          never too late: a revision is the oldest transaction that was still under way, and every transaction before it was seen; and
 *          the era of the database, for a backup that came back knows nothing of what a device was told after it was made. What was
 *          forgotten is days old, or older than the house: an older transaction is none of this database, though it is numbered with
 *          its own, and who has begun anew is not sent back because of it.
 *  Source: PostgreSQL's documentation, "System Information Functions", pg_snapshot_xmin. */
export async function readFacts(
  db: Db,
  asked: { site: number; since: string | undefined; kind: FactKind | undefined; after: number },
): Promise<FactsReply> {
  const { site } = asked;
  const [era, since = '0'] = asked.since?.split('-') ?? [];
  return db.transaction(
    async (trx) => {
      const isNews = asked.since !== undefined;
      const [head, changes] = await together([selectHead(trx, site, isNews), isNews ? selectChanges(trx, since) : []]);
      const { horizon, floor, now, era: newEra, ...rest } = head;
      const reply = { revision: `${newEra}-${horizon}`, parts: [], next: null, reset: false, now: now.getTime(), ...rest };
      if (!isNews) return { ...reply, ...(await readPage(trx, asked)) };
      const many = changes.reduce((sum, c) => sum + c.ids.length, 0) > MOST_CHANGES;
      if (era !== head.era || BigInt(since) < BigInt(floor) || many) return { ...reply, reset: true };
      // A bin is one of this site's, or another's.
      const told = changes
        .flatMap((c) => (c.kind === 'bin' ? [c, { kind: 'foreignBin' as const, ids: c.ids }] : [c]))
        .filter(({ kind }) => (FACT_KINDS as readonly string[]).includes(kind));
      return { ...reply, parts: await together(told.map((c) => selectPart(trx, site, c))) };
    },
    { ...TOGETHER, isolationLevel: 'repeatable read', readOnly: true } as object,
  );
}

// All that a reading begins with, which goes there in one packet with the beginning of its transaction.
type Head = { horizon: string; floor: string; era: string; now: Date; today: string; trust: boolean; onlyLotsThatRead: boolean };
// News are found by their keys, by plans once made; everything, by what there is.
const selectHead = (trx: Reads, site: number, isNews: boolean): Promise<Head> =>
  queryOne<Head>(
    trx,
    `SELECT greatest(pg_snapshot_xmin(pg_current_snapshot()), f.changed)::text AS horizon,
       f.changed::text AS floor, f.era, now_here() AS now,
       today_at(s.id) AS today, s.bench_trusts AS trust,
       ${ONLY_LOTS_THAT_READ} AS "onlyLotsThatRead",
       ${isNews ? KEEP_PLANS : 'NULL'}
     FROM fact_floor f
     JOIN site s ON s.id = ?`,
    [site],
  );

type Changes = { readonly kind: FactKind; readonly ids: readonly number[] };
// Of what was forgotten nothing is read: the device begins anew.
const selectChanges = (trx: Reads, since: string): Promise<Changes[]> =>
  query<Changes>(
    trx,
    `SELECT kind, json_agg(DISTINCT id) AS ids
     FROM fact_change
     WHERE changed >= ?::text::xid8 AND ?::text::xid8 >= (SELECT changed FROM fact_floor)
     GROUP BY kind`,
    [since, since],
  );

async function selectPart(trx: Reads, site: number, { kind, ids }: Changes): Promise<FactPart> {
  const rows = await selectFacts(trx, kind, { site, ids, after: 0, limit: 0 });
  const there = new Set(rows.map((r) => r.id));
  return { kind, rows: rows.map((r) => r.row), gone: ids.filter((id) => !there.has(id)) };
}

async function readPage(
  trx: Reads,
  asked: { site: number; kind: FactKind | undefined; after: number },
): Promise<Pick<FactsReply, 'parts' | 'next'>> {
  const kind = asked.kind ?? FACT_KINDS[0];
  const rows = await selectFacts(trx, kind, { site: asked.site, ids: null, after: asked.after, limit: PAGE });
  const following = FACT_KINDS[FACT_KINDS.indexOf(kind) + 1];
  const next =
    rows.length === PAGE ? { kind, after: rows.at(-1)?.id ?? 0 } : following === undefined ? null : { kind: following, after: 0 };
  return { parts: [{ kind, rows: rows.map((r) => r.row), gone: [] }], next };
}
