import { addQty, formatQty, ONE, parseAmount, parseQty, sumQty, type BinId, type ItemId, type Qty } from '#core/base';
import {
  goodsOfSerial,
  keyedLabel,
  labelFor,
  lotUnread,
  lotUnreadSentence,
  meaningWords,
  type ContentDelta,
  type ContentFact,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type Stamp,
  type Stepped,
} from '#core/floor';
import { needsLot, needsSerialOnArrival, packToBase, readAmount } from '#core/items';
import { decideAdjustment, stockSentence, type AdjustError, type Condition } from '#core/stock';
import type { MoveDoes } from './move-at.ts';

/** What may be said with an adjustment beside its reason: to which paper it belongs, the job it is used up for or comes back from, the day
 *  of the books (null: today), the cost of one base unit of what is added. */
export type AdjustNote = {
  readonly reference: string;
  readonly job: string;
  readonly day: string | null;
  readonly cost: string | null;
};
export const NO_NOTE: AdjustNote = { reference: '', job: '', day: null, cost: null };

/** What is held, or waits to be inspected, somebody has to let go first. */
export type AdjustableCondition = 'sound' | 'failed';
/** What a hand says of stock that is not as the records have it (K1): so many more or fewer of something in a bin, and why. */
export type AdjustDoes = {
  kind: 'adjust.say';
  bin: BinId;
  item: ItemId;
  way: 'plus' | 'minus';
  qty: Qty;
  lot: string | null;
  expires: string | null;
  serial: string | null;
  /** Which of it is taken; what is added is sound. */
  condition: AdjustableCondition;
  reason: string;
} & AdjustNote;
type Goods = {
  readonly item: ItemFact;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serial: string | null;
  readonly condition: AdjustableCondition;
  readonly qty: Qty;
};
export type AdjustAt =
  | { step: 'bin' }
  | { step: 'goods'; bin: BinId }
  | { step: 'lot'; bin: BinId; goods: Goods }
  | { step: 'serial'; bin: BinId; goods: Goods }
  /** More or fewer, how many, and then why. */
  | { step: 'how'; bin: BinId; goods: Goods; way: 'plus' | 'minus' | null }
  /** A lot that nobody knows is added: when does it expire? */
  | { step: 'date'; bin: BinId; goods: Goods; way: 'plus'; reason: string; note: AdjustNote };
export const ADJUST_BEGINS: AdjustAt = { step: 'bin' };

export type AdjustChoice =
  | { what: 'way'; way: 'plus' | 'minus' }
  | { what: 'goods'; content: ContentFact }
  /** `note`: as it was keyed. */
  | { what: 'reason'; reason: string; note?: AdjustNote }
  | { what: 'date'; date: string }
  | { what: 'back' };

export type AdjustSaid =
  | { said: 'adjusting.at'; bin: string }
  | { said: 'adjusting.how'; code: string; qty: Qty; lot: string | null; serial: string | null; there: Qty }
  | { said: 'adjusting.why'; code: string; qty: Qty; way: 'plus' | 'minus' }
  | { said: 'adjusting.done'; code: string; qty: Qty; way: 'plus' | 'minus'; bin: string }
  | { said: 'adjusting.whichLot'; code: string }
  | { said: 'adjusting.whichSerial'; code: string }
  | { said: 'adjusting.whichDate'; code: string; lot: string }
  | { said: 'adjusting.wayFirst' }
  | { said: 'adjusting.notSoMany'; code: string; qty: Qty; there: Qty; bin: string }
  | { said: 'adjusting.handsBin'; bin: string }
  | { said: 'adjusting.notLoose'; code: string; condition: 'held' | 'inspect' }
  | { said: 'adjusting.refused'; error: AdjustError }
  | { said: 'adjusting.lotUnread'; text: string; why: string }
  | { said: 'adjusting.isNot'; meaning: Meaning; wanted: 'bin' | 'goods' | 'lot' | 'serial' }
  | { said: 'adjusting.badNumber'; text: string; code: string; decimals: number }
  | { said: 'adjusting.badCost'; text: string }
  | { said: 'adjusting.back' }
  | { said: 'adjusting.undone' }
  | { said: 'adjusting.nothingToUndo' };

