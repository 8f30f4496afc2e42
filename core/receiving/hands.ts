import { addQty, formatQty, ONE, parseQty, ZERO, type ItemId, type Qty } from '#core/base';
import {
  isDoubtful,
  isUnlikely,
  labelFor,
  meaningWords,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type PackFact,
  type Stamp,
  type Stepped,
} from '#core/floor';
import { type Carried, needsExpiry, needsLot, needsSerialOnArrival, packToBase } from '#core/items';
import { isExpired } from '#core/lots';
import { compareDelivery, type LineStanding } from './compare.ts';
import { decideEntry } from './entry.ts';
import { receivingSentence, type ReceivingError } from './errors.ts';

/** One thing scanned into a delivery. `item` is null where nobody knew the code; it waits to be tied. */
export type HandEntry = {
  readonly key: string;
  readonly item: ItemId | null;
  readonly code: string;
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serial: string | null;
  readonly person: number;
  readonly at: string;
  /** Handed in: it is the lead's now. */
  readonly settled: boolean;
};

/** A delivery as a device holds it. `waiting` is how many orders wait for the goods of a line. */
export type DeliveryJob = {
  readonly id: number;
  readonly number: string;
  readonly state: 'scanning' | 'review' | 'posted' | 'thrown';
  readonly supplier: string;
  readonly purchaseOrder: string | null;
  readonly lines: readonly { readonly item: ItemId; readonly expected: Qty; readonly waiting: number }[];
  readonly entries: readonly HandEntry[];
};

/** What a hand does to a delivery. `entry` is the key of the act that made it. */
export type ReceiveDoes =
  | {
      kind: 'receive.enter';
      delivery: number;
      item: ItemId;
      pack: number;
      qty: Qty;
      lot: string | null;
      expires: string | null;
      serial: string | null;
      takeAnyway: boolean;
    }
  | { kind: 'receive.unknown'; delivery: number; code: string; qty: Qty }
  | { kind: 'receive.change'; delivery: number; entry: string; qty: Qty }
  | { kind: 'receive.takeOut'; delivery: number; entry: string }
  | { kind: 'receive.finish'; delivery: number };

type Goods = { readonly item: ItemFact; readonly pack: PackFact } & Carried & { readonly takeAnyway: boolean };
/** What the step waits for. It decides what a scan means. */
export type ReceiveAsks =
  | { what: 'goods' }
  | { what: 'lot'; goods: Goods; doubted?: string }
  | { what: 'date'; goods: Goods; lot: string }
  | { what: 'whichDate'; goods: Goods; lot: string; known: string; given: string }
  | { what: 'serial'; goods: Goods; doubted?: string }
  | { what: 'notOrdered'; goods: Goods }
  | { what: 'sure'; entry: string; code: string; qty: Qty; expected: Qty };
/** `lots`: the lot that was said last of each item; further scans are of it until another is said. */
export type ReceiveAt = { readonly asks: ReceiveAsks; readonly lots: Readonly<Record<number, { lot: string; expires: string | null }>> };
export const RECEIVE_BEGINS: ReceiveAt = { asks: { what: 'goods' }, lots: {} };

export type ReceiveChoice =
  | { what: 'takeAnyway' }
  | { what: 'setAside' }
  | { what: 'date'; date: string }
  | { what: 'knownDate' }
  | { what: 'anotherLot' }
  | { what: 'sure' }
  | { what: 'notSure' }
  | { what: 'goOn' }
  | { what: 'finish' };

export type ReceivingSaid =
  | { said: 'receiving.counted'; code: string; arrived: Qty; expected: Qty; standing: LineStanding; expired: boolean; lot: string | null }
  | { said: 'receiving.refused'; error: ReceivingError }
  | { said: 'receiving.isNot'; meaning: Meaning; wanted: 'goods' | 'lot' | 'serial' | 'date' }
  | { said: 'receiving.doubted'; text: string; wanted: 'lot' | 'serial' }
  | { said: 'receiving.itsGoods'; code: string; wanted: 'lot' | 'serial' }
  | { said: 'receiving.keptUnknown'; text: string }
  | { said: 'receiving.whichLot'; code: string }
  | { said: 'receiving.badLot'; text: string }
  | { said: 'receiving.badNumber'; text: string; code: string; decimals: number }
  | { said: 'receiving.sure'; code: string; qty: Qty; expected: Qty }
  | { said: 'receiving.nothingYet' }
  | { said: 'receiving.takenOut'; code: string; qty: Qty }
  | { said: 'receiving.setAside' }
  | { said: 'receiving.finished' }
  | { said: 'receiving.closed'; number: string; state: DeliveryJob['state'] };

