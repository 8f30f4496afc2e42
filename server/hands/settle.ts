import { randomUUID } from 'node:crypto';
import {
  subQty,
  writeDay,
  ZERO,
  type Qty,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type SerialId,
} from '#core/base';
import type { Does, Unreadable } from '#core/hands';
import { OUTSIDE } from '#core/stock';
import { announce, asQty, dbQty, makeDocument, query, refuse, takeChanges, type Trx } from '#server/kernel';
import { findCarry, selectTasks } from '#server/carrying';
import { enterTally, makeCount, takeOutOthersTallies } from '#server/counting';
import { ensureSerials, findItem, selectLot, selectSerial, tieBarcode } from '#server/items';
import { moveGoods } from '#server/moves';
import { askForCount, lockPick } from '#server/picking';
import { findDefaultBin, selectBin, updateBinRestored, type FoundBin } from '#server/places';
import { enterGoods, findDeliveryId, findFollowUp, updateDateOfLot } from '#server/receiving';
import { post } from '#server/stock';
import { qtyOf, readDoes, type Act } from './acts.ts';
import { perform } from './perform.ts';
import { lockClash, settleClash, updateDocuments, type ClashRow } from './store.ts';

/** One way to settle a clash. `wants`: what the lead gives with it. */
type Offer = { readonly how: string; readonly label: string; readonly wants?: 'item' | 'serial' };
type Given = { readonly how: string; readonly item?: number | undefined; readonly serial?: string | undefined };
type Lead = { readonly site: number; readonly person: number };

const AGAIN: Offer = { how: 'again', label: 'Try once more' };
const DROP: Offer = { how: 'drop', label: 'Drop it' };

/** What a lead is offered for a clash: the one or two acts that settle it, the likelier one first, and always a way to let it be. */
export function offersFor(clash: Pick<ClashRow, 'does' | 'refusal'>): readonly Offer[] {
  const { does, refusal } = clash;
  const { code } = refusal;
  switch (does.kind) {
    case 'receive.enter':
    case 'receive.unknown':
      if (code === 'receiving.notOpen') return [{ how: 'followUp', label: 'Enter it into a follow-up delivery' }, DROP];
      if (code === 'items.unknownCode') return [{ how: 'tie', label: 'Tie the code to an item', wants: 'item' }, DROP];
      if (code === 'receiving.serialHere') return [{ how: 'serial', label: 'Enter another serial', wants: 'serial' }, DROP];
      if (code === 'receiving.dateDiffers')
        return [
          { how: 'known', label: `The lot expires on ${writeDay(refusal.known)}` },
          { how: 'date', label: `The lot expires on ${writeDay(refusal.given)}` },
        ];
      return [AGAIN, DROP];
    case 'move.put':
      if (code === 'stock.binShort' || code === 'moves.notThere' || code === 'moves.unknownLot' || code === 'moves.unknownSerial')
        return [
          { how: 'post', label: 'Post what the records have there; count both bins' },
          { how: 'count', label: 'Drop it; count both bins' },
        ];
      if (code === 'places.binRetired')
        return [
          { how: 'bringBack', label: 'Take the bin into use again: it lies there' },
          { how: 'back', label: 'Have it carried back' },
        ];
      if (code.startsWith('places.') || code === 'moves.expiredToShelf')
        return [
          { how: 'accept', label: 'Accept: it lies there' },
          { how: 'back', label: 'Have it carried back' },
        ];
      return [AGAIN, DROP];
    case 'move.unit':
      if (code.startsWith('places.') || code === 'moves.expiredToShelf')
        return [
          { how: 'accept', label: 'Accept: it lies there' },
          { how: 'back', label: 'Have it carried back' },
        ];
      return [AGAIN, DROP];
    case 'adjust.say':
      return [
        { how: 'again', label: code === 'hands.leadPosts' ? 'Post it' : 'Try once more' },
        { how: 'count', label: 'Have the bin counted instead' },
        DROP,
      ];
    case 'pick.take':
      if (code === 'picking.otherLot')
        return [
          { how: 'accept', label: 'Accept the other lot' },
          { how: 'putBack', label: 'Have it put back' },
        ];
      if (code === 'stock.binShort' || code === 'picking.serialNotHere')
        return [
          { how: 'asFound', label: 'Accept as found; count the bin' },
          { how: 'count', label: 'Have it put back there; count the bin' },
        ];
      return [{ how: 'putBack', label: 'Have it put back' }, AGAIN];
    case 'pick.assemble':
      if (code === 'picking.kitNotWanted') return [{ how: 'accept', label: 'They are made: the rest goes to arrivals' }, DROP];
      return [AGAIN, DROP];
    case 'carry.take':
      return [{ how: 'count', label: 'Drop it; count the bin' }, AGAIN];
    case 'carry.put':
      if (code.startsWith('places.') || code === 'moves.expiredToShelf')
        return [
          { how: 'accept', label: 'Accept: it lies there' },
          { how: 'back', label: 'Have it carried back' },
        ];
      return [{ how: 'asMove', label: 'Post it as a move' }, AGAIN, DROP];
    case 'count.tally':
      if (code === 'counting.visited')
        return [
          { how: 'add', label: 'Add it to what was counted' },
          { how: 'instead', label: 'Let it stand instead' },
        ];
      if (code === 'counting.notOpen') return [{ how: 'followUp', label: 'Count the zone again with it' }, DROP];
      return [AGAIN, DROP];
    case 'pack.order':
    case 'pack.ship':
      return [{ how: 'seen', label: 'Seen: it is packed again at the bench' }, AGAIN];
    default:
      return [AGAIN, DROP];
  }
}

