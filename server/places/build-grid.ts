import { buildGrid, type BinGrid } from '#core/places';
import { announce, lockRows, refuse, valueOf, type Db, type Trx } from '#server/kernel';
import { lockNames, selectTakenNames, findZone, insertBins } from './store.ts';

/** Which addresses of a grid mean a bin of the site already: as its address or as an old name, retired ones too. */
export async function selectClashes(db: Pick<Db, 'raw'>, site: number, grid: BinGrid): Promise<{ name: string }[]> {
  return selectTakenNames(
    db,
    site,
    valueOf(buildGrid(grid)).map((b) => b.address),
  );
}

/** Builds a grid of bins in a zone, after the last bin of its walk, in one statement (A3).
 *  Errors: `places.binsTaken` where any is there already, unless those are to be left as they are. */
export async function buildBins(
  trx: Trx,
  command: { zone: number; grid: BinGrid; leaveClashes: boolean; site: number },
): Promise<{ made: number; left: number }> {
  await lockRows(trx, 'zone', [command.zone]);
  const zone = await findZone(trx, command.zone);
  if (zone.site_id !== command.site) refuse({ code: 'people.otherSite', what: `Zone ${zone.name}`, site: zone.site });
  await lockNames(trx, zone.site_id);
  const bins = valueOf(buildGrid(command.grid));
  const clashes = await selectClashes(trx, zone.site_id, command.grid);
  if (clashes.length > 0 && !command.leaveClashes)
    refuse({ code: 'places.binsTaken', count: clashes.length, first: clashes[0]?.name ?? '' });
  const taken = new Set(clashes.map((c) => c.name));
  const fresh = bins.filter((b) => !taken.has(b.address));
  await insertBins(trx, { site: zone.site_id, zone: command.zone, addresses: fresh.map((b) => b.address) });
  announce(trx, 'places');
  return { made: fresh.length, left: clashes.length };
}
