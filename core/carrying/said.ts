import { formatQty, type Qty } from '#core/base';
import { meaningWords, shortSscc, type Meaning } from '#core/floor';
import type { MoveDoubt } from '#core/moves';
import { placesSentence } from '#core/places';
import { carryingSentence, type CarryingError } from './errors.ts';

export type CarrySaid =
  | { said: 'carrying.rightBin'; bin: string; code: string; open: Qty; way: 'take' | 'put' }
  | { said: 'carrying.taken'; code: string; taken: Qty; open: Qty }
  | { said: 'carrying.put'; code: string; put: Qty; open: Qty; bin: string; isDone: boolean }
  | { said: 'carrying.refused'; error: CarryingError }
  | { said: 'carrying.isNot'; meaning: Meaning; wanted: 'bin' | 'goods' | 'lot' | 'serial'; bin: string }
  | { said: 'carrying.elsewhere'; bin: string; wanted: string }
  | { said: 'carrying.ordersBin'; bin: string }
  | { said: 'carrying.doubt'; doubt: MoveDoubt }
  | { said: 'carrying.badNumber'; text: string; code: string }
  | { said: 'carrying.scanFirst'; bin: string }
  | { said: 'carrying.undone'; code: string; qty: Qty; bin: string; way: 'take' | 'put' }
  | { said: 'carrying.nothingToUndo' }
  | { said: 'carrying.whatTrouble' }
  | { said: 'carrying.noted'; isDone: boolean }
  | { said: 'carrying.goOn' }
  | { said: 'carrying.laying'; bin: string }
  | { said: 'carrying.everything' };

/** The sentence for what a step of a put-away or refill round came to. */
export function carrySaid(s: CarrySaid): string {
  switch (s.said) {
    case 'carrying.rightBin':
      return s.way === 'take' ? `Right bin. Take ${formatQty(s.open)} ${s.code}.` : `Right bin. Put down ${formatQty(s.open)} ${s.code}.`;
    case 'carrying.taken':
      return s.open === 0
        ? `${s.code}: all ${formatQty(s.taken)} on the cart.`
        : `${s.code}: ${formatQty(s.taken)} on the cart, ${formatQty(s.open)} to go.`;
    case 'carrying.put': {
      if (s.isDone) return 'Everything has its place. The round is done.';
      const code = /^\d{18}$/.test(s.code) ? `Unit ${shortSscc(s.code)}` : s.code;
      return s.open === 0
        ? `${code}: all ${formatQty(s.put)} put down in ${s.bin}.`
        : `${code}: ${formatQty(s.put)} put down, ${formatQty(s.open)} to go.`;
    }
    case 'carrying.refused':
      return carryingSentence(s.error);
    case 'carrying.isNot':
      return `${meaningWords(s.meaning)} ${
        { bin: `Scan the bin first: ${s.bin}.`, goods: 'Scan the goods.', lot: 'Scan the lot.', serial: 'Scan the serial.' }[s.wanted]
      }`;
    case 'carrying.elsewhere':
      return `This is ${s.bin}; planned is ${s.wanted}. Scan ${s.bin} again if it goes here.`;
    case 'carrying.ordersBin':
      return `${s.bin} is for what goes out to orders. Scan another bin.`;
    case 'carrying.doubt':
      return s.doubt.why === 'rule'
        ? `${placesSentence(s.doubt.broken)} Scan another bin, or say that it lies there all the same.`
        : s.doubt.why === 'expired'
          ? `Lot ${s.doubt.lot} expired on ${s.doubt.expired}: to quarantine or scrap, not to ${s.doubt.bin}.`
          : `${s.doubt.bin} is the ${s.doubt.use} bin. Scan it again if it goes there.`;
    case 'carrying.badNumber':
      return `“${s.text}” is no number of ${s.code} here. To put some back, undo the last scan.`;
    case 'carrying.scanFirst':
      return `Scan ${s.bin ? `${s.bin}, then ` : ''}the goods; then key how many.`;
    case 'carrying.undone':
      return s.way === 'take'
        ? `${formatQty(s.qty)} ${s.code} goes back into ${s.bin}.`
        : `${formatQty(s.qty)} ${s.code}: taken out of ${s.bin} again.`;
    case 'carrying.nothingToUndo':
      return 'Nothing of yours to undo on this round.';
    case 'carrying.whatTrouble':
      return 'What is wrong here?';
    case 'carrying.noted':
      return s.isDone ? 'Noted: the bin is counted later. The round is done.' : 'Noted: the bin is counted later. Go on.';
    case 'carrying.goOn':
      return 'Go on.';
    case 'carrying.laying':
      return `First put down what is on the cart: ${s.bin}.`;
    case 'carrying.everything':
      return 'Everything has its place.';
  }
}
