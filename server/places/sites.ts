import type { Site } from '#contract/places';
import type { BodyOf, Routes } from '#contract';
import { zoneDefaults, type ZonePurpose } from '#core/places';
import { announce, query, refuse, type Db, type Trx } from '#server/kernel';

const DEFAULT_USES = ['arrivals', 'packing', 'quarantine', 'scrap', 'transit'] as const;

/** Every site with its zones and default bins. */
export function selectSites(db: Db): Promise<Site[]> {
  const names = DEFAULT_USES.map((use) => `'${use}', (SELECT address FROM bin WHERE id = s.${use}_bin)`).join(', ');
  return query<Site>(
    db,
    `SELECT s.id, s.code, s.name, s.time_zone AS "timeZone", s.address, json_build_object(${names}) AS defaults,
       coalesce((SELECT json_agg(json_build_object('id', z.id, 'code', z.code, 'name', z.name, 'purpose', z.purpose,
         'promisable', z.promisable, 'pickable', z.pickable, 'showsPrice', z.shows_price,
         'bins', (SELECT count(*) FROM bin WHERE zone_id = z.id AND retired_at IS NULL), 'used', (SELECT count(DISTINCT b.bin_id) FROM balance b JOIN bin ON bin.id = b.bin_id WHERE bin.zone_id = z.id AND b.qty > 0)) ORDER BY z.id)
         FROM zone z WHERE z.site_id = s.id), '[]') AS zones FROM site s ORDER BY s.id`,
  );
}

async function refuseTimeZone(trx: Trx, text: string): Promise<void> {
  const known = await query(trx, `SELECT 1 FROM pg_timezone_names WHERE name = ?`, [text]);
  if (known.length === 0) refuse({ code: 'places.timeZone', text });
}

// What every site needs before anything can arrive: where it arrives, is packed, set apart, thrown away, under way, and lies unplaced (A1, A7).
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
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO site (code, name, time_zone, address) VALUES (?, ?, ?, ?) ON CONFLICT (code) DO NOTHING RETURNING id`,
    [site.code, site.name, site.timeZone, site.address ?? ''],
  );
  if (!made) return refuse({ code: 'places.siteTaken', site: site.code });
  await query(trx, `INSERT INTO person_site SELECT id, ? FROM person WHERE role = 'lead' OR id = ?`, [made.id, site.person]);
  for (const zone of FIRST_ZONES) {
    const { id } = await insertZone(trx, { site: made.id, ...zone });
    await query(
      trx,
      `INSERT INTO bin (site_id, zone_id, address, use, walk) SELECT ?, ?, a, u, w FROM unnest(?::text[], ?::text[]) WITH ORDINALITY AS b(a, u, w)`,
      [made.id, id, zone.bins.map((b) => b[0]), zone.bins.map((b) => b[1])],
    );
  }
  await query(
    trx,
    `UPDATE site SET ${DEFAULT_USES.map((use) => `${use}_bin = (SELECT min(id) FROM bin WHERE site_id = site.id AND use = '${use}')`).join(', ')} WHERE id = ?`,
    [made.id],
  );
  announce(trx, 'places');
  return made;
}

/** Changes a site's name, time zone, address and default bins.
 *  Errors: an unknown time zone; a default bin that is not at the site or is retired. */
export async function changeSite(trx: Trx, id: number, change: BodyOf<Routes['places.changeSite']>): Promise<void> {
  await refuseTimeZone(trx, change.timeZone);
  const done = await query(trx, `UPDATE site SET name = ?, time_zone = ?, address = ? WHERE id = ? RETURNING 1`, [
    change.name,
    change.timeZone,
    change.address ?? '',
    id,
  ]);
  if (done.length === 0) refuse({ code: 'places.unknownSite', id });
  for (const use of DEFAULT_USES) {
    const address = change.defaults[use];
    if (address === undefined) continue;
    const [bin] = await query<{ id: number }>(trx, `SELECT id FROM bin WHERE site_id = ? AND address = upper(?) AND retired_at IS NULL`, [
      id,
      address.trim(),
    ]);
    if (!bin) return refuse({ code: 'places.unknownBin', text: address });
    // The bin's use follows: what arrives there waits for put-away, whatever the bin was before.
    await query(trx, `UPDATE bin SET use = ? WHERE id = ? AND use = 'shelf'`, [use, bin.id]);
    await query(trx, `UPDATE site SET ${use}_bin = ? WHERE id = ?`, [bin.id, id]);
  }
  announce(trx, 'places');
}

/** Makes a zone with the powers its purpose begins with. */
export async function insertZone(
  trx: Trx,
  zone: { site: number; code: string; name: string; purpose: ZonePurpose },
): Promise<{ id: number }> {
  const powers = zoneDefaults(zone.purpose);
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO zone (site_id, code, name, purpose, promisable, pickable, shows_price) VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (site_id, code) DO NOTHING RETURNING id`,
    [zone.site, zone.code, zone.name, zone.purpose, powers.promisable, powers.pickable, powers.showsPrice],
  );
  if (made) return made;
  const [site] = await query<{ name: string }>(trx, `SELECT name FROM site WHERE id = ?`, [zone.site]);
  return refuse({ code: 'places.zoneTaken', zone: zone.code, site: site?.name ?? '' });
}
