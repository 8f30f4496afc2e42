import { kitsPossible } from '#core/items';
import type { ItemId } from '#core/base';
import { qtyText } from '#contract/base';
import type { ReplyOf, Routes } from '#contract';
import { asQty, query, type Db } from '#server/kernel';
import { findItem } from '#server/items';

type PartRow = { site_id: number; site: string; item: ItemId; code: string; qty: string; free: string };

/** How many of a kit could be made now from what is free, per site, and which part is the scarcest (B12). */
export async function readKit(db: Db, kit: number): Promise<ReplyOf<Routes['stock.kit']>> {
  await findItem(db, kit);
  const rows = await query<PartRow>(
    db,
    `SELECT s.id AS site_id, s.name AS site, i.id AS item, i.code, k.qty,
       coalesce(
         (
           SELECT sum(f.qty)
           FROM stock_fact f
           WHERE f.item_id = i.id AND f.site_id = s.id AND f.usable
         ), 0
       )
         - coalesce((SELECT sum(p.qty) FROM promise p WHERE p.item_id = i.id AND p.site_id = s.id), 0) AS free
     FROM kit_part k JOIN item i ON i.id = k.part_id CROSS JOIN site s WHERE k.kit_id = ? ORDER BY s.id, i.code`,
    [kit],
  );
  const sites = [...new Set(rows.map((r) => r.site_id))].map((id) => rows.filter((r) => r.site_id === id));
  return {
    sites: sites.map((parts) => {
      const possible = kitsPossible(parts.map((p) => ({ part: p.item, qty: asQty(p.qty), free: asQty(p.free) })));
      return {
        site: parts[0]?.site ?? '',
        kits: possible?.kits ?? 0,
        scarcest: parts.find((p) => p.item === possible?.scarcest)?.code ?? '',
        parts: parts.map((p) => ({ item: p.item, code: p.code, needs: qtyText(asQty(p.qty)), free: qtyText(asQty(p.free)) })),
      };
    }),
  };
}