/** Settles a clash in one of the ways that are offered for it; what it posts is posted by the lead, with what the hand told kept beside it.
 *  Shape:  returns what was done, in words.
 *  Errors: a clash that is not of the lead's site, was settled before, or is not settled so; and what then still stands against it.
 *  Locks:  the clash, then those of the room that it reaches. */
export async function settle(trx: Trx, lead: Lead, key: string, given: Given): Promise<string> {
  const clash = await lockClash(trx, key);
  if (!clash || clash.site_id !== lead.site) return refuse({ code: 'hands.unknownClash' });
  if (clash.settled_at !== null) return refuse({ code: 'hands.settledBefore', by: clash.settled_by ?? 'Somebody' });
  if (!offersFor(clash).some((o) => o.how === given.how)) return refuse({ code: 'hands.notOffered', how: given.how });
  const does = clash.does.kind === 'unreadable' ? readAgain(clash.does) : clash.does;
  if (does === null) return settleUnread(trx, lead, clash, given);
  const act: Act = {
    key,
    does,
    site: clash.site_id,
    person: clash.person_id,
    role: 'lead',
    device: clash.device,
    at: clash.at,
  };
  await settleClash(trx, key, { person: lead.person, how: given.how });
  const says = await doIt(trx, act, clash, given, lead);
  announce(trx, 'hands', { clash: key });
  return says;
}

// An act that was not readable when it was told may be so for the program that runs now.
function readAgain({ told }: Unreadable): Does | null {
  try {
    const does = readDoes(JSON.parse(told));
    return does.kind === 'unreadable' ? null : does;
  } catch {
    return null;
  }
}

async function settleUnread(trx: Trx, lead: Lead, clash: ClashRow, { how }: Given): Promise<string> {
  if (how !== 'drop') return refuse(clash.refusal);
  await settleClash(trx, clash.key, { person: lead.person, how });
  announce(trx, 'hands', { clash: clash.key });
  return 'Nothing was posted; what was told stays on record.';
}

