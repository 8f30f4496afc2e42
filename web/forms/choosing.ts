import type { Choice } from '#contract/desk';

/** What somebody is doing in a field that names something. */
export type Choosing = {
  /** What is keyed and not chosen yet. */
  readonly typed: string;
  readonly isHere: boolean;
  /** Why the last scan chose nothing. */
  readonly problem: string | null;
  /** Scans since somebody keyed something. After one the field's list stays closed: there is nothing more to choose. */
  readonly scans: number;
  /** The words of what a scan chose, until somebody keys something. */
  readonly byScan: string | null;
  /** Enter was pressed before what was keyed had been looked up. */
  readonly isWaiting: boolean;
};
export const NOBODY_THERE: Choosing = { typed: '', isHere: false, problem: null, scans: 0, byScan: null, isWaiting: false };

export type ChoosingEvent =
  | { readonly kind: 'came' | 'left' | 'listClosed' | 'emptied' }
  | { readonly kind: 'keyed'; readonly text: string }
  /** Enter, and whether the list is that of what is keyed. */
  | { readonly kind: 'entered'; readonly isSettled: boolean }
  /** The list of what is keyed is there; its first is `first`. */
  | { readonly kind: 'settled'; readonly first: { readonly choice: Choice; readonly words: string } | null }
  /** The list says that this was chosen, or that the field is empty. */
  | { readonly kind: 'listed'; readonly choice: Choice | null }
  | { readonly kind: 'scanned'; readonly choice: Choice; readonly words: string }
  | { readonly kind: 'missed'; readonly problem: string };

/** What becomes of a field by what is done in it. `chosen` is what it stands for from now on, null for nothing; without it that stays. */
export type Chosen = { readonly state: Choosing; readonly chosen?: Choice | null };

/** Steps a field that names something.
 *  Shape:  an Enter that comes before the list waits for it and is given the first that it names. What a scan chose stays when the field
 *          takes itself to be emptied, which it does when the scanner's own letters are taken out of it again. */
export function stepChoosing(was: Choosing, event: ChoosingEvent): Chosen {
  switch (event.kind) {
    case 'came':
      return { state: { ...was, isHere: true } };
    case 'left':
      return { state: { ...was, isHere: false } };
    case 'listClosed':
      return { state: { ...was, typed: '', isWaiting: false } };
    case 'keyed': {
      const state = { ...NOBODY_THERE, isHere: was.isHere, typed: event.text };
      return event.text === '' ? { state, chosen: null } : { state };
    }
    case 'entered':
      return { state: { ...was, isWaiting: was.typed !== '' && !event.isSettled } };
    case 'settled':
      if (!was.isWaiting) return { state: was };
      return event.first ? choose(was, event.first.choice, event.first.words) : { state: { ...was, isWaiting: false } };
    case 'listed':
      if (event.choice === null && was.byScan !== null) return { state: was };
      return { state: { ...was, typed: '', problem: null, isWaiting: false }, chosen: event.choice };
    case 'emptied':
      return { state: { ...was, typed: '', problem: null, byScan: null, isWaiting: false }, chosen: null };
    case 'scanned':
      return choose(was, event.choice, event.words);
    case 'missed':
      return { state: { ...was, problem: event.problem, scans: was.scans + 1, byScan: null } };
  }
}

// Chosen without the list: by a scan, or by an Enter that was faster than it.
const choose = (was: Choosing, choice: Choice, words: string): Chosen => ({
  state: { ...was, typed: '', problem: null, scans: was.scans + 1, byScan: words, isWaiting: false },
  chosen: choice,
});
