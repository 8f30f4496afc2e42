import { qtyText } from '#contract/base';
import type { NoticeOut, NoticeRow } from '#contract/receiving';
import { announce, asQty, loadFile, refuse, type Db, type RoomHandlers, type Trx } from '#server/kernel';
import { takeNotice } from './notices.ts';
import {
  isNoticeBegun,
  lockNotices,
  selectNoticeLines,
  selectNotices,
  selectRefusals,
  settleNotices,
  updateNoticeState,
  updateRefusalSeen,
  type NoticeListRow,
} from './store-notice.ts';

type Handled = 'receiving.notices' | 'receiving.notice' | 'receiving.takeNotice' | 'receiving.withdrawNotice' | 'receiving.seenRefused';

export const noticeHandlers: Pick<RoomHandlers<'receiving'>, Handled> = {
  'receiving.notices': async (db, { me, query: asked }) => ({
    notices: (await selectNotices(db, { site: me.site.id, state: asked.state })).map(rowOut),
    refused: (await selectRefusals(db)).map((r) => ({ ...r, at: r.at.toISOString() })),
  }),
  'receiving.notice': (db, { params }) => readNotice(db, params.id),
  'receiving.takeNotice': async (trx, { me, body }) => {
    const file = (await loadFile(trx, body.file)) ?? refuse({ code: 'file.unknown', id: body.file });
    return takeNotice(trx, { file: { name: file.name, bytes: file.bytes }, site: me.site.id, person: me.id });
  },
  'receiving.withdrawNotice': async (trx, { me, params, body }) => {
    await withdraw(trx, { id: params.id, site: me.site.id, withdrawn: body.withdrawn });
    return { ok: true };
  },
  'receiving.seenRefused': async (trx, { me, params }) => {
    await updateRefusalSeen(trx, params.id, me.id);
    announce(trx, 'receiving');
    return { ok: true };
  },
};

async function withdraw(trx: Trx, of: { id: number; site: number; withdrawn: boolean }): Promise<void> {
  await lockNotices(trx);
  const notice = await findNotice(trx, of.id);
  if (notice.site_id !== of.site) refuse({ code: 'people.otherSite', what: `Notice ${notice.number}`, site: notice.site });
  if (of.withdrawn && notice.state === 'arrived') refuse({ code: 'receiving.noticeOver', number: notice.number, state: 'arrived' });
  if (of.withdrawn && (await isNoticeBegun(trx, notice.id)))
    refuse({ code: 'receiving.noticeBegun', number: notice.number, name: 'Withdrawing it' });
  await updateNoticeState(trx, notice.id, of.withdrawn ? 'withdrawn' : 'coming');
  // What was taken up again may have come meanwhile.
  if (!of.withdrawn) {
    const lines = await selectNoticeLines(trx, notice.id);
    await settleNotices(trx, { ssccs: lines.flatMap((l) => l.sscc ?? []), orders: [] });
  }
  announce(trx, 'receiving', { notice: notice.id });
}

async function findNotice(db: Pick<Db, 'raw'>, id: number): Promise<NoticeListRow> {
  const [row] = await selectNotices(db, { id });
  return row ?? refuse({ code: 'receiving.unknownNotice', id });
}

const rowOut = (r: NoticeListRow): NoticeRow => ({
  id: r.id,
  number: r.number,
  state: r.state,
  supplier: r.supplier,
  reference: r.reference,
  orders: r.orders,
  due: r.due,
  late: r.late,
  units: r.units,
  come: r.come,
  lines: r.lines,
  at: r.at.toISOString(),
  by: r.by,
});

async function readNotice(db: Db, id: number): Promise<NoticeOut> {
  const notice = await findNotice(db, id);
  const units = new Map<string | null, NoticeOut['unitList'][number]>();
  for (const l of await selectNoticeLines(db, id)) {
    const unit = units.get(l.sscc) ?? {
      sscc: l.sscc,
      state: l.come ? 'come' : l.delivery ? 'scanned' : 'coming',
      delivery: l.delivery,
      byScan: l.sscc !== null,
      goods: [],
    };
    const { item, code, description, measure, lot, expires, serial, order } = l;
    const goods = { item, code, description, unit: measure, qty: qtyText(asQty(l.qty)), lot, expires, serial, order };
    units.set(l.sscc, { ...unit, byScan: unit.byScan && l.is_whole, goods: [...unit.goods, goods] });
  }
  return { ...rowOut(notice), fileName: notice.file_name, unitList: [...units.values()] };
}
