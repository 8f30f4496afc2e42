import { assertNever, formatQty } from '#core/base';
import type { Does } from '#core/hands';
import type { DeliveryRef } from '#core/receiving';
import { query, refuse, together, type Trx } from '#server/kernel';
import { putFromCarry, reportCarryTrouble, takeOnCart, undoCarried } from '#server/carrying';
import { changeTally, enterTally, lockOpenCount, sayOfBin, takeOutTally } from '#server/counting';
import { findItem, selectItemByScan, selectLot, type FoundItem } from '#server/items';
import { moveGoods, moveUnit } from '#server/moves';
import { assembleKits, putDownRound, reportTrouble, takeAtStop, isAssembly, takeApart, takeElsewhere, undoPick } from '#server/picking';
import { selectBin, type FoundBin } from '#server/places';
import {
  beginDelivery,
  beginReturn,
  changeEntry,
  enterGoods,
  enterUnit,
  findDeliveryId,
  finishDelivery,
  inspectEntry,
  namePaper,
  photographEntry,
  selectDeliveryOfEntry,
  selectUnitEntry,
  placeEntry,
  takeOutEntry,
} from '#server/receiving';
import { packOrder, shipOrder, unpackOrder } from '#server/shipping';
import { adjustStock, undoDocument } from '#server/stock';
import { keepPicture } from '#server/work';
import { floorOf, NOTHING_BUT_DONE, qtyOf, type Act, type Done } from './acts.ts';
import { changeClashed, forgetPicture, jobsOf, selectClashedUnit, selectDocumentsOf, settleClash } from './store.ts';

type Of<Kind extends Does['kind']> = Extract<Does, { kind: Kind }>;

/** Does what a hand told, by the same functions as the plain routes, and forgiving where the floor cannot be asked again.
 *  Errors: refuses what stands against it; the merge makes a clash of that.
 *  Locks:  those of the room that it reaches. */
