import { ONE, type ItemId, type LotId } from '#core/base';
import { packToBase } from '#core/items';
import { qtyText } from '#contract/base';
import { refuse, together, type RoomHandlers } from '#server/kernel';
import { findItemByScan, refuseUnreadLots, selectLot } from '#server/items';
import { findBins, findDefaultBin } from '#server/places';
import { moveGoods } from './move-goods.ts';
import { moveUnit } from './move-unit.ts';
import { readPutAway } from './put-away.ts';
import { suggestBins } from './suggest-bins.ts';

export const movesHandlers: RoomHandlers<'moves'> = {
  'moves.putAway': async (db, { me, query: asked }) => ({ rows: await readPutAway(db, me.site.id, asked.from) }),
  'moves.suggest': async (db, { me, query: asked }) => {
    const lot = asked.lot ? await selectLot(db, asked.item, asked.lot) : undefined;
    const { walk } = await findDefaultBin(db, me.site.id, 'arrivals');
    const goods = { item: asked.item as ItemId, lot: (lot?.id ?? null) as LotId | null, qty: asked.qty, walk };
    const [suggestion] = await suggestBins(db, me.site.id, [goods]);
    return { suggestion: suggestion ?? null };
  },
  'moves.move': async (trx, { me, body }) => {
    const [[from, to], scanned] = await together([
      findBins(trx, me.site.id, [body.from, body.to] as const),
      findItemByScan(trx, body.code),
    ]);
    if (body.override && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Overriding the rule of a bin' });
    await refuseUnreadLots(trx, [{ item: scanned.id, lot: body.newLot }]);
    const moved = await moveGoods(trx, {
      site: me.site.id,
      person: me.id,
      device: body.device ?? null,
      at: null,
      from,
      to,
      item: scanned,
      lot: body.lot || scanned.lot,
      serial: body.serial || scanned.serialCode,
      condition: null,
      qty: body.qty ?? scanned.labelled ?? packToBase(ONE, scanned.pack) ?? ONE,
      reason: body.reason,
      override: body.override || undefined,
      newLot: body.newLot || null,
    });
    return {
      document: moved.document,
      number: moved.number,
      code: scanned.code,
      qty: qtyText(moved.qty),
      from: from.address,
      to: to.address,
      at: moved.at,
    };
  },
  'moves.unit': async (trx, { me, params, body }) => {
    if (body.override && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Overriding the rule of a bin' });
    const [to] = await findBins(trx, me.site.id, [body.to] as const);
    const moved = await moveUnit(trx, {
      site: me.site.id,
      person: me.id,
      device: body.device ?? null,
      at: null,
      sscc: params.sscc,
      to,
      reason: body.reason,
      override: body.override || undefined,
    });
    return { ...moved, qty: qtyText(moved.qty), to: to.address };
  },
};
