/** A job of the queue on its way through a printer: how many of its labels go with a run. */
export type Part = { readonly job: number; readonly copies: number };

/** The next labels for a printer, in their order: whole jobs while there is room, and of the last one as many as have room.
 *  Shape:  `left`: how many of the job did not come out yet.
 *  Units:  labels. A run is short enough to be stopped between two of them, and long enough that a printer does not halt after each
 *          label. */
export function nextRun(jobs: readonly { readonly id: number; readonly left: number }[], most: number): Part[] {
  const parts: Part[] = [];
  let room = most;
  for (const { id, left } of jobs) {
    if (room === 0) break;
    const copies = Math.min(left, room);
    if (copies > 0) parts.push({ job: id, copies });
    room -= copies;
  }
  return parts;
}

/** Of which job how many came out, when so many labels of a run did: the first ones. */
export function cameOut(parts: readonly Part[], labels: number): Part[] {
  let rest = labels;
  return parts.map(({ job, copies }) => {
    const out = Math.max(0, Math.min(copies, rest));
    rest -= out;
    return { job, copies: out };
  });
}

/** How many labels a run has. */
export const lengthOf = (parts: readonly Part[]): number => parts.reduce((sum, p) => sum + p.copies, 0);