export async function perform(trx: Trx, act: Act): Promise<Done> {
  const { does } = act;
  switch (does.kind) {
    case 'receive.begin':
      if (does.back) await beginReturn(trx, { ...does.back, customer: null, key: does.delivery, site: act.site, person: act.person });
      else await beginDelivery(trx, { ...does, key: does.delivery, site: act.site, person: act.person });
      return NOTHING_BUT_DONE;
    case 'receive.paper':
      await namePaper(trx, { ...does, delivery: await findDeliveryId(trx, does.delivery), site: act.site });
      return NOTHING_BUT_DONE;
    case 'receive.enter':
      return enter(trx, act, does);
    case 'receive.unit': {
      const goods = [];
      for (const g of does.goods) goods.push({ ...g, ...(await itemAndPack(trx, g)), qty: qtyOf(g.qty) });
      const delivery = await findDeliveryId(trx, does.delivery);
      await enterUnit(trx, { ...floorOf(act), key: act.key, delivery, sscc: does.sscc, goods }, 'reopen');
      return NOTHING_BUT_DONE;
    }
    case 'receive.unknown':
      return enterUnknown(trx, act, does);
    case 'receive.change': {
      if (await changeClashed(trx, does.entry, does.qty)) return NOTHING_BUT_DONE;
      await changeEntry(trx, { ...floorOf(act), ...(await entryOf(trx, act, does)), qty: qtyOf(does.qty) });
      return NOTHING_BUT_DONE;
    }
    case 'receive.takeOut': {
      if (await entryTakenBack(trx, act, does.entry)) return NOTHING_BUT_DONE;
      await takeOutEntry(trx, { ...floorOf(act), ...(await entryOf(trx, act, does)) });
      return NOTHING_BUT_DONE;
    }
    case 'receive.inspect':
      await inspectEntry(trx, {
        ...floorOf(act),
        ...(await entryOf(trx, act, does)),
        key: act.key,
        checked: qtyOf(does.checked),
        failed: does.failed.map((f) => ({ reason: f.reason, qty: qtyOf(f.qty) })),
        note: does.note,
      });
      return NOTHING_BUT_DONE;
    case 'receive.where':
      await placeEntry(trx, { ...floorOf(act), ...(await entryOf(trx, act, does)), bin: does.bin, qty: qtyOf(does.qty), key: act.key });
      return NOTHING_BUT_DONE;
    case 'receive.photo':
      await photograph(trx, act, does);
      return NOTHING_BUT_DONE;
    case 'receive.finish':
      await finish(trx, act, does);
      return NOTHING_BUT_DONE;
    case 'move.put':
      return put(trx, act, does);
    case 'move.unit':
      return putUnit(trx, act, does);
    case 'move.undo':
      return undo(trx, act, does);
    case 'adjust.say':
      return adjust(trx, act, does);
    case 'pick.take': {
      const [item, bin] = await together([findItem(trx, does.item), binAt(trx, act.site, does.bin)]);
      const over = does.over === null ? undefined : { reason: does.over, may: act.role === 'lead' };
      await takeAtStop(trx, { ...floorOf(act), ...does, key: act.key, told: true, bin, item, over });
      return NOTHING_BUT_DONE;
    }
    case 'pick.undo':
      if (await takenBack(trx, act, does.taken)) return NOTHING_BUT_DONE;
      if (await isAssembly(trx, does.taken))
        await takeApart(trx, { ...floorOf(act), assembly: does.taken, ...(act.role === 'lead' ? {} : { whose: act.person }) });
      else await undoPick(trx, { ...floorOf(act), ...does });
      return NOTHING_BUT_DONE;
    case 'pick.trouble': {
      const instead = [];
      for (const i of does.instead) instead.push({ ...i, lot: await lotOfPick(trx, does.pick, i.lot) });
      await reportTrouble(trx, { ...floorOf(act), round: does.round, pick: does.pick, kind: does.trouble, told: true, instead });
      return NOTHING_BUT_DONE;
    }
    case 'pick.elsewhere': {
      const { instead } = does;
      await takeElsewhere(trx, {
        ...floorOf(act),
        ...does,
        told: true,
        bin: await binAt(trx, act.site, instead.bin),
        instead: { key: instead.key, lot: await lotOfPick(trx, does.pick, instead.lot), qty: qtyOf(instead.qty) },
      });
      return NOTHING_BUT_DONE;
    }
    case 'pick.assemble': {
      const to = does.to === null ? null : await binAt(trx, act.site, does.to);
      // Kits that nobody wants any more are for a lead to send to arrivals: the hand would not know.
      const what = { key: act.key, order: does.order, qty: qtyOf(does.qty), to, maySetAside: act.role === 'lead' };
      await assembleKits(trx, { ...floorOf(act), ...what });
      return NOTHING_BUT_DONE;
    }
    case 'pick.putDown': {
      const bin = await binAt(trx, act.site, does.bin);
      await putDownRound(trx, { ...floorOf(act), round: does.round, bin: bin.address, told: true });
      return NOTHING_BUT_DONE;
    }
    case 'carry.take':
      await takeOnCart(trx, { ...floorOf(act), ...does, key: act.key, told: true, qty: qtyOf(does.qty) });
      return NOTHING_BUT_DONE;
    case 'carry.put': {
      const to = await binAt(trx, act.site, does.to);
      // Only a lead breaks a rule by saying so; of anybody else it is a clash that a lead accepts.
      const override = act.role === 'lead' && does.over !== null ? does.over : undefined;
      await putFromCarry(trx, { ...floorOf(act), ...does, key: act.key, told: true, qty: qtyOf(does.qty), to, override });
      return NOTHING_BUT_DONE;
    }
    case 'carry.undo':
      if (!(await takenBack(trx, act, does.act))) await undoCarried(trx, { ...floorOf(act), ...does, told: true });
      return NOTHING_BUT_DONE;
    case 'carry.trouble':
      await reportCarryTrouble(trx, { ...floorOf(act), ...does, told: true });
      return NOTHING_BUT_DONE;
    case 'count.tally':
      return tally(trx, act, does);
    case 'count.change':
      if (!(await changeClashed(trx, does.tally, does.qty)))
        await changeTally(trx, { count: does.count, site: act.site, tally: does.tally, qty: qtyOf(does.qty) });
      return NOTHING_BUT_DONE;
    case 'count.takeOut': {
      if (await takenBack(trx, act, does.tally)) return NOTHING_BUT_DONE;
      const count = await lockOpenCount(trx, does.count, act.site);
      const [row] = await query<{ id: number }>(trx, `SELECT id FROM tally WHERE key = ? AND count_id = ?`, [does.tally, does.count]);
      if (!row) return refuse({ code: 'counting.unknownTally', id: 0, number: count.number });
      await takeOutTally(trx, does.count, row.id);
      return NOTHING_BUT_DONE;
    }
    case 'count.verdict':
    case 'count.again': {
      const bin = await binAt(trx, act.site, does.bin);
      const verdict = does.kind === 'count.verdict' ? does.verdict : null;
      await sayOfBin(trx, { count: does.count, site: act.site, bin, verdict, at: act.at });
      return NOTHING_BUT_DONE;
    }
    case 'pack.order':
      await packOrder(trx, { ...does, site: act.site, person: act.person });
      return NOTHING_BUT_DONE;
    case 'pack.undo':
      await unpackOrder(trx, { order: does.order, site: act.site });
      return NOTHING_BUT_DONE;
    case 'pack.ship':
      await shipOrder(trx, { ...does, site: act.site, person: act.person, at: act.at });
      return NOTHING_BUT_DONE;
    default:
      return assertNever(does);
  }
}

