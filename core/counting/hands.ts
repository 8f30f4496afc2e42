import { formatQty, ONE, parseQty, sumQty, ZERO, type BinId, type ItemId, type Qty } from '#core/base';
import {
  goodsOfSerial,
  isDoubtful,
  isUnlikely,
  keyedLabel,
  labelFor,
  lotUnread,
  lotUnreadSentence,
  meaningWords,
  shortSscc,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type PackFact,
  type Stamp,
  type Stepped,
} from '#core/floor';
import { NOTHING_CARRIED, needsExpiry, needsLot, packToBase, type Carried } from '#core/items';

/** One thing that was found in a bin. `key` is the act that told it. */
export type HandTally = {
  readonly key: string;
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: string | null;
  readonly serial: string | null;
  /** The logistic unit by whose label it was counted; null where it was counted by itself. */
  readonly sscc: string | null;
  readonly qty: Qty;
  readonly person: number;
  readonly at: string;
};
export type CountBin = { readonly bin: BinId; readonly address: string; readonly verdict: 'none' | 'asExpected' | null };

/** A count as a device holds it. Bins in walking order. */
export type CountJob = {
  readonly id: number;
  readonly number: string;
  readonly zone: string;
  readonly blind: boolean;
  readonly state: 'open' | 'posted' | 'thrown';
  readonly bins: readonly CountBin[];
  readonly tallies: readonly HandTally[];
};

export type CountDoes =
  | {
      kind: 'count.tally';
      count: number;
      bin: BinId;
      item: ItemId;
      lot: string | null;
      expires: string | null;
      serial: string | null;
      /** The logistic unit by whose label it is counted. */
      sscc: string | null;
      qty: Qty;
      /** The hand knows that others counted here and adds to it. */
      adds: boolean;
    }
  | { kind: 'count.change'; count: number; tally: string; qty: Qty }
  | { kind: 'count.takeOut'; count: number; tally: string }
  | { kind: 'count.verdict'; count: number; bin: BinId; verdict: 'none' | 'asExpected' }
  /** A bin that was counted already is counted anew: what was found before goes. */
  | { kind: 'count.again'; count: number; bin: BinId };

type Goods = { readonly item: ItemFact; readonly pack: PackFact } & Carried;
export type CountAsks =
  | { what: 'goods' }
  | { what: 'lot'; goods: Goods; doubted?: string }
  | { what: 'date'; goods: Goods; lot: string }
  | { what: 'serial'; goods: Goods; doubted?: string }
  /** The bin was counted before: add to it, or begin it again? */
  | { what: 'visit'; bin: BinId }
  | { what: 'sure'; tally: string; code: string; qty: Qty; expected: Qty };
export type CountAt = {
  readonly bin: BinId | null;
  readonly adds: boolean;
  readonly asks: CountAsks;
  readonly lots: Readonly<Record<number, string>>;
};
export const COUNT_BEGINS: CountAt = { bin: null, adds: false, asks: { what: 'goods' }, lots: {} };

export type CountChoice =
  | { what: 'add' }
  | { what: 'again' }
  | { what: 'verdict'; verdict: 'none' | 'asExpected' }
  | { what: 'anotherLot' }
  | { what: 'date'; date: string }
  | { what: 'sure' }
  | { what: 'back' };

export type CountingSaid =
  | { said: 'counting.found'; code: string; bin: string; total: Qty; lot: string | null; serial: string | null }
  | { said: 'counting.at'; bin: string; next: boolean }
  | { said: 'counting.sameBin'; bin: string }
  | { said: 'counting.visit'; bin: string; pieces: Qty; things: number }
  | { said: 'counting.notInCount'; bin: string; number: string }
  | { said: 'counting.binFirst' }
  | { said: 'counting.whichLot'; code: string; bin: string }
  | { said: 'counting.whichSerial'; code: string }
  | { said: 'counting.whichDate'; code: string; lot: string }
  | { said: 'counting.doubted'; text: string; wanted: 'lot' | 'serial' }
  | { said: 'counting.itsGoods'; code: string; wanted: 'lot' | 'serial' }
  | { said: 'counting.serialTwice'; code: string; serial: string; bin: string }
  | { said: 'counting.lotUnread'; text: string; why: string }
  | { said: 'counting.badLabel'; text: string }
  | { said: 'counting.isNot'; meaning: Meaning; wanted: 'bin' | 'goods' | 'lot' | 'serial' }
  | { said: 'counting.sure'; code: string; qty: Qty }
  | { said: 'counting.soMany'; code: string; qty: Qty; wanted: 'lot' | 'date' }
  | { said: 'counting.badNumber'; text: string; code: string; decimals: number }
  | { said: 'counting.verdict'; bin: string; verdict: 'none' | 'asExpected' }
  | { said: 'counting.again'; bin: string }
  | { said: 'counting.add'; bin: string }
  /** `stands`: where the records say that it does, where that is another bin. */
  | { said: 'counting.unit'; sscc: string; things: number; bin: string; stands: string | null }
  | { said: 'counting.unitUnknown'; sscc: string }
  | { said: 'counting.unitTwice'; sscc: string; bin: string }
  | { said: 'counting.takenOut'; code: string; qty: Qty }
  | { said: 'counting.nothingOfYours' }
  | { said: 'counting.closed'; number: string; state: 'posted' | 'thrown' };

