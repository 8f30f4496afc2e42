import {
  minQty,
  ONE,
  subQty,
  ZERO,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
} from '#core/base';
import { eachOfKit, needsExpiry, needsLot, needsSerialOnArrival, needsSerialToShip, type Tracking } from '#core/items';
import { decideAssembly, madeSerial } from '#core/picking';
import { coveringHold, OUTSIDE, type HeldGoods, type Movement } from '#core/stock';
import { qtyText } from '#contract/base';
import { announce, asQty, dbQty, lockRows, makeDocument, refuse, valueOf, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials } from '#server/items';
import { addPromises, lockOrders, reopenPacking, selectKitOrder, selectKitParts, type KitOrderRow } from '#server/orders';
import { findDefaultBin, type FoundBin } from '#server/places';
import { lockStock, post, selectStandingHolds } from '#server/stock';
import { partGoods } from './part-goods.ts';
import { insertAssembly, insertKitsInHand, selectKitsWanted, selectPartPieces, type PartPieceRow } from './store-kits.ts';
import { addShipped, takeFromPromises, updatePickedShipped } from './store-lines.ts';
import type { InHandRow } from './store-in-hand.ts';

const HANDS = ['cart', 'packing', 'transit'];

export type Assembling = {
  readonly key: string;
  readonly order: number;
  readonly qty: Qty;
  readonly site: number;
  readonly person: number;
  readonly device: string | null;
  /** When it happened, where that is not now. */
  readonly at: Date | null;
  /** Into which bin they go as stock; null: to where their parts lie, for the line that wants them. */
  readonly to: FoundBin | null;
  /** Whether kits that nobody wants any more may go to arrivals without asking. */
  readonly maySetAside: boolean;
};

/** Says that kits are made of the parts that are in hand for their order (G9): the parts leave stock, and the kits come in.
 *  Shape:  for the line that wants them they are promised and picked where the parts lay, on the cart or at the bench; what nobody wants
 *          any more goes to arrivals, to be put away. A kit that is counted by lot gets one of its own, named as its document, which
 *          expires with the first of its parts; one that leaves by serial gets serials of its own.
 *  Units:  thousandths of a kit; kits are made whole.
 *  Errors: an order that makes no kits, is not open or held; as `decideAssembly`; parts that lie in several places, are held or expired;
 *          kits that nobody ordered, and no bin; and what `post` refuses.
 *  Locks:  the rounds that brought the parts, both orders, the lot, then what `post` locks. */
