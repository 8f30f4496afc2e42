import type { ItemId } from '#core/base';
import type { Tracking } from '#core/items';
import type { Advice, AdvisedItem, JudgedNotice, KnownForAdvice } from '#core/receiving';
import { asQty, dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';
import { selectLabelsKnown } from './store-sheet.ts';

type Reads = Pick<Db, 'raw'>;
const upper = (texts: readonly (string | null)[]): string[] => [
  ...new Set(texts.flatMap((t) => (t === null || t.trim() === '' ? [] : [t.trim().toUpperCase()]))),
];

/** What the house knows of what an advice names. `but`: the notice that it replaces. */
export async function selectKnownForAdvice(db: Reads, advice: Advice, but: number | null): Promise<KnownForAdvice> {
  const names = upper([...advice.supplier.ids, advice.supplier.name]);
  const suppliers = await query<{ id: number; code: string; name: string }>(
    db,
    `SELECT id, code, name FROM supplier WHERE upper(code) = ANY(?::text[]) OR upper(name) = ANY(?::text[])`,
    [names, names],
  );
  const numbers = upper([...advice.orders, ...advice.lines.map((l) => l.order)]);
  const orders = await query<{ id: number; number: string; supplier: number; site: number; expects: boolean }>(
    db,
    `SELECT o.id, o.number, o.supplier_id AS supplier, o.site_id AS site,
       o.state = 'open' AND EXISTS (SELECT 1 FROM expected_line x WHERE x.purchase_order_id = o.id) AS expects
     FROM purchase_order o
     WHERE o.number = ANY(?::text[])`,
    [numbers],
  );
  const codes = upper(advice.lines.map((l) => l.buyer));
  const parts = upper(advice.lines.map((l) => l.seller));
  const gtins = upper(advice.lines.map((l) => l.standard)).flatMap((t) => (/^\d{8,14}$/.test(t) ? [t.padStart(14, '0')] : []));
  const named = await query<{ item: ItemId; by: 'code' | 'part' | 'gtin'; text: string; pack: number | null; supplier: number | null }>(
    db,
    `SELECT id AS item, 'code' AS by, code AS text, NULL::int AS pack, NULL::int AS supplier FROM item
     WHERE code = ANY(?::text[]) AND retired_at IS NULL
     UNION ALL SELECT s.item_id, 'part', upper(s.part_no), NULL, s.supplier_id FROM item_supplier s JOIN item i ON i.id = s.item_id
     WHERE upper(s.part_no) = ANY(?::text[]) AND i.retired_at IS NULL
     UNION ALL SELECT b.item_id, 'gtin', b.gtin, b.pack_id, NULL FROM barcode b JOIN item i ON i.id = b.item_id
     WHERE b.gtin = ANY(?::text[]) AND i.retired_at IS NULL`,
    [codes, parts, gtins],
  );
  const items = await selectAdvisedItems(db, [...new Set(named.map((n) => n.item))]);
  const [byCode, byPart, byGtin] = [new Map<string, AdvisedItem>(), new Map<string, AdvisedItem>(), new Map()];
  for (const n of named) {
    const item = items.get(n.item);
    if (!item) continue;
    if (n.by === 'code') byCode.set(n.text.toUpperCase(), item);
    else if (n.by === 'part') byPart.set(`${n.supplier}|${n.text}`, item);
    else byGtin.set(n.text, { item, pack: n.pack ?? 0 });
  }
  const labels = await selectLabelsKnown(db, {
    lots: upperless(advice.lines.map((l) => l.lot)),
    serials: upperless(advice.lines.flatMap((l) => l.serials)),
  });
  const ssccs = [...new Set(advice.lines.flatMap((l) => l.sscc ?? []))];
  const units = await query<{ sscc: string; place: string }>(
    db,
    `SELECT l.sscc, 'announced with ' || n.number || ' already' AS place
     FROM notice_line l
     JOIN notice n ON n.id = l.notice_id
     WHERE l.sscc = ANY(?::text[]) AND n.state = 'coming' AND n.id IS DISTINCT FROM ?::int
     UNION ALL SELECT u.sscc, 'here already, in bin ' || bin.address
     FROM logistic_unit u
     JOIN balance b ON b.unit_id = u.id
     JOIN bin ON bin.id = b.bin_id
     WHERE u.sscc = ANY(?::text[])`,
    [ssccs, but, ssccs],
  );
  return {
    suppliers: new Map(suppliers.flatMap((s) => [s.name, s.code].map((t) => [t.toUpperCase(), { id: s.id, name: s.name }] as const))),
    orders: new Map(orders.map((o) => [o.number, o])),
    byCode,
    byPart,
    byGtin,
    lots: labels.lots,
    serials: labels.serials,
    units: new Map(units.map((u) => [u.sscc, u.place])),
  };
}

const upperless = (texts: readonly (string | null)[]): string[] => [...new Set(texts.flatMap((t) => (t?.trim() ? [t.trim()] : [])))];

async function selectAdvisedItems(db: Reads, ids: readonly number[]): Promise<Map<number, AdvisedItem>> {
  const rows = await query<{
    item: ItemId;
    code: string;
    unit: string;
    decimals: number;
    tracking: Tracking;
    packs: { id: number; units: string }[];
  }>(
    db,
    `SELECT i.id AS item, i.code, i.base_unit AS unit, i.decimals, i.tracking,
       (
         SELECT coalesce(json_agg(json_build_object('id', p.id, 'units', p.units::text) ORDER BY p.units, p.id), '[]')
         FROM pack p
         WHERE p.item_id = i.id
       ) AS packs
     FROM item i
     WHERE i.id = ANY(?::int[])`,
    [ids],
  );
  return new Map(rows.map((r) => [r.item as number, { ...r, packs: r.packs.map((p) => ({ id: p.id, units: asQty(p.units) })) }]));
}

export type KnownNotice = { readonly id: number; readonly number: string; readonly contents: string; readonly state: string };

/** Keeps others from taking notices in at the same time, until this has ended. */
export async function lockNotices(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE notice IN SHARE ROW EXCLUSIVE MODE`);
}

/** The notice that a supplier sent under this number of theirs before. */
export async function selectNoticeOf(db: Reads, of: { names: readonly string[]; reference: string }): Promise<KnownNotice | undefined> {
  const names = upper(of.names);
  const rows = await query<KnownNotice>(
    db,
    `SELECT n.id, n.number, n.contents, n.state
     FROM notice n
     JOIN supplier s ON s.id = n.supplier_id
     WHERE n.reference = ? AND (upper(s.code) = ANY(?::text[]) OR upper(s.name) = ANY(?::text[]))`,
    [of.reference, names, names],
  );
  return rows[0];
}

/** Whether any unit of a notice was scanned into a delivery since it came. */
export async function isNoticeBegun(db: Reads, notice: number): Promise<boolean> {
  const rows = await query(
    db,
    `SELECT 1
     FROM notice_line l
     JOIN notice n ON n.id = l.notice_id
     JOIN delivery_entry e ON e.sscc = l.sscc AND e.taken_out_at IS NULL AND e.at >= n.at
     JOIN delivery d ON d.id = e.delivery_id AND d.state <> 'thrown'
     WHERE n.id = ?
     LIMIT 1`,
    [notice],
  );
  return rows.length > 0;
}

export type KeptNotice = JudgedNotice & {
  readonly site: number;
  readonly person: number | null;
  readonly fileName: string;
  readonly contents: string;
};

/** Writes a notice, under the next number, or in the place of one that it corrects. */
export async function insertNotice(trx: Trx, notice: KeptNotice, instead: number | null): Promise<{ id: number; number: string }> {
  const { site, supplier, reference, issued, due, person, fileName, contents, lines } = notice;
  const made =
    instead === null
      ? await queryOne<{ id: number; number: string }>(
          trx,
          `INSERT INTO notice (number, site_id, supplier_id, reference, issued, due, person_id, file_name, contents)
           VALUES ('AN-' || nextval('number_an'), ?, ?, ?, ?, ?, ?, ?, ?)
           RETURNING id, number`,
          [site, supplier, reference, issued, due, person, fileName, contents],
        )
      : await queryOne<{ id: number; number: string }>(
          trx,
          `WITH gone AS (DELETE FROM notice_line WHERE notice_id = ?)
           UPDATE notice SET site_id = ?, issued = ?, due = ?, person_id = ?, file_name = ?, contents = ?, state = 'coming',
             touched = now_here()
           WHERE id = ?
           RETURNING id, number`,
          [instead, site, issued, due, person, fileName, contents, instead],
        );
  await query(
    trx,
    `INSERT INTO notice_line (notice_id, sscc, purchase_order_id, item_id, pack_id, qty, lot, expires, made, serial, is_whole)
     SELECT ?, * FROM unnest(?::text[], ?::int[], ?::int[], ?::int[], ?::numeric[], ?::text[], ?::date[], ?::date[], ?::text[], ?::bool[])`,
    [
      made.id,
      lines.map((l) => l.sscc),
      lines.map((l) => l.order),
      lines.map((l) => l.item),
      lines.map((l) => l.pack),
      lines.map((l) => dbQty(l.qty)),
      lines.map((l) => l.lot),
      lines.map((l) => l.expires),
      lines.map((l) => l.made),
      lines.map((l) => l.serial),
      lines.map((l) => l.isWhole),
    ],
  );
  return made;
}

/** Keeps that a dropped file could not be taken in, and why; the same contents once. */
export async function insertRefusal(trx: Trx, refusal: { fileName: string; contents: string; says: string }): Promise<void> {
  await query(
    trx,
    `INSERT INTO notice_refusal (file_name, contents, says)
     VALUES (?, ?, ?)
     ON CONFLICT (contents) DO UPDATE
       SET file_name = excluded.file_name, says = excluded.says, at = now_here(), seen_at = NULL, seen_by = NULL`,
    [refusal.fileName, refusal.contents, refusal.says],
  );
}

/** Says of the notices of these units, or of these orders, how far they have come: arrived when every unit was received for good, and what
 *  came loose with a delivery of its orders. Devices hear of them again either way. */
export async function settleNotices(trx: Trx, of: { ssccs: readonly string[]; orders: readonly number[] }): Promise<void> {
  if (of.ssccs.length === 0 && of.orders.length === 0) return;
  // Locked first and judged afterwards: of two who post the last two units at once, the second must see the first.
  const found = await query<{ id: number }>(
    trx,
    `SELECT n.id
     FROM notice n
     WHERE n.state <> 'withdrawn' AND n.id IN (
       SELECT notice_id FROM notice_line WHERE sscc = ANY(?::text[])
       UNION ALL SELECT notice_id FROM notice_line WHERE sscc IS NULL AND purchase_order_id = ANY(?::int[]))
     ORDER BY n.id
     FOR NO KEY UPDATE`,
    [of.ssccs, of.orders],
  );
  if (found.length === 0) return;
  await query(
    trx,
    `UPDATE notice n SET touched = now_here(), state = CASE
       WHEN NOT EXISTS (
         SELECT 1 FROM notice_line l WHERE l.notice_id = n.id AND NOT CASE
           WHEN l.sscc IS NOT NULL THEN EXISTS (SELECT 1 FROM came_unit c WHERE c.sscc = l.sscc AND c.at >= n.at)
           ELSE EXISTS (SELECT 1 FROM delivery_order x JOIN delivery d ON d.id = x.delivery_id
             WHERE x.purchase_order_id = l.purchase_order_id AND d.state = 'posted' AND d.touched >= n.at) END)
       THEN 'arrived' ELSE 'coming' END
     WHERE n.id = ANY(?::int[])`,
    [found.map((n) => n.id)],
  );
}

export type NoticeListRow = {
  id: number;
  number: string;
  state: 'coming' | 'arrived' | 'withdrawn';
  site_id: number;
  site: string;
  supplier: string;
  reference: string;
  orders: { id: number; number: string }[];
  due: string | null;
  late: boolean;
  units: number;
  come: number;
  lines: number;
  at: Date;
  by: string | null;
  file_name: string;
};

// Whether a unit was scanned into a delivery that was not thrown away, since it was announced.
const SCANNED = `EXISTS (SELECT 1 FROM delivery_entry e JOIN delivery d ON d.id = e.delivery_id
  WHERE e.sscc = l.sscc AND e.taken_out_at IS NULL AND e.reversal_id IS NULL AND e.at >= n.at AND d.state <> 'thrown')`;

/** Notices of a site in a state, those first that are due first; or the one of a number. */
export function selectNotices(db: Reads, where: { site: number; state: string } | { id: number }): Promise<NoticeListRow[]> {
  const [condition, values] =
    'id' in where ? ['n.id = ?', [where.id]] : ['n.site_id = ? AND n.state = ?', [where.site, where.state] as (number | string)[]];
  return query<NoticeListRow>(
    db,
    `SELECT n.id, n.number, n.state, n.site_id, w.name AS site, s.name AS supplier, n.reference, n.due,
       coalesce(n.state = 'coming' AND n.due < today_at(n.site_id), false) AS late,
       (
         SELECT coalesce(json_agg(json_build_object('id', o.id, 'number', o.number) ORDER BY o.id), '[]')
         FROM purchase_order o
         WHERE o.id IN (SELECT l.purchase_order_id FROM notice_line l WHERE l.notice_id = n.id)
       ) AS orders,
       (SELECT count(DISTINCT l.sscc) FROM notice_line l WHERE l.notice_id = n.id) AS units,
       (SELECT count(DISTINCT l.sscc) FROM notice_line l WHERE l.notice_id = n.id AND ${SCANNED}) AS come,
       (SELECT count(*) FROM notice_line l WHERE l.notice_id = n.id) AS lines,
       n.at, p.name AS by, n.file_name
     FROM notice n
     JOIN site w ON w.id = n.site_id
     JOIN supplier s ON s.id = n.supplier_id
     LEFT JOIN person p ON p.id = n.person_id
     WHERE ${condition}
     ORDER BY n.due NULLS LAST, n.id DESC
     LIMIT 200`,
    values,
  );
}

export type NoticeLineRow = {
  sscc: string | null;
  item: number;
  code: string;
  description: string;
  measure: string;
  qty: string;
  lot: string | null;
  expires: string | null;
  serial: string | null;
  order: string | null;
  is_whole: boolean;
  come: boolean;
  delivery: { id: number; number: string } | null;
};

/** What a notice announces, unit by unit, with the delivery in which it stands. */
export function selectNoticeLines(db: Reads, notice: number): Promise<NoticeLineRow[]> {
  return query<NoticeLineRow>(
    db,
    `SELECT l.sscc, l.item_id AS item, i.code, i.description, i.base_unit AS measure, l.qty, l.lot, l.expires, l.serial,
       o.number AS order, l.is_whole, EXISTS (SELECT 1 FROM came_unit c WHERE c.sscc = l.sscc AND c.at >= n.at) AS come,
       (
         SELECT json_build_object('id', d.id, 'number', d.number)
         FROM delivery_entry e
         JOIN delivery d ON d.id = e.delivery_id
         WHERE e.sscc = l.sscc AND e.taken_out_at IS NULL AND e.reversal_id IS NULL AND e.at >= n.at AND d.state <> 'thrown'
         LIMIT 1
       ) AS delivery
     FROM notice_line l
     JOIN notice n ON n.id = l.notice_id
     JOIN item i ON i.id = l.item_id
     LEFT JOIN purchase_order o ON o.id = l.purchase_order_id
     WHERE l.notice_id = ?
     ORDER BY l.sscc NULLS LAST, l.id`,
    [notice],
  );
}

/** The dropped files that could not be taken in and that nobody has put aside, the newest first. */
export function selectRefusals(db: Reads): Promise<{ id: number; fileName: string; says: string; at: Date }[]> {
  return query(
    db,
    `SELECT id, file_name AS "fileName", says, at
     FROM notice_refusal
     WHERE seen_at IS NULL
     ORDER BY id DESC
     LIMIT 50`,
  );
}

/** Says that somebody has seen why a file was refused. */
export async function updateRefusalSeen(trx: Trx, refusal: number, person: number): Promise<void> {
  await query(trx, `UPDATE notice_refusal SET seen_at = now_here(), seen_by = ? WHERE id = ? AND seen_at IS NULL`, [person, refusal]);
}

/** Says in which state a notice is. */
export async function updateNoticeState(trx: Trx, notice: number, state: NoticeListRow['state']): Promise<void> {
  await query(trx, `UPDATE notice SET state = ?, touched = now_here() WHERE id = ?`, [state, notice]);
}
