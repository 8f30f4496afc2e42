/** What a wedge scanner has typed so far. Times in milliseconds. */
export type Wedge = { readonly typed: string; readonly lastAt: number; readonly fast: boolean };
export const EMPTY_WEDGE: Wedge = { typed: '', lastAt: 0, fast: true };

/** Keys closer together than this come from a scanner; no hand types so fast. */
export const WEDGE_GAP_MS = 35;
const SHORTEST = 3;

/** Follows the keys: tells a scanner (fast, ends with Enter or Tab) from a hand.
 *  Shape:  the state and a key in; the next state, and the scan where this key ended one. */
export function stepWedge(state: Wedge, key: string, at: number): { state: Wedge; scan: string | null } {
  const quick = state.typed === '' || at - state.lastAt <= WEDGE_GAP_MS;
  if (key === 'Enter' || key === 'Tab') {
    const scan = state.fast && quick && state.typed.length >= SHORTEST ? state.typed : null;
    return { state: EMPTY_WEDGE, scan };
  }
  if (key.length !== 1) return { state, scan: null };
  if (!quick) return { state: { typed: key, lastAt: at, fast: true }, scan: null };
  return { state: { typed: state.typed + key, lastAt: at, fast: state.fast }, scan: null };
}