export async function assembleKits(trx: Trx, command: Assembling): Promise<{ number: string; bin: string; aside: string }> {
  const { site } = command;
  const kit = (await selectKitOrder(trx, command.order)) ?? (await refuseOrder(trx, command));
  const rounds = await lockRows(
    trx,
    'round',
    (await selectPartPieces(trx, command.order)).map((p) => p.round),
  );
  const orders = await lockOrders(trx, [command.order, ...(kit.for_id === null ? [] : [kit.for_id])], site);
  const order = orders.find((o) => o.id === command.order);
  if (!order || order.state !== 'open') return refuse({ code: 'orders.notOpen', number: order?.number ?? '', state: order?.state ?? '' });
  if (order.held_for !== null) refuse({ code: 'orders.held', number: order.number, reason: order.held_for });
  const made = asQty((await selectKitOrder(trx, order.id))?.made ?? kit.made);
  const parts = await selectKitParts(trx, order.id);
  const { takes } = valueOf(
    decideAssembly(command.qty, {
      kit: kit.code,
      order: order.number,
      left: subQty(asQty(kit.qty), made),
      parts: parts.map((p) => ({
        item: p.item as ItemId,
        code: p.code,
        each: eachOfKit(asQty(p.qty), asQty(kit.qty)),
        inHand: asQty(p.in_hand),
      })),
    }),
  );
  const pieces = await selectPartPieces(trx, order.id);
  const place = placeOf(kit, pieces, rounds);
  if (command.to && HANDS.includes(command.to.use)) refuse({ code: 'stock.passingThrough', bin: command.to.address, item: kit.code });
  const isForLine = command.to === null && kit.line !== null;
  if (command.to === null && kit.line === null) refuse({ code: 'picking.kitWhere', kit: kit.code });
  const { at } = command;
  const stamp = { site, person: command.person, subject: order.id, ...(at ? { at } : {}) };
  const document = await makeDocument(trx, 'assembly', stamp);
  const labels = await labelKits(trx, kit, { ...command, number: document.number, pieces });
  await lockStock(
    trx,
    [...new Set([kit.item, ...parts.map((p) => p.item)])].map((item) => ({ item, site })),
  );
  await refuseUnfit(trx, kit, site, pieces);
  const wanted = isForLine && kit.line !== null ? asQty(await selectKitsWanted(trx, kit.line, firstExpiry(kit, pieces))) : ZERO;
  const forLine = isForLine ? minQty(command.qty, wanted) : ZERO;
  const aside = isForLine ? subQty(command.qty, forLine) : ZERO;
  if (aside > 0 && !command.maySetAside)
    refuse({ code: 'picking.kitNotWanted', kit: kit.code, order: kit.for_number ?? '', made: command.qty, wanted: forLine });
  const arrivals = aside > 0 ? await findDefaultBin(trx, site, 'arrivals') : null;
  const used: InHandRow[] = [];
  for (const [n, part] of parts.entries()) used.push(...(await partGoods(trx, part.line, takes[n] ?? ZERO)));
  const lines = [parts.map((p) => p.line), takes.map(dbQty)];
  await takeFromPromises(trx, lines);
  await addShipped(trx, lines);
  // Said first, moved then: the ledger does not let go of goods that are an order's.
  await updatePickedShipped(
    trx,
    used.map((u) => u.id),
    document.id,
  );
  const intoBin = command.to?.id ?? place.bin;
  const placed = partLabels(labels, isForLine ? forLine : command.qty);
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    device: command.device,
    ...(at ? { at } : {}),
    movements: [
      ...used.map((u) => partMovement(u, kit.code)),
      ...placed.first.map((l) => kitMovement(l, kit, intoBin, isForLine ? `Made for ${kit.for_number}` : 'Made for stock')),
      ...placed.rest.map((l) => kitMovement(l, kit, arrivals?.id ?? place.bin, `Made, and no longer wanted for ${kit.for_number}`)),
    ],
  });
  const assembly = await insertAssembly(trx, { ...command, number: document.number, order: order.id, document: document.id });
  if (forLine > 0 && kit.line !== null && kit.for_id !== null) {
    await addPromises(trx, [{ line: kit.line, site, item: kit.item, qty: forLine }]);
    await insertKitsInHand(trx, {
      ...{ assembly, line: kit.line, order: kit.for_id, item: kit.item, person: command.person },
      ...{ round: place.round, slot: place.slot, bin: place.bin, putDown: place.putDown },
      pieces: placed.first,
    });
    if (place.putDown) await reopenPacking(trx, [kit.for_id]);
  }
  announce(trx, 'picking');
  announce(trx, 'orders');
  announce(trx, 'shipping');
  return {
    number: document.number,
    bin: forLine > 0 || command.to ? (command.to?.address ?? place.address) : (arrivals?.address ?? ''),
    aside: qtyText(aside),
  };
}

async function refuseOrder(trx: Trx, command: { order: number; site: number }): Promise<never> {
  const [order] = await lockOrders(trx, [command.order], command.site);
  return refuse({ code: 'picking.notAKit', number: order?.number ?? '' });
}

type Place = { bin: BinId; address: string; putDown: boolean; round: number; slot: number };