async function doIt(trx: Trx, act: Act, clash: ClashRow, given: Given, lead: Lead): Promise<string> {
  const { does } = act;
  switch (given.how) {
    case 'drop':
    case 'seen':
      return 'Nothing was posted; what was told stays on record.';
    case 'again':
      await redo(trx, act);
      return 'Done after all.';
    case 'followUp':
      return does.kind === 'count.tally' ? recount(trx, act, does, lead) : followUp(trx, act);
    case 'tie': {
      if (does.kind !== 'receive.unknown' || given.item === undefined) return refuse({ code: 'items.unknownItem', id: given.item ?? 0 });
      await tieToItem(trx, given.item, does.code);
      await redo(trx, act);
      return 'Tied and entered.';
    }
    case 'serial':
      if (does.kind !== 'receive.enter' || !given.serial) return refuse({ code: 'receiving.serialWanted', item: 'this item' });
      await redo(trx, { ...act, does: { ...does, serial: given.serial } });
      return 'Entered.';
    case 'known':
    case 'date':
      return settleDate(trx, act, clash, given.how);
    case 'asMove': {
      if (does.kind !== 'carry.put') return refuse({ code: 'hands.notOffered', how: given.how });
      const { item, lot, serial, qty, to } = does;
      const from = await liesFor(trx, act, does);
      await redo(trx, {
        ...act,
        does: { kind: 'move.put', from, to, item, lot, serial, condition: 'sound', qty, over: null, newLot: null },
      });
      return 'Posted as a move.';
    }
    case 'count':
      if (does.kind === 'carry.take') {
        const from = await liesFor(trx, act, does);
        await askForCount(trx, { bin: from, item: does.item, qty: dbQty(qtyOf(does.qty)), person: lead.person });
        return 'Nothing was posted. Tell the hand to put it back; the bin is to be counted.';
      }
      if (does.kind !== 'pick.take' && does.kind !== 'adjust.say') return postWhatIsThere(trx, act, 'count', lead);
      // The records know too little there to post anything by; what lies there is looked at.
      await askForCount(trx, { bin: does.bin, item: does.item, qty: dbQty(qtyOf(does.qty)), person: lead.person });
      return does.kind === 'adjust.say'
        ? 'Nothing was posted. The bin is to be counted.'
        : 'Nothing was posted. Tell the hand to put it back; the bin is to be counted.';
    case 'post':
      return postWhatIsThere(trx, act, 'post', lead);
    case 'accept':
    case 'bringBack':
      if (does.kind === 'pick.assemble') {
        await redo(trx, act);
        return 'Posted. What nobody wants is at arrivals: tell the hand.';
      }
      if (does.kind === 'pick.take') {
        await redo(trx, act);
        return 'Accepted: the other lot is picked.';
      }
      if (does.kind !== 'move.put' && does.kind !== 'move.unit' && does.kind !== 'carry.put')
        return refuse({ code: 'hands.notOffered', how: given.how });
      if (given.how === 'bringBack') await updateBinRestored(trx, does.to);
      await redo(trx, { ...act, does: { ...does, over: 'it lies there, accepted' } });
      return 'Posted as it lies.';
    case 'back':
      return 'Nothing was posted. Tell the hand to carry it back.';
    case 'putBack':
      return putBackFromCart(trx, act, lead);
    case 'asFound':
      return acceptAsFound(trx, act, lead);
    case 'add':
    case 'instead':
      return settleVisit(trx, act, given.how, lead);
    default:
      return refuse({ code: 'hands.notOffered', how: given.how });
  }
}

// Where the records have the goods of a line: where it was to be taken, or at arrivals where its round was thrown away with them.
async function liesFor(trx: Trx, act: Act, does: Extract<Does, { kind: 'carry.take' | 'carry.put' }>): Promise<BinId> {
  const carry = await findCarry(trx, does.carry);
  const [task] = await selectTasks(trx, carry.id, does.task);
  if (!task) return refuse({ code: 'carrying.unknownTask', number: carry.number });
  const isBack = carry.state === 'thrown' && carry.cart_bin !== null && asQty(task.taken) > 0;
  return isBack ? (await findDefaultBin(trx, act.site, 'arrivals')).id : (task.from_bin as BinId);
}

