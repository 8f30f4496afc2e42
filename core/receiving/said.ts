import { formatQty, writeDay, type Qty } from '#core/base';
import { lotUnreadSentence, meaningWords, shortSscc as short, type Meaning } from '#core/floor';
import type { LineStanding } from './compare.ts';
import type { DeliveryJob } from './delivery-job.ts';
import { receivingSentence, type ReceivingError } from './errors.ts';
import { LONGEST_LABEL } from './serial-list.ts';

/** What a step of receiving came to. */
export type ReceivingSaid =
  | {
      said: 'receiving.counted';
      code: string;
      arrived: Qty;
      expected: Qty;
      standing: LineStanding;
      expired: boolean;
      little: string | null;
      lot: string | null;
    }
  | { said: 'receiving.refused'; error: ReceivingError }
  | { said: 'receiving.isNot'; meaning: Meaning; wanted: 'goods' | 'lot' | 'serial' | 'date' }
  | { said: 'receiving.doubted'; text: string; wanted: 'lot' | 'serial' }
  | { said: 'receiving.itsGoods'; code: string; wanted: 'lot' | 'serial' }
  | { said: 'receiving.keptUnknown'; text: string }
  | { said: 'receiving.whichLot'; code: string }
  | { said: 'receiving.lotUnread'; text: string; why: string }
  | { said: 'receiving.badLot'; text: string }
  | { said: 'receiving.badNumber'; text: string; code: string; decimals: number }
  | { said: 'receiving.sure'; code: string; qty: Qty; expected: Qty }
  | { said: 'receiving.howMany'; code: string; qty: Qty }
  | { said: 'receiving.serialsClash'; code: string; clashes: readonly { code: string; place: string }[] }
  | { said: 'receiving.found'; code: string; failed: Qty; checked: Qty }
  | { said: 'receiving.inspected'; code: string; failed: Qty; checked: Qty }
  | { said: 'receiving.whyFailed'; code: string }
  | { said: 'receiving.whichBin'; code: string; qty: Qty }
  /** `bin` is null where they are left at arrivals after all. */
  | { said: 'receiving.goesTo'; code: string; qty: Qty; bin: string | null; stays: Qty }
  /** All of an announced unit was taken; `strange` of its things no order named, `expired` and `little` are for a second look. */
  | { said: 'receiving.unit'; sscc: string; things: number; pieces: Qty; strange: number; expired: number; little: number }
  | { said: 'receiving.unitNumber'; sscc: string }
  | { said: 'receiving.unitOpen'; sscc: string }
  | { said: 'receiving.unitClosed'; sscc: string; things: number }
  | { said: 'receiving.unitWhichBin'; sscc: string; things: number }
  | { said: 'receiving.unitGoesTo'; sscc: string; things: number; bin: string | null }
  | { said: 'receiving.unitTakenOut'; sscc: string; things: number }
  | { said: 'receiving.photo' }
  | { said: 'receiving.paper'; doc: string }
  | { said: 'receiving.soMany'; code: string; qty: Qty; wanted: 'lot' | 'date' | 'whichDate' | 'notOrdered' }
  | { said: 'receiving.nothingYet' }
  | { said: 'receiving.takenOut'; code: string; qty: Qty }
  | { said: 'receiving.setAside' }
  | { said: 'receiving.finished' }
  | { said: 'receiving.closed'; number: string | null; state: DeliveryJob['state'] };

const things = (n: number): string => `${n} ${n === 1 ? 'thing' : 'things'}`;

