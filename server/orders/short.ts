import { writeDay, type Qty } from '#core/base';
import { explainShort, type BesideFree } from '#core/orders';
import { asQty, query, type Db } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;
type Kind = 'free' | 'elsewhere' | 'held' | 'inspect' | 'expired' | 'apart' | 'coming' | 'promised';
type Row = { item: number; kind: Kind; name: string; day: string | null; qty: string };

/** What items have beside what is free at a site, by item. One statement for all of them. */
export async function selectBesideFree(db: Reads, site: number, items: readonly number[]): Promise<Map<number, Omit<BesideFree, 'asks'>>> {
  const rows = await query<Row>(
    db,
    `WITH wanted AS (SELECT DISTINCT unnest(?::int[]) AS item),
     lying AS (
       SELECT f.* FROM stock_fact f JOIN wanted w ON w.item = f.item_id WHERE f.qty > 0),
     free AS (
       SELECT l.item_id AS item, l.site_id AS site, l.site_name AS name, sum(l.qty) - coalesce((
         SELECT sum(p.qty) FROM promise p WHERE p.item_id = l.item_id AND p.site_id = l.site_id), 0) AS qty
       FROM lying l
       WHERE l.usable
       GROUP BY l.item_id, l.site_id, l.site_name),
     held AS (
       SELECT h.item_id AS item, g.reason AS name, sum(h.qty) AS qty
       FROM hold_line h
       JOIN hold g ON g.id = h.hold_id AND g.released_at IS NULL AND g.site_id = ?
       JOIN wanted w ON w.item = h.item_id
       GROUP BY 1, 2)
     SELECT item, CASE WHEN site = ? THEN 'free' ELSE 'elsewhere' END AS kind, name, NULL::date AS day, qty FROM free WHERE qty > 0
     UNION ALL SELECT item, 'held', name, NULL, qty FROM held
     UNION ALL SELECT item_id, CASE WHEN expired THEN 'expired' WHEN condition = 'inspect' THEN 'inspect' ELSE 'apart' END, zone_code, NULL,
       sum(qty)
       FROM lying WHERE site_id = ? AND NOT usable AND (condition <> 'held' OR expired) AND use <> 'transit' GROUP BY 1, 2, 3
     UNION ALL SELECT x.item_id, 'coming', x.number, x.due, sum(x.open)
       FROM expected_line x JOIN wanted w ON w.item = x.item_id WHERE x.site_id = ? GROUP BY 1, 3, 4
     UNION ALL SELECT p.item_id, 'promised', o.number, o.due,
       p.qty - coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = p.line_id), 0)
       FROM promise p JOIN wanted w ON w.item = p.item_id JOIN order_line l ON l.id = p.line_id JOIN customer_order o ON o.id = l.order_id
       WHERE p.site_id = ?`,
    [items, site, site, site, site, site],
  );
  const known = new Map<number, Omit<BesideFree, 'asks'>>();
  for (const item of new Set(items)) {
    const own = rows.filter((r) => r.item === item).map((r) => ({ ...r, qty: asQty(r.qty) }));
    const of = (kind: Kind) => own.filter((r) => r.kind === kind);
    const total = (kind: Kind): Qty => of(kind).reduce((sum, r) => sum + r.qty, 0) as Qty;
    const byDay = (kind: Kind) => of(kind).toSorted((a, b) => (a.day ?? '').localeCompare(b.day ?? '') || a.name.localeCompare(b.name));
    const largestFirst = (kind: Kind) => of(kind).toSorted((a, b) => b.qty - a.qty || a.name.localeCompare(b.name));
    known.set(item, {
      free: total('free'),
      elsewhere: largestFirst('elsewhere').map((r) => ({ site: r.name, qty: r.qty })),
      held: largestFirst('held').map((r) => ({ reason: r.name, qty: r.qty })),
      toInspect: total('inspect'),
      expired: total('expired'),
      apart: largestFirst('apart').map((r) => ({ zone: r.name, qty: r.qty })),
      coming: byDay('coming').map((r) => ({ number: r.name, due: r.day ?? '', qty: r.qty })),
      promised: byDay('promised')
        .toReversed()
        .map((r) => ({ order: r.name, due: r.day ?? '', qty: r.qty })),
    });
  }
  return known;
}

/** Says of lines that lack goods why, and what would mend it (F4). */
export async function explainLines<
  Line extends { readonly item: number; readonly qty: Qty; readonly order: string; readonly asks?: string | null },
>(db: Reads, site: number, lines: readonly Line[]): Promise<(Line & { why: string[] })[]> {
  const short = lines.filter((l) => l.qty > 0);
  if (short.length === 0) return lines.map((l) => ({ ...l, why: [] }));
  const beside = await selectBesideFree(
    db,
    site,
    short.map((l) => l.item),
  );
  return lines.map((l) => {
    const of = beside.get(l.item);
    return {
      ...l,
      why: of
        ? [...explainShort(l.qty, { ...of, asks: l.asks ?? null, promised: of.promised.filter((p) => p.order !== l.order) }, writeDay)]
        : [],
    };
  });
}