const LONGEST_LOT = 40;
const GOODS: ReceiveAsks = { what: 'goods' };

/** The delivery with what this device did to it, whether or not the server has counted it in already.
 *  Law:    folding an act twice is folding it once. */
export function foldDelivery(job: DeliveryJob, acts: readonly { does: ReceiveDoes; stamp: Stamp }[]): DeliveryJob {
  if (acts.length === 0) return job;
  // By key, in the order in which they came: a delivery may have thousands of entries, and this is asked at every scan.
  const entries = new Map(job.entries.map((e) => [e.key, e]));
  let { state } = job;
  for (const { does, stamp } of acts) {
    if (does.delivery !== job.id) continue;
    switch (does.kind) {
      case 'receive.enter':
      case 'receive.unknown': {
        if (entries.has(stamp.key)) break;
        const base = { key: stamp.key, qty: does.qty, person: stamp.person, at: stamp.at, settled: false };
        entries.set(
          stamp.key,
          does.kind === 'receive.enter'
            ? { ...base, item: does.item, code: '', lot: does.lot, expires: does.expires, serial: does.serial }
            : { ...base, item: null, code: does.code, lot: null, expires: null, serial: null },
        );
        break;
      }
      case 'receive.change': {
        const entry = entries.get(does.entry);
        if (entry) entries.set(does.entry, { ...entry, qty: does.qty });
        break;
      }
      case 'receive.takeOut':
        entries.delete(does.entry);
        break;
      case 'receive.finish':
        if (state === 'scanning') state = 'review';
        for (const [key, e] of entries) entries.set(key, { ...e, settled: true });
        break;
    }
  }
  return { ...job, state, entries: [...entries.values()] };
}

/** The last things that this person scanned in and may still take out, newest first. */
export function ownEntries(job: DeliveryJob, person: number): readonly HandEntry[] {
  return job.entries
    .filter((e) => e.person === person && !e.settled)
    .toReversed()
    .sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
}

type Stepping = Stepped<ReceiveAt, ReceivingSaid, ReceiveDoes>;

/** One step of receiving (C3, C5, C6, C8, C9).
 *  Shape:  `job` is folded already; what was done comes back and is kept before the tone sounds.
 *          What the step waits for decides what a scan is: goods and bins break out of a question, and are never taken for a lot or a
 *          serial. */
export function stepReceive(at: ReceiveAt, event: HandEvent<ReceiveChoice>, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  if (job.state === 'posted' || job.state === 'thrown')
    return { at, says: { tone: 'wrong', said: 'receiving.closed', number: job.number, state: job.state }, does: [] };
  switch (event.kind) {
    case 'scan':
      return stepScan(at, event.meaning, job, facts, stamp);
    case 'number':
      return stepNumber(at, event.text, job, facts, stamp);
    case 'choose':
      return stepChoice(at, event.choice, job, facts, stamp);
    case 'undo':
      return undoLast(at, event.key, job, facts, stamp);
  }
}

