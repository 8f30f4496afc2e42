/** A code in the picture. `apart`: how far its middle is from the middle of the picture, in halves of the picture's shorter side. */
export type Seen = { readonly code: string; readonly apart: number };

/** What the camera has made of the pictures so far. `candidate` was in the last picture; `taken` was given to the screen, and was last
 *  seen `at` (milliseconds). */
export type Sight = { readonly candidate: string | null; readonly taken: string | null; readonly at: number };
export const NOTHING_SEEN: Sight = { candidate: null, taken: null, at: 0 };

/** `take`: a code to give to the screen, once. `crowded`: several codes lie so close to the middle that none of them can be meant. */
export type SightStep = { readonly sight: Sight; readonly take: string | null; readonly crowded: boolean };

/** A code counts again when it was out of sight for so long: whoever scans ten of the same shows each of them. */
export const OUT_OF_SIGHT_MS = 900;
/** Two codes whose distances from the middle differ by less than this are equally meant. */
const AS_NEAR = 0.25;

/** Follows what is in the picture: the code nearest the middle is meant; it counts when two pictures agree on it, and once, until it was
 *  out of sight. Several that are equally near are none: the wrong one of two labels must never be taken by chance.
 *  Shape:  the codes of one picture, in any order; each may be in it more than once. `at` in milliseconds, never going back. */
export function stepSight(sight: Sight, seen: readonly Seen[], at: number): SightStep {
  const near = [...seen].sort((a, b) => a.apart - b.apart);
  const [first] = near;
  const still = sight.taken !== null && near.some((s) => s.code === sight.taken);
  const gone = !still && at - sight.at > OUT_OF_SIGHT_MS;
  const kept = { taken: gone ? null : sight.taken, at: still ? at : sight.at };
  if (!first) return { sight: { candidate: null, ...kept }, take: null, crowded: false };
  const rival = near.find((s) => s.code !== first.code);
  if (rival && rival.apart - first.apart < AS_NEAR) return { sight: { candidate: null, ...kept }, take: null, crowded: true };
  const { code } = first;
  if (sight.candidate !== code || kept.taken === code) return { sight: { candidate: code, ...kept }, take: null, crowded: false };
  return { sight: { candidate: code, taken: code, at }, take: code, crowded: false };
}
