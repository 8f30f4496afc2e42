import { zoneDefaults, type ZonePurpose } from '#core/places';
import { DEFAULT_USES } from '#contract/places';
import { query, refuse, type Trx } from '#server/kernel';

export type DefaultUse = (typeof DEFAULT_USES)[number];

/** Writes a site at which its maker and every lead work; undefined where another has the code. */
export async function insertSite(
  trx: Trx,
  site: { code: string; name: string; timeZone: string; address: string; person: number },
): Promise<{ id: number } | undefined> {
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO site (code, name, time_zone, address)
     VALUES (?, ?, ?, ?)
     ON CONFLICT (code) DO NOTHING
     RETURNING id`,
    [site.code, site.name, site.timeZone, site.address],
  );
  if (!made) return undefined;
  await query(trx, `INSERT INTO person_site SELECT id, ? FROM person WHERE role = 'lead' OR id = ?`, [made.id, site.person]);
  return made;
}

/** Writes the bins that a zone of a new site begins with, each with its use, in walking order. */
export async function insertFirstBins(
  trx: Trx,
  of: { site: number; zone: number; bins: readonly (readonly [address: string, use: string])[] },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO bin (site_id, zone_id, address, use, walk)
     SELECT ?, ?, a, u, w
     FROM unnest(?::text[], ?::text[]) WITH ORDINALITY AS b(a, u, w)`,
    [of.site, of.zone, of.bins.map((b) => b[0]), of.bins.map((b) => b[1])],
  );
}

/** Points the defaults of a new site to its first bin of each use. */
export async function updateDefaultsByUse(trx: Trx, site: number): Promise<void> {
  const first = DEFAULT_USES.map((use) => `${use}_bin = (SELECT min(id) FROM bin WHERE site_id = site.id AND use = '${use}')`);
  await query(trx, `UPDATE site SET ${first.join(', ')} WHERE id = ?`, [site]);
}

/** Points the defaults of a site to these bins. */
export async function updateDefaults(trx: Trx, site: number, bins: ReadonlyMap<DefaultUse, number>): Promise<void> {
  await query(trx, `UPDATE site SET ${DEFAULT_USES.map((use) => `${use}_bin = ?`).join(', ')} WHERE id = ?`, [
    ...DEFAULT_USES.map((use) => bins.get(use) ?? null),
    site,
  ]);
}

/** A site, locked while it is changed. */
export async function lockSite(trx: Trx, id: number): Promise<{ version: number; name: string } | undefined> {
  return (await query<{ version: number; name: string }>(trx, `SELECT version, name FROM site WHERE id = ? FOR UPDATE`, [id]))[0];
}

/** Writes the record of a site, one version on. */
export async function updateSite(
  trx: Trx,
  id: number,
  to: { name: string; timeZone: string; address: string; cartSlots: number | null },
): Promise<void> {
  await query(
    trx,
    `UPDATE site SET name = ?, time_zone = ?, address = ?, cart_slots = coalesce(?, cart_slots), version = version + 1 WHERE id = ?`,
    [to.name, to.timeZone, to.address, to.cartSlots, id],
  );
}

/** Locks bins by their numbers. FOR UPDATE waits for every posting that is on its way into them. */
export async function lockBins(trx: Trx, ids: readonly number[]): Promise<void> {
  await query(trx, `SELECT 1 FROM bin WHERE id = ANY(?::int[]) ORDER BY id FOR UPDATE`, [ids]);
}

/** Makes a zone with the powers its purpose begins with. */
export async function insertZone(
  trx: Trx,
  zone: { site: number; code: string; name: string; purpose: ZonePurpose },
): Promise<{ id: number }> {
  const powers = zoneDefaults(zone.purpose);
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO zone (site_id, code, name, purpose, promisable, pickable, shows_price)
     VALUES (?, ?, ?, ?, ?, ?, ?)
     ON CONFLICT (site_id, code) DO NOTHING
     RETURNING id`,
    [zone.site, zone.code, zone.name, zone.purpose, powers.promisable, powers.pickable, powers.showsPrice],
  );
  if (made) return made;
  const [site] = await query<{ name: string }>(trx, `SELECT name FROM site WHERE id = ?`, [zone.site]);
  return refuse({ code: 'places.zoneTaken', zone: zone.code, site: site?.name ?? '' });
}
