import { addQty, formatQty, ONE, parseQty, ZERO, type Qty } from '#core/base';
import {
  isDoubtful,
  isUnlikely,
  keyedLabel,
  labelFor,
  lotUnread,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type Stamp,
} from '#core/floor';
import { needsExpiry, needsLot, needsSerialOnArrival, NOTHING_CARRIED, packToBase } from '#core/items';
import { addMonths, hasLittleLife, isExpired } from '#core/lots';
import { decideChangeOfFound, failedOf } from './inspect.ts';
import {
  deliveryName,
  entriesTogether,
  foldDelivery,
  isOfPaper,
  lineOf,
  ownEntries,
  serialRun,
  type DeliveryJob,
  type HandEntry,
  type ReceiveDoes,
} from './delivery-job.ts';
import { decideEntry, MOST_AT_ONCE } from './entry.ts';
import {
  GOODS,
  RECEIVE_BEGINS,
  say,
  type Goods,
  type ReceiveAsks,
  type ReceiveAt,
  type ReceiveChoice,
  type Stepping,
} from './receive-at.ts';
import { found, stepFailed, withReason } from './step-inspect.ts';
import { closeUnit, placeUnit, stepUnit, undoUnit } from './step-unit.ts';
import { leaveRun, stepBin, stepPart } from './step-where.ts';
import type { ReceivingError } from './errors.ts';
import { clashingSerials, LONGEST_LABEL, MOST_SERIALS } from './serial-list.ts';

const LONGEST_PAPER = 60;
const LONGEST_NOTE = 200;

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
      return stepKeyed(at, event, job, facts, stamp);
    case 'choose':
      return stepChoice(at, event.choice, job, facts, stamp);
    case 'undo':
      return undoLast(at, event.key, job, facts, stamp);
  }
}

function stepScan(at: ReceiveAt, meaning: Meaning, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  if (asks.what === 'inspect' && meaning.kind !== 'bin' && asks.finding.failed.length > 0) {
    // The next scan saves what was found, as it saves what was scanned.
    const kept = stepChoice(at, { what: 'inspected' }, job, facts, stamp);
    if (kept.does.length === 0) return kept;
    const next = stepScan(kept.at, meaning, job, facts, stamp);
    return { ...next, does: [...kept.does, ...next.does] };
  }
  // A unit breaks out like a bin: whoever scans one has gone on.
  if (meaning.kind === 'unit') return stepUnit(at, meaning, job, facts);
  // After serials of what is still asked for, a bin says where those go; before the first of them it breaks out.
  if (meaning.kind === 'bin' && asks.what === 'serial') {
    const [last] = ownEntries(job, stamp.person);
    if (last?.item === asks.goods.item.id && last.serial !== null) return stepBin({ ...at, asks: GOODS }, meaning.bin, job, facts, stamp);
  }
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
    const why = wanted === 'lot' && label !== null ? lotUnread(facts, asks.goods.item.id, label) : null;
    if (label !== null && why !== null) return say(at, { tone: 'wrong', said: 'receiving.lotUnread', text: label, why });
    if (label !== null && isDoubtful(meaning, asks.doubted))
      return say({ ...at, asks: { ...asks, doubted: label } }, { tone: 'look', said: 'receiving.doubted', text: label, wanted });
    if (label !== null) return enter(at, { ...asks.goods, [wanted]: label }, job, facts, stamp);
    if (meaning.kind === 'unknown') return say(at, { tone: 'wrong', said: 'receiving.badLot', text: meaning.text });
    // A bin breaks out: whoever scans one has gone on.
    const next = meaning.kind === 'bin' ? { ...at, asks: GOODS } : at;
    return say(next, { tone: 'wrong', said: 'receiving.isNot', meaning, wanted: meaning.kind === 'bin' ? 'goods' : wanted });
  }
  if (meaning.kind === 'bin' && (asks.what === 'goods' || asks.what === 'whereTo')) return stepBin(at, meaning.bin, job, facts, stamp);
  if (meaning.kind === 'item') return enter(at, { ...meaning, takeAnyway: false }, job, facts, stamp);
  if (meaning.kind === 'unknown' && asks.what !== 'date' && asks.what !== 'whichDate' && isLabelText(meaning.text)) {
    const does: ReceiveDoes = { kind: 'receive.unknown', delivery: job.id, code: meaning.text.trim(), qty: ONE };
    return { at: { ...at, asks: GOODS }, says: { tone: 'look', said: 'receiving.keptUnknown', text: meaning.text }, does: [does] };
  }
  return say(at, { tone: 'wrong', said: 'receiving.isNot', meaning, wanted: asks.what === 'date' ? 'date' : 'goods' });
}

