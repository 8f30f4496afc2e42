import { randomUUID } from 'node:crypto';
import { orderStops } from '#core/picking';
import { qtyText } from '#contract/base';
import { announce, asQty, query, refuse, type RoomHandlers } from '#server/kernel';
import { worksAt } from '#server/people';
import { findBin } from '#server/places';
import { assembleKits } from './assemble.ts';
import { changeLine } from './change-line.ts';
import { roundFromDock } from './from-dock.ts';
import { makeRound } from './make-round.ts';
import { pickAtStop } from './pick.ts';
import { keySheet } from './key-sheet.ts';
import { putDownRound } from './put-down.ts';
import { cancelOrder, putOrderBack, stateWord, throwRoundAway } from './put-back.ts';
import { findRound, lockRoundAt, selectRounds, selectWay, updateWalker, type RoundListRow } from './store-rounds.ts';
import { selectPicks, type PickRow } from './store-picks.ts';
import { settleTrouble } from './store-trouble.ts';
import { splitRound } from './split-round.ts';
import { takeApart } from './take-apart.ts';
import { readToJoin } from './to-join.ts';
import { readRoundMap } from './round-map.ts';
import { reportTrouble } from './trouble.ts';

export const pickingHandlers: RoomHandlers<'picking'> = {
  'picking.rounds': async (db, { me, query: asked }) => ({ rounds: (await selectRounds(db, me.site.id, asked.state)).map(roundOut) }),
  'picking.toJoin': (db, { me }) => readToJoin(db, me.site.id),
  'picking.make': (trx, { me, body }) =>
    makeRound(trx, {
      orders: body.orders,
      site: me.site.id,
      siteName: me.site.name,
      person: me.id,
      takenBy: me.role === 'hand' ? me.id : null,
    }),
  'picking.fromDock': (trx, { me, params }) =>
    roundFromDock(trx, {
      delivery: params.id,
      site: me.site.id,
      siteName: me.site.name,
      person: me.id,
      takenBy: me.role === 'hand' ? me.id : null,
    }),
  'picking.round': async (db, { params }) => {
    const round = await findRound(db, params.id);
    const picks = await selectPicks(db, params.id);
    const [site] = await query<{ address: string }>(db, `SELECT b.address FROM site s JOIN bin b ON b.id = s.packing_bin WHERE s.id = ?`, [
      round.site_id,
    ]);
    const { way, ...far } = await selectWay(db, params.id);
    const stops = orderStops(picks.filter((p) => asQty(p.qty) > 0 || p.trouble !== null) as never as (PickRow & { bin: never })[], way);
    return {
      ...roundOut(round),
      ...far,
      packingBin: site?.address ?? null,
      stopList: stops.map((s) => ({
        bin: s.bin,
        address: s.picks[0]?.address ?? '',
        zone: s.picks[0]?.zone ?? '',
        picks: s.picks.map(pickOut),
      })),
    };
  },
  'picking.map': (db, { params }) => readRoundMap(db, params.id),
  'picking.take': async (trx, { me, params }) => {
    const round = await lockRoundAt(trx, params.id, me.site.id);
    if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
    // A round may be handed over by the lead; between hands it is taken only when nobody has it.
    if (round.person_id !== null && round.person_id !== me.id && me.role !== 'lead')
      refuse({ code: 'picking.othersRound', number: round.number, person: round.person ?? '' });
    await updateWalker(trx, params.id, me.id);
    return { ok: true };
  },
  'picking.give': async (trx, { me, params, body }) => {
    const round = await lockRoundAt(trx, params.id, me.site.id);
    if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
    // A hand gives its own round away; a lead anybody's.
    if (me.role !== 'lead' && round.person_id !== null && round.person_id !== me.id)
      refuse({ code: 'picking.othersRound', number: round.number, person: round.person ?? '' });
    if (body.person !== null && !(await worksAt(trx, body.person, me.site.id))) refuse({ code: 'picking.unknownPerson', id: body.person });
    await updateWalker(trx, params.id, body.person);
    return { ok: true };
  },
  'picking.split': (trx, { me, params, body }) =>
    splitRound(trx, {
      ...body,
      round: params.id,
      site: me.site.id,
      siteName: me.site.name,
      person: me.id,
      isLead: me.role === 'lead',
    }),
  'picking.throwAway': (trx, { me, params }) => throwRoundAway(trx, { round: params.id, site: me.site.id, person: me.id }),
  'picking.putBack': (trx, { me, params }) => putOrderBack(trx, { order: params.id, site: me.site.id, person: me.id }),
  'picking.cancelOrder': (trx, { me, params, body }) =>
    cancelOrder(trx, { order: params.id, site: me.site.id, person: me.id, reason: body.reason }),
  'picking.changeLine': (trx, { me, params, body }) =>
    changeLine(trx, { order: params.id, line: params.line, qty: body.qty, site: me.site.id, person: me.id }),
  'picking.settle': async (trx, { me, params }) => {
    if (!(await settleTrouble(trx, params.id, me.site.id))) refuse({ code: 'picking.unknownTrouble', id: params.id });
    announce(trx, 'picking');
    announce(trx, 'orders');
    return { ok: true };
  },
  'picking.pick': (trx, { me, params, body }) =>
    pickAtStop(trx, { ...body, round: params.id, pick: params.pick, site: me.site.id, person: me.id, device: body.device ?? null }),
  'picking.trouble': (trx, { me, params, body }) =>
    reportTrouble(trx, { round: params.id, pick: params.pick, kind: body.kind, site: me.site.id, person: me.id, told: false }),
  'picking.keySheet': (trx, { me, params, body }) => keySheet(trx, { ...body, round: params.id, site: me.site.id, person: me.id }),
  'picking.assemble': async (trx, { me, params, body }) => {
    const to = body.bin === undefined ? null : await findBin(trx, me.site.id, body.bin);
    const who = { site: me.site.id, person: me.id, device: null, at: null, maySetAside: true };
    return assembleKits(trx, { ...who, key: randomUUID(), order: params.id, qty: body.qty, to });
  },
  'picking.takeApart': (trx, { me, params }) => takeApart(trx, { assembly: params.id, site: me.site.id, person: me.id }),
  'picking.putDown': (trx, { me, params, body }) =>
    putDownRound(trx, { round: params.id, bin: body.bin, site: me.site.id, person: me.id, device: body.device ?? null, told: false }),
};

function roundOut(r: RoundListRow) {
  return {
    id: r.id,
    number: r.number,
    state: r.state,
    person: r.person,
    cart: r.cart,
    at: r.at.toISOString(),
    orders: r.orders,
    site: r.site,
    personId: r.person_id,
    picks: r.picks,
    done: r.done,
    stops: r.stops,
    trouble: r.trouble,
  };
}

function pickOut(p: PickRow) {
  return {
    id: p.id,
    order: p.order,
    slot: p.slot,
    item: p.item,
    code: p.code,
    description: p.description,
    unit: p.unit,
    decimals: p.decimals,
    tracking: p.tracking,
    barcode: p.barcode,
    lot: p.lot,
    expires: p.expires,
    qty: qtyText(asQty(p.qty)),
    picked: qtyText(asQty(p.picked)),
    trouble: p.trouble,
    instead: p.instead_of === null ? null : `from ${p.instead_of}: ${p.instead_why}`,
  };
}
