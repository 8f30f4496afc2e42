import type { BinId, DocumentId, LotId, PersonId, Qty } from '#core/base';
import { decideRelabel } from '#core/lots';
import { OUTSIDE, type Movement } from '#core/stock';
import { announce, asQty, dbQty, lockRows, makeDocument, refuse, valueOf, type Trx } from '#server/kernel';
import { ensureLots, findItem, refuseUnreadLots, selectLot } from '#server/items';
import { lockStock, post } from '#server/stock';
import { insertTie, selectLotStock } from './store.ts';

/** Gives goods of a lot in a bin a new lot number (E6): they leave the old lot and come back as the new one where they lie, on one document
 *  that can be undone, and the tie between the two is kept.
 *  Errors: goods that are gone; what `decideRelabel` refuses; what `post` refuses.
 *  Locks:  the lot that it makes, the unit in which they are, then what `post` locks. */
export async function relabel(
  trx: Trx,
  wish: { site: number; person: number; balance: number; lot: string; expires: string | null; qty: Qty; reason: string },
): Promise<{ document: number; number: string; lot: string }> {
  const [named] = await selectLotStock(trx, wish.site, [wish.balance]);
  if (!named) return refuse({ code: 'lots.gone', id: wish.balance });
  const item = await findItem(trx, named.item_id);
  const known = (await selectLot(trx, item.id, wish.lot)) ?? null;
  const judge = (stock: typeof named): { expires: string | null } =>
    valueOf(
      decideRelabel(wish, {
        item: item.code,
        decimals: item.decimals,
        lot: stock.lot,
        expires: stock.expires,
        isHeld: stock.condition === 'held',
        there: asQty(stock.qty),
        bin: stock.address,
        known,
      }),
    );
  const { expires } = judge(named);
  await refuseUnreadLots(trx, [{ item: item.id, lot: wish.lot }]);
  const lots = await ensureLots(trx, [{ item: item.id, code: wish.lot, expires }]);
  // What is in a pallet stays in it under its new number.
  if (named.unit_id !== null) await lockRows(trx, 'unit', [named.unit_id]);
  await lockStock(trx, [{ item: item.id, site: wish.site }]);
  const [stock] = await selectLotStock(trx, wish.site, [wish.balance]);
  if (!stock) return refuse({ code: 'lots.gone', id: wish.balance });
  judge(stock);
  // Somebody may have made it meanwhile, with another date.
  const made = await selectLot(trx, item.id, wish.lot);
  if (made && made.expires !== expires)
    refuse({ code: 'lots.otherDate', item: item.code, lot: wish.lot, known: made.expires, given: expires });
  const to = lots.get(`${item.id}|${wish.lot}`) as LotId;
  const document = await makeDocument(trx, 'move', { site: wish.site, person: wish.person });
  const here = { bin: stock.bin_id as BinId, unit: stock.unit_id as never, condition: stock.condition };
  const between = { bin: OUTSIDE.assembly, unit: null, condition: stock.condition };
  const goods = { item: stock.item_id, serial: null, qty: wish.qty, reason: wish.reason };
  const movements: Movement[] = [
    { ...goods, lot: stock.lot_id, from: here, to: between },
    { ...goods, lot: to, from: between, to: here },
  ];
  await post(trx, { document: document.id as DocumentId, person: wish.person as PersonId, movements });
  await insertTie(trx, { document: document.id, from: stock.lot_id, to, qty: dbQty(wish.qty) });
  announce(trx, 'stock');
  return { document: document.id, number: document.number, lot: wish.lot };
}