type Does = AdjustDoes | Extract<MoveDoes, { kind: 'move.undo' }>;
type Stepping = Stepped<AdjustAt, AdjustSaid, Does>;
const say = (at: AdjustAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });
const LONGEST_REASON = 200;
const LONGEST_NOTE = 60;

/** What an adjustment does to its bin, as long as the server has not counted it in. */
export function adjustDeltasOf(does: AdjustDoes, facts: Facts): readonly ContentDelta[] {
  const { bin, item, lot, serial, condition } = does;
  const expires = lot === null ? null : (facts.lot(item, lot)?.expires ?? does.expires);
  return [{ bin, item, lot, expires, serial, condition, qty: (does.way === 'plus' ? does.qty : -does.qty) as Qty }];
}

export type OwnAdjustment = { readonly key: string; readonly does: AdjustDoes; readonly at: string };
/** The person's own adjustments on this device that still stand, newest first. */
export function ownAdjustments(acts: readonly { does: Does; stamp: Stamp }[], person: number): readonly OwnAdjustment[] {
  const undone = new Set(acts.map(({ does }) => (does.kind === 'move.undo' ? does.act : null)));
  return acts
    .flatMap(({ does, stamp }) =>
      does.kind === 'adjust.say' && stamp.person === person && !undone.has(stamp.key) ? [{ key: stamp.key, does, at: stamp.at }] : [],
    )
    .toReversed();
}

/** One step of saying that stock is not as the records have it: a bin, goods, how many more or fewer, why.
 *  Shape:  the same goods again are one more pack; a bin begins anew. A lot that nobody knows may be added, never taken away. Nothing is
 *          done before a reason is given. */
export function stepAdjust(
  at: AdjustAt,
  event: HandEvent<AdjustChoice>,
  { facts, own }: { facts: Facts; own: readonly OwnAdjustment[] },
): Stepping {
  switch (event.kind) {
    case 'scan':
      return stepScan(at, event.meaning, facts);
    case 'number':
      return stepNumber(at, event, facts);
    case 'choose':
      return stepChoice(at, event.choice, facts);
    case 'undo': {
      const last = event.key === undefined ? own[0] : own.find((a) => a.key === event.key);
      if (!last) return say(at, { tone: 'look', said: 'adjusting.nothingToUndo' });
      return { at, says: { tone: 'look', said: 'adjusting.undone' }, does: [{ kind: 'move.undo', act: last.key }] };
    }
  }
}

function stepScan(at: AdjustAt, meaning: Meaning, facts: Facts): Stepping {
  if (meaning.kind === 'bin') {
    // What lies on carts and at benches is orders' goods.
    if (['cart', 'packing', 'transit'].includes(meaning.bin.use))
      return say(at, { tone: 'wrong', said: 'adjusting.handsBin', bin: meaning.bin.address });
    return say({ step: 'goods', bin: meaning.bin.id }, { tone: 'right', said: 'adjusting.at', bin: meaning.bin.address });
  }
  if (at.step === 'bin') return say(at, { tone: 'wrong', said: 'adjusting.isNot', meaning, wanted: 'bin' });
  if ((at.step === 'lot' || at.step === 'serial') && meaning.kind !== 'item') return nameLabel(at, meaning, facts);
  if (meaning.kind === 'item') {
    const same = 'goods' in at && at.goods.item.id === meaning.item.id && at.goods.serial === null && !meaning.serial;
    const pack = meaning.labelled ?? packToBase(ONE, meaning.pack) ?? ONE;
    if (same && at.step === 'how' && (meaning.lot === null || meaning.lot === at.goods.lot))
      return how({ ...at, goods: { ...at.goods, qty: addQty(at.goods.qty, pack) } }, facts);
    const { item, lot, expires, serial } = meaning;
    return withGoods(at.bin, { item, lot, expires, serial, condition: 'sound', qty: pack }, facts);
  }
  if (meaning.kind === 'serial') {
    const item = facts.item(goodsOfSerial(meaning.serials, (b) => b === at.bin) ?? 0);
    if (item) return withGoods(at.bin, { item, lot: null, expires: null, serial: meaning.text, condition: 'sound', qty: ONE }, facts);
  }
  return say(at, { tone: 'wrong', said: 'adjusting.isNot', meaning, wanted: 'goods' });
}

