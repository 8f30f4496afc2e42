import { randomUUID } from 'node:crypto';
import {
  ONE,
  qty,
  subQty,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
  type SiteId,
} from '#core/base';
import { packToBase } from '#core/items';
import { decidePick } from '#core/picking';
import { qtyText } from '#contract/base';
import { announce, asQty, lockRows, queryOne, refuse, together, valueOf, type Trx } from '#server/kernel';
import { findItemByScan, selectLot, selectSerial } from '#server/items';
import { findBin, selectToday, type FoundBin } from '#server/places';
import { lockOpenOrder } from '#server/orders';
import { lockStock, post, selectUnit, selectUnitContent, trimPromises } from '#server/stock';
import { stateWord } from './put-back.ts';
import { selectLotsHere, selectOrderOfPick, selectPicks, type PickName, type PickRow, updatePickPicked } from './store-picks.ts';
import { lockWalkedRound, updateWalker, type WalkedRound } from './store-rounds.ts';
import { insertPicked } from './store-in-hand.ts';

type LockedPick = { readonly round: WalkedRound; readonly pick: PickRow };
/** What of a pick is picked and open now, in base units, and how many picks its round still has. */
type Taken = { picked: string; open: string; roundOpen: number };

/** What was scanned at a stop, as plain texts. */
export type PickAtStop = {
  readonly round: number;
  readonly pick: number;
  readonly site: number;
  readonly person: number;
  readonly bin: string;
  readonly code: string;
  readonly qty?: Qty | undefined;
  readonly lot?: string | undefined;
  readonly serial?: string | undefined;
  readonly device?: string | null;
};

/** The same, resolved: by the route, or on the device where it was scanned. */
export type TakeAtStop = {
  readonly key: string;
  readonly round: number;
  readonly pick: PickName;
  readonly site: number;
  readonly person: number;
  readonly device: string | null;
  /** When it happened, where that is not now. */
  readonly at: Date | null;
  /** What was done is told, not asked for: that the round is somebody else's meanwhile does not undo it. */
  readonly told: boolean;
  readonly bin: FoundBin;
  readonly item: { readonly id: ItemId; readonly code: string };
  readonly lot: string | null;
  readonly serial: string | null;
  readonly qty: Qty;
  /** The logistic unit out of which it was taken (G11), where its label was scanned. */
  readonly sscc?: string | null;
  /** Why another lot than planned was taken (E4), and whether who says so may. */
  readonly over?: { readonly reason: string; readonly may: boolean } | undefined;
};

/** Takes goods at a stop onto the cart by what was scanned there. Errors and locks as `takeAtStop`. */
export async function pickAtStop(trx: Trx, command: PickAtStop): Promise<Taken> {
  // The round first: what is wrong with it is said before what is wrong with a code.
  const locked = await lockPick(trx, { ...command, told: false });
  const bin = await findBin(trx, command.site, command.bin);
  const scanned = await findItemByScan(trx, command.code);
  const taking: TakeAtStop = {
    ...command,
    key: randomUUID(),
    device: command.device ?? null,
    at: null,
    told: false,
    bin,
    item: scanned,
    lot: command.lot || scanned.lot,
    serial: command.serial || scanned.serialCode,
    qty: command.qty ?? scanned.labelled ?? packToBase(ONE, scanned.pack) ?? ONE,
  };
  return takeLocked(trx, taking, locked);
}

/** Takes goods at a stop onto the cart: believed when bin and item were scanned and are the right ones (G3–G5).
 *  Shape:  returns what of the pick is picked and open now, and how many picks the round still has.
 *  Errors: the wrong bin, item, lot or serial, too many, finer than the item is counted, an expired lot, an order that is held or no longer
 *          promised the goods; and `stock.binShort` where the bin holds less than the record said.
 *  Locks:  the round, the order, the unit, then what `post` locks. */
export async function takeAtStop(trx: Trx, command: TakeAtStop): Promise<Taken> {
  return takeLocked(trx, command, await lockPick(trx, command));
}

// From the shelf, and from arrivals straight to the bench.
const FROM = ['shelf', 'arrivals'];

