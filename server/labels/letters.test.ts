import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { labelLetters, runsOf } from './letters.ts';
import { shapeOf } from './shapes.ts';

const ALPHABETS = {
  Greek: 'αβγδεζηθικλμνξοπρσςτυφχψωΑΒΓΔΜΣΩάέή',
  Cyrillic: 'абвгдежзийклмнопрстуфхцчшщъыьэюяАБВЖШЯ',
  Hebrew: 'אבגדהוזחטיכךלמםנןסעפףצץקרשת',
  Arabic: 'ابتثجحخدذرزسشصضطظعغفقكلمنهويةىءأإ',
} as const;
type Alphabet = keyof typeof ALPHABETS;
const alphabets = Object.keys(ALPHABETS) as Alphabet[];
const OTHERS = ['Box', 'HV-10', '12', '1234567890', '(56)', '3.5', '—', 'kg/m²', '漢', '🐝', '٦٧'] as const;
const word = (alphabet: Alphabet): fc.Arbitrary<string> =>
  fc
    .string({ unit: fc.constantFrom(...ALPHABETS[alphabet]), maxLength: 8 })
    // The first font has a few Greek letters: a word of nothing else is drawn by it.
    .map((letters) => ALPHABETS[alphabet].charAt(0) + letters);
const phrase = fc
  .constantFrom(...alphabets)
  .chain((alphabet) => fc.array(word(alphabet), { minLength: 1, maxLength: 5 }).map((words) => ({ alphabet, text: words.join(' ') })));

describe('D1 words of other letters, each shaped by itself', () => {
  it('stand as their font shapes the line whole: in its order, joined alike, at the same places', () => {
    const met = new Set<Alphabet>();
    fc.assert(
      fc.property(phrase, fc.boolean(), ({ alphabet, text }, isBold) => {
        met.add(alphabet);
        const isRtl = alphabet === 'Hebrew' || alphabet === 'Arabic';
        const runs = runsOf(text, isBold);
        expect(runs).toHaveLength(1);
        const [run] = runs;
        if (!run) throw new Error('There is a run.');
        expect(run.isRtl).toBe(isRtl);
        const whole = shapeOf(run.face, text, isRtl);
        expect(run.glyphs.map((g) => g.id)).toEqual(whole.glyphs.map((g) => g.id));
        // A font may draw a letter nearer to the space before it: less than a hundredth of a letter's height for each.
        const most = 0.01 * text.split(' ').length * run.face.font.unitsPerEm;
        for (const [n, glyph] of run.glyphs.entries()) {
          expect(Math.abs(glyph.x - (whole.glyphs[n]?.x ?? NaN))).toBeLessThanOrEqual(most);
          expect(glyph.y).toBe(whole.glyphs[n]?.y);
        }
        expect(Math.abs(run.extent.width - whole.extent.width) * run.face.font.unitsPerEm).toBeLessThanOrEqual(most);
        expect(run.extent.rise).toBeCloseTo(Math.max(0, whole.extent.rise), 6);
        expect(run.extent.fall).toBeCloseTo(Math.max(0, whole.extent.fall), 6);
      }),
      { numRuns: 600 },
    );
    expect([...met].sort()).toEqual([...alphabets].sort());
  });
  it('are told apart from words in the other order', () => {
    const [right, wrong] = ['שלום עולם', 'עולם שלום'].map((text) => runsOf(text, false)[0]);
    expect(right?.glyphs.map((g) => g.id)).not.toEqual(wrong?.glyphs.map((g) => g.id));
  });
});

describe('D1 a line', () => {
  const far = (text: string, isBold: boolean): number => runsOf(text, isBold).reduce((sum, run) => sum + run.extent.width, 0);
  const text = (words: fc.Arbitrary<string>): fc.Arbitrary<string> =>
    fc.array(words, { minLength: 1, maxLength: 6 }).map((all) => all.join(' '));
  it('reaches as far as it was measured, word by word, whatever stands beside each other', () => {
    const words = fc.oneof(fc.constantFrom(...OTHERS), ...alphabets.map(word));
    fc.assert(
      fc.property(text(words), fc.boolean(), (line, isBold) =>
        expect(far(line, isBold)).toBeCloseTo(labelLetters.extent(line, isBold).width, 6),
      ),
      { numRuns: 1500 },
    );
  });
  it('with words of several alphabets in one: the direction of a line parts them elsewhere, and they lose a kerning at the most', () => {
    const words = fc.oneof(
      ...alphabets.map(word),
      fc.tuple(...alphabets.map(word)).map((parts) => parts.join('-')),
    );
    fc.assert(
      fc.property(text(words), fc.boolean(), (line, isBold) =>
        expect(Math.abs(far(line, isBold) - labelLetters.extent(line, isBold).width)).toBeLessThan(0.1 * line.split(' ').length),
      ),
      { numRuns: 500 },
    );
  });
});
