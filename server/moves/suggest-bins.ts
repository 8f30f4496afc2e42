import { subQty, sumQty, type BinId, type ItemId, type LotId, type Qty } from '#core/base';
import { suggestPutAway, type PutAwaySuggestion } from '#core/moves';
import { checkBinRules, type BinRules, type Goods } from '#core/places';
import { asQty, query, type Db } from '#server/kernel';
import { loadBins } from '#server/stock';

/** Goods that look for a bin: how many of what (`lot` by its number in the house), and where on the walk they are now. */
export type Homeless = { readonly item: ItemId; readonly lot: LotId | null; readonly qty: Qty; readonly walk: number };
export type SuggestedBin = PutAwaySuggestion & { readonly address: string };

type ItemRow = Pick<Goods, 'item' | 'itemCode' | 'storageClass' | 'unitMl' | 'unitG'>;
type CandidateRow = {
  item: number;
  bin: number;
  address: string;
  walk: number;
  is_home: boolean;
  same_item: boolean;
  is_empty: boolean;
  room: string | null;
};

/** Where goods would best go at a site (I2), in the order in which they are asked; null where no bin has room. Read with the same rule that
 *  devices ask (`suggestFor`). What open rounds bring counts as there, and so does what was suggested before: two things are not sent into
 *  the room of one. */
export async function suggestBins(db: Pick<Db, 'raw'>, site: number, goods: readonly Homeless[]): Promise<(SuggestedBin | null)[]> {
  if (goods.length === 0) return [];
  const items = [...new Set(goods.map((g) => g.item))];
  const known = await query<ItemRow>(
    db,
    `SELECT id AS item, code AS "itemCode", storage_class AS "storageClass", volume_ml AS "unitMl", weight_g AS "unitG"
     FROM item
     WHERE id = ANY(?::int[])`,
    [items],
  );
  const itemOf = new Map(known.map((i) => [i.item, i]));
  const candidates = await query<CandidateRow>(
    db,
    `WITH wanted AS (SELECT * FROM unnest(?::int[]) AS w(item)),
     shelves AS (
       SELECT bin.id, bin.address, bin.walk, bin.capacity, z.purpose
       FROM bin
       JOIN zone z ON z.id = bin.zone_id
       WHERE bin.site_id = ? AND bin.use = 'shelf' AND bin.retired_at IS NULL AND z.pickable
     ),
     held AS (
       SELECT x.bin_id, x.item_id, sum(x.qty) AS qty
       FROM (SELECT bin_id, item_id, qty FROM balance UNION ALL SELECT bin_id, item_id, qty FROM coming_into) x
       JOIN shelves s ON s.id = x.bin_id
       GROUP BY 1, 2),
     empties AS (
       SELECT s.*, row_number() OVER (PARTITION BY s.purpose ORDER BY s.walk, s.id) AS n
       FROM shelves s
       WHERE NOT EXISTS (SELECT 1 FROM held h WHERE h.bin_id = s.id) AND NOT EXISTS (SELECT 1 FROM home_bin x WHERE x.bin_id = s.id)
     )
     SELECT w.item, s.id AS bin, s.address, s.walk, hb.bin_id IS NOT NULL AS is_home,
       h.item_id IS NOT NULL AS same_item, false AS is_empty,
       least(hb.max_qty, s.capacity) - coalesce((SELECT sum(qty) FROM held x WHERE x.bin_id = s.id), 0) AS room
     FROM wanted w
     JOIN item i ON i.id = w.item
     JOIN shelves s ON true
     LEFT JOIN home_bin hb ON hb.bin_id = s.id AND hb.item_id = w.item
     LEFT JOIN held h ON h.bin_id = s.id AND h.item_id = w.item
     WHERE hb.bin_id IS NOT NULL OR h.item_id IS NOT NULL
     UNION ALL SELECT w.item, e.id, e.address, e.walk, false, false, true, e.capacity
     FROM wanted w
     JOIN item i ON i.id = w.item
       JOIN empties e ON e.n <= 40 AND e.purpose = CASE i.storage_class WHEN 'cold' THEN 'cold' WHEN 'locked' THEN 'cage'
         ELSE 'storage' END`,
    [items, site],
  );
  const lots = await query<{ bin_id: number; lot_id: number }>(
    db,
    `SELECT DISTINCT bin_id, lot_id FROM balance WHERE lot_id = ANY(?::int[]) AND qty > 0`,
    [goods.map((g) => g.lot).filter((l) => l !== null)],
  );
  const bins = await loadBins(db, [...new Set(candidates.map((c) => c.bin))]);
  const lotBins = new Set(lots.map((l) => `${l.bin_id}|${l.lot_id}`));
  const brought = await selectComing(db, [...bins.keys()]);
  return goods.map((g) => {
    const own = candidates.filter((c) => c.item === g.item);
    const suggestion = suggestPutAway(
      g.qty,
      g.walk,
      own.map((c) => {
        const more = brought.filter((b) => b.bin === c.bin);
        const now = more.filter((b) => b.isNew);
        return {
          bin: c.bin as BinId,
          isHome: c.is_home,
          holdsSameLot:
            lotBins.has(`${c.bin}|${g.lot}`) || more.some((b) => b.goods.item === g.item && b.goods.lot === g.lot && g.lot !== null),
          holdsSameItem: c.same_item || now.some((b) => b.goods.item === g.item),
          isEmpty: c.is_empty && now.length === 0,
          room: c.room === null ? null : subQty(asQty(c.room), sumQty(now.map((b) => b.goods.qty))),
          walk: c.walk,
          breaksRule: breaksRule(
            bins.get(c.bin),
            more.map((b) => b.goods),
            itemOf.get(g.item),
            g,
          ),
        };
      }),
    );
    const bin = suggestion && own.find((c) => c.bin === suggestion.bin);
    const item = itemOf.get(g.item);
    if (bin && item) brought.push({ bin: bin.bin, isNew: true, goods: { ...item, lot: g.lot, qty: g.qty } });
    return suggestion && bin ? { ...suggestion, address: bin.address } : null;
  });
}

/** Goods that will lie in a bin; `isNew`: since this was asked. */
type Brought = { readonly bin: number; readonly isNew: boolean; readonly goods: Goods };

async function selectComing(db: Pick<Db, 'raw'>, bins: readonly number[]): Promise<Brought[]> {
  const rows = await query<ItemRow & { bin: number; lot: LotId | null; qty: string }>(
    db,
    `SELECT c.bin_id AS bin, c.lot_id AS lot, c.qty, i.id AS item, i.code AS "itemCode", i.storage_class AS "storageClass",
       i.volume_ml AS "unitMl", i.weight_g AS "unitG"
     FROM coming_into c
     JOIN item i ON i.id = c.item_id
     WHERE c.bin_id = ANY(?::int[])`,
    [bins],
  );
  return rows.map(({ bin, ...goods }) => ({ bin, isNew: false, goods: { ...goods, qty: asQty(goods.qty) } }));
}

type RuledBin = { rules: BinRules; content: readonly Goods[] };

function breaksRule(bin: RuledBin | undefined, brought: readonly Goods[], item: ItemRow | undefined, { lot, qty }: Homeless): boolean {
  if (!bin || !item) return true;
  return checkBinRules(bin.rules, [...bin.content, ...brought], [{ ...item, lot, qty }]) !== null;
}