function nameLabel(at: Extract<AdjustAt, { step: 'lot' | 'serial' }>, meaning: Meaning, facts: Facts): Stepping {
  const label = labelFor(meaning, at.step, at.goods.item.id);
  if (label === null) return say(at, { tone: 'wrong', said: 'adjusting.isNot', meaning, wanted: at.step });
  const why = at.step === 'lot' ? lotUnread(facts, at.goods.item.id, label) : null;
  if (why !== null) return say(at, { tone: 'wrong', said: 'adjusting.lotUnread', text: label, why });
  return withGoods(at.bin, { ...at.goods, [at.step]: label }, facts);
}

function withGoods(bin: BinId, goods: Goods, facts: Facts): Stepping {
  const { item } = goods;
  if (needsSerialOnArrival(item.tracking) && goods.serial === null)
    return say({ step: 'serial', bin, goods }, { tone: 'look', said: 'adjusting.whichSerial', code: item.code });
  if (!needsLot(item.tracking))
    return how({ step: 'how', bin, goods: meant(bin, { ...goods, lot: null, qty: qtyOf(goods) }, facts), way: null }, facts);
  const lots = new Set(
    facts
      .contents(bin)
      .filter((c) => c.item === item.id)
      .map((c) => c.lot),
  );
  const lot = goods.lot ?? (lots.size === 1 ? ([...lots][0] ?? null) : null);
  if (lot === null) return say({ step: 'lot', bin, goods }, { tone: 'look', said: 'adjusting.whichLot', code: item.code });
  return how({ step: 'how', bin, goods: meant(bin, { ...goods, lot }, facts), way: null }, facts);
}

const qtyOf = (goods: Goods): Qty => (goods.serial !== null && needsSerialOnArrival(goods.item.tracking) ? ONE : goods.qty);

/** How much of goods the records say lies in the bin. Thousandths. */
export function lyingOf(
  bin: number,
  goods: { item: { id: number }; lot: string | null; serial: string | null; condition: Condition },
  facts: Facts,
): Qty {
  const own = facts
    .contents(bin)
    .filter((c) => c.item === goods.item.id && c.lot === goods.lot && c.serial === goods.serial && c.condition === goods.condition);
  return sumQty(own.map((c) => c.qty));
}

// Where nothing of it is sound and something failed, those are meant.
function meant(bin: BinId, goods: Goods, facts: Facts): Goods {
  if (goods.condition !== 'sound' || lyingOf(bin, goods, facts) > 0) return goods;
  return lyingOf(bin, { ...goods, condition: 'failed' }, facts) > 0 ? { ...goods, condition: 'failed' } : goods;
}

function how(at: Extract<AdjustAt, { step: 'how' }>, facts: Facts): Stepping {
  const { item, qty, lot, serial } = at.goods;
  const there = lyingOf(at.bin, at.goods, facts);
  if (at.way !== null) return say(at, { tone: 'look', said: 'adjusting.why', code: item.code, qty, way: at.way });
  return say(at, { tone: 'right', said: 'adjusting.how', code: item.code, qty, lot, serial, there });
}

