import type { Dpi } from './dots.ts';
import { isSamePaper, type Paper } from './papers.ts';

/** A printer as it matters to where a label goes. `roll`: the labels that are in it; null where it cuts paper to length. */
export type PrinterAt = { readonly id: number; readonly dpi: Dpi; readonly roll: Paper | null };

/** On which printer a label comes out, and on which paper it is drawn (D6).
 *  Shape:  first the printer that the handheld uses, then that of the zone, then those of the site in whose roll it fits, then those that
 *          cut to length, then any. A paper that somebody named goes to the first of these that has it or cuts to it; where none does, it
 *          waits at the first until somebody puts that roll in. A paper that nobody named is the one that is in the printer, and where that
 *          cuts to length the usual one.
 *  Errors: none; `printer` is null where the site has none: the label waits for one. */
export function choosePrinter<P extends PrinterAt>(
  printers: readonly P[],
  asked: { readonly own: number | null; readonly zone: number | null; readonly paper: Paper | null; readonly usual: Paper },
): { readonly printer: P | null; readonly paper: Paper } {
  const wanted = asked.paper ?? asked.usual;
  const rank = ({ id, roll }: P): number =>
    id === asked.own ? 0 : id === asked.zone ? 1 : roll && isSamePaper(roll, wanted) ? 2 : roll === null ? 3 : 4;
  const ranked = printers.toSorted((a, b) => rank(a) - rank(b) || a.id - b.id);
  const takes = ({ roll }: P): boolean => roll === null || isSamePaper(roll, wanted);
  const printer = (asked.paper ? ranked.find(takes) : undefined) ?? ranked[0] ?? null;
  return { printer, paper: asked.paper ?? printer?.roll ?? asked.usual };
}