async function takeLocked(trx: Trx, command: TakeAtStop, { round, pick }: LockedPick): Promise<Taken> {
  const { bin, item, lot: lotCode, serial: serialCode } = command;
  const unit = command.sscc ? await selectUnit(trx, command.sscc) : undefined;
  const needsPiece = pick.tracking === 'serial' && serialCode ? serialCode : null;
  // What was promised and what lies there is read when the item is locked: nobody cuts or takes it meanwhile.
  const [lot, today, , , lotsHere, standing, piece] = await together([
    lotCode ? selectLot(trx, item.id, lotCode) : null,
    selectToday(trx, command.site),
    unit && lockRows(trx, 'unit', [unit.id]),
    lockStock(trx, [{ item: pick.item, site: command.site }]),
    pick.lot_id === null ? [] : selectLotsHere(trx, pick),
    selectStanding(trx, pick),
    needsPiece === null ? null : selectSerial(trx, pick.item, needsPiece),
  ]);
  if (lotCode && !lot) refuse({ code: 'moves.unknownLot', item: item.code, lot: lotCode });
  const { qty: taken } = valueOf(
    decidePick(
      {
        bin: bin.id,
        item: item.id,
        lot: (lot?.id ?? null) as LotId | null,
        serial: serialCode || null,
        qty: command.qty,
        over: command.over?.reason ?? null,
      },
      {
        bin: pick.bin as BinId,
        binAddress: pick.address,
        scannedBinAddress: bin.address,
        item: pick.item as ItemId,
        itemCode: pick.code,
        scannedItemCode: item.code,
        lot: pick.lot_id as LotId | null,
        lotCode: pick.lot,
        scannedLotCode: lotCode,
        scannedExpires: lot?.expires ?? null,
        lotNamed: pick.asks.lot !== null,
        goodOn: pick.asks.good_on,
        expires: pick.expires,
        lotsHere,
        tracking: pick.tracking,
        decimals: pick.decimals,
        planned: asQty(pick.qty),
        picked: asQty(pick.picked),
        today,
        serials: pick.serials,
        // What is told has happened: it is on the cart. The one who named it gets another, or is told that there is none.
        kept: command.told ? [] : pick.kept,
      },
    ),
  );
  // Whatever a device planned by itself: what is set apart, on a cart or at the bench is nobody's to pick.
  if (!FROM.includes(bin.use)) refuse({ code: 'picking.notPickable', bin: bin.address, item: item.code });
  const isOther = lot !== null && lot !== undefined && lot.id !== pick.lot_id;
  if (isOther && !command.over?.may)
    refuse({
      code: 'picking.otherLot',
      item: pick.code,
      scanned: lotCode ?? '',
      wanted: pick.lot ?? '',
      reason: command.over?.reason ?? '',
    });
  const goods = { ...pick, lot_id: isOther ? lot.id : pick.lot_id };
  if (standing.promised < standing.inHand + taken) refuse({ code: 'picking.noLongerPromised', item: pick.code, order: pick.order });
  if (needsPiece !== null && !piece) refuse({ code: 'picking.serialNotHere', item: pick.code, serial: needsPiece, bin: pick.address });
  const otherLot = isOther ? `, lot ${lotCode} instead of ${pick.lot}: ${command.over?.reason}` : '';
  const otherBin = pick.instead_of === null ? '' : `, instead of from ${pick.instead_of}: ${pick.instead_why}`;
  const from = { bin: pick.bin as BinId, condition: 'sound' as const };
  const fromUnit = unit && (await holdsAll(trx, unit.id, { ...goods, serial: piece?.id ?? null, qty: taken })) ? unit.id : null;
  await post(trx, {
    document: round.document_id as DocumentId,
    person: command.person as PersonId,
    device: command.device,
    ...(command.at ? { at: command.at } : {}),
    movements: [
      {
        item: pick.item as ItemId,
        lot: goods.lot_id as LotId | null,
        serial: (piece?.id ?? null) as SerialId | null,
        qty: taken,
        from: { ...from, unit: fromUnit },
        to: { bin: round.cart_bin as BinId, unit: null, condition: 'sound' },
        reason: `Picked for ${pick.order}${otherLot}${otherBin}`,
      },
    ],
  });
  const picked = qty(asQty(pick.picked) + taken);
  const [, , , rest] = await together([
    updatePickPicked(trx, pick.id, picked),
    insertPicked(trx, {
      key: command.key,
      pick: goods,
      serial: piece?.id ?? null,
      unit: fromUnit,
      serialOut: pick.tracking === 'serialOut' ? serialCode : null,
      qty: taken,
      bin: round.cart_bin,
      person: command.person,
      at: command.at,
    }),
    round.person_id === null && updateWalker(trx, round.id, command.person),
    queryOne<{ n: number }>(trx, `SELECT count(*) AS n FROM round_pick WHERE round_id = ? AND picked < qty`, [round.id]),
  ]);
  // In these hands it is nobody's who named it.
  if (standing.isAsked || isOther) await trimPromises(trx, [{ item: pick.item as ItemId, site: command.site as SiteId }]);
  announce(trx, 'picking', { round: round.id });
  return { picked: qtyText(picked), open: qtyText(subQty(asQty(pick.qty), picked)), roundOpen: rest.n };
}

