import { checkPlan, generatePlan, refreshPlan, walkedFloor, type FloorPlan, type PlanBin, type WalkedFloor } from '#core/places';
import type { ReplyOf, Routes } from '#contract';
import { announce, query, queryOne, refuse, type Db, type Trx } from '#server/kernel';
import { lockSite, upsertPlan } from './store.ts';

type Saved = { layout: FloorPlan; revision: number; by: string | null };

async function selectSaved(db: Pick<Db, 'raw'>, site: number, lock = ''): Promise<Saved | undefined> {
  const [row] = await query<Saved>(
    db,
    `SELECT f.layout, f.revision, (SELECT name FROM person WHERE id = f.changed_by) AS by FROM floor_plan f WHERE f.site_id = ? ${lock}`,
    [site],
  );
  return row;
}

/** The plan of a site: as somebody arranged it, with bins that came since in free places; or drawn from the addresses (A10), where nobody
 *  arranged it or it is asked for `anew`. */
export async function readPlan(db: Pick<Db, 'raw'>, site: number, anew: boolean): Promise<Omit<ReplyOf<Routes['places.plan']>, 'site'>> {
  const saved = await selectSaved(db, site);
  const zones = await query<{ id: number; code: string; name: string }>(
    db,
    `SELECT id, code, name FROM zone WHERE site_id = ? ORDER BY id`,
    [site],
  );
  const bins = await query<PlanBin>(
    db,
    `SELECT bin.zone_id AS zone, bin.address, bin.use
     FROM bin
     WHERE bin.site_id = ? AND bin.retired_at IS NULL AND bin.use NOT IN ('cart', 'transit', 'unplaced')
     ORDER BY bin.zone_id, bin.walk, bin.id`,
    [site],
  );
  const [revision, drawn] = [saved?.revision ?? 0, saved === undefined];
  return { revision, drawn, zones, layout: saved && !anew ? refreshPlan(saved.layout, bins) : generatePlan(bins) };
}

const MOST_FLOORS = 8;
// By everything of which a floor is made: what has changed is another floor.
const floors = new Map<string, WalkedFloor>();

/** The plan of a site made ready for walking. A large floor takes long to make ready, so it is kept until the plan or a bin changes. */
export async function readFloor(db: Pick<Db, 'raw'>, site: number): Promise<WalkedFloor> {
  const { made } = await queryOne<{ made: string }>(
    db,
    `SELECT concat_ws('|', (SELECT md5(f.layout::text) FROM floor_plan f WHERE f.site_id = ?), count(*),
       sum(hashtextextended(concat_ws('/', zone_id, address, use, walk, id), 0))) AS made
     FROM bin
     WHERE site_id = ? AND retired_at IS NULL`,
    [site, site],
  );
  const kept = floors.get(made);
  if (kept) return kept;
  const floor = walkedFloor((await readPlan(db, site, false)).layout);
  const [oldest] = floors.keys();
  if (floors.size >= MOST_FLOORS && oldest !== undefined) floors.delete(oldest);
  floors.set(made, floor);
  return floor;
}

/** Keeps a plan that somebody arranged.
 *  Errors: things on one another or outside the floor; a plan that somebody else changed since it was read. */
export async function savePlan(
  trx: Trx,
  plan: { site: number; person: number; revision: number; layout: FloorPlan },
): Promise<{ revision: number }> {
  const fault = checkPlan(plan.layout);
  if (fault) refuse(fault);
  await lockSite(trx, plan.site);
  const saved = await selectSaved(trx, plan.site);
  if ((saved?.revision ?? 0) !== plan.revision) refuse({ code: 'places.planMoved', by: saved?.by ?? 'Somebody' });
  const revision = await upsertPlan(trx, plan);
  announce(trx, 'places');
  return { revision };
}

type MeasureRow = {
  id: number;
  address: string;
  zone: number;
  fill: string | null;
  items: number;
  touches: number;
  counted: number | null;
};

/** What the plan colours bins by: fill, touches in the last 30 days, days since the last count. */
export async function readMeasures(db: Db, site: number): Promise<ReplyOf<Routes['places.planMeasures']>> {
  const rows = await query<MeasureRow>(
    db,
    `WITH touched AS (SELECT bin, count(*) AS n FROM (
         SELECT from_bin AS bin
         FROM movement
         WHERE at > now_here() - interval '30 days'
         UNION ALL SELECT to_bin
         FROM movement
         WHERE at > now_here() - interval '30 days') m GROUP BY bin),
       counted AS (SELECT bin_id AS bin, max(counted_at) AS at FROM count_bin WHERE counted_at IS NOT NULL GROUP BY 1)
     SELECT bin.id, bin.address, bin.zone_id AS zone, round(f.fill * 100) AS fill, f.items, coalesce(t.n, 0) AS touches,
       extract(day FROM now_here() - c.at)::int AS counted
     FROM bin JOIN bin_fact f ON f.bin_id = bin.id LEFT JOIN touched t ON t.bin = bin.id LEFT JOIN counted c ON c.bin = bin.id
     WHERE bin.site_id = ? AND bin.retired_at IS NULL AND bin.use NOT IN ('cart', 'transit', 'unplaced') ORDER BY bin.id`,
    [site],
  );
  return {
    id: rows.map((r) => r.id),
    address: rows.map((r) => r.address),
    zone: rows.map((r) => r.zone),
    fill: rows.map((r) => (r.fill === null ? null : Number(r.fill))),
    items: rows.map((r) => r.items),
    touches: rows.map((r) => r.touches),
    counted: rows.map((r) => r.counted),
  };
}
