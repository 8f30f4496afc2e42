import { qtyText } from '#contract/base';
import { asQty, query, type RoomHandlers } from '#server/kernel';
import { giveCarry, throwCarryAway } from './end.ts';
import { readWantingFaces, reserveOf } from './faces.ts';
import { keyCarrySheet } from './key-sheet.ts';
import { makePutAwayRound } from './make-put-away.ts';
import { makeRefillRound } from './make-refill.ts';
import { findCarry, selectCarries, selectTasks, type CarryListRow, type TaskRow } from './store.ts';

export const carryingHandlers: RoomHandlers<'carrying'> = {
  'carrying.list': async (db, { me, query: asked }) => ({
    open: (await selectCarries(db, me.site.id, 'open', asked.kind ?? null)).map(carryOut),
    ended: (await selectCarries(db, me.site.id, 'ended', asked.kind ?? null)).map(carryOut),
  }),
  'carrying.faces': async (db, { me }) => {
    const faces = await readWantingFaces(db, me.site.id);
    const items = await query<{ id: number; code: string; description: string; unit: string }>(
      db,
      `SELECT id, code, description, base_unit AS unit FROM item WHERE id = ANY(?::int[])`,
      [faces.map((f) => f.face.item)],
    );
    const itemOf = new Map(items.map((i) => [i.id, i]));
    return {
      faces: faces.map((f) => {
        const { face } = f;
        const { code = '', description = '', unit = '' } = itemOf.get(face.item) ?? {};
        return {
          ...{ item: face.item, code, description, unit, bin: face.bin, address: f.address, why: f.why },
          there: qtyText(face.there),
          coming: qtyText(face.coming),
          min: face.min === null ? null : qtyText(face.min),
          max: face.max === null ? null : qtyText(face.max),
          needed: qtyText(f.needed),
          wants: qtyText(f.qty),
          reserve: qtyText(reserveOf(f)),
        };
      }),
    };
  },
  'carrying.putAway': (trx, { me, body }) =>
    makePutAwayRound(trx, {
      site: me.site.id,
      siteName: me.site.name,
      person: me.id,
      takenBy: body.take ? me.id : null,
      only: body.only,
    }),
  'carrying.refill': (trx, { me, body }) =>
    makeRefillRound(trx, {
      site: me.site.id,
      siteName: me.site.name,
      person: me.id,
      takenBy: body.take ? me.id : null,
      only: body.only,
    }),
  'carrying.carry': async (db, { params }) => {
    const carry = await findCarry(db, params.id);
    const tasks = await selectTasks(db, params.id);
    const placeOf = (t: TaskRow): number => carry.put_way.indexOf(t.to_bin);
    const unreached = await query<{ address: string }>(db, `SELECT address FROM bin WHERE id = ANY(?::int[]) ORDER BY walk`, [
      carry.unreached,
    ]);
    return {
      ...carryOut(carry),
      ...{ takes: carry.take_way, metres: carry.metres, plain: carry.plain, unreached: unreached.map((b) => b.address) },
      tasks: tasks
        .filter((t) => asQty(t.qty) > 0 || t.trouble !== null)
        .toSorted((a, b) => placeOf(a) - placeOf(b) || a.id - b.id)
        .map(taskOut),
    };
  },
  'carrying.take': async (trx, { me, params }) => {
    await giveCarry(trx, { carry: params.id, site: me.site.id, person: me.id, isLead: me.role === 'lead', to: me.id });
    return { ok: true };
  },
  'carrying.give': async (trx, { me, params, body }) => {
    await giveCarry(trx, { carry: params.id, site: me.site.id, person: me.id, isLead: me.role === 'lead', to: body.person });
    return { ok: true };
  },
  'carrying.throwAway': (trx, { me, params }) =>
    throwCarryAway(trx, { carry: params.id, site: me.site.id, person: me.id, isLead: me.role === 'lead' }),
  'carrying.keySheet': (trx, { me, params, body }) =>
    keyCarrySheet(trx, {
      carry: params.id,
      site: me.site.id,
      person: me.id,
      lines: body.lines,
      // Only a lead breaks the rule of a bin by saying so.
      override: me.role === 'lead' && body.override ? body.override : undefined,
    }),
};

function carryOut(c: CarryListRow) {
  const { id, number, kind, state, person, cart, lines, done, trouble } = c;
  return { id, number, kind, state, person, personId: c.person_id, cart, at: c.at.toISOString(), lines, done, trouble };
}

function taskOut(t: TaskRow) {
  const { id, item, code, description, unit, decimals, tracking, from, to, lot, expires, serial, sscc, condition, why, trouble } = t;
  return {
    ...{ id, item, code, description, unit, decimals, tracking, from, to, lot, expires, serial, sscc, condition, why, trouble },
    fromBin: t.from_bin,
    toBin: t.to_bin,
    qty: qtyText(asQty(t.qty)),
    taken: qtyText(asQty(t.taken)),
    put: qtyText(asQty(t.put)),
  };
}