function stepNumber(at: AdjustAt, keyed: { readonly text: string; readonly closedBy?: 'scan' }, facts: Facts): Stepping {
  if (at.step === 'lot' || at.step === 'serial') {
    const label = keyedLabel(facts, keyed, at.step);
    if (label) return nameLabel(at, label, facts);
  }
  if (at.step !== 'how') return say(at, { tone: 'look', said: 'adjusting.isNot', meaning: unknown(keyed.text), wanted: wantedAt(at) });
  const { code, decimals } = at.goods.item;
  const read = parseQty(keyed.text.replace(',', '.'), decimals);
  const isOne = at.goods.serial !== null && needsSerialOnArrival(at.goods.item.tracking);
  if (!read.ok || read.value <= 0 || (isOne && read.value !== ONE))
    return say(at, { tone: 'wrong', said: 'adjusting.badNumber', text: keyed.text, code, decimals });
  return how({ ...at, goods: { ...at.goods, qty: read.value } }, facts);
}

const unknown = (text: string): Meaning => ({ kind: 'unknown', text, looksLikeGoods: false });
const wantedAt = (at: AdjustAt): 'bin' | 'goods' | 'lot' | 'serial' =>
  at.step === 'bin' || at.step === 'lot' || at.step === 'serial' ? at.step : 'goods';

function stepChoice(at: AdjustAt, choice: AdjustChoice, facts: Facts): Stepping {
  switch (choice.what) {
    case 'back':
      return say(at.step === 'bin' || at.step === 'goods' ? ADJUST_BEGINS : { step: 'goods', bin: at.bin }, {
        tone: 'look',
        said: 'adjusting.back',
      });
    case 'goods': {
      const item = facts.item(choice.content.item);
      if (!item || at.step === 'bin') return say(at, { tone: 'look', said: 'adjusting.back' });
      const { lot, serial, condition } = choice.content;
      if (condition === 'held' || condition === 'inspect')
        return say(at, { tone: 'wrong', said: 'adjusting.notLoose', code: item.code, condition });
      return withGoods(at.bin, { item, lot, expires: null, serial, condition, qty: ONE }, facts);
    }
    case 'way':
      return at.step === 'how' ? how({ ...at, way: choice.way }, facts) : say(at, { tone: 'look', said: 'adjusting.back' });
    case 'reason':
      if (at.step !== 'how' || at.way === null) return say(at, { tone: 'wrong', said: 'adjusting.wayFirst' });
      return finish({ ...at, way: at.way, reason: choice.reason, note: choice.note ?? NO_NOTE }, facts);
    case 'date':
      return at.step === 'date'
        ? finish({ ...at, goods: { ...at.goods, expires: choice.date } }, facts)
        : say(at, { tone: 'look', said: 'adjusting.back' });
  }
}

type Told = {
  readonly bin: BinId;
  readonly goods: Goods;
  readonly way: 'plus' | 'minus';
  readonly reason: string;
  readonly note: AdjustNote;
};

function finish(told: Told, facts: Facts): Stepping {
  const { bin, goods, way } = told;
  const { item, lot, qty } = goods;
  const reason = told.reason.trim().slice(0, LONGEST_REASON);
  const at: AdjustAt = { step: 'how', bin, goods, way };
  if (reason === '') return how(at, facts);
  const keyed = told.note.cost?.trim() || null;
  const cost = keyed === null ? null : readAmount(keyed);
  if (keyed !== null && cost === null) return say(at, { tone: 'wrong', said: 'adjusting.badCost', text: keyed });
  const note: AdjustNote = {
    reference: told.note.reference.trim().slice(0, LONGEST_NOTE),
    job: told.note.job.trim().slice(0, LONGEST_NOTE),
    day: told.note.day || null,
    cost,
  };
  const address = facts.bin(bin)?.address ?? '';
  const isSerial = needsSerialOnArrival(item.tracking);
  const serial = isSerial ? goods.serial : null;
  const decided = decideAdjustment(
    {
      ...{ way, qty, lot, expires: goods.expires, serials: serial === null ? [] : [serial] },
      ...{ cost: cost === null ? null : parseAmount(cost), day: note.day ?? facts.today },
    },
    {
      itemCode: item.code,
      decimals: item.decimals,
      tracking: item.tracking,
      today: facts.today,
      knownLot: lot === null ? null : (facts.lot(item.id, lot) ?? null),
      placeOf: (s) => {
        const there = facts.serialsBy(s).find((x) => x.item === item.id);
        return there ? (facts.bin(there.bin)?.address ?? 'in stock') : null;
      },
    },
  );
  if (!decided.ok && decided.error.code === 'stock.adjustDate' && way === 'plus')
    return say(
      { step: 'date', bin, goods, way, reason, note },
      { tone: 'look', said: 'adjusting.whichDate', code: item.code, lot: lot ?? '' },
    );
  if (!decided.ok) return say(at, { tone: 'wrong', said: 'adjusting.refused', error: decided.error });
  const condition = way === 'plus' ? 'sound' : goods.condition;
  const there = lyingOf(bin, { item, lot: decided.value.lot, serial, condition }, facts);
  if (way === 'minus' && qty > there)
    return say(at, { tone: 'wrong', said: 'adjusting.notSoMany', code: item.code, qty, there, bin: address });
  const { expires } = decided.value;
  const does: AdjustDoes = {
    kind: 'adjust.say',
    bin,
    item: item.id,
    way,
    qty,
    lot: decided.value.lot,
    expires,
    serial,
    condition,
    reason,
    ...note,
  };
  return {
    at: { step: 'goods', bin },
    says: { tone: 'right', said: 'adjusting.done', code: item.code, qty, way, bin: address },
    does: [does],
  };
}

