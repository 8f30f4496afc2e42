import { announce, poolOf, query, refuse, type Db, type RoomHandlers } from '#server/kernel';
import { selectOwnPrinter, selectPrinterNames, updateOwnPrinter } from '#server/labels';
import { updateHandheld } from '#server/people';
import { clashesOut } from './clash-words.ts';
import { findDevice, greetDevice } from './device.ts';
import { followingOf } from './following.ts';
import { mergeActs } from './merge.ts';
import { settle } from './settle.ts';
import { updateHeard } from './store-device.ts';
import { selectClashes, updateBenchTrusts } from './store.ts';

export const handsHandlers: RoomHandlers<'hands'> = {
  'hands.device': async (house, { me, body }, req, res) => {
    if (!me) return refuse({ code: 'people.signInFirst' });
    const device = await greetDevice(house.db, req, res, { person: me.id, site: me.site.id, name: body.name });
    await updateHandheld(house.db, req.sessionID, device.id);
    return { device: device.id, name: device.name };
  },
  'hands.printer': async (db, { me, handheld }) => ({
    printer: handheld === null ? null : await selectOwnPrinter(db, handheld),
    printers: await selectPrinterNames(db, me.site.id),
  }),
  'hands.usePrinter': async (trx, { me, handheld, body }) => {
    if (handheld === null) return refuse({ code: 'hands.unknownDevice' });
    await updateOwnPrinter(trx, { site: me.site.id, device: handheld, printer: body.printer });
    return { ok: true };
  },
  'hands.devices': async (db, { me }) => ({
    benchTrusts: await selectBenchTrusts(db, me.site.id),
    devices: (
      await query<{
        id: string;
        name: string;
        heard: Date;
        waiting: number;
        person: string | null;
        site: string | null;
        version: string;
        acts: number;
      }>(
        db,
        `SELECT d.id, d.name, d.heard_at AS heard, d.waiting, p.name AS person, s.name AS site, d.version,
           (SELECT count(*)::int FROM hand_act a WHERE a.device_id = d.id) AS acts
         FROM device d LEFT JOIN person p ON p.id = d.person_id LEFT JOIN site s ON s.id = d.site_id ORDER BY d.heard_at DESC LIMIT 200`,
      )
    ).map((d) => ({ ...d, heard: d.heard.toISOString() })),
  }),
  'hands.facts': (db, { me, query: { since, kind, after } }) => {
    const following = followingOf(poolOf(db), me.site.id);
    return since === undefined ? following.beside({ since, kind, after }) : following.since(since);
  },
  'hands.acts': async (house, { me, body }, req) => {
    if (!me) return refuse({ code: 'people.signInFirst' });
    const device = await findDevice(house.db, req);
    const outcomes = await mergeActs(house, { device, carrier: me.id, sentAt: body.sentAt, acts: body.acts });
    const waiting = Math.max(0, body.waiting - outcomes.filter((o) => o.outcome !== 'failed').length);
    const now = await updateHeard(house.db, device.id, waiting, body.version);
    return { outcomes, now: now.getTime() };
  },
  'hands.clashes': async (db, { me, query: asked }) => ({
    clashes: await clashesOut(db, await selectClashes(db, { site: me.site.id, open: asked.show === 'open', job: asked.job || null })),
  }),
  'hands.settle': async (trx, { me, params, body }) => ({
    says: await settle(trx, { site: me.site.id, person: me.id }, params.key, body),
  }),
  'hands.trust': async (trx, { me, body }) => {
    await updateBenchTrusts(trx, me.site.id, body.trusts);
    announce(trx, 'hands');
    return { ok: true };
  },
};

async function selectBenchTrusts(db: Db, site: number): Promise<boolean> {
  return (await query<{ trusts: boolean }>(db, `SELECT bench_trusts AS trusts FROM site WHERE id = ?`, [site]))[0]?.trusts ?? false;
}
