import { ONE } from '#core/base';
import { packToBase } from '#core/items';
import { suggestPutAway } from '#core/moves';
import { checkBinRules, type BinRules, type Goods } from '#core/places';
import { qtyText } from '#contract/base';
import type { PutAwayRow } from '#contract/moves';
import { asQty, query, refuse, together, type Db, type RoomHandlers } from '#server/kernel';
import { findItemByScan } from '#server/items';
import { findBins } from '#server/places';
import { loadBins } from '#server/stock';
import { moveGoods } from './move-goods.ts';
import { moveUnit } from './move-unit.ts';

export const movesHandlers: RoomHandlers<'moves'> = {
  'moves.putAway': async (db, { me, query: asked }) => ({ rows: await readPutAway(db, me.site.id, asked.from) }),
  'moves.move': async (trx, { me, body }) => {
    const [[from, to], scanned] = await together([
      findBins(trx, me.site.id, [body.from, body.to] as const),
      findItemByScan(trx, body.code),
    ]);
    if (body.override && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Overriding the rule of a bin' });
    const moved = await moveGoods(trx, {
      site: me.site.id,
      person: me.id,
      device: body.device ?? null,
      at: null,
      from,
      to,
      item: scanned,
      lot: body.lot || scanned.lot,
      serial: body.serial || scanned.serialCode,
      condition: null,
      qty: body.qty ?? scanned.labelled ?? packToBase(ONE, scanned.pack) ?? ONE,
      reason: body.reason,
      override: body.override || undefined,
      newLot: body.newLot || null,
    });
    return {
      document: moved.document,
      number: moved.number,
      code: scanned.code,
      qty: qtyText(moved.qty),
      from: from.address,
      to: to.address,
      at: moved.at,
    };
  },
  'moves.unit': async (trx, { me, params, body }) => {
    if (body.override && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Overriding the rule of a bin' });
    const [to] = await findBins(trx, me.site.id, [body.to] as const);
    const moved = await moveUnit(trx, {
      site: me.site.id,
      person: me.id,
      device: body.device ?? null,
      at: null,
      sscc: params.sscc,
      to,
      reason: body.reason,
      override: body.override || undefined,
    });
    return { ...moved, qty: qtyText(moved.qty), to: to.address };
  },
};

type ArrivalRow = {
  bin: number;
  from: string;
  walk: number;
  item: number;
  code: string;
  description: string;
  unit: string;
  barcode: string | null;
  lot_id: number | null;
  lot: string | null;
  expires: string | null;
  serial: string | null;
  qty: string;
  since: Date;
  storage_class: string;
  volume_ml: number;
  weight_g: number;
};
type CandidateRow = {
  item: number;
  lot_id: number | null;
  bin: number;
  address: string;
  walk: number;
  is_home: boolean;
  same_lot: boolean;
  same_item: boolean;
  is_empty: boolean;
  room: string | null;
};

async function readPutAway(db: Db, site: number, use: 'arrivals' | 'unplaced'): Promise<PutAwayRow[]> {
  const arrivals = await query<ArrivalRow>(
    db,
    `SELECT f.bin_id AS bin, f.address AS from, f.walk, f.item_id AS item, i.code, i.description, i.base_unit AS unit, f.lot_id,
       f.lot, f.expires, f.serial, f.qty, i.storage_class, i.volume_ml, i.weight_g,
       first_barcode(i.id) AS barcode,
       (SELECT m.at FROM movement m WHERE m.item_id = f.item_id AND m.to_bin = f.bin_id ORDER BY m.id DESC LIMIT 1) AS since
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = ? AND f.use = ? AND f.qty > 0
     ORDER BY since, i.code, f.serial
     LIMIT 300`,
    [site, use],
  );
  if (arrivals.length === 0) return [];
  const candidates = await query<CandidateRow>(
    db,
    `WITH wanted AS (SELECT * FROM unnest(?::int[]) AS w(item)),
     shelves AS (
       SELECT bin.id, bin.address, bin.walk, bin.capacity, z.purpose
       FROM bin
       JOIN zone z ON z.id = bin.zone_id
       WHERE bin.site_id = ? AND bin.use = 'shelf' AND bin.retired_at IS NULL AND z.pickable
     ),
     held AS (SELECT b.bin_id, b.item_id, sum(b.qty) AS qty FROM balance b JOIN shelves s ON s.id = b.bin_id GROUP BY 1, 2),
     empties AS (
       SELECT s.*, row_number() OVER (PARTITION BY s.purpose ORDER BY s.walk, s.id) AS n
       FROM shelves s
       WHERE NOT EXISTS (SELECT 1 FROM held h WHERE h.bin_id = s.id) AND NOT EXISTS (SELECT 1 FROM home_bin x WHERE x.bin_id = s.id)
     )
     SELECT w.item, NULL::int AS lot_id, s.id AS bin, s.address, s.walk, hb.bin_id IS NOT NULL AS is_home, false AS same_lot,
       h.item_id IS NOT NULL AS same_item, false AS is_empty,
       least(hb.max_qty, s.capacity) - coalesce((SELECT sum(qty) FROM held x WHERE x.bin_id = s.id), 0) AS room
     FROM wanted w
     JOIN item i ON i.id = w.item
     JOIN shelves s ON true
     LEFT JOIN home_bin hb ON hb.bin_id = s.id AND hb.item_id = w.item
     LEFT JOIN held h ON h.bin_id = s.id AND h.item_id = w.item
     WHERE hb.bin_id IS NOT NULL OR h.item_id IS NOT NULL
     UNION ALL SELECT w.item, NULL, e.id, e.address, e.walk, false, false, false, true, e.capacity
     FROM wanted w
     JOIN item i ON i.id = w.item
       JOIN empties e ON e.n <= 40 AND e.purpose = CASE i.storage_class WHEN 'cold' THEN 'cold' WHEN 'locked' THEN 'cage'
         ELSE 'storage' END`,
    [[...new Set(arrivals.map((a) => a.item))], site],
  );
  const lots = await query<{ bin_id: number; lot_id: number }>(
    db,
    `SELECT DISTINCT bin_id, lot_id FROM balance WHERE lot_id = ANY(?::int[]) AND qty > 0`,
    [arrivals.map((a) => a.lot_id).filter((l) => l !== null)],
  );
  const bins = await loadBins(db, [...new Set(candidates.map((c) => c.bin))]);
  const lotBins = new Set(lots.map((l) => `${l.bin_id}|${l.lot_id}`));
  return arrivals.map((a): PutAwayRow => {
    const own = candidates.filter((c) => c.item === a.item);
    const suggestion = suggestPutAway(
      asQty(a.qty),
      a.walk,
      own.map((c) => ({
        bin: c.bin,
        isHome: c.is_home,
        holdsSameLot: lotBins.has(`${c.bin}|${a.lot_id}`),
        holdsSameItem: c.same_item,
        isEmpty: c.is_empty,
        room: c.room === null ? null : asQty(c.room),
        walk: c.walk,
        breaksRule: breaksRule(bins.get(c.bin), a),
      })) as never,
    );
    const bin = suggestion && own.find((c) => c.bin === suggestion.bin);
    return {
      bin: a.bin,
      from: a.from,
      item: a.item,
      code: a.code,
      description: a.description,
      unit: a.unit,
      barcode: a.barcode,
      lot: a.lot,
      expires: a.expires,
      serial: a.serial,
      qty: qtyText(asQty(a.qty)),
      since: a.since.toISOString(),
      suggestion: suggestion && bin ? { bin: bin.bin, address: bin.address, why: suggestion.why } : null,
    };
  });
}

type RuledBin = { rules: BinRules; content: readonly Goods[] };

function breaksRule(bin: RuledBin | undefined, a: ArrivalRow): boolean {
  if (!bin) return true;
  const goods = {
    item: a.item,
    itemCode: a.code,
    lot: a.lot_id,
    qty: asQty(a.qty),
    storageClass: a.storage_class,
    unitMl: a.volume_ml,
    unitG: a.weight_g,
  } as Goods;
  return checkBinRules(bin.rules, bin.content, [goods]) !== null;
}