async function tieToItem(trx: Trx, item: number, code: string): Promise<void> {
  const [pack] = await query<{ id: number }>(trx, `SELECT id FROM pack WHERE item_id = ? ORDER BY units, id LIMIT 1`, [item]);
  if (!pack) refuse({ code: 'items.unknownItem', id: item });
  else await tieBarcode(trx, item, pack.id, code);
}

async function redo(trx: Trx, act: Act): Promise<void> {
  const { documents } = await perform(trx, act);
  await updateDocuments(trx, act.key, documents);
}

// What came after a delivery was posted is a delivery of its own, of the same supplier, for the lead to review.
async function followUp(trx: Trx, act: Act): Promise<string> {
  const { does } = act;
  if (does.kind !== 'receive.enter') return refuse({ code: 'hands.notOffered', how: 'followUp' });
  const made = await findFollowUp(trx, { delivery: await findDeliveryId(trx, does.delivery), person: act.person });
  const item = await findItem(trx, does.item);
  await enterGoods(
    trx,
    {
      ...act,
      key: act.key,
      delivery: made.id,
      item,
      pack: does.pack,
      qty: qtyOf(does.qty),
      lot: does.lot,
      expires: does.expires,
      made: does.made,
      serial: does.serial,
      sscc: does.sscc,
      takeAnyway: true,
    },
    'reopen',
  );
  announce(trx, 'receiving');
  return `Entered into delivery ${made.number}.`;
}

// One lot has one date. Where the one that was keyed second is right, the entries that hold the first are put right with it.
async function settleDate(trx: Trx, act: Act, clash: ClashRow, how: 'known' | 'date'): Promise<string> {
  const { does } = act;
  if (does.kind !== 'receive.enter' || clash.refusal.code !== 'receiving.dateDiffers') return refuse({ code: 'hands.notOffered', how });
  const { known, given } = clash.refusal;
  if (how === 'date') {
    if (await selectLot(trx, does.item, does.lot ?? ''))
      return refuse({ code: 'receiving.dateDiffers', item: clash.refusal.item, lot: does.lot ?? '', known, given });
    await updateDateOfLot(trx, { item: does.item, lot: does.lot ?? '', expires: given });
  }
  await redo(trx, { ...act, does: { ...does, expires: how === 'date' ? given : known } });
  return `Entered; the lot expires on ${writeDay(how === 'date' ? given : known)}.`;
}

async function binOf(trx: Trx, id: number): Promise<FoundBin> {
  return (await selectBin(trx, id)) ?? refuse({ code: 'places.unknownBin', text: String(id) });
}

/** How much of what was told lies in the bin by the records: all of it, or less. */
async function lyingThere(
  trx: Trx,
  of: { bin: number; item: number; lot: string | null; serial: string | null; condition: string },
  wanted: Qty,
): Promise<Qty> {
  const [there] = await query<{ qty: string }>(
    trx,
    `SELECT coalesce(sum(f.qty), 0) AS qty FROM stock_fact f WHERE f.bin_id = ? AND f.item_id = ? AND f.condition = ?
       AND (?::text IS NULL OR f.lot = ?) AND (?::text IS NULL OR f.serial = ?)`,
    [of.bin, of.item, of.condition, of.lot, of.lot, of.serial, of.serial],
  );
  const has = asQty(there?.qty ?? '0');
  return has < wanted ? has : wanted;
}

async function postWhatIsThere(trx: Trx, act: Act, how: 'post' | 'count', lead: Lead): Promise<string> {
  const { does } = act;
  if (does.kind !== 'move.put') return refuse({ code: 'hands.notOffered', how });
  const wanted = qtyOf(does.qty);
  const qty = await lyingThere(trx, { bin: does.from, ...does }, wanted);
  let says = 'Nothing was posted';
  if (how === 'post' && qty > 0) {
    const item = await findItem(trx, does.item);
    const [from, to] = [await binOf(trx, does.from), await binOf(trx, does.to)];
    const moved = await moveGoods(trx, {
      ...act,
      from,
      to,
      item,
      lot: does.lot,
      serial: does.serial,
      condition: does.condition,
      qty,
      reason: undefined,
      override: 'it lies there',
      newLot: does.newLot,
    });
    await updateDocuments(trx, act.key, [moved.document]);
    says = `Posted ${dbQty(qty)} on ${moved.number}`;
  }
  for (const bin of [does.from, does.to])
    await askForCount(trx, {
      bin,
      item: does.item,
      qty: dbQty(how === 'post' && qty < wanted ? subQty(wanted, qty) : wanted),
      person: lead.person,
    });
  return `${says}; both bins are to be counted.`;
}

