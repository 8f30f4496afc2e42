import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { facesOf, fontInPairs, inPairs, shapeOf } from './shapes.ts';

const ascii = Array.from({ length: 95 }, (_, n) => String.fromCharCode(32 + n));
const [regular, bold] = [false, true].map((isBold) => facesOf(isBold)[0]);
if (!regular || !bold) throw new Error('There is a first font.');

describe('D1 a word set from its letters', () => {
  it('stands as its font shapes it whole, to the unit: all letters, all kerning', () => {
    let set = 0;
    fc.assert(
      fc.property(
        fc.constantFrom(regular, bold),
        fc.string({ unit: fc.constantFrom(...ascii), minLength: 1, maxLength: 14 }),
        (face, word) => {
          const made = inPairs(face, word);
          if (!made) return;
          set += 1;
          const whole = shapeOf(face, word, false);
          expect(made.glyphs.map(({ id, x, y }) => [id, x, y])).toEqual(whole.glyphs.map(({ id, x, y }) => [id, x, y]));
          expect(made.extent.width).toBeCloseTo(whole.extent.width, 6);
          expect(made.extent.rise).toBeCloseTo(whole.extent.rise, 6);
          expect(made.extent.fall).toBeCloseTo(whole.extent.fall, 6);
        },
      ),
      { numRuns: 3000 },
    );
    // Nearly all words are: or this would say little, and gain nothing.
    expect(set).toBeGreaterThan(2500);
  });
  it('stands in a PDF where its font sets it, at places that are the PDF’s to change', () => {
    const fonts = new Map([regular, bold].map((face) => [face, fontInPairs(face)]));
    fc.assert(
      fc.property(
        fc.constantFrom(regular, bold),
        fc.string({ unit: fc.constantFrom(...ascii, 'é', 'ш'), minLength: 1, maxLength: 14 }),
        (face, word) => {
          const whole = face.font.layout(word);
          for (let twice = 0; twice < 2; twice += 1) {
            const made = fonts.get(face)?.layout(word);
            expect(made?.glyphs.map((g) => g.id)).toEqual(whole.glyphs.map((g) => g.id));
            expect(made?.glyphs.map((g) => g.codePoints)).toEqual(whole.glyphs.map((g) => g.codePoints));
            expect(made?.positions.map(({ xAdvance, xOffset }) => [xAdvance, xOffset])).toEqual(
              whole.positions.map(({ xAdvance, xOffset }) => [xAdvance, xOffset]),
            );
            expect(made?.advanceWidth).toBe(whole.advanceWidth);
            for (const at of made?.positions ?? []) at.xAdvance *= 3;
          }
        },
      ),
      { numRuns: 1000 },
    );
  });
  it('letters that are drawn as one are left to the font', () => {
    const joined = ascii.flatMap((a) => ascii.map((b) => a + b)).filter((pair) => inPairs(regular, pair) === null);
    for (const pair of joined)
      expect(shapeOf(regular, pair, false).glyphs.map((g) => g.id)).not.toEqual(
        [...pair].map((c) => shapeOf(regular, c, false).glyphs[0]?.id),
      );
    process.stdout.write(`${joined.length} pairs are drawn as something else: ${joined.slice(0, 20).join(' ')}\n`);
  });
});
