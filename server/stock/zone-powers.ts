import { subQty, type ItemId, type Qty, type SiteId } from '#core/base';
import { qtyText } from '#contract/base';
import type { ReplyOf, Routes } from '#contract';
import { announce, asQty, lockRows, query, refuse, type Db, type Trx } from '#server/kernel';
import { trimPromises } from './post.ts';
import { lockWholeSite, updateZonePowers } from './store.ts';

type Powers = { promisable: boolean; pickable: boolean; showsPrice: boolean };
type ZoneRow = { id: number; site_id: number; site: string; name: string; promisable: boolean; pickable: boolean; shows_price: boolean };

async function findZone(db: Pick<Db, 'raw'>, id: number): Promise<ZoneRow> {
  const [zone] = await query<ZoneRow>(
    db,
    `SELECT z.id, z.site_id, s.name AS site, z.name, z.promisable, z.pickable, z.shows_price
     FROM zone z
     JOIN site s ON s.id = z.site_id
     WHERE z.id = ?`,
    [id],
  );
  return zone ?? refuse({ code: 'places.unknownZone', id });
}

type EffectRow = { item: number; code: string; unit: string; qty: string; usable: string; promised: string };

// What lies in the zone sound and unexpired, with what the whole site can promise of it now.
const inZone = (db: Pick<Db, 'raw'>, zone: ZoneRow): Promise<EffectRow[]> =>
  query<EffectRow>(
    db,
    `SELECT i.id AS item, i.code, i.base_unit AS unit, sum(f.qty) FILTER (WHERE f.zone_id = ?) AS qty,
       coalesce(sum(f.qty) FILTER (WHERE f.promisable), 0) AS usable,
       coalesce((SELECT sum(p.qty) FROM promise p WHERE p.item_id = i.id AND p.site_id = ?), 0) AS promised
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = ? AND f.condition = 'sound' AND NOT f.expired
     GROUP BY i.id
     HAVING sum(f.qty) FILTER (WHERE f.zone_id = ?) > 0
     ORDER BY i.code`,
    [zone.id, zone.site_id, zone.site_id, zone.id],
  );

/** What a change of a zone's powers would do, before it is done (A2): how much stock stops or begins to be free, which orders would lose
 *  their promise, how many stops of open rounds stand there, how many shelf labels begin or stop to show a price. */
export async function readZoneEffect(db: Db, id: number, powers: Powers): Promise<ReplyOf<Routes['stock.zoneEffect']>> {
  const zone = await findZone(db, id);
  const changes = powers.promisable !== zone.promisable;
  const rows = changes ? await inZone(db, zone) : [];
  const items = rows.map((r) => {
    const left = subQty(asQty(r.usable), asQty(r.qty));
    const short = powers.promisable ? 0 : Math.max(0, asQty(r.promised) - left);
    return { item: r.item, code: r.code, unit: r.unit, qty: qtyText(asQty(r.qty)), short: qtyText(short as Qty) };
  });
  const short = items.filter((i) => i.short !== '0').map((i) => i.item);
  const orders = await query<{ number: string }>(
    db,
    `SELECT DISTINCT o.number
     FROM promise p
     JOIN order_line l ON l.id = p.line_id
     JOIN customer_order o ON o.id = l.order_id
     WHERE p.item_id = ANY(?::int[]) AND p.site_id = ?
     ORDER BY 1`,
    [short, zone.site_id],
  );
  const [stops] = await query<{ n: number }>(
    db,
    `SELECT count(*) AS n
     FROM round_pick p
     JOIN round r ON r.id = p.round_id
     JOIN bin ON bin.id = p.bin_id
     WHERE r.state = 'open' AND p.picked < p.qty AND bin.zone_id = ?`,
    [id],
  );
  const [labels] = await query<{ n: number }>(
    db,
    `SELECT count(*) AS n FROM home_bin h JOIN bin ON bin.id = h.bin_id WHERE bin.zone_id = ?`,
    [id],
  );
  return {
    items: items.slice(0, 200),
    itemsTotal: items.length,
    becomes: !changes ? 'asItIs' : powers.promisable ? 'free' : 'held',
    ordersCut: orders.map((o) => o.number),
    stopsOpen: powers.pickable !== zone.pickable ? (stops?.n ?? 0) : 0,
    labels: powers.showsPrice !== zone.shows_price ? (labels?.n ?? 0) : 0,
  };
}

/** Changes what a zone's stock may be used for. Promises that lose their stock give way in the same transaction.
 *  Locks:  the zone, then the whole site: no posting may bring goods into the zone between the look and the change. */
export async function changeZonePowers(trx: Trx, command: { zone: number; site: number; powers: Powers }): Promise<void> {
  await lockRows(trx, 'zone', [command.zone]);
  const zone = await findZone(trx, command.zone);
  if (zone.site_id !== command.site) refuse({ code: 'people.otherSite', what: `Zone ${zone.name}`, site: zone.site });
  await lockWholeSite(trx, zone.site_id);
  const { powers } = command;
  const losing = zone.promisable && !powers.promisable ? await inZone(trx, zone) : [];
  await updateZonePowers(trx, zone.id, powers);
  if (losing.length > 0)
    await trimPromises(
      trx,
      losing.map((r) => ({ item: r.item as ItemId, site: zone.site_id as SiteId })),
    );
  announce(trx, 'places');
  announce(trx, 'stock');
}
