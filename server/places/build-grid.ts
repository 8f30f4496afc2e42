import { buildGrid, type BinGrid } from '#core/places';
import { announce, query, refuse, valueOf, type Db, type Trx } from '#server/kernel';

/** Which addresses of a grid a site has already, retired ones and aliases too. */
export async function selectClashes(db: Pick<Db, 'raw'>, site: number, grid: BinGrid): Promise<{ address: string }[]> {
  const addresses = valueOf(buildGrid(grid)).map((b) => b.address);
  return query<{ address: string }>(
    db,
    `SELECT a.address FROM unnest(?::text[]) WITH ORDINALITY AS a(address, n) WHERE EXISTS (SELECT 1 FROM bin WHERE site_id = ? AND (address = a.address OR alias = a.address)) ORDER BY n`,
    [addresses, site],
  );
}

/** Builds a grid of bins in a zone, after the last bin of its walk, in one statement (A3).
 *  Errors: `places.binsTaken` where any is there already, unless those are to be left as they are. */
export async function buildBins(
  trx: Trx,
  command: { zone: number; grid: BinGrid; leaveClashes: boolean },
): Promise<{ made: number; left: number }> {
  const [zone] = await query<{ site_id: number }>(trx, `SELECT site_id FROM zone WHERE id = ? FOR UPDATE`, [command.zone]);
  if (!zone) return refuse({ code: 'places.unknownZone', id: command.zone });
  const bins = valueOf(buildGrid(command.grid));
  const clashes = await selectClashes(trx, zone.site_id, command.grid);
  if (clashes.length > 0 && !command.leaveClashes)
    refuse({ code: 'places.binsTaken', count: clashes.length, first: clashes[0]?.address ?? '' });
  const taken = new Set(clashes.map((c) => c.address));
  const fresh = bins.filter((b) => !taken.has(b.address));
  await query(
    trx,
    `INSERT INTO bin (site_id, zone_id, address, walk) SELECT ?, ?, b.address, start.walk + b.n
     FROM unnest(?::text[]) WITH ORDINALITY AS b(address, n), (SELECT coalesce(max(walk), 0) AS walk FROM bin WHERE zone_id = ?) start`,
    [zone.site_id, command.zone, fresh.map((b) => b.address), command.zone],
  );
  announce(trx, 'places');
  return { made: fresh.length, left: clashes.length };
}
