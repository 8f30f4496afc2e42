import type { Qty } from '#core/base';
import { qtyText } from '#contract/base';
import type { BinRow } from '#contract/places';
import { announce, asQty, keysetOf, keysetText, loadFile, query, refuse, startJob, type RoomHandlers } from '#server/kernel';
import { buildBins, selectClashes } from './build-grid.ts';
import { changeBin, makeBin, restoreBin, retireBins, selectBrokenRules } from './change-bin.ts';
import { readMeasures, readPlan, savePlan } from './plan.ts';
import { changeSite, makeSite, selectSites } from './sites.ts';
import { insertZone } from './store-sites.ts';
import { countBins, findZone, selectBin, selectBinRow, selectBins, selectBinsSorted, updateZoneName, type BinListRow } from './store.ts';

const limitText = (text: string | null): string | null => (text === null ? null : qtyText(asQty(text)));

export const placesHandlers: RoomHandlers<'places'> = {
  'places.sites': async (db) => ({ sites: await selectSites(db) }),
  'places.makeSite': (trx, { me, body }) => makeSite(trx, { ...body, person: me.id }),
  'places.changeSite': (trx, { params, body }) => changeSite(trx, params.id, body),
  'places.makeZone': async (trx, { me, body }) => {
    const made = await insertZone(trx, { site: me.site.id, ...body });
    announce(trx, 'places');
    return made;
  },
  'places.renameZone': async (trx, { me, params, body }) => {
    const zone = await findZone(trx, params.id);
    if (zone.site_id !== me.site.id) refuse({ code: 'people.otherSite', what: `Zone ${zone.name}`, site: zone.site });
    await updateZoneName(trx, params.id, body.name);
    announce(trx, 'places');
    return { ok: true };
  },
  'places.plan': async (db, { me, query }) => ({ site: me.site.name, ...(await readPlan(db, me.site.id, query.anew === 'yes')) }),
  'places.savePlan': (trx, { me, body }) => savePlan(trx, { site: me.site.id, person: me.id, ...body }),
  'places.planMeasures': (db, { me }) => readMeasures(db, me.site.id),
  'places.changeBin': async (trx, { me, params, body }) => {
    const { version, broken } = await changeBin(trx, params.id, me.site.id, body);
    return { version, broken: [...broken] };
  },
  'places.retireBins': async (trx, { me, body }) => ({ retired: await retireBins(trx, body.bins, me.site.id) }),
  'places.restoreBin': async (trx, { me, params }) => {
    await restoreBin(trx, params.id, me.site.id);
    return { ok: true };
  },
  'places.clashes': async (db, { me, query: asked }) => {
    const clashes = await selectClashes(db, me.site.id, asked.grid);
    return { count: clashes.length, first: clashes.slice(0, 50).map((c) => c.name) };
  },
  'places.buildGrid': (trx, { me, body }) => buildBins(trx, { ...body, site: me.site.id }),
  'places.importBins': async (trx, { me, body }) => {
    const file = await loadFile(trx, body.file);
    if (!file) return refuse({ code: 'file.unknown', id: body.file });
    const job = await startJob(trx, {
      kind: 'places.importBins',
      title: `Bins from ${file.name}`,
      person: me.id,
      site: me.site.id,
      input: { file: body.file },
    });
    return { job: job.id };
  },
  'places.bins': async (db, { me, query: asked }) => {
    const where = { site: me.site.id, zone: asked.zone, q: asked.q, show: asked.show };
    const total = await countBins(db, where);
    const { sort: by, after, limit } = asked;
    if (by !== undefined) {
      const { rows, next } = await selectBinsSorted(db, { ...where, by, after, limit });
      return { bins: rows.map(binRow), next, total };
    }
    const rows = await selectBins(db, { ...where, after: keysetOf(after, 'number', 'number'), limit });
    const last = rows.at(-1);
    return { bins: rows.map(binRow), next: last && rows.length === limit ? keysetText([last.walk, last.id]) : null, total };
  },
  'places.bin': async (db, { params }) => {
    const [row, bin] = [await selectBinRow(db, params.id), await selectBin(db, params.id)];
    if (!row || !bin) return refuse({ code: 'places.unknownBin', text: String(params.id) });
    const contents = await query<ContentRow>(
      db,
      `SELECT f.item_id AS item, i.code, i.description, i.base_unit AS unit, f.lot, f.expires, f.expired, f.serial, f.condition, f.qty,
         (SELECT u.sscc FROM logistic_unit u WHERE u.id = f.unit_id) AS sscc,
         coalesce(
           (
             SELECT sum(p.qty - p.picked)
             FROM round_pick p
             JOIN round r ON r.id = p.round_id
             WHERE r.state = 'open' AND p.bin_id = f.bin_id AND p.item_id = f.item_id AND p.lot_id IS NOT DISTINCT FROM f.lot_id
           ), 0
         ) AS planned
       FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.bin_id = ? AND f.qty > 0
       ORDER BY i.code, f.expires, f.serial, f.unit_id NULLS FIRST`,
      [params.id],
    );
    const homeOf = await query<{
      id: number;
      code: string;
      description: string;
      role: 'face' | 'reserve';
      min: string | null;
      max: string | null;
    }>(
      db,
      `SELECT i.id, i.code, i.description, h.role, h.min_qty AS min, h.max_qty AS max
       FROM home_bin h
       JOIN item i ON i.id = h.item_id
       WHERE h.bin_id = ?
       ORDER BY i.code`,
      [params.id],
    );
    const promised = await query<{ round: number; number: string; order: string; code: string; lot: string | null; qty: string }>(
      db,
      `SELECT r.id AS round, r.number, o.number AS order, i.code, t.code AS lot, p.qty - p.picked AS qty
       FROM round_pick p
       JOIN round r ON r.id = p.round_id
       JOIN order_line l ON l.id = p.line_id
       JOIN customer_order o ON o.id = l.order_id
         JOIN item i ON i.id = p.item_id
         LEFT JOIN lot t ON t.id = p.lot_id
         WHERE r.state = 'open' AND p.bin_id = ? AND p.picked < p.qty
         ORDER BY r.id, p.id`,
      [params.id],
    );
    return {
      ...binRow(row),
      site: bin.site,
      zoneId: bin.zone_id,
      walk: bin.walk,
      version: bin.version,
      arrow: bin.arrow,
      broken: [...(await selectBrokenRules(db, params.id))],
      homeOf: homeOf.map((h) => ({ ...h, min: limitText(h.min), max: limitText(h.max) })),
      promised: promised.map((p) => ({ ...p, qty: qtyText(asQty(p.qty)) })),
      rules: {
        oneItem: bin.one_item,
        oneLot: bin.one_lot,
        storageClass: bin.storage_class,
        units: limitText(bin.capacity),
        // Millilitres and grams are thousandths of what is shown.
        litres: bin.volume_ml === null ? null : qtyText(bin.volume_ml as Qty),
        kilograms: bin.weight_g === null ? null : qtyText(bin.weight_g as Qty),
      },
      contents: contents.map((c) => ({ ...c, qty: qtyText(asQty(c.qty)), planned: qtyText(asQty(c.planned)) })),
    };
  },
  'places.makeBin': async (trx, { me, body }) => {
    const id = await makeBin(trx, me.site, { zone: body.zone, address: body.address, oldNames: body.oldNames });
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
  sscc: string | null;
  condition: string;
  qty: string;
  planned: string;
};

function binRow(r: BinListRow): BinRow {
  return {
    id: r.id,
    address: r.address,
    oldNames: r.old_names,
    zone: r.zone,
    zoneName: r.zone_name,
    purpose: r.purpose,
    use: r.use,
    items: r.items,
    fill: r.fill === null ? null : Math.round(Number(r.fill) * 100),
    labelled: r.labelled?.toISOString() ?? null,
    lastCount: r.last_count?.toISOString() ?? null,
    retired: r.retired?.toISOString() ?? null,
  };
}
