import { addQty, formatQty, ONE, parseQty, type BinId, type Qty } from '#core/base';
import {
  goodsOfSerial,
  isUnlikely,
  keyedLabel,
  labelFor,
  lotUnread,
  lotUnreadSentence,
  meaningWords,
  moveDeltas,
  shortSscc,
  type BalanceFact,
  type BinFact,
  type ContentDelta,
  type ContentFact,
  type Facts,
  type HandEvent,
  type Meaning,
  type Stamp,
} from '#core/floor';
import { packToBase } from '#core/items';
import { compareFirstExpired } from '#core/lots';
import { placesSentence } from '#core/places';
import type { Condition } from '#core/stock';
import { PUT_AWAY_WHY } from './put-away.ts';
import { doubtOf, doubtWords } from './doubt.ts';
import type { Carried, MoveAt, MoveChoice, MoveDoes, MoveSource, MovesSaid, Stepping } from './move-at.ts';
import { suggestFor } from './suggest.ts';
import { putUnit, scanUnit, stepWithUnit } from './step-unit.ts';

const say = (at: MoveAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

/** What is done to the bins by acts of this device, as long as the server has not counted it in. `inUnit`: what lies in a unit, as the
 *  house
 *  told it last. */
export function moveDeltasOf(does: MoveDoes, facts: Facts, inUnit: (sscc: string) => readonly BalanceFact[]): readonly ContentDelta[] {
  if (does.kind === 'move.undo') return [];
  if (does.kind === 'move.unit') return inUnit(does.sscc).flatMap((g) => moveDeltas(g, does.from, does.to));
  const expires = does.lot === null ? null : (facts.lot(does.item, does.lot)?.expires ?? null);
  const [from, to] = moveDeltas({ ...does, expires }, does.from, does.to);
  return from && to ? [from, does.newLot === null ? to : { ...to, lot: does.newLot }] : [];
}

/** A move that a person made on this device and may take back. */
export type OwnMove = { readonly key: string; readonly does: Exclude<MoveDoes, { kind: 'move.undo' }>; readonly at: string };

/** The person's own moves that still stand, newest first. */
export function ownMoves(acts: readonly { does: MoveDoes; stamp: Stamp }[], person: number): readonly OwnMove[] {
  const undone = new Set(acts.map(({ does }) => (does.kind === 'move.undo' ? does.act : null)));
  return acts
    .flatMap(({ does, stamp }) =>
      (does.kind === 'move.put' || does.kind === 'move.unit') && stamp.person === person && !undone.has(stamp.key)
        ? [{ key: stamp.key, does, at: stamp.at }]
        : [],
    )
    .toReversed();
}

/** One step of carrying goods (I1, I2): from, goods, to.
 *  Shape:  `source` says whether the first bin is scanned or known. The same goods scanned again are one more pack; anything else in a
 *          full hand is refused, never exchanged. A bin that a rule, an expiry or its use speaks against is asked about once. */
export function stepMove(
  at: MoveAt,
  event: HandEvent<MoveChoice>,
  world: { facts: Facts; source: MoveSource; own: readonly OwnMove[] },
): Stepping {
  const { facts, source, own } = world;
  const begin: MoveAt = source === 'bin' ? { step: 'from' } : { step: 'goods', from: null };
  switch (event.kind) {
    case 'scan':
      if (at.step === 'unit' || at.step === 'unitSure') return stepWithUnit(at, event.meaning, facts, source);
      if (at.step === 'newLot') return nameLot(at.hand, event.meaning, facts, source);
      return stepScan(at, event.meaning, facts, source);
    case 'number':
      if (at.step === 'newLot') return nameLot(at.hand, keyedLabel(facts, event, 'lot') ?? unknownText(event.text), facts, source);
      return stepNumber(at, event.text, facts, source);
    case 'choose': {
      const { choice } = event;
      if (at.step === 'unit' || at.step === 'unitSure') {
        if (choice.what === 'sure' && at.step === 'unitSure')
          return putUnit(at.unit, at.to, facts, source, doubtWords(at.doubt, choice.reason));
        if (choice.what === 'back' && at.step === 'unitSure')
          return say({ step: 'unit', unit: at.unit }, { tone: 'look', said: 'moves.laidBack' });
        return say(begin, { tone: 'look', said: 'moves.laidBack' });
      }
      if (choice.what === 'back') {
        const from = at.step === 'goods' || at.step === 'from' ? null : 'hand' in at ? at.hand.from : at.from;
        const there: MoveAt =
          at.step === 'sure' || at.step === 'newLot'
            ? { step: 'to', hand: at.hand }
            : source === 'bin' && from
              ? { step: 'goods', from }
              : begin;
        return say(there, { tone: 'look', said: 'moves.laidBack' });
      }
      if (choice.what === 'from') return takeFrom(choice.bin, facts);
      if (choice.what === 'content') return take(choice.content, choice.content.qty, facts, source);
      if (choice.what === 'lot' && at.step === 'lot') {
        const meant = at.lots.find((l) => l.lot === choice.lot);
        if (meant) return take(meant, source === 'bin' ? at.qty : meant.qty, facts, source);
      }
      if (choice.what === 'newLot' && at.step === 'to' && at.hand.lot !== null)
        return say(
          { step: 'newLot', hand: at.hand },
          { tone: 'look', said: 'moves.whichNewLot', code: at.hand.item.code, lot: at.hand.lot },
        );
      if (choice.what === 'sure' && at.step === 'sure') return put(at.hand, at.to, facts, source, doubtWords(at.doubt, choice.reason));
      if (choice.what === 'sure' && at.step === 'absent') return inHand(at.hand, facts, source);
      return say(at, { tone: 'look', said: 'moves.firstGoods' });
    }
    case 'undo': {
      const last = event.key === undefined ? own[0] : own.find((m) => m.key === event.key);
      if (!last) return say(at, { tone: 'look', said: 'moves.nothingToUndo' });
      return { at, says: { tone: 'look', said: 'moves.undone' }, does: [{ kind: 'move.undo', act: last.key }] };
    }
  }
}

function takeFrom(bin: BinId, facts: Facts): Stepping {
  const found = facts.bin(bin);
  const holds = new Set(facts.contents(bin).map((c) => c.item)).size;
  return say({ step: 'goods', from: bin }, { tone: 'right', said: 'moves.from', bin: found?.address ?? '', holds });
}

type WithoutUnit = Exclude<MoveAt, { step: 'unit' | 'unitSure' | 'newLot' }>;
const unknownText = (text: string): Meaning => ({ kind: 'unknown', text: text.trim(), looksLikeGoods: false });

// Goods that are set apart or repacked get a new number with the move (E6); the tie to the old one is the house's to keep.
function nameLot(hand: Carried, meaning: Meaning, facts: Facts, source: MoveSource): Stepping {
  const lot = labelFor(meaning, 'lot', hand.item.id);
  const at: MoveAt = { step: 'newLot', hand };
  if (lot === null) return say(at, { tone: 'wrong', said: 'moves.isNot', meaning, wanted: 'lot' });
  if (lot === hand.lot) return say(at, { tone: 'wrong', said: 'moves.sameLot', lot });
  const why = lotUnread(facts, hand.item.id, lot);
  if (why !== null) return say(at, { tone: 'wrong', said: 'moves.lotUnread', text: lot, why });
  const next = inHand({ ...hand, newLot: lot }, facts, source);
  return { ...next, says: { tone: 'right', said: 'moves.newLot', code: hand.item.code, lot: hand.lot ?? '', newLot: lot } };
}

function stepScan(at: WithoutUnit, meaning: Meaning, facts: Facts, source: MoveSource): Stepping {
  if (at.step === 'lot' && meaning.kind !== 'bin' && meaning.kind !== 'item') {
    const meant = at.lots.find((l) => l.lot === meaning.text);
    if (meant) return take(meant, source === 'bin' ? at.qty : meant.qty, facts, source);
    if (meaning.kind === 'unknown' || meaning.kind === 'lot')
      return say(at, { tone: 'wrong', said: 'moves.noSuchLot', text: meaning.text, lots: at.lots.map((l) => l.lot ?? 'none') });
    return say(at, { tone: 'wrong', said: 'moves.isNot', meaning, wanted: 'lot' });
  }
  switch (meaning.kind) {
    case 'bin':
      return scanBin(at, meaning.bin, facts, source);
    case 'unit':
      if (at.step === 'to' || at.step === 'sure' || at.step === 'absent')
        return say(at, {
          tone: 'wrong',
          said: 'moves.handIsFull',
          code: at.hand.item.code,
          qty: at.hand.qty,
          scanned: `unit ${meaning.sscc}`,
        });
      return scanUnit(at, meaning, facts, source);
    case 'item':
    case 'serial':
      return scanGoods(at, meaning, facts, source);
    default:
      return say(at, { tone: 'wrong', said: 'moves.isNot', meaning, wanted: wantedAt(at) });
  }
}

const wantedAt = (at: WithoutUnit): 'from' | 'goods' | 'to' | 'lot' | 'serial' =>
  at.step === 'absent' || at.step === 'sure' ? 'to' : at.step;

function scanBin(at: WithoutUnit, bin: BinFact, facts: Facts, source: MoveSource): Stepping {
  if (at.step === 'sure' && at.to === bin.id) return put(at.hand, bin.id, facts, source, doubtWords(at.doubt));
  if (at.step === 'to' || at.step === 'sure') return putInto(at.hand, bin, facts, source);
  if (source === 'bin') return takeFrom(bin.id, facts);
  return say(at, { tone: 'look', said: 'moves.isNot', meaning: { kind: 'bin', text: bin.address, bin }, wanted: 'goods' });
}

function scanGoods(at: WithoutUnit, meaning: Extract<Meaning, { kind: 'item' | 'serial' }>, facts: Facts, source: MoveSource): Stepping {
  if (at.step === 'from') return say(at, { tone: 'wrong', said: 'moves.firstBin' });
  const hand = at.step === 'to' || at.step === 'sure' || at.step === 'absent' ? at.hand : null;
  const from = hand ? hand.from : (at as Extract<MoveAt, { step: 'goods' | 'lot' | 'serial' }>).from;
  const isHere = (bin: number): boolean => (from === null ? facts.bin(bin)?.use === source : bin === from);
  const item = meaning.kind === 'item' ? meaning.item : facts.item(goodsOfSerial(meaning.serials, isHere) ?? 0);
  if (!item) return say(at, { tone: 'wrong', said: 'moves.isNot', meaning, wanted: wantedAt(at) });
  const serial = meaning.kind === 'serial' ? meaning.text : meaning.serial;
  const lot = meaning.kind === 'item' ? meaning.lot : null;
  const pack = meaning.kind === 'item' ? (meaning.labelled ?? packToBase(ONE, meaning.pack) ?? ONE) : ONE;
  if (hand) {
    const again = hand.item.id === item.id && !serial && hand.serial === null && (lot === null || lot === hand.lot);
    if (!again)
      return say(at, { tone: 'wrong', said: 'moves.handIsFull', code: hand.item.code, qty: hand.qty, scanned: serial ?? item.code });
    // From arrivals the whole lies in the hand at first; a scan then only says that it is the right thing.
    if (source !== 'bin') return inHand(hand, facts, source);
    return inHand({ ...hand, qty: addQty(hand.qty, pack) }, facts, source, true);
  }
  const lying = sourcesOf(from, item.id, facts, source).filter(
    (c) => (serial === null || c.serial === serial) && (lot === null || c.lot === lot),
  );
  if (lying.length === 0) {
    if (source !== 'bin' || from === null) return say(at, { tone: 'wrong', said: 'moves.notAtSource', code: serial ?? item.code, source });
    const absent: Carried = {
      from,
      item,
      lot,
      expires: lot === null ? null : (facts.lot(item.id, lot)?.expires ?? null),
      serial,
      condition: 'sound',
      qty: pack,
      there: 0 as Qty,
      newLot: null,
      doubted: null,
    };
    return say(
      { step: 'absent', hand: absent },
      { tone: 'wrong', said: 'moves.absent', code: serial ?? item.code, bin: facts.bin(from)?.address ?? '' },
    );
  }
  if (item.tracking === 'serial' && serial === null && lying.length > 1)
    return say({ step: 'serial', from, item, serials: lying }, { tone: 'look', said: 'moves.whichSerial', code: item.code });
  const lots = [...new Map(lying.map((c) => [`${c.bin}|${c.lot}`, c])).values()].sort((a, b) => byExpiry(a, b));
  const [first] = lots;
  if (lots.length > 1 && first)
    return say({ step: 'lot', from, item, qty: pack, lots }, { tone: 'look', said: 'moves.whichLot', lot: first.lot, lots: lots.length });
  const [only] = lying.toSorted((a, b) => CONDITIONS.indexOf(a.condition) - CONDITIONS.indexOf(b.condition));
  return take(only as ContentFact, source === 'bin' ? pack : (only as ContentFact).qty, facts, source);
}

const CONDITIONS: readonly Condition[] = ['sound', 'inspect', 'held', 'failed'];
const byExpiry = (a: ContentFact, b: ContentFact): number =>
  compareFirstExpired({ expires: a.expires, arrived: null }, { expires: b.expires, arrived: null });

/** Where goods that a hand scans may be taken from. */
function sourcesOf(from: BinId | null, item: number, facts: Facts, source: MoveSource): readonly ContentFact[] {
  if (from !== null && source === 'bin') return facts.contents(from).filter((c) => c.item === item);
  return facts.contentsOf(item).filter((c) => facts.bin(c.bin)?.use === source);
}

function take(content: ContentFact, qty: Qty, facts: Facts, source: MoveSource): Stepping {
  const item = facts.item(content.item);
  if (!item) return say({ step: 'from' }, { tone: 'wrong', said: 'moves.firstBin' });
  const hand: Carried = {
    from: content.bin,
    item,
    lot: content.lot,
    expires: content.expires,
    serial: content.serial,
    condition: content.condition,
    qty: content.serial === null ? qty : ONE,
    there: content.qty,
    newLot: null,
    doubted: null,
  };
  return inHand(hand, facts, source);
}

function inHand(hand: Carried, facts: Facts, source: MoveSource, more = false): Stepping {
  const bin = facts.bin(hand.from)?.address ?? '';
  if (hand.qty > hand.there && hand.there > 0)
    return say(
      { step: 'to', hand },
      { tone: 'look', said: 'moves.moreThanThere', code: hand.item.code, qty: hand.qty, there: hand.there, bin },
    );
  const suggestion = source === 'bin' ? null : suggestFor(hand, facts);
  const to = suggestion ? (facts.bin(suggestion.bin)?.address ?? null) : null;
  const { lot, serial, qty, item } = hand;
  return say(
    { step: 'to', hand },
    { tone: 'right', said: 'moves.inHand', code: item.code, qty, lot, serial, to, why: suggestion?.why ?? null, more },
  );
}

function stepNumber(at: MoveAt, text: string, facts: Facts, source: MoveSource): Stepping {
  if (at.step !== 'to' && at.step !== 'absent') return say(at, { tone: 'look', said: 'moves.firstGoods' });
  const { hand } = at;
  const { code, decimals } = hand.item;
  const read = parseQty(text.replace(',', '.'), decimals);
  if (!read.ok || read.value <= 0 || (hand.serial !== null && read.value !== ONE))
    return say(at, { tone: 'wrong', said: 'moves.badNumber', text, code, decimals });
  const qty = read.value;
  if (isUnlikely(qty, hand.there) && hand.doubted !== qty)
    return say({ ...at, hand: { ...hand, doubted: qty } }, { tone: 'look', said: 'moves.keyAgain', code, qty, there: hand.there });
  if (at.step === 'absent')
    return say(
      { step: 'absent', hand: { ...hand, qty } },
      { tone: 'look', said: 'moves.absent', code, bin: facts.bin(hand.from)?.address ?? '' },
    );
  return inHand({ ...hand, qty }, facts, source);
}

function putInto(hand: Carried, bin: BinFact, facts: Facts, source: MoveSource): Stepping {
  const at: MoveAt = { step: 'to', hand };
  if (bin.id === hand.from) return say(at, { tone: 'wrong', said: 'moves.sameBin', bin: bin.address });
  if (['cart', 'packing', 'transit'].includes(bin.use)) return say(at, { tone: 'wrong', said: 'moves.ordersBin', bin: bin.address });
  const doubt = doubtOf([hand], bin, facts);
  if (doubt)
    return say({ step: 'sure', hand, to: bin.id, doubt }, { tone: doubt.why === 'use' ? 'look' : 'wrong', said: 'moves.doubt', doubt });
  return put(hand, bin.id, facts, source, null);
}

function put(hand: Carried, to: BinId, facts: Facts, source: MoveSource, over: string | null): Stepping {
  const { from, item, lot, serial, condition, qty } = hand;
  const does: MoveDoes = { kind: 'move.put', from, to, item: item.id, lot, serial, condition, qty, over, newLot: hand.newLot };
  const next: MoveAt = { step: 'goods', from: source === 'bin' ? from : null };
  return { at: next, says: { tone: 'right', said: 'moves.put', code: item.code, qty, to: facts.bin(to)?.address ?? '' }, does: [does] };
}

/** The sentence for what a step of carrying came to. */
export function movesSaid(s: MovesSaid): string {
  switch (s.said) {
    case 'moves.from':
      return `From ${s.bin}. ${s.holds === 0 ? 'The records say that it is empty.' : 'Scan the goods.'}`;
    case 'moves.inHand': {
      const what = `${formatQty(s.qty)} ${s.code}${s.lot ? `, lot ${s.lot}` : ''}${s.serial ? `, serial ${s.serial}` : ''}`;
      return `${what}. ${
        s.to
          ? `To ${s.to}: ${s.why === null ? '' : PUT_AWAY_WHY[s.why]}.`
          : s.more
            ? 'Scan more, or the bin where it goes.'
            : 'Scan the bin where it goes.'
      }`;
    }
    case 'moves.whichNewLot':
      return `Which number do these ${s.code} of lot ${s.lot} get? Scan or key it.`;
    case 'moves.newLot':
      return `${s.code}: lot ${s.lot} is lot ${s.newLot} from now on. Scan the bin where they go.`;
    case 'moves.lotUnread':
      return lotUnreadSentence(s);
    case 'moves.sameLot':
      return `They are lot ${s.lot} already. Scan or key another number.`;
    case 'moves.moreThanThere':
      return (
        `${formatQty(s.qty)} ${s.code}, and the records say ${formatQty(s.there)} in ${s.bin}. Scan the bin where they go, or ` +
        `key the number again.`
      );
    case 'moves.keyAgain':
      return `${formatQty(s.qty)} ${s.code}, where the records say ${formatQty(s.there)}? Key it once more if it is so.`;
    case 'moves.put':
      return `${formatQty(s.qty)} ${s.code} is in ${s.to}.`;
    case 'moves.unitInHand':
      return `Unit ${shortSscc(s.sscc)} with ${s.things} ${s.things === 1 ? 'thing' : 'things'}, from ${s.bin}. ${
        s.to ? `To ${s.to}: ${s.why === null ? '' : PUT_AWAY_WHY[s.why]}.` : 'Scan the bin where it goes.'
      }`;
    case 'moves.unitPut':
      return `Unit ${shortSscc(s.sscc)} is in ${s.to}.`;
    case 'moves.unitUnknown':
      return `Nobody knows what is in unit ${shortSscc(s.sscc)}. Scan what is in it instead.`;
    case 'moves.unitElsewhere':
      return `Unit ${shortSscc(s.sscc)} is not ${s.source === 'arrivals' ? 'at arrivals' : 'among the unplaced'}. Move it from Move goods.`;
    case 'moves.undone':
      return 'Undone: it lies where it was.';
    case 'moves.nothingToUndo':
      return 'Nothing of yours to undo here.';
    case 'moves.whichLot':
      return `${s.lots} lots lie here. ${s.lot ?? 'What has no lot'} expires first: scan the lot that you take.`;
    case 'moves.noSuchLot':
      return `No lot ${s.text} lies here: ${s.lots.join(', ')}.`;
    case 'moves.whichSerial':
      return `${s.code} is kept by serial. Scan the serial of the one that you take.`;
    case 'moves.absent':
      return `The records say that no ${s.code} lies in ${s.bin}. If it is in your hands, say so: the bin is counted later.`;
    case 'moves.notAtSource':
      return `${s.code} is not ${
        s.source === 'arrivals' ? 'at arrivals' : s.source === 'unplaced' ? 'among the unplaced' : 'in this bin'
      }.`;
    case 'moves.handIsFull':
      return `First put down ${formatQty(s.qty)} ${s.code}: scan its bin. Then take ${s.scanned}.`;
    case 'moves.sameBin':
      return `The goods are from ${s.bin}. Scan the bin where they go.`;
    case 'moves.ordersBin':
      return `${s.bin} is for what goes out to orders. Scan another bin.`;
    case 'moves.doubt':
      return s.doubt.why === 'rule'
        ? `${placesSentence(s.doubt.broken)} Scan another bin, or say that it lies there all the same.`
        : s.doubt.why === 'expired'
          ? `Lot ${s.doubt.lot} expired on ${s.doubt.expired}: to quarantine or scrap, not to ${s.doubt.bin}.`
          : `${s.doubt.bin} is the ${s.doubt.use} bin. Scan it again if it goes there.`;
    case 'moves.isNot':
      return `${meaningWords(s.meaning)} ${
        {
          from: 'Scan the bin that you take from.',
          goods: 'Scan goods.',
          to: 'Scan the bin where it goes.',
          lot: 'Scan the lot.',
          serial: 'Scan the serial.',
        }[s.wanted]
      }`;
    case 'moves.badNumber':
      return `“${s.text}” is no quantity of ${s.code}${s.decimals === 0 ? ', which is counted whole' : ''}.`;
    case 'moves.firstGoods':
      return 'First scan the goods.';
    case 'moves.firstBin':
      return 'First scan the bin that you take from.';
    case 'moves.laidBack':
      return 'Nothing was moved.';
  }
}