// The goods lie on the cart or at the bench, and no order may have them: they are put away from arrivals like anything that came.
async function putBackFromCart(trx: Trx, act: Act, lead: Lead): Promise<string> {
  const { does } = act;
  if (does.kind !== 'pick.take') return refuse({ code: 'hands.notOffered', how: 'putBack' });
  const item = await findItem(trx, does.item);
  const arrivals = await findDefaultBin(trx, act.site, 'arrivals');
  const serial = item.tracking === 'serial' ? does.serial : null;
  const wanted = qtyOf(does.qty);
  const qty = await lyingThere(trx, { ...does, serial, condition: 'sound' }, wanted);
  let says = 'Nothing was posted: the records have none of it there';
  if (qty > 0) {
    const moved = await moveGoods(trx, {
      ...act,
      from: await binOf(trx, does.bin),
      to: arrivals,
      item,
      lot: does.lot,
      serial,
      condition: 'sound',
      qty,
      reason: 'Picked, and no longer wanted',
      override: 'put back from a cart',
      newLot: null,
    });
    await updateDocuments(trx, act.key, [moved.document]);
    says = `${moved.number}: ${dbQty(qty)} at ${arrivals.address}, to be put away`;
  }
  if (qty === wanted) return `${says}.`;
  await askForCount(trx, { bin: does.bin, item: item.id, qty: dbQty(subQty(wanted, qty)), person: lead.person });
  return `${says}; the bin is to be counted.`;
}

// The record was short, or knew the serial elsewhere: what the hand held in front of the scanner is found stock, and is picked.
async function acceptAsFound(trx: Trx, act: Act, lead: Lead): Promise<string> {
  const { does } = act;
  if (does.kind !== 'pick.take') return refuse({ code: 'hands.notOffered', how: 'asFound' });
  await lockPick(trx, { round: does.round, pick: does.pick, site: act.site, person: act.person, told: true });
  const item = await findItem(trx, does.item);
  const lot = does.lot === null ? null : ((await selectLot(trx, item.id, does.lot))?.id ?? null);
  const code = item.tracking === 'serial' ? does.serial : null;
  const isSerial = code !== null;
  const serial =
    code === null
      ? null
      : ((await selectSerial(trx, item.id, code))?.id ??
        (await ensureSerials(trx, [{ item: item.id, code }])).get(`${item.id}|${code}`) ??
        null);
  const lying = await query<{ bin_id: number; qty: string; condition: string }>(
    trx,
    isSerial
      ? `SELECT bin_id, qty, condition
        FROM balance
        WHERE item_id = ? AND serial_id IS NOT DISTINCT FROM ? AND lot_id IS NOT DISTINCT FROM ? AND qty > 0`
      : `SELECT bin_id, qty, condition FROM balance
         WHERE item_id = ? AND serial_id IS NOT DISTINCT FROM ? AND lot_id IS NOT DISTINCT FROM ? AND condition = 'sound'
           AND qty > 0 AND bin_id = ?`,
    isSerial ? [item.id, serial, lot] : [item.id, serial, lot, does.bin],
  );
  const key = { item: item.id as ItemId, lot: lot as LotId | null, serial: serial as SerialId | null };
  const place = (bin: number, condition = 'sound') => ({ bin: bin as BinId, unit: null, condition: condition as 'sound' });
  const document = await makeDocument(trx, 'adjustment', { site: act.site, person: lead.person });
  const stamp = { document: document.id as DocumentId, person: lead.person as PersonId, device: act.device, overBinRules: true };
  const elsewhere = isSerial ? lying.find((l) => l.bin_id !== does.bin) : undefined;
  const has = isSerial ? ZERO : asQty(lying[0]?.qty ?? '0');
  const missing = subQty(qtyOf(does.qty), has);
  const reason = 'Found while picking';
  if (elsewhere)
    await post(trx, {
      ...stamp,
      movements: [{ ...key, qty: qtyOf(does.qty), from: place(elsewhere.bin_id, elsewhere.condition), to: place(does.bin), reason }],
    });
  else if (missing > 0)
    await post(trx, { ...stamp, movements: [{ ...key, qty: missing, from: place(OUTSIDE.adjustments), to: place(does.bin), reason }] });
  await redo(trx, act);
  await askForCount(trx, { bin: does.bin, item: item.id, qty: dbQty(missing > 0 ? missing : qtyOf(does.qty)), person: lead.person });
  if (elsewhere) await askForCount(trx, { bin: elsewhere.bin_id, item: item.id, qty: dbQty(qtyOf(does.qty)), person: lead.person });
  return 'Picked as found; the bin is to be counted.';
}