const say = (at: ReceiveAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

function stepScan(at: ReceiveAt, meaning: Meaning, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  if (asks.what === 'lot' || asks.what === 'serial') {
    const wanted = asks.what;
    if (meaning.kind === 'item') {
      // The same goods again are no lot; where their code carries what was asked for, that is the answer.
      const same = meaning.item.id === asks.goods.item.id;
      const carries = wanted === 'lot' ? meaning.lot : meaning.serial;
      if (same && !carries) return say(at, { tone: 'look', said: 'receiving.itsGoods', code: asks.goods.item.code, wanted });
      return enter(at, { ...meaning, takeAnyway: same && asks.goods.takeAnyway }, job, facts, stamp);
    }
    const label = labelFor(meaning, wanted, asks.goods.item.id);
    if (label !== null && isDoubtful(meaning, asks.doubted))
      return say({ ...at, asks: { ...asks, doubted: label } }, { tone: 'look', said: 'receiving.doubted', text: label, wanted });
    if (label !== null) return enter(at, { ...asks.goods, [wanted]: label }, job, facts, stamp);
    if (meaning.kind === 'unknown') return say(at, { tone: 'wrong', said: 'receiving.badLot', text: meaning.text });
    // A bin breaks out: whoever scans one has gone on.
    const next = meaning.kind === 'bin' ? { ...at, asks: GOODS } : at;
    return say(next, { tone: 'wrong', said: 'receiving.isNot', meaning, wanted: meaning.kind === 'bin' ? 'goods' : wanted });
  }
  if (meaning.kind === 'item') return enter(at, { ...meaning, takeAnyway: false }, job, facts, stamp);
  if (meaning.kind === 'unknown' && asks.what !== 'date' && asks.what !== 'whichDate' && isLabelText(meaning.text)) {
    const does: ReceiveDoes = { kind: 'receive.unknown', delivery: job.id, code: meaning.text.trim(), qty: ONE };
    return { at: { ...at, asks: GOODS }, says: { tone: 'look', said: 'receiving.keptUnknown', text: meaning.text }, does: [does] };
  }
  return say(at, { tone: 'wrong', said: 'receiving.isNot', meaning, wanted: asks.what === 'date' ? 'date' : 'goods' });
}

const isLabelText = (text: string): boolean =>
  text.trim().length > 0 && text.trim().length <= LONGEST_LOT && !/[\u0000-\u001f\u007f]/.test(text);

function enter(at: ReceiveAt, scanned: Goods, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { item } = scanned;
  const said = at.lots[item.id];
  const goods: Goods =
    needsLot(item.tracking) && !scanned.lot && said ? { ...scanned, lot: said.lot, expires: scanned.expires ?? said.expires } : scanned;
  const expected = job.lines.find((l) => l.item === item.id);
  const taken = job.entries.some((e) => e.item === item.id);
  const quantity = goods.labelled ?? packToBase(ONE, goods.pack) ?? ONE;
  const decided = decideEntry(
    { qty: quantity, lot: goods.lot, expires: goods.expires, serial: goods.serial, takeAnyway: goods.takeAnyway },
    {
      itemCode: item.code,
      decimals: item.decimals,
      tracking: item.tracking,
      today: facts.today,
      knownLotExpires: knownDate(goods, job, facts),
      ordered: job.purchaseOrder === null || expected !== undefined || taken,
      serialPlace: serialPlace(goods, job, facts),
    },
  );
  if (!decided.ok) return ask(at, goods, decided.error);
  const entry = decided.value;
  const does: ReceiveDoes = {
    kind: 'receive.enter',
    delivery: job.id,
    item: item.id,
    pack: goods.pack.id,
    qty: entry.qty,
    lot: entry.lot,
    expires: entry.expires,
    serial: entry.serial,
    takeAnyway: goods.takeAnyway,
  };
  const lots = entry.lot === null ? at.lots : { ...at.lots, [item.id]: { lot: entry.lot, expires: entry.expires } };
  const after = foldDelivery(job, [{ does, stamp }]);
  const asks: ReceiveAsks = needsSerialOnArrival(item.tracking)
    ? { what: 'serial', goods: { ...goods, serial: null, labelled: null } }
    : GOODS;
  return { at: { asks, lots }, says: counted(after, item, entry.expired, entry.lot), does: [does] };
}

/** How the line of an item stands, said after an entry. */
function counted(job: DeliveryJob, item: ItemFact, expired: boolean, lot: string | null): Stepping['says'] {
  const line = lineOf(job, item.id);
  const tone = line.standing === 'over' || expired ? 'look' : 'right';
  return { tone, said: 'receiving.counted', code: item.code, ...line, expired, lot };
}

/** How every line of a delivery stands, ordered ones first. One pass, however many entries there are. */
export function linesOf(job: DeliveryJob): readonly { item: ItemId; arrived: Qty; expected: Qty; standing: LineStanding }[] {
  return compareDelivery(
    job.lines.map((l) => ({ item: l.item, qty: l.expected })),
    job.entries.filter((e): e is HandEntry & { item: ItemId } => e.item !== null),
  );
}

/** How the line of an item stands in a delivery. Thousandths of the base unit. */
export function lineOf(job: DeliveryJob, item: number): { arrived: Qty; expected: Qty; standing: LineStanding } {
  const own = job.entries.filter((e) => e.item === item) as (HandEntry & { item: ItemId })[];
  const [line] = compareDelivery(
    job.lines.filter((l) => l.item === item).map((l) => ({ item: l.item, qty: l.expected })),
    own,
  );
  return line ?? { arrived: ZERO, expected: ZERO, standing: 'notOrdered' };
}

function ask(at: ReceiveAt, goods: Goods, error: ReceivingError): Stepping {
  const says: Stepping['says'] = { tone: 'look', said: 'receiving.refused', error };
  switch (error.code) {
    case 'receiving.lotWanted':
      return say({ ...at, asks: { what: 'lot', goods } }, says);
    case 'receiving.dateWanted':
      return say({ ...at, asks: { what: 'date', goods, lot: error.lot } }, says);
    case 'receiving.dateDiffers':
      return say({ ...at, asks: { what: 'whichDate', goods, lot: error.lot, known: error.known, given: error.given } }, says);
    case 'receiving.serialWanted':
      return say({ ...at, asks: { what: 'serial', goods } }, says);
    case 'receiving.notOrdered':
      return say({ ...at, asks: { what: 'notOrdered', goods } }, says);
    default:
      // The question that was open stays open: a serial that is here already is no reason to forget what is being scanned.
      return say(at, { ...says, tone: 'wrong' });
  }
}

// The date of a lot: in stock, or as it was said earlier in this delivery.
function knownDate(goods: Goods, job: DeliveryJob, facts: Facts): string | null {
  if (!goods.lot || !needsExpiry(goods.item.tracking)) return null;
  const said = job.entries.find((e) => e.item === goods.item.id && e.lot === goods.lot && e.expires !== null);
  return facts.lot(goods.item.id, goods.lot)?.expires ?? said?.expires ?? null;
}

function serialPlace(goods: Goods, job: DeliveryJob, facts: Facts): string | null {
  if (!goods.serial) return null;
  if (job.entries.some((e) => e.item === goods.item.id && e.serial === goods.serial)) return `delivery ${job.number}`;
  const there = facts.serialsBy(goods.serial).find((s) => s.item === goods.item.id);
  return there ? (facts.bin(there.bin)?.address ?? 'in stock') : null;
}

function stepNumber(at: ReceiveAt, text: string, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const [last] = ownEntries(job, stamp.person);
  const item = last?.item === null ? undefined : facts.item(last?.item ?? 0);
  if (!last || (last.item !== null && !item)) return say(at, { tone: 'look', said: 'receiving.nothingYet' });
  const code = item?.code ?? last.code;
  const decimals = item?.decimals ?? 3;
  const read = parseQty(text.replace(',', '.'), decimals);
  if (!read.ok || read.value <= 0) return say(at, { tone: 'wrong', said: 'receiving.badNumber', text, code, decimals });
  if (last.serial !== null)
    return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.serialIsOne', item: code, serial: last.serial } });
  const line = lineOf(job, last.item ?? 0);
  const total = addQty(line.arrived, (read.value - last.qty) as Qty);
  if (isUnlikely(total, line.expected))
    return say(
      { ...at, asks: { what: 'sure', entry: last.key, code, qty: read.value, expected: line.expected } },
      { tone: 'look', said: 'receiving.sure', code, qty: read.value, expected: line.expected },
    );
  return change(at, last, read.value, job, facts, stamp);
}

function change(at: ReceiveAt, entry: HandEntry, qty: Qty, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const does: ReceiveDoes = { kind: 'receive.change', delivery: job.id, entry: entry.key, qty };
  const after = foldDelivery(job, [{ does, stamp }]);
  const item = entry.item === null ? undefined : facts.item(entry.item);
  const asks = at.asks.what === 'sure' ? GOODS : at.asks;
  if (!item) return { at: { ...at, asks }, says: { tone: 'look', said: 'receiving.keptUnknown', text: entry.code }, does: [does] };
  const expired = isExpired(entry.expires, facts.today);
  return { at: { ...at, asks }, says: counted(after, item, expired, entry.lot), does: [does] };
}

function stepChoice(at: ReceiveAt, choice: ReceiveChoice, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  const stay = say(at, { tone: 'look', said: 'receiving.nothingYet' });
  switch (choice.what) {
    case 'takeAnyway':
      return asks.what === 'notOrdered' ? enter(at, { ...asks.goods, takeAnyway: true }, job, facts, stamp) : stay;
    case 'setAside':
      return say({ ...at, asks: GOODS }, { tone: 'look', said: 'receiving.setAside' });
    case 'date':
      return asks.what === 'date' ? enter(at, { ...asks.goods, lot: asks.lot, expires: choice.date }, job, facts, stamp) : stay;
    case 'knownDate':
      return asks.what === 'whichDate' ? enter(at, { ...asks.goods, lot: asks.lot, expires: asks.known }, job, facts, stamp) : stay;
    case 'anotherLot': {
      const goods = 'goods' in asks ? { ...asks.goods, lot: null, expires: null } : lastGoods(job, facts, stamp.person);
      if (!goods || !needsLot(goods.item.tracking)) return stay;
      const { [goods.item.id]: _, ...lots } = at.lots;
      return say({ lots, asks: { what: 'lot', goods } }, { tone: 'look', said: 'receiving.whichLot', code: goods.item.code });
    }
    case 'sure': {
      const entry = asks.what === 'sure' ? job.entries.find((e) => e.key === asks.entry) : undefined;
      return asks.what === 'sure' && entry ? change(at, entry, asks.qty, job, facts, stamp) : stay;
    }
    case 'notSure':
    case 'goOn':
      return say({ ...at, asks: GOODS }, { tone: 'look', said: 'receiving.setAside' });
    case 'finish':
      if (job.entries.length === 0)
        return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.empty', number: job.number } });
      return {
        at: RECEIVE_BEGINS,
        says: { tone: 'right', said: 'receiving.finished' },
        does: [{ kind: 'receive.finish', delivery: job.id }],
      };
  }
}

function lastGoods(job: DeliveryJob, facts: Facts, person: number): Goods | null {
  const last = ownEntries(job, person).find((e) => e.item !== null);
  const item = facts.item(last?.item ?? 0);
  const pack = item?.packs.find((p) => p.units === ONE) ?? item?.packs[0];
  return item && pack ? { item, pack, lot: null, expires: null, made: null, serial: null, labelled: null, takeAnyway: true } : null;
}

function undoLast(at: ReceiveAt, key: string | undefined, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const own = ownEntries(job, stamp.person);
  const entry = key === undefined ? own[0] : own.find((e) => e.key === key);
  if (!entry) return say(at, { tone: 'look', said: 'receiving.nothingYet' });
  const does: ReceiveDoes = { kind: 'receive.takeOut', delivery: job.id, entry: entry.key };
  // A lot that was said by mistake does not come back with the next scan.
  const isLotGone = entry.item !== null && at.lots[entry.item]?.lot === entry.lot && !own.some((e) => e !== entry && e.lot === entry.lot);
  const { [entry.item ?? 0]: _, ...rest } = at.lots;
  const code = (entry.item === null ? entry.code : facts.item(entry.item)?.code) ?? '';
  const asks = at.asks.what === 'serial' ? at.asks : GOODS;
  return {
    at: { asks, lots: isLotGone ? rest : at.lots },
    says: { tone: 'look', said: 'receiving.takenOut', code, qty: entry.qty },
    does: [does],
  };
}

/** The sentence for what a step of receiving came to. */
export function receivingSaid(s: ReceivingSaid): string {
  switch (s.said) {
    case 'receiving.counted': {
      const of = s.expected === 0 ? '' : ` of ${formatQty(s.expected)}`;
      const over = s.standing === 'over' ? ', more than expected' : '';
      return `${s.code}: ${formatQty(s.arrived)}${of}${s.lot ? `, lot ${s.lot}` : ''}${over}${
        s.expired ? ', expired: goes to quarantine' : ''
      }`;
    }
    case 'receiving.refused':
      return receivingSentence(s.error);
    case 'receiving.isNot':
      return `${meaningWords(s.meaning)} ${
        { goods: 'Scan goods.', lot: 'Scan or key the lot.', serial: 'Scan the serial.', date: 'Key the date.' }[s.wanted]
      }`;
    case 'receiving.doubted':
      return `${s.text} looks like the code of goods that nobody knows. Scan it again if it is the ${s.wanted}.`;
    case 'receiving.itsGoods':
      return `That is the code of ${s.code} itself. ${s.wanted === 'lot' ? 'Scan or key its lot.' : 'Scan its serial.'}`;
    case 'receiving.keptUnknown':
      return `Nobody here knows ${s.text}. It is kept, and tied to an item later; key how many.`;
    case 'receiving.whichLot':
      return `Which lot of ${s.code}? Scan or key it.`;
    case 'receiving.badLot':
      return `“${s.text.slice(0, 30)}…” is no lot or serial: at most ${LONGEST_LOT} letters.`;
    case 'receiving.badNumber':
      return `“${s.text}” is no quantity of ${s.code}${s.decimals === 0 ? ', which is counted whole' : ''}.`;
    case 'receiving.sure':
      return (
        `${formatQty(s.qty)} ${s.code}${s.expected === 0 ? '' : `, and ${formatQty(s.expected)} are expected`}? Say that it is ` +
        `so, or key it again.`
      );
    case 'receiving.nothingYet':
      return 'Nothing of yours to change here. Scan goods.';
    case 'receiving.takenOut':
      return `Taken out again: ${formatQty(s.qty)} ${s.code}.`;
    case 'receiving.setAside':
      return 'Set aside. Nothing was entered.';
    case 'receiving.finished':
      return 'Handed in for review.';
    case 'receiving.closed':
      return `Delivery ${s.number} is ${s.state === 'posted' ? 'posted' : 'thrown away'}; nothing more can be scanned into it.`;
  }
}
