import { formatQty, ONE, type Qty } from '#core/base';
import { meaningWords, shortSscc, type Meaning } from '#core/floor';
import { pickingSentence, type PickingError } from './errors.ts';

export type PickingSaid =
  | { said: 'picking.rightBin'; bin: string; code: string; open: Qty }
  | { said: 'picking.taken'; code: string; taken: Qty; open: Qty; slot: number; roundDone: boolean }
  | { said: 'picking.unitTaken'; sscc: string; taken: Qty; slots: readonly number[]; open: Qty; roundDone: boolean }
  | { said: 'picking.refused'; error: PickingError }
  | { said: 'picking.isNot'; meaning: Meaning; wanted: 'bin' | 'goods' | 'lot' | 'serial' | 'packing' | 'kit' | 'kitBin'; bin: string }
  | { said: 'picking.otherBin'; bin: string; wanted: string; code: string; there: Qty }
  | { said: 'picking.doubted'; text: string; wanted: 'lot' | 'serial' }
  | { said: 'picking.itsGoods'; code: string; wanted: 'lot' | 'serial' }
  | { said: 'picking.soMany'; code: string; qty: Qty }
  | { said: 'picking.badNumber'; text: string; code: string; decimals: number }
  | { said: 'picking.scanFirst'; bin: string }
  | { said: 'picking.undone'; code: string; qty: Qty; bin: string }
  | { said: 'picking.nothingToUndo' }
  | { said: 'picking.noted'; missing: Qty; instead: readonly string[] }
  | { said: 'picking.whatTrouble' }
  | { said: 'picking.goOn' }
  | { said: 'picking.putDown'; bin: string; pieces: Qty }
  | { said: 'picking.everything' }
  | { said: 'picking.kitsMade'; code: string; made: Qty; left: Qty; bin: string | null; slot: number | null; for: string | null }
  | { said: 'picking.apart'; code: string; qty: Qty }
  | { said: 'picking.kitBin'; code: string; qty: Qty }
  | { said: 'picking.unmade'; code: string; qty: Qty; bin: string };

/** The sentence for what a step of a walk came to. */
export function pickingSaid(s: PickingSaid): string {
  switch (s.said) {
    case 'picking.rightBin':
      return `Right bin. Take ${formatQty(s.open)} ${s.code}.`;
    case 'picking.taken':
      if (s.roundDone) return 'Round picked. Put it down at a packing bin.';
      return s.open === 0
        ? `${s.code}: all ${formatQty(s.taken)} taken. Into slot ${s.slot}.`
        : `${s.code}: ${formatQty(s.taken)} taken, ${formatQty(s.open)} to go. Slot ${s.slot}.`;
    case 'picking.unitTaken':
      if (s.roundDone) return 'Round picked. Put it down at a packing bin.';
      return `Unit ${shortSscc(s.sscc)} is on the cart, ${formatQty(s.taken)} in all. ${
        s.slots.length === 1 ? `Slot ${s.slots[0]}` : `Slots ${s.slots.join(' and ')}`
      }${s.open === 0 ? '' : `, ${formatQty(s.open)} more to take here`}.`;
    case 'picking.otherBin':
      return `${s.bin} is not ${s.wanted}, but ${formatQty(s.there)} ${s.code} ${s.there === ONE ? 'lies' : 'lie'} here too. Take it here?`;
    case 'picking.refused':
      return pickingSentence(s.error);
    case 'picking.isNot':
      return `${meaningWords(s.meaning)} ${
        {
          bin: `Scan the bin first: ${s.bin}.`,
          goods: 'Scan the goods.',
          lot: 'Scan the lot.',
          serial: 'Scan the serial.',
          packing: 'Everything is picked: scan the packing bin.',
          kit: 'Make the kits, and key how many; or scan one of them.',
          kitBin: 'Scan the bin into which the kits go.',
        }[s.wanted]
      }`;
    case 'picking.doubted':
      return `${s.text} looks like the code of goods that nobody knows. Scan it again if it is the ${s.wanted}.`;
    case 'picking.itsGoods':
      return `That is the code of ${s.code} itself. Scan its ${s.wanted}.`;
    case 'picking.soMany':
      return `${formatQty(s.qty)} ${s.code}. Which lot?`;
    case 'picking.badNumber':
      return `“${s.text}” is no number of ${s.code} taken so far. To put some back, undo the last scan.`;
    case 'picking.scanFirst':
      return `Scan ${s.bin ? `${s.bin}, then ` : ''}the goods; then key how many.`;
    case 'picking.undone':
      return `${formatQty(s.qty)} ${s.code} goes back into ${s.bin}.`;
    case 'picking.nothingToUndo':
      return 'Nothing of yours to undo on this round.';
    case 'picking.noted': {
      const missing = s.missing === 0 ? '' : ` ${formatQty(s.missing)} ${s.missing === ONE ? 'is' : 'are'} missing; the office sees it.`;
      return s.instead.length === 0 ? `Noted.${missing}` : `Noted. Get it from ${s.instead.join(', ')} instead.${missing}`;
    }
    case 'picking.whatTrouble':
      return 'What is wrong here?';
    case 'picking.goOn':
      return 'Go on.';
    case 'picking.putDown':
      return `${formatQty(s.pieces)} pieces put down at ${s.bin}.`;
    case 'picking.kitsMade': {
      const where =
        s.bin === null ? (s.slot === null ? `for ${s.for}, on the cart` : `for ${s.for}: into slot ${s.slot}`) : `into ${s.bin}`;
      return `${formatQty(s.made)} ${s.code} ${where}.${s.left === 0 ? '' : ` ${formatQty(s.left)} still to make.`}`;
    }
    case 'picking.apart':
      return `${formatQty(s.qty)} ${s.code} not made after all: what goes into ${s.qty === ONE ? 'it' : 'them'} is on the cart.`;
    case 'picking.kitBin':
      return `${formatQty(s.qty)} ${s.code} for stock. Scan the bin into which they go.`;
    case 'picking.unmade':
      return `${formatQty(s.qty)} ${s.code} can still be made of what is on the cart. Scan ${s.bin} again to put the parts down.`;
    case 'picking.everything':
      return 'Everything is picked. Scan the packing bin.';
  }
}
