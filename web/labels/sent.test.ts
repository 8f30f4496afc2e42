import { expect, it } from '@jest/globals';
import { unsaidWords } from './sent.ts';

it('D1 says each reason once, and how many more there are', () => {
  expect(unsaidWords([])).toBe('');
  expect(unsaidWords(['A has no GTIN.', 'A has no GTIN.'])).toBe('A has no GTIN.');
  expect(unsaidWords(['A.', 'B.', 'C.', 'D.', 'E.', 'A.'])).toBe('A. B. C. And 2 more like these.');
});
