import { sumQty, type BinId, type DocumentId, type ItemId, type LotId, type PersonId, type SerialId } from '#core/base';
import { isOutside, OUTSIDE, type Movement } from '#core/stock';
import { announce, asQty, lockRows, makeDocument, refuse, type Trx } from '#server/kernel';
import { addPromises, lockOrders } from '#server/orders';
import { findDefaultBin } from '#server/places';
import { lockStock, post } from '#server/stock';
import { markReturned, takeOffPicks } from './store-in-hand.ts';
import { selectAssembled, selectAssembly, selectKitPieces, selectUsed, updateApart, updateInHandAgain } from './store-kits.ts';

const HANDS = ['cart', 'packing'];

/** Takes kits apart again that somebody made. The kits leave stock. Their parts are in hand as before where the cart on which they lay is
 *  still that of the round; else they are nobody's, and lie at arrivals.
 *  Shape:  `assembly`: by its number or by the key of the act; `whose`: only one that this person said. The order that makes the kits is
 *          open again, and wants what is not in hand anew.
 *  Errors: what was taken apart already; kits that are packed or have left; an order that was cancelled, or is of another site; and
 *          `stock.binShort` where kits that went to stock are not where they were put.
 *  Locks:  the rounds that brought the parts and have the kits, both orders, then what `post` locks. */
export async function takeApart(
  trx: Trx,
  command: { assembly: number | string; site: number; person: number; device?: string | null; at?: Date | null; whose?: number },
): Promise<{ number: string; bin: string }> {
  const known = (await selectAssembly(trx, command.assembly)) ?? refuse({ code: 'picking.unknownAssembly' });
  await lockRows(trx, 'round', known.rounds);
  const orders = await lockOrders(trx, [known.order_id, ...(known.for_id === null ? [] : [known.for_id])], command.site);
  const assembly = (await selectAssembly(trx, known.id)) ?? known;
  if (assembly.apart) refuse({ code: 'picking.apartAlready', number: assembly.number });
  if (command.whose !== undefined && assembly.person_id !== command.whose)
    refuse({ code: 'picking.othersKits', number: assembly.number, person: assembly.person });
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
  const used = await selectUsed(trx, assembly.document_id);
  const isOnCart = used.every((u) => u.on_cart);
  const arrivals = isOnCart ? null : await findDefaultBin(trx, command.site, 'arrivals');
  const at = command.at ? { at: command.at } : {};
  const document = await makeDocument(trx, 'putBack', { site: command.site, person: command.person, subject: assembly.order_id, ...at });
  await markReturned(trx, inHand);
  const usedIds = used.map((u) => u.id);
  await updateApart(trx, {
    ...{ assembly: assembly.id, order: assembly.order_id, qty: asQty(assembly.qty) },
    ...{ document: document.id, person: command.person, kits: inHand.map((k) => k.id), used: usedIds },
  });
  if (!isOnCart) await takeOffPicks(trx, usedIds);
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
    device: command.device ?? null,
    ...at,
    movements: [
      ...inHand.map((k) => between({ ...k, item: assembly.kit }, k.bin, OUTSIDE.assembly)),
      ...intoStock.map((m) => between(m, m.to_bin, OUTSIDE.assembly)),
      ...used.map((u) => between(u, OUTSIDE.assembly, arrivals?.id ?? u.bin)),
    ],
    overBinRules: true,
  });
  if (isOnCart) {
    await updateInHandAgain(trx, usedIds);
    await addPromises(
      trx,
      [...new Set(used.map((u) => u.line))].map((line) => {
        const of = used.filter((u) => u.line === line);
        return { line, site: command.site, item: of[0]?.item ?? 0, qty: sumQty(of.map((u) => asQty(u.qty))) };
      }),
    );
  }
  announce(trx, 'picking');
  announce(trx, 'orders');
  announce(trx, 'shipping');
  announce(trx, 'stock');
  return { number: assembly.number, bin: arrivals?.address ?? used[0]?.address ?? '' };
}

/** Whether an act of a device made kits. */
export const isAssembly = async (trx: Trx, key: string): Promise<boolean> => (await selectAssembly(trx, key)) !== undefined;
