import type { OrderPaper } from '#core/orders';
import type { OrderPaperRow } from '#contract/channel';
import { lockRows, query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

/** Makes those who take papers in take turns: the same file twice at once is one paper. */
export async function lockPapers(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE order_paper IN SHARE ROW EXCLUSIVE MODE`);
}

export type KnownPaper = { id: number; order: number; number: string; says: string };

/** The paper with these contents that was taken in before. */
export async function selectPaperOf(db: Reads, contents: string): Promise<KnownPaper | undefined> {
  const [known] = await query<KnownPaper>(
    db,
    `SELECT p.id, o.id AS order, o.number, p.says
     FROM order_paper p
     JOIN customer_order o ON o.id = p.order_id
     WHERE p.contents = ? AND p.state IN ('done', 'waiting')`,
    [contents],
  );
  return known;
}

/** Keeps a paper and what came of it; returns its number. */
export async function insertPaper(
  trx: Trx,
  paper: {
    file: string;
    contents: string;
    read: OrderPaper | null;
    site: number | null;
    order: number | null;
    person: number | null;
    state: OrderPaperRow['state'];
    says: string;
  },
): Promise<number> {
  const { read } = paper;
  const { id } = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO order_paper (kind, file_name, contents, reference, customer, paper, site_id, order_id, state, says, person_id)
     VALUES (?, ?, ?, ?, ?, ?::jsonb, ?, ?, ?, ?, ?)
     RETURNING id`,
    [
      read?.kind ?? 'unread',
      paper.file,
      paper.contents,
      (read?.reference ?? '').slice(0, MOST_SHOWN),
      (read?.customer.at(-1) ?? '').slice(0, MOST_SHOWN),
      read === null ? null : JSON.stringify(read),
      paper.site,
      paper.order,
      paper.state,
      paper.says,
      paper.person,
    ],
  );
  return id;
}
const MOST_SHOWN = 120;

/** The order of a customer, by any of their names, that bears their reference and is not cancelled. */
export async function selectOrderOf(
  db: Reads,
  of: { customers: readonly number[]; reference: string },
): Promise<{ id: number; number: string; site: number } | undefined> {
  const [order] = await query<{ id: number; number: string; site: number }>(
    db,
    `SELECT id, number, site_id AS site
     FROM customer_order
     WHERE customer_id = ANY(?::int[]) AND fold_name(reference) = fold_name(?) AND reference <> '' AND state <> 'cancelled'`,
    [of.customers, of.reference],
  );
  return order;
}

/** The lines of an order of which something is wanted, the first entered first. */
export function selectLines(db: Reads, order: number): Promise<{ id: number; item: number; lot: string | null; serials: number }[]> {
  return query(
    db,
    `SELECT l.id, l.item_id AS item, v.code AS lot, (SELECT count(*) FROM order_line_serial x WHERE x.line_id = l.id) AS serials
     FROM order_line l
     LEFT JOIN lot v ON v.id = l.lot_id
     WHERE l.order_id = ? AND l.qty > 0
     ORDER BY l.id`,
    [order],
  );
}

type PaperAtWork = { id: number; state: OrderPaperRow['state']; order: number | null; site: number | null; paper: OrderPaper | null };

/** Locks a paper and reads it as it is then; undefined where there is none. */
export async function lockPaper(trx: Trx, id: number): Promise<PaperAtWork | undefined> {
  await lockPapers(trx);
  const [paper] = await query<PaperAtWork>(
    trx,
    `SELECT id, state, order_id AS order, site_id AS site, paper FROM order_paper WHERE id = ?`,
    [id],
  );
  if (paper?.order) await lockRows(trx, 'order', [paper.order]);
  return paper;
}

/** Says what became of a paper that waited, or was refused. */
export async function updatePaper(
  trx: Trx,
  id: number,
  to: { state: 'done' | 'aside'; says: string | null; person: number },
): Promise<void> {
  await query(trx, `UPDATE order_paper SET state = ?, says = coalesce(?, says), settled_at = now_here(), settled_by = ? WHERE id = ?`, [
    to.state,
    to.says,
    to.person,
    id,
  ]);
}

const MOST_PAST = 200;

/** Papers that wait for somebody at a site or could not be taken in; or those that are past, the newest first. */
export async function selectPapers(db: Reads, site: number, which: 'open' | 'past'): Promise<OrderPaperRow[]> {
  const rows = await query<Omit<OrderPaperRow, 'at'> & { at: Date }>(
    db,
    `SELECT p.id, p.kind, p.file_name AS "fileName", p.reference, coalesce(c.name, p.customer) AS customer, p.state, p.says, p.at,
       w.name AS by, CASE WHEN o.id IS NOT NULL THEN json_build_object('id', o.id, 'number', o.number) END AS order
     FROM order_paper p
     LEFT JOIN customer_order o ON o.id = p.order_id
     LEFT JOIN order_party c ON c.order_id = o.id
     LEFT JOIN person w ON w.id = p.person_id
     WHERE (p.site_id IS NULL OR p.site_id = ?) AND (p.state IN ('waiting', 'refused')) = ?
     ORDER BY p.id DESC
     LIMIT ${MOST_PAST}`,
    [site, which === 'open'],
  );
  return rows.map((r) => ({ ...r, at: r.at.toISOString() }));
}

/** The site that takes in what comes by itself: the one of this name, else the first. */
export async function selectChannelSite(db: Reads, name: string | null): Promise<number | null> {
  const [site] = await query<{ id: number }>(
    db,
    `SELECT id FROM site WHERE ?::text IS NULL OR fold_name(name) = fold_name(?) ORDER BY id LIMIT 1`,
    [name, name],
  );
  return site?.id ?? null;
}