const GOODS: CountAsks = { what: 'goods' };
const LONGEST_LABEL = 40;

/** The count with what this device told, whether or not the server has counted it in already.
 *  Law:    folding an act twice is folding it once. */
export function foldCount(job: CountJob, acts: readonly { does: CountDoes; stamp: Stamp }[]): CountJob {
  if (acts.length === 0) return job;
  const tallies = new Map(job.tallies.map((t) => [t.key, t]));
  const bins = new Map(job.bins.map((b) => [b.bin, b]));
  const verdict = (bin: BinId, said: CountBin['verdict']): void => {
    const was = bins.get(bin);
    if (was && was.verdict !== said) bins.set(bin, { ...was, verdict: said });
  };
  // What was told of the bin before that moment goes; what came later stands, and is no part of it.
  const beginAgain = (bin: BinId, at: string): boolean => {
    let later = false;
    for (const [key, t] of tallies) {
      if (t.bin !== bin) continue;
      if (t.at > at) later = true;
      else tallies.delete(key);
    }
    return later;
  };
  for (const { does, stamp } of acts) {
    if (does.count !== job.id) continue;
    switch (does.kind) {
      case 'count.tally':
        verdict(does.bin, null);
        if (tallies.has(stamp.key)) break;
        tallies.set(stamp.key, {
          key: stamp.key,
          bin: does.bin,
          item: does.item,
          lot: does.lot,
          serial: does.serial,
          sscc: does.sscc,
          qty: does.qty,
          person: stamp.person,
          at: stamp.at,
        });
        break;
      case 'count.change': {
        const tally = tallies.get(does.tally);
        if (tally) tallies.set(does.tally, { ...tally, qty: does.qty });
        break;
      }
      case 'count.takeOut':
        tallies.delete(does.tally);
        break;
      case 'count.verdict':
        verdict(does.bin, beginAgain(does.bin, stamp.at) ? null : does.verdict);
        break;
      case 'count.again':
        beginAgain(does.bin, stamp.at);
        verdict(does.bin, null);
        break;
    }
  }
  return { ...job, tallies: [...tallies.values()], bins: [...bins.values()] };
}

/** Whether somebody looked into a bin: blank is not zero. */
export function isCounted(job: CountJob, bin: number): boolean {
  return job.tallies.some((t) => t.bin === bin) || job.bins.some((b) => b.bin === bin && b.verdict !== null);
}

/** What this person told of a bin, newest first. */
export function ownTallies(job: CountJob, person: number, bin: number | null): readonly HandTally[] {
  return job.tallies
    .filter((t) => t.person === person && (bin === null || t.bin === bin))
    .toReversed()
    .sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
}