// An entry that came after its delivery was posted lies in the one that followed it. One of a pallet that somebody else had scanned
// before is theirs: where it goes is true all the same.
async function entryOf(trx: Trx, act: Act, does: { delivery: DeliveryRef; entry: string }) {
  const twin = await twinOf(trx, does.entry);
  const entry = twin?.key ?? does.entry;
  const delivery = twin?.delivery ?? (await selectDeliveryOfEntry(trx, entry)) ?? (await findDeliveryId(trx, does.delivery));
  return { delivery, entry: { key: entry }, lead: act.role === 'lead', told: true };
}

async function twinOf(trx: Trx, entry: string): Promise<{ key: string; delivery: number } | undefined> {
  const unit = await selectClashedUnit(trx, entry);
  const goods = unit?.does.goods[unit.n];
  return unit && goods && selectUnitEntry(trx, { sscc: unit.does.sscc, ...goods });
}

/** Whether what is taken back never got further than a clash: then that is settled, by the hand itself. */
async function takenBack(trx: Trx, act: Act, key: string): Promise<boolean> {
  return settleClash(trx, key, { person: act.person, how: 'takenBack' });
}

// A pallet that somebody else had scanned before came with theirs, whatever becomes of this scan of it.
async function entryTakenBack(trx: Trx, act: Act, entry: string): Promise<boolean> {
  if (await takenBack(trx, act, entry)) return true;
  const unit = await selectClashedUnit(trx, entry);
  if (unit) await takenBack(trx, act, unit.key);
  return unit !== undefined;
}

/** A bin of the site by its number.
 *  Errors: `places.unknownBin`; `people.otherSite`. */
async function binAt(trx: Trx, site: number, id: number): Promise<FoundBin> {
  const bin = await selectBin(trx, id);
  if (!bin || bin.site_id === null) return refuse({ code: 'places.unknownBin', text: String(id) });
  if (bin.site_id !== site) return refuse({ code: 'people.otherSite', what: `Bin ${bin.address}`, site: bin.site });
  return bin;
}

async function enter(trx: Trx, act: Act, does: Of<'receive.enter'>): Promise<Done> {
  const delivery = await findDeliveryId(trx, does.delivery);
  const goods = { ...does, ...(await itemAndPack(trx, does)), qty: qtyOf(does.qty) };
  await enterGoods(trx, { ...floorOf(act), ...goods, delivery, key: act.key }, 'reopen');
  return NOTHING_BUT_DONE;
}

// A pack that was taken off the record meanwhile gives way to the smallest.
async function itemAndPack(trx: Trx, of: { readonly item: number; readonly pack: number }): Promise<{ item: FoundItem; pack: number }> {
  const item = await findItem(trx, of.item);
  const [pack] = await query<{ id: number }>(trx, `SELECT id FROM pack WHERE item_id = ? ORDER BY id <> ?, units LIMIT 1`, [
    item.id,
    of.pack,
  ]);
  return { item, pack: pack?.id ?? 0 };
}

// The picture is opened before anything is locked. What is kept of the act afterwards is that there was one.
async function photograph(trx: Trx, act: Act, does: Of<'receive.photo'>): Promise<void> {
  const of = await entryOf(trx, act, does);
  const bytes = Buffer.from(does.jpeg, 'base64');
  const { id } = await keepPicture(trx, { name: `arrived-${act.key}.jpg`, bytes, person: act.person });
  await photographEntry(trx, { ...floorOf(act), ...of, file: id });
  await forgetPicture(trx, act.key);
}

// Somebody may have tied the code meanwhile; where the item asks for nothing more, the entry is made without a word.
async function enterUnknown(trx: Trx, act: Act, does: Of<'receive.unknown'>): Promise<Done> {
  const item = await selectItemByScan(trx, does.code);
  if (!item) return refuse({ code: 'items.unknownCode', text: does.code.slice(0, 60) });
  const { lot, expires, made, sscc } = item;
  const goods = { item, pack: item.pack.id, lot, expires, made, serial: item.serialCode, sscc, takeAnyway: true };
  const delivery = await findDeliveryId(trx, does.delivery);
  await enterGoods(trx, { ...floorOf(act), ...goods, key: act.key, delivery, qty: qtyOf(does.qty) }, 'reopen');
  return NOTHING_BUT_DONE;
}