const isLabelText = (text: string): boolean =>
  text.trim().length > 0 && text.trim().length <= LONGEST_LABEL && !/[\u0000-\u001f\u007f]/.test(text);

function enter(at: ReceiveAt, scanned: Goods, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { item } = scanned;
  const said = at.lots[item.id];
  const goods: Goods =
    needsLot(item.tracking) && !scanned.lot && said
      ? { ...scanned, lot: said.lot, expires: scanned.expires ?? said.expires, made: scanned.made ?? said.made }
      : scanned;
  const expected = job.lines.find((l) => l.item === item.id);
  const taken = job.entries.some((e) => e.item === item.id);
  const quantity = goods.labelled ?? packToBase(ONE, goods.pack) ?? ONE;
  const decided = decideEntry(
    { qty: quantity, lot: goods.lot, expires: goods.expires, made: goods.made, serial: goods.serial, takeAnyway: goods.takeAnyway },
    {
      itemCode: item.code,
      decimals: item.decimals,
      tracking: item.tracking,
      today: facts.today,
      knownLotExpires: knownDate(goods, job, facts),
      ordered: !isOfPaper(job) || expected !== undefined || taken,
      isReturn: job.back !== null,
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
    made: entry.made,
    serial: entry.serial,
    sscc: goods.sscc ?? at.unit,
    takeAnyway: goods.takeAnyway,
  };
  const lots = entry.lot === null ? at.lots : { ...at.lots, [item.id]: { lot: entry.lot, expires: entry.expires, made: entry.made } };
  const after = foldDelivery(job, [{ does, stamp }]);
  const asks: ReceiveAsks = needsSerialOnArrival(item.tracking)
    ? { what: 'serial', goods: { ...goods, serial: null, labelled: null } }
    : GOODS;
  return { at: { ...at, asks, lots }, says: counted(after, item, entry, facts), does: [does] };
}

/** How the line of an item stands, said after an entry. */
function counted(
  job: DeliveryJob,
  item: ItemFact,
  { lot, expires }: { lot: string | null; expires: string | null },
  { today }: Facts,
): Stepping['says'] {
  const line = lineOf(job, item.id);
  const expired = isExpired(expires, today);
  const little = !expired && !job.back && hasLittleLife(expires, today, item.shelfLifeMonths) ? expires : null;
  const tone = line.standing === 'over' || expired || little !== null ? 'look' : 'right';
  return { tone, said: 'receiving.counted', code: item.code, ...line, expired, little, lot };
}

function ask(at: ReceiveAt, goods: Goods, error: ReceivingError): Stepping {
  const says: Stepping['says'] = { tone: 'look', said: 'receiving.refused', error };
  switch (error.code) {
    case 'receiving.lotWanted':
      return say({ ...at, asks: { what: 'lot', goods } }, says);
    case 'receiving.dateWanted':
      return say({ ...at, asks: { what: 'date', goods, lot: error.lot } }, says);
    case 'receiving.madeAfterExpiry':
      return say(
        { ...at, asks: { what: 'date', goods: { ...goods, made: null, expires: null }, lot: error.lot } },
        { ...says, tone: 'wrong' },
      );
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

// Digits that a hand keyed. Where a lot or serial is asked for they are that, unless the next scan closed them; where something else is
// asked about goods, they say how many of those; else how many the last scan was.
function stepKeyed(
  at: ReceiveAt,
  keyed: { readonly text: string; readonly closedBy?: 'scan' },
  job: DeliveryJob,
  facts: Facts,
  stamp: Stamp,
): Stepping {
  const { asks } = at;
  if (asks.what === 'whereTo') return stepPart(at, asks, keyed.text, job, facts);
  if (asks.what === 'inspect') return stepFailed(at, asks, keyed.text, job, facts);
  if (!('goods' in asks)) return stepNumber(at, keyed.text, job, facts, stamp);
  const label = asks.what === 'lot' || asks.what === 'serial' ? keyedLabel(facts, keyed, asks.what) : null;
  if (label) return stepScan(at, label, job, facts, stamp);
  const { code, decimals } = asks.goods.item;
  const read = parseQty(keyed.text.replace(',', '.'), decimals);
  if (asks.what === 'serial' || !read.ok || read.value <= 0 || isUnlikely(read.value, lineOf(job, asks.goods.item.id).expected))
    return say(at, { tone: 'wrong', said: 'receiving.badNumber', text: keyed.text, code, decimals });
  const goods: Goods = { ...asks.goods, labelled: read.value };
  return say({ ...at, asks: { ...asks, goods } }, { tone: 'look', said: 'receiving.soMany', code, qty: read.value, wanted: asks.what });
}

function stepNumber(at: ReceiveAt, text: string, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const own = ownEntries(job, stamp.person);
  const { asks } = at;
  const last = asks.what === 'howMany' ? own.find((e) => e.key === asks.entry) : own[0];
  const item = last?.item === null ? undefined : facts.item(last?.item ?? 0);
  // A number after a whole unit would be of whatever stands last on its list.
  if (last?.sscc && asks.what !== 'howMany' && entriesTogether(job, last).length > 1)
    return say(at, { tone: 'wrong', said: 'receiving.unitNumber', sscc: last.sscc });
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
  const item = entry.item === null ? undefined : facts.item(entry.item);
  if (qty > MOST_AT_ONCE)
    return say(at, {
      tone: 'wrong',
      said: 'receiving.refused',
      error: { code: 'receiving.tooMany', item: item?.code ?? entry.code, qty: formatQty(qty) },
    });
  const allowed = decideChangeOfFound(entry.finding, item?.code ?? entry.code, qty);
  if (!allowed.ok) return say(at, { tone: 'wrong', said: 'receiving.refused', error: allowed.error });
  const after = foldDelivery(job, [{ does, stamp }]);
  const asks = at.asks.what === 'sure' || at.asks.what === 'howMany' ? GOODS : at.asks;
  if (!item) return { at: { ...at, asks }, says: { tone: 'look', said: 'receiving.keptUnknown', text: entry.code }, does: [does] };
  return { at: { ...at, asks }, says: counted(after, item, entry, facts), does: [does] };
}

function stepChoice(at: ReceiveAt, choice: ReceiveChoice, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  const stay = say(at, { tone: 'look', said: 'receiving.nothingYet' });
  switch (choice.what) {
    case 'takeAnyway':
      return asks.what === 'notOrdered' ? enter(at, { ...asks.goods, takeAnyway: true }, job, facts, stamp) : stay;
    case 'setAside':
      return say({ ...at, asks: GOODS }, { tone: 'look', said: 'receiving.setAside' });
    case 'goods': {
      const item = facts.item(choice.item);
      const pack = item?.packs.find((p) => p.id === choice.pack) ?? item?.packs.find((p) => p.units === ONE) ?? item?.packs[0];
      return item && pack ? enter(at, { ...NOTHING_CARRIED, item, pack, takeAnyway: false }, job, facts, stamp) : stay;
    }
    case 'life':
      if (asks.what !== 'date') return stay;
      return stepChoice(at, { what: 'date', date: addMonths(asks.goods.made ?? facts.today, choice.months) }, job, facts, stamp);
    case 'made':
      if (asks.what !== 'date') return stay;
      return say(
        { ...at, asks: { ...asks, goods: { ...asks.goods, made: choice.date } } },
        { tone: 'look', said: 'receiving.refused', error: { code: 'receiving.dateWanted', item: asks.goods.item.code, lot: asks.lot } },
      );
    case 'serials':
      return asks.what === 'serial' ? enterSerials(at, asks.goods, choice.codes, job, facts, stamp) : stay;
    case 'paper': {
      const doc = choice.doc.trim().slice(0, LONGEST_PAPER);
      return {
        at,
        says: { tone: 'right', said: 'receiving.paper', doc },
        does: [{ kind: 'receive.paper', delivery: job.id, doc, date: choice.date }],
      };
    }
    case 'change': {
      const entry = ownEntries(job, stamp.person).find((e) => e.key === choice.entry);
      if (!entry || entry.serial !== null) return stay;
      const code = (entry.item === null ? entry.code : facts.item(entry.item)?.code) ?? '';
      return say(
        { ...at, asks: { what: 'howMany', entry: entry.key, code } },
        { tone: 'look', said: 'receiving.howMany', code, qty: entry.qty },
      );
    }
    case 'whereTo': {
      const entry = job.entries.find((e) => e.key === choice.entry);
      const item = entry?.item ? facts.item(entry.item) : undefined;
      if (!entry || !item) return stay;
      return say(
        { ...at, asks: { what: 'whereTo', entry: entry.key, item: item.id, code: item.code, qty: null, sscc: entry.sscc } },
        entry.sscc === null
          ? { tone: 'look', said: 'receiving.whichBin', code: item.code, qty: entry.qty }
          : {
              tone: 'look',
              said: 'receiving.unitWhichBin',
              sscc: entry.sscc,
              things: job.entries.filter((e) => e.sscc === entry.sscc).length,
            },
      );
    }
    case 'later': {
      const entry = job.entries.find((e) => e.key === choice.entry);
      if (!entry || entry.bin === null) return say({ ...at, asks: GOODS }, { tone: 'look', said: 'receiving.setAside' });
      if (entry.sscc !== null) return placeUnit(at, entry.sscc, null, job);
      const code = facts.item(entry.item ?? 0)?.code ?? '';
      return {
        at: { ...at, asks: GOODS },
        says: { tone: 'right', said: 'receiving.goesTo', code, qty: entry.qty, bin: null, stays: ZERO },
        does: [{ kind: 'receive.where', delivery: job.id, entry: entry.key, bin: null, qty: entry.qty, stays: ZERO }],
      };
    }
    case 'inspect': {
      const entry = job.entries.find((e) => e.key === choice.entry);
      const item = entry?.item ? facts.item(entry.item) : undefined;
      if (!entry || !item) return stay;
      const finding = entry.finding ?? { checked: entry.qty, failed: [], note: '' };
      return say(
        { ...at, asks: { what: 'inspect', entry: entry.key, item: item.id, code: item.code, finding, reason: null } },
        { tone: 'look', said: 'receiving.found', code: item.code, failed: failedOf(finding), checked: finding.checked },
      );
    }
    case 'failed': {
      if (asks.what !== 'inspect') return stay;
      const next = found(
        at,
        asks,
        withReason(asks.finding, choice.reason, (was) => addQty(was, ONE)),
        job,
        facts,
      );
      // A reason that cannot have one more is still the one that a number is of.
      return next.at.asks.what === 'inspect' ? { ...next, at: { ...next.at, asks: { ...next.at.asks, reason: choice.reason } } } : next;
    }
    case 'sample':
      return asks.what === 'inspect' ? found(at, asks, { ...asks.finding, checked: choice.checked }, job, facts) : stay;
    case 'note':
      return asks.what === 'inspect' ? found(at, asks, { ...asks.finding, note: choice.note.slice(0, LONGEST_NOTE) }, job, facts) : stay;
    case 'inspected': {
      if (asks.what !== 'inspect') return stay;
      const judged = found(at, asks, asks.finding, job, facts);
      if (judged.says.tone === 'wrong' || judged.at.asks.what !== 'inspect') return judged;
      const { checked, failed, note } = asks.finding;
      return {
        at: { ...at, asks: GOODS },
        says: { tone: 'right', said: 'receiving.inspected', code: asks.code, failed: failedOf(asks.finding), checked },
        does: [{ kind: 'receive.inspect', delivery: job.id, entry: asks.entry, checked, failed, note: note.trim() }],
      };
    }
    case 'photo':
      return {
        at,
        says: { tone: 'right', said: 'receiving.photo' },
        does: [{ kind: 'receive.photo', delivery: job.id, entry: choice.entry, jpeg: choice.jpeg }],
      };
    case 'date':
      return asks.what === 'date' ? enter(at, { ...asks.goods, lot: asks.lot, expires: choice.date }, job, facts, stamp) : stay;
    case 'knownDate':
      return asks.what === 'whichDate' ? enter(at, { ...asks.goods, lot: asks.lot, expires: asks.known }, job, facts, stamp) : stay;
    case 'anotherLot': {
      const goods = 'goods' in asks ? { ...asks.goods, lot: null, expires: null, made: null } : lastGoods(job, facts, stamp.person);
      if (!goods || !needsLot(goods.item.tracking)) return stay;
      const { [goods.item.id]: _, ...lots } = at.lots;
      return say({ ...at, lots, asks: { what: 'lot', goods } }, { tone: 'look', said: 'receiving.whichLot', code: goods.item.code });
    }
    case 'closeUnit':
      return at.unit === null ? stay : closeUnit(at, at.unit, job);
    case 'sure': {
      const entry = asks.what === 'sure' ? job.entries.find((e) => e.key === asks.entry) : undefined;
      return asks.what === 'sure' && entry ? change(at, entry, asks.qty, job, facts, stamp) : stay;
    }
    case 'notSure':
    case 'goOn':
      return say({ ...at, asks: GOODS }, { tone: 'look', said: 'receiving.setAside' });
    case 'finish':
      if (job.entries.length === 0)
        return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.empty', number: deliveryName(job) } });
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
  return item && pack ? { ...NOTHING_CARRIED, item, pack, takeAnyway: true } : null;
}

// Many serials of one item at once: all of them, or none where one is here already.
function enterSerials(at: ReceiveAt, goods: Goods, codes: readonly string[], job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { item } = goods;
  if (codes.length === 0 || codes.length > MOST_SERIALS)
    return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.serialRange', why: 'count' } });
  const clashes = clashingSerials(codes, (serial) => serialPlace({ ...goods, serial }, job, facts));
  if (clashes.length > 0) return say(at, { tone: 'wrong', said: 'receiving.serialsClash', code: item.code, clashes });
  const does = codes.map((serial): ReceiveDoes => ({
    kind: 'receive.enter',
    delivery: job.id,
    item: item.id,
    pack: goods.pack.id,
    qty: ONE,
    lot: null,
    expires: null,
    made: null,
    serial,
    sscc: goods.sscc ?? at.unit,
    takeAnyway: goods.takeAnyway,
  }));
  const after = foldDelivery(
    job,
    does.map((d, n) => ({ does: d, stamp: { ...stamp, key: `${stamp.key} ${n}` } })),
  );
  const asks: ReceiveAsks = { what: 'serial', goods: { ...goods, serial: null, labelled: null } };
  return { at: { ...at, asks }, says: counted(after, item, { lot: null, expires: null }, facts), does };
}

function undoLast(at: ReceiveAt, key: string | undefined, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const own = ownEntries(job, stamp.person);
  const entry = key === undefined ? own[0] : own.find((e) => e.key === key);
  if (!entry) return say(at, { tone: 'look', said: 'receiving.nothingYet' });
  const together = entriesTogether(job, entry);
  if (together.length > 1) return undoUnit(at, together, job);
  // What was said of it last goes first: where it lies, and only then that it came.
  const run = key === undefined ? serialRun(job, stamp.person) : [];
  if (entry.bin !== null && run.length > 1) return leaveRun(at, run, job, facts);
  if (entry.bin !== null) return stepChoice(at, { what: 'later', entry: entry.key }, job, facts, stamp);
  const does: ReceiveDoes = { kind: 'receive.takeOut', delivery: job.id, entry: entry.key };
  // A lot that was said by mistake does not come back with the next scan.
  const isLotGone = entry.item !== null && at.lots[entry.item]?.lot === entry.lot && !own.some((e) => e !== entry && e.lot === entry.lot);
  const { [entry.item ?? 0]: _, ...rest } = at.lots;
  const code = (entry.item === null ? entry.code : facts.item(entry.item)?.code) ?? '';
  const asks = at.asks.what === 'serial' ? at.asks : GOODS;
  return {
    at: { ...at, asks, lots: isLotGone ? rest : at.lots },
    says: { tone: 'look', said: 'receiving.takenOut', code, qty: entry.qty },
    does: [does],
  };
}
