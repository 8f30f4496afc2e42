/** A key of the run that is being typed, and when (milliseconds). */
type Stroke = { readonly key: string; readonly at: number };
/** What has been typed: `run` since the last pause, and `keyed`, the digits that a hand typed before it and did not close. */
export type Wedge = { readonly run: readonly Stroke[]; readonly keyed: string };
export const EMPTY_WEDGE: Wedge = { run: [], keyed: '' };

/** What a key came to. `scan`: a scanner typed this. `number`: a hand typed it and closed it with Enter, or the next scan closed it.
 *  `whole`: where the number and the scan came so close that they may be one code: that code. */
export type WedgeStep = {
  readonly state: Wedge;
  readonly scan: string | null;
  readonly number: string | null;
  readonly whole: string | null;
};

/** A scanner's keys come this close together on the average; no hand types so fast. */
export const WEDGE_AVERAGE_MS = 50;
/** A pause after which a new run begins. A busy device may stutter in the middle of a scan: a code is never cut there. */
export const WEDGE_PAUSE_MS = 400;
/** Keys further apart than this were typed by a hand. */
const HAND_MS = 70;
const SHORTEST = 3;
const LONGEST_NUMBER = 9;
/** What ends an element of a GS1 code, however a scanner types it: the character itself, or Ctrl and ]. */
export const GS = '\u001d';

const textOf = (run: readonly Stroke[]): string => run.map((s) => s.key).join('');
const isNumber = (text: string): boolean => /^\d{1,9}([.,]\d{0,3})?$/.test(text);
const average = (run: readonly Stroke[]): number => (run.length < 2 ? 0 : ((run.at(-1)?.at ?? 0) - (run[0]?.at ?? 0)) / run.length);

/** Follows the keys: tells a scanner (fast, ends with Enter or Tab) from a hand, and never joins the two.
 *  Shape:  the state and a key in; the next state, and what the key came to. */
export function stepWedge(state: Wedge, key: string, at: number): WedgeStep {
  const stay = (next: Wedge): WedgeStep => ({ state: next, scan: null, number: null, whole: null });
  if (key === 'Enter' || key === 'Tab') return close(state, key, at);
  if (key === 'Backspace') {
    if (state.run.length > 0) return stay({ ...state, run: state.run.slice(0, -1) });
    return stay({ ...state, keyed: state.keyed.slice(0, -1) });
  }
  if (key === 'Escape') return stay(EMPTY_WEDGE);
  if (key.length !== 1) return stay(state);
  const stroke = { key, at };
  const last = state.run.at(-1);
  if (last && at - last.at > WEDGE_PAUSE_MS) return stay({ run: [stroke], keyed: keyedAfter(state) });
  return stay({ ...state, run: [...state.run, stroke] });
}

/** The number that a hand has typed and not closed; '' where there is none. Digits at the speed of a scanner are none until they prove to
 *  be. */
export function keyedNumber(state: Wedge): string {
  return state.run.length > 1 && average(state.run) <= WEDGE_AVERAGE_MS ? state.keyed : keyedAfter(state);
}

function keyedAfter({ run, keyed }: Wedge): string {
  const text = keyed + textOf(run);
  return isNumber(text) && text.length <= LONGEST_NUMBER ? text : isNumber(textOf(run)) ? textOf(run) : '';
}

function close(state: Wedge, key: string, at: number): WedgeStep {
  const { run } = state;
  const slow = handPart(run);
  const fast = run.slice(slow);
  const isScan = fast.length >= SHORTEST && at - (fast.at(-1)?.at ?? 0) <= WEDGE_PAUSE_MS && average(fast) <= WEDGE_AVERAGE_MS;
  if (isScan) {
    const number = keyedAfter({ run: run.slice(0, slow), keyed: state.keyed });
    return { state: EMPTY_WEDGE, scan: textOf(fast), number: number || null, whole: slow > 0 ? textOf(run) : null };
  }
  const number = keyedAfter(state);
  return { state: EMPTY_WEDGE, scan: null, number: key === 'Enter' && number !== '' ? number : null, whole: null };
}

// How many keys at the beginning of a run a hand typed: digits, each a hand's time before the next.
function handPart(run: readonly Stroke[]): number {
  let n = 0;
  while (n < run.length - SHORTEST && /[\d.,]/.test(run[n]?.key ?? '') && (run[n + 1]?.at ?? 0) - (run[n]?.at ?? 0) >= HAND_MS) n += 1;
  return n;
}
