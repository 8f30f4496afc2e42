import type { Qty } from '#core/base';
import type { Meaning } from './meaning.ts';

export type Tone = 'right' | 'wrong' | 'look';

/** When and by whom an act is done. `key` names it for ever; `at` is an ISO time; `more` are keys for what the act may make besides. */
export type Stamp = { readonly key: string; readonly at: string; readonly person: number; readonly more: readonly string[] };

/** What reaches a step machine: a scan, a number keyed by hand, a choice on the screen, or an undo of the person's own last act. */
export type HandEvent<Choice> =
  | { readonly kind: 'scan'; readonly meaning: Meaning }
  /** `closedBy`: the next scan closed the number, rather than the hand itself with Enter. */
  | { readonly kind: 'number'; readonly text: string; readonly closedBy?: 'scan' }
  | { readonly kind: 'choose'; readonly choice: Choice }
  | { readonly kind: 'undo'; readonly key?: string };

/** What a step comes to: where the hand stands now, what is said, and what was done, to be kept before the tone sounds. */
export type Stepped<At, Said, Does> = { readonly at: At; readonly says: { readonly tone: Tone } & Said; readonly does: readonly Does[] };

const MANY_TIMES = 10;
const MANY_PIECES = 1_000_000;

/** Whether a figure is so far from what was expected that it is asked once before it is taken: ten times as much, or a thousand pieces of
 *  what nobody ordered. A tick is a promise; 3,000 of 25 are more often two numbers than one.
 *  Units:  thousandths of the base unit. */
export function isUnlikely(total: Qty, expected: Qty): boolean {
  return expected > 0 ? total > MANY_TIMES * expected && total > expected + 50_000 : total > MANY_PIECES;
}
