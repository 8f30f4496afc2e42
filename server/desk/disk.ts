import { statfs } from 'node:fs/promises';

/** Below so many megabytes the desk is told. */
const lowMb = (): number => Number(process.env['DOCKROW_LOW_DISK_MB'] ?? 2000);

/** How many megabytes are left on the disk of the private database, where that is little; null where there is room, or where the database
 *  lies elsewhere and this machine's disk says nothing of it. `folder`: the private database's home. */
export async function readLowDisk(folder: string | undefined): Promise<number | null> {
  if (folder === undefined) return null;
  const { bavail, bsize } = await statfs(folder).catch(() => ({ bavail: Infinity, bsize: 1 }));
  const free = Math.floor((bavail * bsize) / 1e6);
  return free < lowMb() ? free : null;
}
