import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { evenLetters } from './testing.ts';
import { CAPITAL, fitTexts, isRightToLeft, wrapped, type Field } from './texts.ts';

const field = (name: string, text: string, over: Partial<Field> = {}): Field => ({
  ...{ name, text, isBold: false, wish: 30, least: 16, lines: 2, need: 'may' },
  ...over,
});
const wide = (text: string): number => evenLetters.extent(text, false).width;

describe('D2 texts in an area', () => {
  it('wraps at spaces, and breaks only a word that is wider than a line', () => {
    expect(wrapped('brood box with floor', 5, false, evenLetters)).toEqual(['brood box', 'with floor']);
    expect(wrapped('a WWWWWWWW b', 2, false, evenLetters)).toEqual(['a', 'WWWW', 'WWWW', 'b']);
    expect(wrapped('  two   spaces ', 20, false, evenLetters)).toEqual(['two spaces']);
    // A letter and its accent are one.
    expect(wrapped('e\u0301e\u0301e\u0301', 1, false, evenLetters)).toEqual(['e\u0301', 'e\u0301', 'e\u0301']);
  });
  it('is as large as it fits, at most what is allowed; then shrinks; then ends at a word', () => {
    const one = [field('code', 'HV-10', { need: 'must' })];
    const sizeIn = (width: number, height: number, largest?: number): number =>
      (fitTexts(one, { width, height }, evenLetters, largest)?.texts[0]?.size ?? 0) * CAPITAL;
    expect(sizeIn(1000, 400)).toBeGreaterThan(60);
    expect(sizeIn(1000, 400, 1)).toBeLessThanOrEqual(30);
    expect(sizeIn(80, 400)).toBeLessThan(30);
    expect(sizeIn(80, 400)).toBeGreaterThanOrEqual(16);
    const long = fitTexts([field('text', 'brood box with floor and roof and stand')], { width: 120, height: 60 }, evenLetters);
    expect(long?.texts.map((t) => t.text)).toEqual(['brood box', 'with …']);
    expect([long?.scale, long?.shortened]).toEqual([0, ['text']]);
  });
  it('what comes last gives way first; what must be said stays, or there is no label', () => {
    const fields = [field('code', 'HV-10', { need: 'must' }), field('text', 'brood box'), field('company', 'Quillfen')];
    const low = fitTexts(fields, { width: 300, height: 50 }, evenLetters);
    expect([low?.texts.map((t) => t.field), low?.omitted]).toEqual([['code', 'text'], ['company']]);
    expect(fitTexts(fields, { width: 300, height: 20 }, evenLetters)?.omitted).toEqual(['text', 'company']);
    expect(fitTexts(fields, { width: 300, height: 12 }, evenLetters)).toBeNull();
  });
  it('an address, a price or a date is said whole or there is no label: half a price is another price', () => {
    const price = (width: number): string[] | null =>
      fitTexts([field('price', '€ 1,238.50', { need: 'whole', lines: 1 })], { width, height: 300 }, evenLetters)?.texts.map(
        (t) => t.text,
      ) ?? null;
    expect([price(400), price(120), price(100)]).toEqual([['€ 1,238.50'], ['€ 1,238.50'], null]);
  });
  it('Hebrew and Arabic begin at the right, also with a number before them', () => {
    expect(['דבש (12)', '12 عسل', 'Honey דבש', '12', ''].map(isRightToLeft)).toEqual([true, true, false, false, false]);
    const at = fitTexts([field('text', 'דבש')], { width: 300, height: 60 }, evenLetters, 1)?.texts[0];
    expect((at?.x ?? 0) + (at?.width ?? 0)).toBeCloseTo(300);
  });
  it('law: any texts in any area: inside it, none over another, none smaller than its least; whole, or said not to be', () => {
    const texts = fc.array(fc.string({ unit: fc.constantFrom(...'aWg (-é '), minLength: 1, maxLength: 60 }), {
      minLength: 1,
      maxLength: 5,
    });
    fc.assert(
      fc.property(texts, fc.integer({ min: 20, max: 900 }), fc.integer({ min: 10, max: 500 }), (said, width, height) => {
        const fields = said.map((text, n) =>
          field(`${n}`, text.trim() || 'x', {
            need: (['must', 'whole', 'may', 'quiet'] as const)[n % 4] ?? 'may',
            wish: 20 + 10 * n,
            lines: 1 + (n % 3),
          }),
        );
        const set = fitTexts(fields, { width, height }, evenLetters);
        if (!set) return;
        let y = 0;
        for (const t of set.texts) {
          expect(t.top).toBeGreaterThanOrEqual(y);
          expect(t.bottom).toBeGreaterThan(t.top);
          y = t.bottom;
          // A single letter may be wider than a line; nothing else is.
          if ([...t.text].length > 2) expect(t.x + wide(t.text) * t.size).toBeLessThanOrEqual(width + 1e-6);
          expect(t.size * CAPITAL).toBeGreaterThanOrEqual(16 - 1e-9);
        }
        expect(y).toBeLessThanOrEqual(height + 1e-6);
        for (const f of fields) {
          const shown = set.texts.filter((t) => t.field === f.name).map((t) => t.text);
          const bare = (text: string): string => text.replace(/\s/gu, '');
          if (set.omitted.includes(f.name)) expect([shown, ['may', 'quiet'].includes(f.need)]).toEqual([[], true]);
          else if (f.need === 'whole') expect(bare(shown.join(''))).toBe(bare(f.text));
          else if (set.shortened.includes(f.name)) expect(shown.at(-1)).toMatch(/…$/u);
          else expect(bare(shown.join(''))).toBe(bare(f.text));
        }
      }),
      { numRuns: 400 },
    );
  });
});
