import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { labelText, readGs1Data, unfitForGs1 } from './index.ts';

describe('what a GS1 code can hold as a lot or a serial', () => {
  it('is what its writer and its reader take: up to twenty of its characters', () => {
    fc.assert(
      fc.property(fc.string({ minLength: 1, maxLength: 24 }), (text) => {
        expect([text, readGs1Data('10', text, 2026).ok]).toEqual([text, unfitForGs1(text) === null]);
      }),
      { numRuns: 3000 },
    );
  });
  it.each([
    ['', 'is empty'],
    ['LOT 7', 'has a space in it, which a code cannot hold'],
    ['Ä1', 'has “Ä” in it, which a code cannot hold'],
    ['x'.repeat(21), 'has 21 characters, and a code takes 20'],
    ['A(21)X', null],
    ['x'.repeat(20), null],
  ])('%s', (text, why) => expect(unfitForGs1(text)).toBe(why));
});

describe('C8 C9 a lot or serial as it is kept', () => {
  it.each([
    ['  L-1\t', 'L-1'],
    ['S\u200b1\u200d', 'S1'],
    ['\ufeffS1', 'S1'],
    ['L\u00ad77', 'L77'],
    ['\u202eS1\u202c', 'S1'],
    ['A\u00a01\u20071', 'A 1 1'],
    ['Cafe\u0301', 'Café'],
    ['\u200b', ''],
  ])('%j is %j', (pasted, kept) => expect(labelText(pasted)).toBe(kept));
  it('leaves what can be seen: case, width, inner spaces, digits of any script; and control characters for whoever refuses them', () => {
    for (const text of ['s1', 'Ｓ1', 'A  1', '١٢', 'A\u001d1', 'L/7_#']) expect(labelText(text)).toBe(text);
  });
  it('law: kept once it is kept; what scanners print is never touched', () => {
    fc.assert(fc.property(fc.string({ unit: 'binary' }), (text) => expect(labelText(labelText(text))).toBe(labelText(text))));
    fc.assert(fc.property(fc.stringMatching(/^[!-~]{1,40}$/), (text) => expect(labelText(text)).toBe(text)));
  });
});
