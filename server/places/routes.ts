import { qtyText } from '#contract/base';
import type { BinRow } from '#contract/places';
import { announce, asQty, keysetOf, keysetText, query, refuse, type RoomHandlers } from '#server/kernel';
import { countBins, insertBin, selectBin, selectBinRow, selectBins, type BinListRow } from './store.ts';

export const placesHandlers: RoomHandlers<'places'> = {
  'places.sites': async (db) => {
    const rows = await query<{ id: number; code: string; name: string; timeZone: string; address: string; zones: never[] }>(
      db,
      `SELECT s.id, s.code, s.name, s.time_zone AS "timeZone", s.address, coalesce((SELECT json_agg(json_build_object('id', z.id, 'code', z.code, 'name', z.name, 'purpose', z.purpose,
         'promisable', z.promisable, 'pickable', z.pickable, 'showsPrice', z.shows_price,
         'bins', (SELECT count(*) FROM bin WHERE zone_id = z.id), 'used', (SELECT count(DISTINCT b.bin_id) FROM balance b JOIN bin ON bin.id = b.bin_id WHERE bin.zone_id = z.id AND b.qty > 0)) ORDER BY z.id)
         FROM zone z WHERE z.site_id = s.id), '[]') AS zones FROM site s ORDER BY s.id`,
    );
    return { sites: rows };
  },
  'places.bins': async (db, { me, query: asked }) => {
    const rows = await selectBins(db, {
      site: me.site.id,
      zone: asked.zone,
      q: asked.q,
      show: asked.show,
      after: keysetOf(asked.after, 2),
      limit: asked.limit,
    });
    const last = rows.at(-1);
    return {
      bins: rows.map(binRow),
      next: last && rows.length === asked.limit ? keysetText([last.walk, last.id]) : null,
      total: await countBins(db, me.site.id, asked.zone),
    };
  },
  'places.bin': async (db, { params }) => {
    const [row, bin] = [await selectBinRow(db, params.id), await selectBin(db, params.id)];
    if (!row || !bin) return refuse({ code: 'places.unknownBin', text: String(params.id) });
    const contents = await query<ContentRow>(
      db,
      `SELECT f.item_id AS item, i.code, i.description, i.base_unit AS unit, f.lot, f.expires, f.expired, f.serial, f.condition, f.qty,
         coalesce((SELECT sum(p.qty - p.picked) FROM round_pick p JOIN round r ON r.id = p.round_id WHERE r.state = 'open' AND p.bin_id = f.bin_id AND p.item_id = f.item_id AND p.lot_id IS NOT DISTINCT FROM f.lot_id), 0) AS planned
       FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.bin_id = ? AND f.qty > 0 ORDER BY i.code, f.expires, f.serial`,
      [params.id],
    );
    const homeOf = await query<{ id: number; code: string; description: string }>(
      db,
      `SELECT i.id, i.code, i.description FROM home_bin h JOIN item i ON i.id = h.item_id WHERE h.bin_id = ? ORDER BY i.code`,
      [params.id],
    );
    return {
      ...binRow(row),
      site: bin.site,
      homeOf,
      rules: { oneItem: bin.one_item, oneLot: bin.one_lot, capacity: bin.capacity === null ? null : qtyText(asQty(bin.capacity)) },
      contents: contents.map((c) => ({ ...c, qty: qtyText(asQty(c.qty)), planned: qtyText(asQty(c.planned)) })),
    };
  },
  'places.makeBin': async (trx, { body }) => {
    const [zone] = await query<{ site: string }>(trx, `SELECT s.name AS site FROM zone z JOIN site s ON s.id = z.site_id WHERE z.id = ?`, [
      body.zone,
    ]);
    if (!zone) return refuse({ code: 'places.unknownZone', id: body.zone });
    const address = body.address.toUpperCase();
    const id = await insertBin(trx, { zone: body.zone, address, alias: body.alias ?? null });
    if (id === null) return refuse({ code: 'places.binTaken', address, site: zone.site });
    announce(trx, 'places');
    return binRow((await selectBinRow(trx, id)) as BinListRow);
  },
};

type ContentRow = {
  item: number;
  code: string;
  description: string;
  unit: string;
  lot: string | null;
  expires: string | null;
  expired: boolean;
  serial: string | null;
  condition: string;
  qty: string;
  planned: string;
};

function binRow(r: BinListRow): BinRow {
  return {
    id: r.id,
    address: r.address,
    alias: r.alias,
    zone: r.zone,
    zoneName: r.zone_name,
    purpose: r.purpose,
    use: r.use,
    items: r.items,
    lastCount: r.last_count?.toISOString() ?? null,
  };
}