type TallyDoes = Extract<Act['does'], { kind: 'count.tally' }>;

// Two people counted one bin: everything that the second told of it is settled together, or half of a bin would stand against the other.
async function settleVisit(trx: Trx, act: Act, how: 'add' | 'instead', lead: Lead): Promise<string> {
  const { does } = act;
  if (does.kind !== 'count.tally') return refuse({ code: 'hands.notOffered', how });
  const others = await query<{ key: string; does: TallyDoes; at: Date; device: string }>(
    trx,
    `SELECT c.key, a.does, a.at, d.name AS device FROM hand_clash c JOIN hand_act a USING (key) JOIN device d ON d.id = a.device_id
     WHERE a.kind = 'count.tally' AND a.job = ? AND a.person_id = ? AND (a.does->>'bin')::int = ? AND c.settled_at IS NULL
       AND c.refusal->>'code' = 'counting.visited'
     ORDER BY a.at, a.seq`,
    [`count:${does.count}`, act.person, does.bin],
  );
  if (how === 'instead') await takeOutOthersTallies(trx, { count: does.count, bin: does.bin, person: act.person });
  for (const told of [{ key: act.key, does, at: act.at, device: act.device }, ...others]) {
    await settleClash(trx, told.key, { person: lead.person, how });
    // Each by itself: what one of them locks last, the next may have to lock first.
    const changes = await trx.transaction(async (inner) => {
      await redo(inner, { ...act, key: told.key, does: { ...told.does, adds: true }, at: told.at, device: told.device });
      return takeChanges(inner, null);
    });
    for (const { topic, facts } of changes) announce(trx, topic, facts);
  }
  const n = others.length + 1;
  return `${n} ${n === 1 ? 'tally' : 'tallies'} of this bin ${how === 'add' ? 'added' : 'stand instead'}.`;
}

// The count was posted or thrown away: what was told afterwards begins a count of the zone that holds it.
async function recount(trx: Trx, act: Act, does: TallyDoes, lead: Lead): Promise<string> {
  const bin = await binOf(trx, does.bin);
  const [open] = await query<{ id: number; number: string }>(
    trx,
    `SELECT c.id, c.number FROM stock_count c JOIN count_bin b ON b.count_id = c.id WHERE b.bin_id = ? AND b.open AND c.state = 'open'`,
    [does.bin],
  );
  const count = open ?? (await makeCount(trx, { zone: bin.zone_id, blind: true, site: lead.site, person: lead.person }));
  const item = await findItem(trx, does.item);
  // It is looked at now: before the count began, nobody knows what lay there by its snapshot.
  await enterTally(trx, {
    ...act,
    at: null,
    key: randomUUID(),
    count: count.id,
    bin,
    item,
    lot: does.lot,
    expires: does.expires,
    serial: does.serial,
    sscc: does.sscc,
    qty: qtyOf(does.qty),
  });
  return `In count ${count.number}.`;
}