/** The sentence for what a step of receiving came to. */
export function receivingSaid(s: ReceivingSaid): string {
  switch (s.said) {
    case 'receiving.counted': {
      const of = s.expected === 0 ? '' : ` of ${formatQty(s.expected)}`;
      const over = s.standing === 'over' ? ', more than expected' : '';
      return `${s.code}: ${formatQty(s.arrived)}${of}${s.lot ? `, lot ${s.lot}` : ''}${over}${
        s.expired ? ', expired: goes to quarantine' : s.little ? `, little life left: until ${writeDay(s.little)}` : ''
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
    case 'receiving.lotUnread':
      return lotUnreadSentence(s);
    case 'receiving.badLot':
      return `“${s.text.slice(0, 30)}…” is no lot or serial: at most ${LONGEST_LABEL} letters.`;
    case 'receiving.badNumber':
      return `“${s.text}” is no quantity of ${s.code}${s.decimals === 0 ? ', which is counted whole' : ''}.`;
    case 'receiving.sure':
      return (
        `${formatQty(s.qty)} ${s.code}${s.expected === 0 ? '' : `, and ${formatQty(s.expected)} are expected`}? Say that it is ` +
        `so, or key it again.`
      );
    case 'receiving.howMany':
      return `How many ${s.code} instead of ${formatQty(s.qty)}? Key it.`;
    case 'receiving.serialsClash': {
      const named = s.clashes.slice(0, 3).map((c) => `${c.code} (${c.place})`);
      const more = s.clashes.length > 3 ? ` and ${s.clashes.length - 3} more` : '';
      const what = s.clashes.length === 1 ? 'This serial' : 'These serials';
      return `Nothing was entered. ${what} of ${s.code} cannot be taken: ${named.join(', ')}${more}.`;
    }
    case 'receiving.found':
      return s.failed === 0
        ? `${s.code}: ${formatQty(s.checked)} looked at. Press why one failed, or say that all passed.`
        : `${s.code}: ${formatQty(s.failed)} of ${formatQty(s.checked)} failed.`;
    case 'receiving.inspected':
      return s.failed === 0
        ? `${s.code}: all ${formatQty(s.checked)} passed.`
        : `${s.code}: ${formatQty(s.failed)} of ${formatQty(s.checked)} failed. Set them apart; they go to quarantine.`;
    case 'receiving.whyFailed':
      return `Press first why the ${s.code} failed, then key how many.`;
    case 'receiving.whichBin':
      return `${formatQty(s.qty)} ${s.code}: scan the bin where they go, or key first how many of them.`;
    case 'receiving.goesTo':
      if (s.bin === null) return `${formatQty(s.qty)} ${s.code} are left at arrivals, to be put away.`;
      return `${formatQty(s.qty)} ${s.code} go into ${s.bin}.${s.stays > 0 ? ` ${formatQty(s.stays)} are left: scan their bin.` : ''}`;
    case 'receiving.unit': {
      const looks = [
        s.strange > 0 && `${s.strange} not ordered`,
        s.expired > 0 && `${s.expired} expired`,
        s.little > 0 && `${s.little} with little life left`,
      ].filter(Boolean);
      return `Unit ${short(s.sscc)}: ${things(s.things)}, ${formatQty(s.pieces)} in all, as announced.${
        looks.length > 0 ? ` Look: ${looks.join(', ')}.` : ''
      }`;
    }
    case 'receiving.unitNumber':
      return `A number says how many of one thing. Choose which of unit ${short(s.sscc)} is another number, then key it.`;
    case 'receiving.unitOpen':
      return `Unit ${short(s.sscc)} was not announced. Scan what is in it; scan it again when that is all.`;
    case 'receiving.unitClosed':
      return `Unit ${short(s.sscc)} is closed: ${things(s.things)} in it.`;
    case 'receiving.unitWhichBin':
      return `Unit ${short(s.sscc)}, ${things(s.things)}: scan the bin where all of it goes.`;
    case 'receiving.unitGoesTo':
      return s.bin === null
        ? `Unit ${short(s.sscc)} is left at arrivals, to be put away.`
        : `Unit ${short(s.sscc)}, ${things(s.things)}, goes into ${s.bin}.`;
    case 'receiving.unitTakenOut':
      return `Taken out again: unit ${short(s.sscc)} with ${things(s.things)}.`;
    case 'receiving.photo':
      return 'The picture is kept.';
    case 'receiving.paper':
      return s.doc === '' ? 'No paper of the supplier is named any more.' : `The supplier’s paper is ${s.doc}.`;
    case 'receiving.soMany': {
      const wanted = { lot: 'Which lot?', date: 'When do they expire?', whichDate: 'Which date is right?', notOrdered: 'Take them?' };
      return `${formatQty(s.qty)} ${s.code}. ${wanted[s.wanted]}`;
    }
    case 'receiving.nothingYet':
      return 'Nothing of yours to change here. Scan goods.';
    case 'receiving.takenOut':
      return `Taken out again: ${formatQty(s.qty)} ${s.code}.`;
    case 'receiving.setAside':
      return 'Set aside. Nothing was entered.';
    case 'receiving.finished':
      return 'Handed in for review.';
    case 'receiving.closed': {
      const name = s.number === null ? 'This delivery' : `Delivery ${s.number}`;
      return `${name} is ${s.state === 'posted' ? 'posted' : 'thrown away'}; nothing more can be scanned into it.`;
    }
  }
}
