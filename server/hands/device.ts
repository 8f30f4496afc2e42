import { createHash, randomBytes, randomUUID, timingSafeEqual } from 'node:crypto';
import type { Request, Response } from 'express';
import { refuse, type Db, type Trx } from '#server/kernel';
import {
  insertDevice,
  isNameTaken,
  lockDevices,
  selectDevice,
  selectDeviceNames,
  updateDeviceName,
  updateGreeted,
} from './store-device.ts';

/** A device that hands carry. It proves itself by a secret in a cookie, whoever is signed in on it. */
export type Device = { readonly id: string; readonly name: string };

const COOKIE = 'dockrow-device';
const YEARS_5_MS = 5 * 365 * 24 * 3_600_000;
const hashOf = (secret: string): string => createHash('sha256').update(secret).digest('hex');

/** The device that a request comes from, or undefined where it proves none. */
export async function deviceOf(db: Db, req: Request): Promise<Device | undefined> {
  const [id, secret] = cookieOf(req).split('.');
  if (!id || !secret || !/^[0-9a-f-]{36}$/.test(id)) return undefined;
  const row = await selectDevice(db, id);
  if (!row) return undefined;
  const [given, kept] = [Buffer.from(hashOf(secret)), Buffer.from(row.secret_hash)];
  return given.length === kept.length && timingSafeEqual(given, kept) ? { id: row.id, name: row.name } : undefined;
}

function cookieOf(req: Request): string {
  const found = (req.headers.cookie ?? '').split(/;\s*/).find((c) => c.startsWith(`${COOKIE}=`));
  return decodeURIComponent(found?.slice(COOKIE.length + 1) ?? '');
}

/** The same, refusing `hands.unknownDevice`. */
export async function findDevice(db: Db, req: Request): Promise<Device> {
  return (await deviceOf(db, req)) ?? refuse({ code: 'hands.unknownDevice' });
}

/** Greets a device: makes it known where it is new, notes who is signed in on it, and names it where a name is given.
 *  Errors: a name that another device has: the ledger and the lead tell devices by their names. */
export async function greetDevice(
  db: Db,
  req: Request,
  res: Response,
  who: { person: number; site: number; name: string | undefined },
): Promise<Device> {
  const known = await deviceOf(db, req);
  const device = known ?? (await makeDevice(db, res));
  const named = who.name || device.name;
  if (named !== device.name) await renameDevice(db, device.id, named);
  await updateGreeted(db, device.id, who);
  return { id: device.id, name: named };
}

async function makeDevice(db: Db, res: Response): Promise<Device> {
  const id = randomUUID();
  const secret = randomBytes(24).toString('base64url');
  const name = await alone(db, async (trx) => {
    const names = new Set((await selectDeviceNames(trx)).map((d) => d.name));
    let n = names.size + 1;
    while (names.has(`handheld ${n}`)) n += 1;
    await insertDevice(trx, { id, name: `Handheld ${n}`, secretHash: hashOf(secret) });
    return `Handheld ${n}`;
  });
  res.cookie(COOKIE, `${id}.${secret}`, { httpOnly: true, sameSite: 'strict', secure: res.req.secure, maxAge: YEARS_5_MS, path: '/' });
  return { id, name };
}

async function renameDevice(db: Db, id: string, name: string): Promise<void> {
  await alone(db, async (trx) => {
    if (await isNameTaken(trx, name, id)) refuse({ code: 'hands.nameTaken', name });
    await updateDeviceName(trx, id, name);
  });
}

const alone = <T>(db: Db, work: (trx: Trx) => Promise<T>): Promise<T> =>
  db.transaction(async (trx) => {
    await lockDevices(trx);
    return work(trx);
  });
