import { DEFAULT_USES, type Site } from '#contract/places';
import type { BodyOf, Routes } from '#contract';
import type { ZonePurpose } from '#core/places';
import { announce, query, refuse, type Db, type Trx } from '#server/kernel';
import {
  insertFirstBins,
  insertSite,
  insertZone,
  lockBins,
  lockSite,
  updateDefaults,
  updateDefaultsByUse,
  updateSite,
  type DefaultUse,
} from './store-sites.ts';
import { findBin, type FoundBin } from './store.ts';

/** Every site with its zones and default bins. */
export function selectSites(db: Db): Promise<Site[]> {
  const names = DEFAULT_USES.map((use) => `'${use}', (SELECT address FROM bin WHERE id = s.${use}_bin)`).join(', ');
  return query<Site>(
    db,
    `SELECT s.id, s.code, s.name, s.version, s.time_zone AS "timeZone", s.address, s.cart_slots AS "cartSlots",
       json_build_object(${names}) AS defaults,
       coalesce((SELECT json_agg(json_build_object('id', z.id, 'code', z.code, 'name', z.name, 'purpose', z.purpose,
         'promisable', z.promisable, 'pickable', z.pickable, 'showsPrice', z.shows_price,
         'bins', (SELECT count(*) FROM bin WHERE zone_id = z.id AND retired_at IS NULL), 'used', (
           SELECT count(DISTINCT b.bin_id) FROM balance b JOIN bin ON bin.id = b.bin_id WHERE bin.zone_id = z.id AND b.qty > 0
         )) ORDER BY z.id)
         FROM zone z WHERE z.site_id = s.id), '[]') AS zones FROM site s ORDER BY s.id`,
  );
}

async function refuseTimeZone(trx: Trx, text: string): Promise<void> {
  const known = await query(trx, `SELECT 1 FROM pg_timezone_names WHERE name = ?`, [text]);
  if (known.length === 0) refuse({ code: 'places.timeZone', text });
}

// What every site needs before anything can arrive: where it arrives, is packed, set apart, thrown away, under way, and lies unplaced (A1,
// A7).
const FIRST_ZONES: readonly { code: string; name: string; purpose: ZonePurpose; bins: readonly [string, string][] }[] = [
  {
    code: 'DOCK',
    name: 'Dock',
    purpose: 'dock',
    bins: [
      ['ARRIVALS', 'arrivals'],
      ['UNPLACED', 'unplaced'],
    ],
  },
  {
    code: 'PACK',
    name: 'Packing',
    purpose: 'packing',
    bins: [
      ['BENCH-1', 'packing'],
      ['CART-1', 'cart'],
    ],
  },
  { code: 'QUAR', name: 'Quarantine', purpose: 'quarantine', bins: [['QUARANTINE', 'quarantine']] },
  {
    code: 'SCRAP',
    name: 'Scrap',
    purpose: 'scrap',
    bins: [
      ['SCRAP', 'scrap'],
      ['TRANSIT', 'transit'],
    ],
  },
];

/** Makes a site with its default bins, ready to receive. Its maker and every lead work there; others are added. */
export async function makeSite(trx: Trx, site: BodyOf<Routes['places.makeSite']> & { person: number }): Promise<{ id: number }> {
  await refuseTimeZone(trx, site.timeZone);
  const made = await insertSite(trx, { ...site, address: site.address ?? '' });
  if (!made) return refuse({ code: 'places.siteTaken', site: site.code });
  for (const zone of FIRST_ZONES) {
    const { id } = await insertZone(trx, { site: made.id, ...zone });
    await insertFirstBins(trx, { site: made.id, zone: id, bins: zone.bins });
  }
  await updateDefaultsByUse(trx, made.id);
  announce(trx, 'places');
  return made;
}

/** Changes a site's name, time zone, address and default bins. A default is a pointer: the bin it leaves is again what it was, and only
 *  what lies at the bin it points to now is treated so (the database moves the use with the pointer).
 *  Errors: `places.changedMeanwhile`; an unknown time zone; a default bin that is not at the site, is retired, serves another use already,
 *          or would begin or cease to be a bench with goods in it.
 *  Locks:  the bins whose use changes, against postings on their way. */
export async function changeSite(trx: Trx, id: number, change: BodyOf<Routes['places.changeSite']>): Promise<{ version: number }> {
  await refuseTimeZone(trx, change.timeZone);
  const before = await lockSite(trx, id);
  if (!before) return refuse({ code: 'places.unknownSite', id });
  if (before.version !== change.version) refuse({ code: 'places.changedMeanwhile', what: before.name });
  await updateSite(trx, id, { ...change, address: change.address ?? '', cartSlots: change.cartSlots ?? null });
  await pointDefaults(trx, id, change.defaults);
  announce(trx, 'places');
  return { version: before.version + 1 };
}

async function pointDefaults(trx: Trx, site: number, wanted: Partial<Record<DefaultUse, string>>): Promise<void> {
  const targets: { use: DefaultUse; bin: FoundBin }[] = [];
  for (const use of DEFAULT_USES) {
    const address = wanted[use];
    if (address === undefined) continue;
    const bin = await findBin(trx, site, address);
    if (bin.retired) refuse({ code: 'places.binRetired', bin: bin.address });
    targets.push({ use, bin });
  }
  if (targets.length === 0) return;
  const now = await query<{ use: DefaultUse; bin: number }>(
    trx,
    DEFAULT_USES.map((use) => `SELECT '${use}' AS use, ${use}_bin AS bin FROM site WHERE id = ?`).join(' UNION ALL '),
    DEFAULT_USES.map(() => site),
  );
  const after = new Map(now.map((d) => [d.use, targets.find((t) => t.use === d.use)?.bin.id ?? d.bin]));
  for (const { use, bin } of targets) {
    const other = DEFAULT_USES.find((u) => u !== use && after.get(u) === bin.id);
    if (other) refuse({ code: 'places.notADefault', bin: bin.address, use, why: `it is the ${other} bin` });
    if (['cart', 'unplaced'].includes(bin.use))
      refuse({ code: 'places.notADefault', bin: bin.address, use, why: 'it is a cart or the unplaced stock' });
  }
  const moved = now.filter((d) => after.get(d.use) !== d.bin);
  const bins = [...new Set(moved.flatMap((d) => [d.bin, after.get(d.use) as number]))].sort((a, b) => a - b);
  await lockBins(trx, bins);
  // Goods at a bench are in somebody's hands, and no hold catches them there: what is a bench changes only while nothing lies on it.
  const bench = moved.find((d) => d.use === 'packing');
  for (const id of bench ? [bench.bin, after.get('packing') as number] : []) {
    const [held] = await query<{ address: string; code: string }>(
      trx,
      `SELECT bin.address, i.code FROM balance b JOIN bin ON bin.id = b.bin_id JOIN item i ON i.id = b.item_id
       WHERE b.bin_id = ? AND b.qty > 0 AND bin.own_use <> 'packing' ORDER BY i.code LIMIT 1`,
      [id],
    );
    if (held) refuse({ code: 'places.binNotEmpty', bin: held.address, holds: held.code });
  }
  await updateDefaults(trx, site, after);
}
