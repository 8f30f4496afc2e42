/** What has been typed without a pause. Times in milliseconds. */
export type Wedge = { readonly typed: string; readonly startedAt: number; readonly lastAt: number };
export const EMPTY_WEDGE: Wedge = { typed: '', startedAt: 0, lastAt: 0 };

/** A scanner's keys come this close together on the average; no hand types so fast. */
export const WEDGE_AVERAGE_MS = 50;
/** A pause after which a new code begins. A busy device may stutter in the middle of a scan: a code is never cut there. */
export const WEDGE_PAUSE_MS = 400;
const SHORTEST = 3;

/** Follows the keys: tells a scanner (fast, ends with Enter or Tab) from a hand.
 *  Shape:  the state and a key in; the next state, and the scan where this key ended one. */
export function stepWedge(state: Wedge, key: string, at: number): { state: Wedge; scan: string | null } {
  if (key === 'Enter' || key === 'Tab') {
    const { typed } = state;
    const fast =
      typed.length >= SHORTEST && at - state.lastAt <= WEDGE_PAUSE_MS && (at - state.startedAt) / typed.length <= WEDGE_AVERAGE_MS;
    return { state: EMPTY_WEDGE, scan: fast ? typed : null };
  }
  if (key.length !== 1) return { state, scan: null };
  if (state.typed === '' || at - state.lastAt > WEDGE_PAUSE_MS) return { state: { typed: key, startedAt: at, lastAt: at }, scan: null };
  return { state: { ...state, typed: state.typed + key, lastAt: at }, scan: null };
}
