import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId } from '#core/base';
import { isOutside, OUTSIDE, type Movement } from '#core/stock';
import { announce, asQty, lockRows, makeDocument, refuse, type Trx } from '#server/kernel';
import { lockOrders } from '#server/orders';
import { findDefaultBin } from '#server/places';
import { lockStock, post } from '#server/stock';
import { selectAssembled, selectAssembly, selectKitPieces, updateApart } from './store-kits.ts';

const HANDS = ['cart', 'packing'];

/** Takes kits apart again that somebody made: the kits leave stock, and their parts lie at arrivals, to be put away or picked anew.
 *  Shape:  the order that makes the kits is open again and wants its parts anew; nobody is promised them.
 *  Errors: what was taken apart already; kits that are packed or have left; an order that was cancelled, or is of another site; and
 *          `stock.binShort` where kits that went to stock are not where they were put.
 *  Locks:  the rounds that have the kits, both orders, then what `post` locks. */
export async function takeApart(
  trx: Trx,
  command: { assembly: number; site: number; person: number },
): Promise<{ number: string; bin: string }> {
  const known = (await selectAssembly(trx, command.assembly)) ?? refuse({ code: 'picking.unknownAssembly', id: command.assembly });
  await lockRows(trx, 'round', known.rounds);
  const orders = await lockOrders(trx, [known.order_id, ...(known.for_id === null ? [] : [known.for_id])], command.site);
  const assembly = (await selectAssembly(trx, command.assembly)) ?? known;
  if (assembly.apart) refuse({ code: 'picking.apartAlready', number: assembly.number });
  const order = orders.find((o) => o.id === assembly.order_id);
  if (order?.state === 'cancelled') refuse({ code: 'orders.notOpen', number: order.number, state: order.state });
  const moved = await selectAssembled(trx, assembly.document_id);
  await lockStock(
    trx,
    [...new Set(moved.map((m) => m.item))].map((item) => ({ item, site: command.site })),
  );
  const inHand = await selectKitPieces(trx, assembly.id);
  const wanting = orders.find((o) => o.id === assembly.for_id);
  const kits = moved.filter((m) => isOutside(m.from_bin as BinId));
  const [intoHands, intoStock] = [kits.filter((m) => HANDS.includes(m.to_use ?? '')), kits.filter((m) => !HANDS.includes(m.to_use ?? ''))];
  const isWhole = sumQty(inHand.map((k) => asQty(k.qty))) === sumQty(intoHands.map((m) => asQty(m.qty)));
  if (!isWhole || inHand.some((k) => !k.free))
    refuse({ code: 'picking.kitsOnTheirWay', number: wanting?.number ?? '', kit: assembly.code });
  const arrivals = await findDefaultBin(trx, command.site, 'arrivals');
  const document = await makeDocument(trx, 'putBack', { site: command.site, person: command.person, subject: assembly.order_id });
  await updateApart(trx, {
    assembly: assembly.id,
    order: assembly.order_id,
    qty: asQty(assembly.qty),
    document: assembly.document_id,
    apartDocument: document.id,
    person: command.person,
    kits: inHand.map((k) => k.id),
  });
  const reason = `Taken apart: ${assembly.number}`;
  const between = (
    goods: { item: number; lot_id: number | null; serial_id: number | null; qty: string },
    from: number,
    to: number,
  ): Movement => ({
    item: goods.item as ItemId,
    lot: goods.lot_id as LotId | null,
    serial: goods.serial_id as SerialId | null,
    qty: asQty(goods.qty),
    from: { bin: from as BinId, unit: null, condition: 'sound' },
    to: { bin: to as BinId, unit: null, condition: 'sound' },
    reason,
  });
  // Kits that are somebody's are where their pieces say; those that went to stock, where they were put.
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: [
      ...inHand.map((k) => between({ ...k, item: assembly.kit }, k.bin, OUTSIDE.assembly)),
      ...intoStock.map((m) => between(m, m.to_bin, OUTSIDE.assembly)),
      ...moved.filter((m) => isOutside(m.to_bin as BinId)).map((m) => between(m, OUTSIDE.assembly, arrivals.id)),
    ],
    overBinRules: true,
  });
  announce(trx, 'picking');
  announce(trx, 'orders');
  announce(trx, 'shipping');
  announce(trx, 'stock');
  return { number: assembly.number, bin: arrivals.address };
}