type Stepping = Stepped<CountAt, CountingSaid, CountDoes>;
const say = (at: CountAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

/** One step of counting (J2, J4): a bin, then what lies in it; the next bin closes this one.
 *  Shape:  a bin that was counted before is asked about: add, or begin again. What a step waits for decides what a scan is. */
export function stepCount(at: CountAt, event: HandEvent<CountChoice>, job: CountJob, facts: Facts, stamp: Stamp): Stepping {
  if (job.state !== 'open') return say(at, { tone: 'wrong', said: 'counting.closed', number: job.number, state: job.state });
  switch (event.kind) {
    case 'scan':
      return stepScan(at, event.meaning, job, facts, stamp);
    case 'number':
      return stepKeyed(at, event, job, facts, stamp);
    case 'choose':
      return stepChoice(at, event.choice, job, facts, stamp);
    case 'undo': {
      const own = ownTallies(job, stamp.person, at.bin);
      const tally = event.key === undefined ? own[0] : own.find((t) => t.key === event.key);
      if (!tally) return say(at, { tone: 'look', said: 'counting.nothingOfYours' });
      const { [tally.item]: _, ...lots } = at.lots;
      // What one label counted goes together.
      const gone = tally.sscc === null ? [tally] : own.filter((t) => t.sscc === tally.sscc);
      return {
        at: { ...at, asks: at.asks.what === 'serial' ? at.asks : GOODS, lots },
        says: { tone: 'look', said: 'counting.takenOut', code: facts.item(tally.item)?.code ?? '', qty: sumQty(gone.map((t) => t.qty)) },
        does: gone.map((t) => ({ kind: 'count.takeOut', count: job.id, tally: t.key })),
      };
    }
  }
}

function stepScan(at: CountAt, meaning: Meaning, job: CountJob, facts: Facts, stamp: Stamp): Stepping {
  if (meaning.kind === 'bin') return scanBin(at, meaning.bin.id, meaning.bin.address, job);
  if (at.bin === null || at.asks.what === 'visit') return say(at, { tone: 'wrong', said: 'counting.binFirst' });
  const { asks } = at;
  if (meaning.kind !== 'unit' && (asks.what === 'lot' || asks.what === 'serial')) {
    const wanted = asks.what;
    if (meaning.kind === 'item') {
      const same = meaning.item.id === asks.goods.item.id;
      if (same && !(wanted === 'lot' ? meaning.lot : meaning.serial))
        return say(at, { tone: 'look', said: 'counting.itsGoods', code: asks.goods.item.code, wanted });
      return find(at, meaning, job, facts, stamp);
    }
    const label = labelFor(meaning, wanted, asks.goods.item.id);
    const why = wanted === 'lot' && label !== null ? lotUnread(facts, asks.goods.item.id, label) : null;
    if (label !== null && why !== null) return say(at, { tone: 'wrong', said: 'counting.lotUnread', text: label, why });
    if (label !== null && isDoubtful(meaning, asks.doubted))
      return say({ ...at, asks: { ...asks, doubted: label } }, { tone: 'look', said: 'counting.doubted', text: label, wanted });
    if (label !== null) return find(at, { ...asks.goods, [wanted]: label }, job, facts, stamp);
    if (meaning.kind === 'unknown') return say(at, { tone: 'wrong', said: 'counting.badLabel', text: meaning.text });
    return say(at, { tone: 'wrong', said: 'counting.isNot', meaning, wanted });
  }
  if (meaning.kind === 'unit') return countUnit(at, meaning, job, facts);
  if (meaning.kind === 'item') return find(at, meaning, job, facts, stamp);
  if (meaning.kind === 'serial') {
    const item = facts.item(goodsOfSerial(meaning.serials, (b) => b === at.bin) ?? 0);
    const [pack] = item?.packs ?? [];
    if (item && pack) return find(at, { ...NOTHING_CARRIED, item, pack, serial: meaning.text }, job, facts, stamp);
  }
  return say(at, { tone: 'wrong', said: 'counting.isNot', meaning, wanted: 'goods' });
}

function scanBin(at: CountAt, bin: BinId, address: string, job: CountJob): Stepping {
  if (!job.bins.some((b) => b.bin === bin))
    return say(at, { tone: 'wrong', said: 'counting.notInCount', bin: address, number: job.number });
  // Whoever scans the bin in which they stand has not left it.
  if (at.bin === bin && at.asks.what !== 'visit')
    return say({ ...at, asks: GOODS }, { tone: 'look', said: 'counting.sameBin', bin: address });
  if (isCounted(job, bin)) {
    const there = job.tallies.filter((t) => t.bin === bin);
    return say(
      { bin, adds: false, asks: { what: 'visit', bin }, lots: {} },
      { tone: 'look', said: 'counting.visit', bin: address, pieces: sumQty(there.map((t) => t.qty)), things: there.length },
    );
  }
  return say({ bin, adds: false, asks: GOODS, lots: {} }, { tone: 'right', said: 'counting.at', bin: address, next: at.bin !== null });
}

const addressOf = (job: CountJob, bin: number | null): string => job.bins.find((b) => b.bin === bin)?.address ?? '';

function find(at: CountAt, scanned: Goods, job: CountJob, facts: Facts, stamp: Stamp): Stepping {
  const { item } = scanned;
  const bin = at.bin as BinId;
  const where = addressOf(job, bin);
  const lot = needsLot(item.tracking) ? (scanned.lot ?? at.lots[item.id] ?? null) : null;
  const goods: Goods = { ...scanned, lot };
  if (needsLot(item.tracking)) {
    if (lot === null)
      return say({ ...at, asks: { what: 'lot', goods } }, { tone: 'look', said: 'counting.whichLot', code: item.code, bin: where });
    const known = facts.lot(item.id, lot);
    const told = job.tallies.some((t) => t.item === item.id && t.lot === lot);
    if (needsExpiry(item.tracking) && !known && !told && !goods.expires)
      return say({ ...at, asks: { what: 'date', goods, lot } }, { tone: 'look', said: 'counting.whichDate', code: item.code, lot });
  }
  const isSerial = item.tracking === 'serial';
  if (isSerial && !goods.serial)
    return say({ ...at, asks: { what: 'serial', goods } }, { tone: 'look', said: 'counting.whichSerial', code: item.code });
  const twice = isSerial ? job.tallies.find((t) => t.item === item.id && t.serial === goods.serial) : undefined;
  if (twice)
    return say(at, {
      tone: 'wrong',
      said: 'counting.serialTwice',
      code: item.code,
      serial: goods.serial ?? '',
      bin: addressOf(job, twice.bin),
    });
  const qty = isSerial ? ONE : (goods.labelled ?? packToBase(ONE, goods.pack) ?? ONE);
  const serial = isSerial ? goods.serial : null;
  const does: CountDoes = {
    kind: 'count.tally',
    count: job.id,
    bin,
    item: item.id,
    lot,
    expires: goods.expires,
    serial,
    sscc: null,
    qty,
    adds: at.adds,
  };
  const after = foldCount(job, [{ does, stamp }]);
  return {
    at: {
      ...at,
      asks: isSerial ? { what: 'serial', goods: { ...goods, serial: null } } : GOODS,
      lots: lot === null ? at.lots : { ...at.lots, [item.id]: lot },
    },
    says: { tone: 'right', said: 'counting.found', code: item.code, bin: where, total: totalIn(after, bin, item.id, lot), lot, serial },
    does: [does],
  };
}

// A unit is counted by its label alone (J8): all that the records say is in it was found here. One that was opened is counted piece by
// piece.
function countUnit(at: CountAt, unit: Extract<Meaning, { kind: 'unit' }>, job: CountJob, facts: Facts): Stepping {
  const { sscc, here } = unit;
  const bin = at.bin as BinId;
  if (!here) return say(at, { tone: 'wrong', said: 'counting.unitUnknown', sscc });
  const before = job.tallies.find((t) => t.sscc === sscc);
  if (before) return say(at, { tone: 'wrong', said: 'counting.unitTwice', sscc, bin: addressOf(job, before.bin) });
  const stands = facts.bin(here.bin)?.address ?? '';
  const counted = job.tallies.find((t) => t.bin === bin && t.serial !== null && here.goods.some((g) => g.serial === t.serial));
  if (counted)
    return say(at, {
      tone: 'wrong',
      said: 'counting.serialTwice',
      code: facts.item(counted.item)?.code ?? '',
      serial: counted.serial ?? '',
      bin: addressOf(job, counted.bin),
    });
  return {
    at: { ...at, asks: GOODS },
    says: {
      tone: here.bin === bin ? 'right' : 'look',
      said: 'counting.unit',
      sscc,
      things: here.goods.length,
      bin: addressOf(job, bin),
      stands: here.bin === bin ? null : stands,
    },
    does: here.goods.map((g): CountDoes => {
      const { item, lot, expires, serial, qty } = g;
      return { kind: 'count.tally', count: job.id, bin, item, lot, expires, serial, sscc, qty, adds: at.adds };
    }),
  };
}

/** How much of an item and lot was found in a bin. Thousandths of the base unit. */
export function totalIn(job: CountJob, bin: number, item: number, lot: string | null): Qty {
  return sumQty(job.tallies.filter((t) => t.bin === bin && t.item === item && t.lot === lot).map((t) => t.qty));
}

// As in receiving: digits are the label that is asked for, unless the next scan closed them; then they say how many of what is asked about.
function stepKeyed(
  at: CountAt,
  keyed: { readonly text: string; readonly closedBy?: 'scan' },
  job: CountJob,
  facts: Facts,
  stamp: Stamp,
): Stepping {
  const { asks } = at;
  if (!('goods' in asks)) return stepNumber(at, keyed.text, job, facts, stamp);
  const label = asks.what === 'date' ? null : keyedLabel(facts, keyed, asks.what);
  if (label) return stepScan(at, label, job, facts, stamp);
  const { code, decimals } = asks.goods.item;
  const read = parseQty(keyed.text.replace(',', '.'), decimals);
  if (asks.what === 'serial' || !read.ok || read.value <= 0 || isUnlikely(read.value, ZERO))
    return say(at, { tone: 'wrong', said: 'counting.badNumber', text: keyed.text, code, decimals });
  const goods: Goods = { ...asks.goods, labelled: read.value };
  return say({ ...at, asks: { ...asks, goods } }, { tone: 'look', said: 'counting.soMany', code, qty: read.value, wanted: asks.what });
}

function stepNumber(at: CountAt, text: string, job: CountJob, facts: Facts, stamp: Stamp): Stepping {
  const [last] = at.bin === null ? [] : ownTallies(job, stamp.person, at.bin);
  const item = facts.item(last?.item ?? 0);
  if (!last || !item) return say(at, { tone: 'look', said: at.bin === null ? 'counting.binFirst' : 'counting.nothingOfYours' });
  const read = parseQty(text.replace(',', '.'), item.decimals);
  if (!read.ok || read.value < 0 || last.serial !== null)
    return say(at, { tone: 'wrong', said: 'counting.badNumber', text, code: item.code, decimals: item.decimals });
  const expected = job.blind
    ? ZERO
    : sumQty(
        facts
          .contents(last.bin)
          .filter((c) => c.item === item.id)
          .map((c) => c.qty),
      );
  if (isUnlikely(read.value, expected))
    return say(
      { ...at, asks: { what: 'sure', tally: last.key, code: item.code, qty: read.value, expected } },
      { tone: 'look', said: 'counting.sure', code: item.code, qty: read.value },
    );
  return change(at, last, read.value, job, facts, stamp);
}

function change(at: CountAt, tally: HandTally, qty: Qty, job: CountJob, facts: Facts, stamp: Stamp): Stepping {
  const does: CountDoes = { kind: 'count.change', count: job.id, tally: tally.key, qty };
  const after = foldCount(job, [{ does, stamp }]);
  return {
    at: { ...at, asks: at.asks.what === 'sure' ? GOODS : at.asks },
    says: {
      tone: 'right',
      said: 'counting.found',
      code: facts.item(tally.item)?.code ?? '',
      bin: addressOf(job, tally.bin),
      total: totalIn(after, tally.bin, tally.item, tally.lot),
      lot: tally.lot,
      serial: null,
    },
    does: [does],
  };
}

function stepChoice(at: CountAt, choice: CountChoice, job: CountJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks, bin } = at;
  const stay = say(at, { tone: 'look', said: 'counting.binFirst' });
  switch (choice.what) {
    case 'add':
      return say({ ...at, adds: true, asks: GOODS }, { tone: 'look', said: 'counting.add', bin: addressOf(job, bin) });
    case 'again':
      if (bin === null) return stay;
      return {
        at: { bin, adds: false, asks: GOODS, lots: {} },
        says: { tone: 'look', said: 'counting.again', bin: addressOf(job, bin) },
        does: [{ kind: 'count.again', count: job.id, bin }],
      };
    case 'verdict':
      if (bin === null) return stay;
      return {
        at: { ...at, asks: GOODS },
        says: { tone: 'right', said: 'counting.verdict', bin: addressOf(job, bin), verdict: choice.verdict },
        does: [{ kind: 'count.verdict', count: job.id, bin, verdict: choice.verdict }],
      };
    case 'anotherLot': {
      const [last] = bin === null ? [] : ownTallies(job, stamp.person, bin);
      const item = 'goods' in asks ? asks.goods.item : facts.item(last?.item ?? 0);
      const pack = 'goods' in asks ? asks.goods.pack : item?.packs[0];
      if (!item || !pack || !needsLot(item.tracking)) return stay;
      const { [item.id]: _, ...lots } = at.lots;
      const goods: Goods = { ...NOTHING_CARRIED, item, pack };
      return say(
        { ...at, lots, asks: { what: 'lot', goods } },
        { tone: 'look', said: 'counting.whichLot', code: item.code, bin: addressOf(job, bin) },
      );
    }
    case 'date':
      return asks.what === 'date' ? find(at, { ...asks.goods, lot: asks.lot, expires: choice.date }, job, facts, stamp) : stay;
    case 'sure': {
      const tally = asks.what === 'sure' ? job.tallies.find((t) => t.key === asks.tally) : undefined;
      return asks.what === 'sure' && tally ? change(at, tally, asks.qty, job, facts, stamp) : stay;
    }
    case 'back':
      return say({ ...at, bin: asks.what === 'visit' ? null : bin, asks: GOODS }, { tone: 'look', said: 'counting.nothingOfYours' });
  }
}