/** The sentence for what a step of adjusting came to. */
export function adjustSaid(s: AdjustSaid): string {
  switch (s.said) {
    case 'adjusting.at':
      return `${s.bin}. Scan what is not as it should be.`;
    case 'adjusting.how': {
      const what = `${s.code}${s.lot ? `, lot ${s.lot}` : ''}${s.serial ? `, serial ${s.serial}` : ''}`;
      return `${formatQty(s.qty)} ${what}; the records have ${formatQty(s.there)} here. More, or fewer?`;
    }
    case 'adjusting.why':
      return `${formatQty(s.qty)} ${s.way === 'plus' ? 'more' : 'fewer'} ${s.code}: why?`;
    case 'adjusting.done':
      return `${formatQty(s.qty)} ${s.way === 'plus' ? 'more' : 'fewer'} ${s.code} in ${s.bin}.`;
    case 'adjusting.whichLot':
      return `Which lot of ${s.code}? Scan or key it.`;
    case 'adjusting.whichSerial':
      return `Scan the serial of the ${s.code}.`;
    case 'adjusting.whichDate':
      return `Nobody knows lot ${s.lot} of ${s.code}. When does it expire?`;
    case 'adjusting.wayFirst':
      return 'Say first whether it is more or fewer.';
    case 'adjusting.notSoMany':
      return `The records have ${formatQty(s.there)} ${s.code} in ${s.bin}: ${formatQty(s.qty)} cannot be taken away.`;
    case 'adjusting.handsBin':
      return `What lies in ${s.bin} is orders’ goods: say it where they are picked or packed.`;
    case 'adjusting.notLoose':
      return `Those ${s.code} ${s.condition === 'held' ? 'are held' : 'wait to be inspected'}: somebody has to let them go first.`;
    case 'adjusting.refused':
      return stockSentence(s.error);
    case 'adjusting.lotUnread':
      return lotUnreadSentence(s);
    case 'adjusting.isNot':
      return `${meaningWords(s.meaning)} ${
        { bin: 'Scan the bin first.', goods: 'Scan goods.', lot: 'Scan or key the lot.', serial: 'Scan the serial.' }[s.wanted]
      }`;
    case 'adjusting.badNumber':
      return `“${s.text}” is no quantity of ${s.code}${s.decimals === 0 ? ', which is counted whole' : ''}.`;
    case 'adjusting.badCost':
      return `“${s.text}” is no amount such as 12.50.`;
    case 'adjusting.back':
      return 'Nothing was changed.';
    case 'adjusting.undone':
      return 'Taken back.';
    case 'adjusting.nothingToUndo':
      return 'Nothing of yours to take back here.';
  }
}
