import { randomUUID } from 'node:crypto';
import { qtyText } from '#contract/base';
import { announce, asQty, refuse, type RoomHandlers } from '#server/kernel';
import { inspectEntry, photographEntry } from './inspect.ts';
import { selectFailures, selectReasons, sumChecked, sumFailures, writeReason } from './store-inspect.ts';

const MOST_FAILURES = 500;
type Names = 'receiving.inspect' | 'receiving.photo' | 'receiving.reasons' | 'receiving.setReason' | 'receiving.failures';

export const inspectionHandlers: Pick<RoomHandlers<'receiving'>, Names> = {
  'receiving.inspect': async (trx, { me, params, body }) => {
    const floor = { site: me.site.id, person: me.id, device: null, at: null };
    const found = await inspectEntry(trx, {
      ...floor,
      ...body,
      note: body.note ?? '',
      key: randomUUID(),
      delivery: params.id,
      entry: { id: params.entry },
    });
    return { document: found.document, failed: qtyText(found.failed) };
  },
  'receiving.photo': async (trx, { me, params, body }) => {
    const floor = { site: me.site.id, person: me.id, device: null, at: null };
    await photographEntry(trx, { ...floor, delivery: params.id, entry: { id: params.entry }, file: body.file });
    return { ok: true };
  },
  'receiving.reasons': async (db) => ({ reasons: await selectReasons(db) }),
  'receiving.setReason': async (trx, { body }) => {
    if (body.id !== null && !(await selectReasons(trx)).some((r) => r.id === body.id)) refuse({ code: 'receiving.unknownReason' });
    if (!(await writeReason(trx, body))) refuse({ code: 'receiving.reasonTwice', name: body.name });
    announce(trx, 'receiving');
    return { ok: true };
  },
  'receiving.failures': async (db, { me, query: asked }) => {
    const of = { ...asked, site: me.site.id };
    const said = <Row extends { qty: string }>(rows: readonly Row[]): Row[] => rows.map((r) => ({ ...r, qty: qtyText(asQty(r.qty)) }));
    return {
      failures: (await selectFailures(db, { ...of, limit: MOST_FAILURES })).map((f) => ({
        ...f,
        at: f.at.toISOString(),
        qty: qtyText(asQty(f.qty)),
        checked: qtyText(asQty(f.checked)),
        arrived: qtyText(asQty(f.arrived)),
      })),
      bySupplier: said(await sumFailures(db, { ...of, by: 'supplier' })),
      byItem: said(await sumFailures(db, { ...of, by: 'item' })),
      checked: (await sumChecked(db, of)).map((c) => ({
        ...c,
        checked: qtyText(asQty(c.checked)),
        failed: qtyText(asQty(c.failed)),
      })),
    };
  },
};