/** The sentence for what a step of counting came to. */
export function countingSaid(s: CountingSaid): string {
  switch (s.said) {
    case 'counting.found':
      return `${s.code}: ${formatQty(s.total)} in ${s.bin}${s.lot ? `, lot ${s.lot}` : ''}${s.serial ? `, serial ${s.serial}` : ''}`;
    case 'counting.at':
      return `Counting ${s.bin}.`;
    case 'counting.sameBin':
      return `You are counting ${s.bin}. Scan what lies in it.`;
    case 'counting.visit':
      return `${s.bin} was counted already${s.things > 0 ? `: ${formatQty(s.pieces)} pieces` : ''}. Add to it, or begin it again?`;
    case 'counting.notInCount':
      return `Bin ${s.bin} is not part of count ${s.number}.`;
    case 'counting.binFirst':
      return 'Scan the bin first.';
    case 'counting.whichLot':
      return `Which lot of ${s.code} is in ${s.bin}? Scan or key it.`;
    case 'counting.whichSerial':
      return `${s.code} is kept by serial. Scan each one’s serial.`;
    case 'counting.whichDate':
      return `Lot ${s.lot} of ${s.code} is new here. Key the date it expires.`;
    case 'counting.doubted':
      return `${s.text} looks like the code of goods that nobody knows. Scan it again if it is the ${s.wanted}.`;
    case 'counting.itsGoods':
      return `That is the code of ${s.code} itself. ${s.wanted === 'lot' ? 'Scan or key its lot.' : 'Scan its serial.'}`;
    case 'counting.serialTwice':
      return `Serial ${s.serial} of ${s.code} was counted already, in ${s.bin}.`;
    case 'counting.lotUnread':
      return lotUnreadSentence(s);
    case 'counting.badLabel':
      return `“${s.text.slice(0, 30)}…” is no lot or serial: at most ${LONGEST_LABEL} letters.`;
    case 'counting.isNot':
      return `${meaningWords(s.meaning)} ${
        { bin: 'Scan a bin.', goods: 'Scan goods, or the next bin.', lot: 'Scan or key the lot.', serial: 'Scan the serial.' }[s.wanted]
      }`;
    case 'counting.sure':
      return `${formatQty(s.qty)} ${s.code}? Say that it is so, or key it again.`;
    case 'counting.soMany':
      return `${formatQty(s.qty)} ${s.code}. ${s.wanted === 'lot' ? 'Which lot?' : 'When do they expire?'}`;
    case 'counting.badNumber':
      return `“${s.text}” is no quantity of ${s.code}${s.decimals === 0 ? ', which is counted whole' : ''}.`;
    case 'counting.verdict':
      return s.verdict === 'none' ? `${s.bin}: none found.` : `${s.bin}: as expected.`;
    case 'counting.again':
      return `${s.bin} begins again. Scan what lies in it.`;
    case 'counting.add':
      return `What you scan now is added in ${s.bin}.`;
    case 'counting.unit':
      return `Unit ${shortSscc(s.sscc)} with ${s.things} ${s.things === 1 ? 'thing' : 'things'} found in ${s.bin}${
        s.stands === null ? '' : `; the records have it in ${s.stands}`
      }.`;
    case 'counting.unitUnknown':
      return `Nobody knows what is in unit ${shortSscc(s.sscc)}. Count what is in it.`;
    case 'counting.unitTwice':
      return `Unit ${shortSscc(s.sscc)} was counted already, in ${s.bin}.`;
    case 'counting.takenOut':
      return `Taken out again: ${formatQty(s.qty)} ${s.code}.`;
    case 'counting.nothingOfYours':
      return 'Nothing of yours to change here.';
    case 'counting.closed':
      return `Count ${s.number} is ${s.state === 'posted' ? 'posted' : 'thrown away'}; nothing more can be entered.`;
  }
}
