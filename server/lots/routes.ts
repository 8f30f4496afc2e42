import { addDays, addQty, type BinId, type DocumentId, type PersonId, type Qty } from '#core/base';
import { decideWorkOff } from '#core/lots';
import { OUTSIDE, type Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import type { LotRow, LotTie, SerialLife } from '#contract/lots';
import { announce, asQty, makeDocument, refuse, valueOf, type Db, type RoomHandlers, type Trx } from '#server/kernel';
import { findItem, selectSerial } from '#server/items';
import { relabel } from './relabel.ts';
import { findDefaultBin, selectToday } from '#server/places';
import { lockStock, post } from '#server/stock';
import {
  selectWarnings,
  updateWarnings,
  selectLots,
  selectLotStock,
  selectSerialEvents,
  selectTies,
  selectWeeks,
  selectSerialWhere,
  type LotListRow,
  type SerialEventRow,
  type WeekRow,
} from './store.ts';

/** How far ahead what expires is shown by week: half a year. */
const WEEKS_AHEAD = 26;

export const lotsHandlers: RoomHandlers<'lots'> = {
  'lots.list': async (db, { me, query: asked }) => {
    const { show, within, site, sort: by, q, after, limit } = asked;
    const sites = site === 'all' ? me.sites.map((s) => s.id) : [me.site.id];
    const days = { all: [null, null], soon: [0, within], expired: [null, -1] } as const;
    const [from, to] = days[show];
    const { rows, next } = await selectLots(db, { sites, q, from, to, by, after, limit });
    return { lots: rows.map(rowOut), next };
  },
  'lots.weeks': async (db, { me, query: asked }) => {
    const today = await selectToday(db, me.site.id);
    const found = await selectWeeks(db, { sites: asked.site === 'all' ? me.sites.map((s) => s.id) : [me.site.id], weeks: WEEKS_AHEAD });
    const of = (week: number): WeekRow | undefined => found.find((f) => f.week === week);
    const qtyOf = (row: WeekRow | undefined, part: 'sound' | 'apart'): Qty => asQty(row?.[part] ?? '0');
    const gone = of(-1);
    return {
      expired: { lots: gone?.lots ?? 0, qty: qtyText(addQty(qtyOf(gone, 'sound'), qtyOf(gone, 'apart'))) },
      weeks: Array.from({ length: WEEKS_AHEAD }, (_, week) => ({
        from: addDays(today, 7 * week),
        days: 7 * week + 6,
        lots: of(week)?.lots ?? 0,
        sound: qtyText(qtyOf(of(week), 'sound')),
        apart: qtyText(qtyOf(of(week), 'apart')),
      })),
    };
  },
  'lots.warnings': async (db, { me }) => ({ days: await selectWarnings(db, me.site.id) }),
  'lots.warn': async (trx, { me, body }) => {
    await updateWarnings(
      trx,
      me.site.id,
      [...new Set(body.days)].sort((a, b) => a - b),
    );
    announce(trx, 'places');
    announce(trx, 'stock');
    return { ok: true };
  },
  'lots.relabel': (trx, { me, body }) => relabel(trx, { ...body, site: me.site.id, person: me.id }),
  'lots.ties': async (db, { params }) => {
    const ties = async (way: 'from' | 'to'): Promise<LotTie[]> =>
      (await selectTies(db, params.id, params.lot, way)).map((t) => ({ ...t, qty: qtyText(asQty(t.qty)), at: t.at.toISOString() }));
    return { cameFrom: await ties('from'), became: await ties('to') };
  },
  'lots.workOff': (trx, { me, body }) => workOff(trx, { ...body, site: me.site.id, person: me.id }),
  'lots.serial': (db, { params }) => readSerial(db, params.id, params.serial),
};

function rowOut({ days_left, origin, qty, ...row }: LotListRow): LotRow {
  return {
    ...row,
    daysLeft: days_left,
    qty: qtyText(asQty(qty)),
    supplier: origin?.supplier ?? null,
    receipt: origin && { id: origin.id, number: origin.number },
  };
}

/** Works expired lots off (E3, K4): into quarantine or scrap, or off the books, with a reason; all or none, on one document that can be
 *  undone.
 *  Errors: what `decideWorkOff` refuses, a site without such a bin, what `post` refuses.
 *  Locks:  what `post` locks. */
async function workOff(
  trx: Trx,
  wish: { site: number; person: number; balances: readonly number[]; to: 'quarantine' | 'scrap' | 'writeOff'; reason: string },
): Promise<{ document: number; number: string; lots: number; bin: string | null }> {
  const into = wish.to === 'writeOff' ? null : await findDefaultBin(trx, wish.site, wish.to);
  const named = await selectLotStock(trx, wish.site, wish.balances);
  await lockStock(
    trx,
    named.map((s) => ({ item: s.item_id, site: wish.site })),
  );
  const stock = valueOf(decideWorkOff(await selectLotStock(trx, wish.site, wish.balances), wish.balances, into?.id ?? null));
  const document = await makeDocument(trx, into ? 'move' : 'adjustment', { site: wish.site, person: wish.person });
  await post(trx, {
    document: document.id as DocumentId,
    person: wish.person as PersonId,
    movements: stock.map((s): Movement => ({
      item: s.item_id,
      lot: s.lot_id,
      serial: null,
      qty: asQty(s.qty),
      from: { bin: s.bin_id, unit: s.unit_id as never, condition: s.condition },
      to: { bin: into ? (into.id as BinId) : OUTSIDE.scrapped, unit: null, condition: s.condition },
      reason: wish.reason,
    })),
  });
  announce(trx, 'stock');
  return { document: document.id, number: document.number, lots: stock.length, bin: into?.address ?? null };
}

async function readSerial(db: Db, item: number, code: string): Promise<SerialLife> {
  const found = await findItem(db, item);
  const serial = await selectSerial(db, item, code);
  if (!serial) return refuse({ code: 'lots.unknownSerial', item: found.code, serial: code });
  const events = await selectSerialEvents(db, serial.id);
  return {
    item,
    code: found.code,
    description: found.description,
    serial: code,
    where: await selectSerialWhere(db, serial.id),
    events: events.map((e) => ({
      movement: e.movement,
      at: e.at.toISOString(),
      what: whatOf(e),
      from: e.from,
      to: e.to,
      reason: e.reason,
      by: e.by,
      document: { id: e.document, number: e.number },
      who: e.supplier ?? e.customer,
      undone: e.undone,
    })),
  };
}

const BY_KIND: Readonly<Record<string, SerialLife['events'][number]['what']>> = {
  receipt: 'received',
  opening: 'entered',
  putAway: 'putAway',
  round: 'picked',
  shipment: 'shipped',
  adjustment: 'adjusted',
  count: 'adjusted',
  hold: 'held',
  release: 'held',
  putBack: 'returned',
  return: 'returned',
  inspection: 'moved',
};

function whatOf(e: SerialEventRow): SerialLife['events'][number]['what'] {
  if (e.reverses !== null) return 'undone';
  if (e.to_bin === OUTSIDE.scrapped) return 'scrapped';
  return BY_KIND[e.kind] ?? 'moved';
}
