import { query, queryOne, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

/** A device by its id, with the hash of what proves it. */
export async function selectDevice(db: Reads, id: string): Promise<{ id: string; name: string; secret_hash: string } | undefined> {
  return (
    await query<{ id: string; name: string; secret_hash: string }>(db, `SELECT id, name, secret_hash FROM device WHERE id = ?`, [id])
  )[0];
}

/** Lets whoever gives a name alone with all names: names are given seldom, and the others wait. */
export async function lockDevices(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE device IN SHARE ROW EXCLUSIVE MODE`);
}

/** The names of all devices, in small letters. */
export function selectDeviceNames(db: Reads): Promise<{ name: string }[]> {
  return query<{ name: string }>(db, `SELECT lower(name) AS name FROM device`);
}

/** Whether another device than this has the name, in whatever letters. */
export async function isNameTaken(db: Reads, name: string, id: string): Promise<boolean> {
  return (await query(db, `SELECT 1 FROM device WHERE lower(name) = lower(?) AND id <> ?`, [name, id])).length > 0;
}

/** Writes a device. */
export async function insertDevice(trx: Trx, device: { id: string; name: string; secretHash: string }): Promise<void> {
  await query(trx, `INSERT INTO device (id, name, secret_hash) VALUES (?, ?, ?)`, [device.id, device.name, device.secretHash]);
}

/** Gives a device another name. */
export async function updateDeviceName(trx: Trx, id: string, name: string): Promise<void> {
  await query(trx, `UPDATE device SET name = ? WHERE id = ?`, [name, id]);
}

/** Notes who is signed in on a device, and where. */
export async function updateGreeted(db: Reads, id: string, who: { person: number; site: number }): Promise<void> {
  await query(
    db,
    `WITH signed AS (INSERT INTO device_person (device_id, person_id) VALUES (?, ?) ON CONFLICT DO NOTHING)
     UPDATE device SET heard_at = now(), person_id = ?, site_id = ? WHERE id = ?`,
    [id, who.person, who.person, who.site, id],
  );
}

/** Notes that a device was heard of, how many acts it still holds, and what version it has where it says so; returns what time it is in the
 *  house. */
export async function updateHeard(db: Reads, id: string, waiting: number, version: string | undefined): Promise<Date> {
  const { now } = await queryOne<{ now: Date }>(
    db,
    `UPDATE device SET heard_at = now(), waiting = ?, version = coalesce(?, version) WHERE id = ? RETURNING now_here() AS now`,
    [waiting, version ?? null, id],
  );
  return now;
}
