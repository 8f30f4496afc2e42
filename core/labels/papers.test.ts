import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { choosePrinter } from './choose-printer.ts';
import { labelsSentence } from './errors.ts';
import { LABEL_SIZES, paperFault, placeOnSheet, SHEET_MM, type Paper, type Sheet } from './papers.ts';

const sheet = { columns: 3, rows: 8, leftMm: 0, topMm: 0, acrossMm: 70, downMm: 37 };

describe('D2 own labels and sheets', () => {
  it.each([
    [{ widthMm: 5, heightMm: 5 }, null, 'A label of 5 × 5 mm is too small for any code: the least is 20 × 12 mm.'],
    [{ widthMm: 100, heightMm: 5 }, null, 'A label of 100 × 5 mm is too small for any code: the least is 20 × 12 mm.'],
    [{ widthMm: 500, heightMm: 100 }, null, 'A label of 500 × 100 mm is too large: the most is 220 × 300 mm.'],
    [{ widthMm: NaN, heightMm: 100 }, null, 'A label of NaN × 100 mm is too small for any code: the least is 20 × 12 mm.'],
    [{ widthMm: 70, heightMm: 37 }, { ...sheet, columns: 4 }, '4 × 8 such labels do not fit onto a sheet of A4.'],
    [{ widthMm: 71, heightMm: 37 }, sheet, 'The labels would lie over each other: from one to the next is at least their own size.'],
    [{ widthMm: 70, heightMm: 37 }, { ...sheet, leftMm: 1 }, '3 × 8 such labels do not fit onto a sheet of A4.'],
  ])('%j on %j is refused: %s', (paper, on, says) => {
    const fault = paperFault(paper, on);
    expect(fault && labelsSentence(fault)).toBe(says);
  });
  it('labels that are sold are taken', () => {
    expect(paperFault({ widthMm: 70, heightMm: 37 }, sheet)).toBeNull();
    for (const paper of Object.values(LABEL_SIZES)) expect(paperFault(paper, null)).toBeNull();
  });
  it('law: whatever sheet is taken, from whatever place on: no label lies over another, none off its sheet, no place is left out', () => {
    const tenths = (most: number): fc.Arbitrary<number> => fc.integer({ min: 0, max: most * 10 }).map((n) => n / 10);
    const any = fc.record({
      paper: fc.record({ widthMm: tenths(200), heightMm: tenths(200) }),
      on: fc.record({
        columns: fc.integer({ min: 1, max: 5 }),
        rows: fc.integer({ min: 1, max: 9 }),
        ...{ leftMm: tenths(20), topMm: tenths(20), acrossMm: tenths(110), downMm: tenths(110) },
      }),
    }) as fc.Arbitrary<{ paper: Paper; on: Sheet }>;
    fc.assert(
      fc.property(
        any.filter(({ paper, on }) => paperFault(paper, on) === null),
        fc.nat(8),
        ({ paper, on }, begun) => {
          const first = begun % (on.columns * on.rows);
          const places = Array.from({ length: 30 }, (_, n) => placeOnSheet(on, n, first));
          for (const [n, a] of places.entries()) {
            expect(a.leftMm + paper.widthMm).toBeLessThanOrEqual(SHEET_MM.widthMm + 0.11);
            expect(a.topMm + paper.heightMm).toBeLessThanOrEqual(SHEET_MM.heightMm + 0.11);
            for (const b of places.slice(n + 1))
              if (a.page === b.page && Math.abs(a.leftMm - b.leftMm) < paper.widthMm - 1e-6)
                expect(Math.abs(a.topMm - b.topMm)).toBeGreaterThanOrEqual(paper.heightMm - 1e-6);
          }
          expect(places.at(-1)?.page).toBe(Math.floor((29 + first) / (on.columns * on.rows)));
        },
      ),
      { numRuns: 60 },
    );
  });
});

describe('D6 where a label comes out', () => {
  const { item, shelf, small } = LABEL_SIZES;
  const printers = [
    { id: 1, dpi: 203, roll: shelf },
    { id: 2, dpi: 300, roll: item },
    { id: 3, dpi: 203, roll: null },
  ] as const;
  const nobody = { own: null, zone: null, paper: null, usual: item };
  it.each([
    ['the one in whose roll it is usual', nobody, 2, item],
    ['the handheld’s own, on what is in it', { ...nobody, own: 1 }, 1, shelf],
    ['the zone’s', { ...nobody, zone: 3 }, 3, item],
    ['the handheld’s before the zone’s', { ...nobody, own: 1, zone: 3 }, 1, shelf],
    ['the one that has the paper that somebody named, past the handheld’s own', { ...nobody, own: 2, paper: shelf }, 1, shelf],
    ['one that cuts to length where no roll fits', { ...nobody, own: 1, paper: small }, 3, small],
    ['a handheld’s printer that was taken away counts for nothing', { ...nobody, own: 9 }, 2, item],
  ])('%s', (_, asked, id, paper) => expect(choosePrinter(printers, asked)).toMatchObject({ printer: { id }, paper }));
  it('a paper that nobody has waits at the first, as it was asked for; without a printer it waits for one', () => {
    expect(choosePrinter(printers.slice(0, 2), { ...nobody, paper: small })).toEqual({ printer: printers[0], paper: small });
    expect(choosePrinter([], nobody)).toEqual({ printer: null, paper: item });
  });
});
