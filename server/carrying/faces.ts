import { subQty, sumQty, ZERO, type ItemId, type Qty } from '#core/base';
import { decideRefill, type Face, type RefillWant } from '#core/carrying';
import type { PickSource } from '#core/picking';
import { asQty, query, type Db } from '#server/kernel';
import { selectSources } from '#server/picking';

type Reads = Pick<Db, 'raw'>;
type FaceRowOfDb = { item: number; bin: number; address: string; there: string; coming: string; min: string | null; max: string | null };
/** A pick face that wants more, with what lies elsewhere for it. */
export type WantingFace = RefillWant & { readonly address: string; readonly needed: Qty; readonly reserve: readonly PickSource[] };

/** The pick faces of a site that want more now, by minimum and by what orders need that are on no round yet, with the reserve of each item
 *  (I5). Reserve is what a round may take and no round is on its way for, in bins that are no pick face of the item.
 *  Shape:  `only`: these faces. In walking order of the faces.
 *  Locks:  nothing; who plans by it holds the items' locks. */
export async function readWantingFaces(
  db: Reads,
  site: number,
  only?: readonly { readonly item: number; readonly bin: number }[],
): Promise<WantingFace[]> {
  const rows = await query<FaceRowOfDb>(
    db,
    `SELECT h.item_id AS item, h.bin_id AS bin, b.address, h.min_qty AS min, h.max_qty AS max,
       coalesce((SELECT sum(f.qty) FROM stock_fact f WHERE f.bin_id = h.bin_id AND f.item_id = h.item_id AND f.usable), 0)
       - coalesce((
         SELECT sum(k.qty - k.picked)
         FROM round_pick k
         JOIN round r ON r.id = k.round_id AND r.state = 'open'
         WHERE k.bin_id = h.bin_id AND k.item_id = h.item_id AND k.picked < k.qty), 0) AS there,
       coalesce((SELECT sum(t.to_bring) FROM carry_open_task t WHERE t.to_bin = h.bin_id AND t.item_id = h.item_id), 0) AS coming
     FROM home_bin h
     JOIN bin b ON b.id = h.bin_id AND b.retired_at IS NULL
     JOIN zone z ON z.id = b.zone_id AND z.pickable
     JOIN item i ON i.id = h.item_id AND i.retired_at IS NULL
     WHERE b.site_id = ? AND h.role = 'face'
     ORDER BY b.walk, b.id, h.item_id`,
    [site],
  );
  const items = [...new Set(rows.map((r) => r.item))];
  const needed = await selectNeeded(db, site, items);
  const packs = await selectPacks(db, items);
  const faces = rows.map((r): Face & { address: string } => ({
    item: r.item as ItemId,
    bin: r.bin as Face['bin'],
    address: r.address,
    there: asQty(r.there),
    coming: asQty(r.coming),
    min: r.min === null ? null : asQty(r.min),
    max: r.max === null ? null : asQty(r.max),
  }));
  const wants = decideRefill(faces, needed, packs).filter(
    ({ face }) => only?.some((o) => o.item === face.item && o.bin === face.bin) ?? true,
  );
  const isFace = new Set(faces.map((f) => `${f.item}|${f.bin}`));
  const sources = await selectSources(db, site, [...new Set(wants.map((w) => w.face.item))]);
  const reserve = sources.filter((s) => !s.isPickFace && !isFace.has(`${s.item}|${s.bin}`));
  return wants.map((w) => ({
    ...w,
    address: (w.face as Face & { address: string }).address,
    needed: needed.get(w.face.item) ?? ZERO,
    reserve: reserve.filter((s) => s.item === w.face.item),
  }));
}

// What is promised of each item, in nobody's hands and on no round.
async function selectNeeded(db: Reads, site: number, items: readonly number[]): Promise<Map<ItemId, Qty>> {
  const rows = await query<{ item: ItemId; promised: string; served: string }>(
    db,
    `SELECT p.item_id AS item, sum(p.qty) AS promised, sum(
       coalesce((SELECT sum(k.qty) FROM in_hand k WHERE k.line_id = p.line_id), 0)
       + coalesce((
         SELECT sum(k.qty - k.picked)
         FROM round_pick k
         JOIN round r ON r.id = k.round_id AND r.state = 'open'
         WHERE k.line_id = p.line_id), 0)) AS served
     FROM promise p
     JOIN order_line l ON l.id = p.line_id
     JOIN customer_order o ON o.id = l.order_id AND o.held_for IS NULL
     WHERE p.site_id = ? AND p.item_id = ANY(?::int[])
     GROUP BY 1`,
    [site, items],
  );
  return new Map(rows.map((r) => [r.item, subQty(asQty(r.promised), asQty(r.served))]));
}

async function selectPacks(db: Reads, items: readonly number[]): Promise<Map<ItemId, Qty[]>> {
  const rows = await query<{ item: ItemId; units: string }>(
    db,
    `SELECT item_id AS item, units FROM pack WHERE item_id = ANY(?::int[]) AND units > 1`,
    [items],
  );
  const packs = new Map<ItemId, Qty[]>();
  for (const r of rows) packs.set(r.item, [...(packs.get(r.item) ?? []), asQty(r.units)]);
  return packs;
}

/** What lies in reserve for a face. */
export const reserveOf = (face: WantingFace): Qty => sumQty(face.reserve.map((s) => s.qty));