// On one cart, or at the bench: kits are not made across the house.
function placeOf(kit: KitOrderRow, pieces: readonly PartPieceRow[], locked: readonly number[]): Place {
  const bins = [...new Set(pieces.map((p) => p.address))];
  const onCarts = pieces.filter((p) => !p.put_down);
  const isApart = onCarts.length > 0 && bins.length > 1;
  const last = pieces.at(-1);
  if (!last || isApart || pieces.some((p) => !locked.includes(p.round))) return refuse({ code: 'picking.partsApart', kit: kit.code, bins });
  return { bin: last.bin as BinId, address: last.address, putDown: last.put_down, round: last.round, slot: last.slot };
}

// What packing would not let out is not built into something else either.
async function refuseUnfit(trx: Trx, kit: KitOrderRow, site: number, pieces: readonly PartPieceRow[]): Promise<void> {
  const holds = await selectStandingHolds(trx, site, [...new Set(pieces.map((p) => p.item))]);
  const unfit = pieces.find(
    (p) => p.expired || coveringHold(holds, { site, bin: p.bin, item: p.item, lot: p.lot_id, serial: p.serial_id } as HeldGoods) !== null,
  );
  if (unfit) refuse({ code: 'picking.partHeld', part: unfit.code, kit: kit.code });
}

// A kit keeps as long as the first of its parts.
const firstExpiry = (kit: KitOrderRow, pieces: readonly PartPieceRow[]): string | null =>
  needsExpiry(kit.tracking as Tracking) ? (pieces.flatMap((p) => p.expires ?? []).toSorted()[0] ?? null) : null;

type Label = { qty: Qty; lot: number | null; serial: number | null; serialOut: string | null };

async function labelKits(
  trx: Trx,
  kit: KitOrderRow,
  of: { qty: Qty; key: string; number: string; pieces: readonly PartPieceRow[] },
): Promise<Label[]> {
  const tracking = kit.tracking as Tracking;
  if (needsLot(tracking)) {
    const expires = firstExpiry(kit, of.pieces);
    const lots = await ensureLots(trx, [{ item: kit.item, code: of.number, expires }]);
    return [{ qty: of.qty, lot: lots.get(`${kit.item}|${of.number}`) ?? null, serial: null, serialOut: null }];
  }
  if (!needsSerialToShip(tracking)) return [{ qty: of.qty, lot: null, serial: null, serialOut: null }];
  const codes = Array.from({ length: of.qty / ONE }, (_, n) => `${madeSerial(of.key)}-${n + 1}`);
  const known = needsSerialOnArrival(tracking)
    ? await ensureSerials(
        trx,
        codes.map((code) => ({ item: kit.item, code })),
      )
    : null;
  return codes.map((code) => ({
    qty: ONE,
    lot: null,
    serial: known?.get(`${kit.item}|${code}`) ?? null,
    serialOut: known === null ? code : null,
  }));
}

// The first so many of the kits, and the rest.
function partLabels(labels: readonly Label[], first: Qty): { first: Label[]; rest: Label[] } {
  let open = first;
  const parted = labels.map((l) => {
    const take = minQty(open, l.qty);
    open = subQty(open, take);
    return { first: { ...l, qty: take }, rest: { ...l, qty: subQty(l.qty, take) } };
  });
  return { first: parted.map((p) => p.first).filter((l) => l.qty > 0), rest: parted.map((p) => p.rest).filter((l) => l.qty > 0) };
}

const partMovement = (u: InHandRow, kit: string): Movement => ({
  item: u.item_id as ItemId,
  lot: u.lot_id as LotId | null,
  serial: u.serial_id as SerialId | null,
  qty: asQty(u.qty),
  from: { bin: u.bin_id as BinId, unit: null, condition: 'sound' },
  to: { bin: OUTSIDE.assembly, unit: null, condition: 'sound' },
  reason: `Went into ${kit}`,
});

const kitMovement = (l: Label, kit: KitOrderRow, bin: BinId, reason: string): Movement => ({
  item: kit.item as ItemId,
  lot: l.lot as LotId | null,
  serial: l.serial as SerialId | null,
  qty: l.qty,
  from: { bin: OUTSIDE.assembly, unit: null, condition: 'sound' },
  to: { bin, unit: null, condition: 'sound' },
  reason,
});