// What is told of a unit may be late: somebody took pieces out of it, or carried it on. Then the goods come from the bin, as its label says
// nothing of them any more.
async function holdsAll(
  trx: Trx,
  unit: number,
  goods: { bin: number; item: number; lot_id: number | null; serial: number | null; qty: Qty },
): Promise<boolean> {
  const content = await selectUnitContent(trx, unit);
  return content.some(
    (c) =>
      c.bin === goods.bin &&
      c.item === goods.item &&
      c.lotId === goods.lot_id &&
      c.serialId === goods.serial &&
      c.condition === 'sound' &&
      c.qty >= goods.qty,
  );
}

/** Locks an open round and the order of one of its picks, and reads the pick as it is then.
 *  Errors: a round that has ended, is another site's or another hand's; a pick that is not on it; an order that is held or ended. */
export async function lockPick(
  trx: Trx,
  command: { round: number; pick: PickName; site: number; person: number; told: boolean },
): Promise<LockedPick> {
  // What they ask of the database goes there together: each way there and back is most of what a scan waits for.
  const [round, planned] = await together([
    lockWalkedRound(trx, command.round, command.site),
    selectOrderOfPick(trx, command.round, command.pick),
  ]);
  if (round.state !== 'open') refuse({ code: 'picking.roundDone', number: round.number, state: stateWord(round.state) });
  if (!command.told && round.person_id !== null && round.person_id !== command.person)
    refuse({ code: 'picking.othersRound', number: round.number, person: round.person ?? '' });
  const unknown = { code: 'picking.unknownPick', id: typeof command.pick === 'number' ? command.pick : 0 } as const;
  if (planned === undefined) return refuse(unknown);
  // The pick is read when its order is locked: then nobody else can change it.
  const [order, [pick]] = await together([lockOpenOrder(trx, planned, command.site), selectPicks(trx, command.round, command.pick)]);
  if (order.held_for !== null) refuse({ code: 'orders.held', number: order.number, reason: order.held_for });
  return { round, pick: pick ?? refuse(unknown) };
}

// The plan was made of promises; one that was cut since is another order's now. Says what is promised to the line, what of it is in hand,
// and whether somebody at its site was promised goods that they named, and may have named these.
async function selectStanding(
  trx: Trx,
  pick: Pick<PickRow, 'line_id' | 'lot_id' | 'bin' | 'expires'>,
): Promise<{ promised: Qty; inHand: Qty; isAsked: boolean }> {
  const row = await queryOne<{ promised: string; in_hand: string; asked: boolean }>(
    trx,
    `SELECT coalesce((SELECT qty FROM promise WHERE line_id = ?), 0) AS promised,
       coalesce((SELECT sum(qty) FROM in_hand WHERE line_id = ?), 0) AS in_hand,
       EXISTS (
         SELECT 1
         FROM promise o
         JOIN promise p ON p.item_id = o.item_id AND p.site_id = o.site_id
         JOIN line_asking a ON a.line_id = p.line_id AND a.asks
         WHERE o.line_id = ? AND (a.lot_id IS NULL OR a.lot_id = ?) AND (a.bin_id IS NULL OR a.bin_id = ?)
           AND (a.good_on IS NULL OR ?::date IS NULL OR ?::date >= a.good_on)
       ) AS asked`,
    [pick.line_id, pick.line_id, pick.line_id, pick.lot_id, pick.bin, pick.expires, pick.expires],
  );
  return { promised: asQty(row.promised), inHand: asQty(row.in_hand), isAsked: row.asked };
}