// Two hands may both say that all is scanned: the second one changes nothing.
async function finish(trx: Trx, act: Act, does: Of<'receive.finish'>): Promise<void> {
  const delivery = await findDeliveryId(trx, does.delivery);
  const [there] = await query<{ state: string }>(trx, `SELECT state FROM delivery WHERE id = ? AND site_id = ?`, [delivery, act.site]);
  const [unsettled] = await query(
    trx,
    `SELECT 1 FROM hand_act a JOIN hand_clash c USING (key) WHERE a.job = ANY(?::text[]) AND c.settled_at IS NULL LIMIT 1`,
    [await jobsOf(trx, `delivery:${delivery}`)],
  );
  const [any] = await query(trx, `SELECT 1 FROM delivery_entry WHERE delivery_id = ? AND taken_out_at IS NULL LIMIT 1`, [delivery]);
  if (there?.state === 'review' || there?.state === 'posted' || (unsettled && !any)) return;
  await finishDelivery(trx, { delivery, site: act.site });
}

async function put(trx: Trx, act: Act, does: Of<'move.put'>): Promise<Done> {
  const item = await findItem(trx, does.item);
  const from = await binAt(trx, act.site, does.from);
  const to = await binAt(trx, act.site, does.to);
  const moved = await moveGoods(trx, {
    ...floorOf(act),
    from,
    to,
    item,
    lot: does.lot,
    serial: does.serial,
    condition: does.condition,
    qty: qtyOf(does.qty),
    reason: undefined,
    // Only a lead breaks a rule by saying so; of anybody else it is a clash that a lead accepts.
    override: act.role === 'lead' && does.over !== null ? does.over : undefined,
    newLot: does.newLot,
  });
  return { documents: [moved.document] };
}

async function putUnit(trx: Trx, act: Act, does: Of<'move.unit'>): Promise<Done> {
  const to = await binAt(trx, act.site, does.to);
  const moved = await moveUnit(trx, {
    ...floorOf(act),
    sscc: does.sscc,
    to,
    reason: undefined,
    override: act.role === 'lead' && does.over !== null ? does.over : undefined,
  });
  return { documents: [moved.document] };
}

// Whoever may not adjust has said it all the same: the lead looks at it, and posts it with one press.
async function adjust(trx: Trx, act: Act, does: Of<'adjust.say'>): Promise<Done> {
  const bin = await binAt(trx, act.site, does.bin);
  if (act.role !== 'lead') {
    const { code } = await findItem(trx, does.item);
    refuse({ code: 'hands.leadPosts', item: code, bin: bin.address, qty: formatQty(qtyOf(does.qty)), way: does.way });
  }
  const { lot, expires, serial, condition, way, reason, reference, job, day, cost } = does;
  const { document } = await adjustStock(trx, {
    ...floorOf(act),
    item: does.item,
    bin: bin.address,
    way,
    qty: qtyOf(does.qty),
    lot,
    expires,
    serials: serial === null ? [] : [serial],
    condition,
    ...{ reason, reference, job, day, cost },
  });
  return { documents: [document] };
}

async function undo(trx: Trx, act: Act, does: Of<'move.undo'>): Promise<Done> {
  if (await takenBack(trx, act, does.act)) return NOTHING_BUT_DONE;
  for (const document of await selectDocumentsOf(trx, does.act))
    await undoDocument(trx, { ...floorOf(act), document, lead: act.role === 'lead', reason: 'Undone on the handheld' });
  return NOTHING_BUT_DONE;
}

async function lotOfPick(trx: Trx, pick: string, lot: string | null): Promise<number | null> {
  if (lot === null) return null;
  const [row] = await query<{ item: number }>(trx, `SELECT item_id AS item FROM round_pick WHERE key = ?`, [pick]);
  return row ? ((await selectLot(trx, row.item, lot))?.id ?? null) : null;
}

// Two people in one bin who did not know of each other: whether their figures add up or stand for each other only they can say.
async function tally(trx: Trx, act: Act, does: Of<'count.tally'>): Promise<Done> {
  const item = await findItem(trx, does.item);
  const bin = await binAt(trx, act.site, does.bin);
  await lockOpenCount(trx, does.count, act.site);
  if (!does.adds) {
    const [other] = await query<{ name: string }>(
      trx,
      `SELECT p.name
       FROM tally t
       JOIN person p ON p.id = t.person_id
       WHERE t.count_id = ? AND t.bin_id = ? AND t.taken_out_at IS NULL AND t.person_id <> ?
       AND NOT EXISTS (
         SELECT 1
         FROM tally own
         WHERE own.count_id = t.count_id AND own.bin_id = t.bin_id AND own.person_id = ? AND own.taken_out_at IS NULL
       )
       LIMIT 1`,
      [does.count, does.bin, act.person, act.person],
    );
    if (other) refuse({ code: 'counting.visited', bin: bin.address, person: other.name });
  }
  await enterTally(trx, { ...floorOf(act), ...does, key: act.key, bin, item, qty: qtyOf(does.qty) });
  return NOTHING_BUT_DONE;
}
