import { expect, it } from '@jest/globals';
import { lastSeen, newScans } from './each-scan.ts';

const at = (second: number): string => new Date(second * 1000).toISOString();
const scan = (key: string, second: number): { key: string; at: string } => ({ key, at: at(second) });
const keys = (...asked: Parameters<typeof newScans>): string[] => newScans(...asked).map((s) => s.key);

it('C16 every scan since the screen is open is one, in its order, also the first and two that came at once', () => {
  expect(keys([scan('a', 11)], new Set(), 10_000)).toEqual(['a']);
  expect(keys([scan('c', 13), scan('b', 12), scan('a', 11)], new Set(['a']), 10_000)).toEqual(['b', 'c']);
});
it('C16 what stands at the top again after an undo is no new scan, nor is what was scanned before the screen was opened', () => {
  expect(keys([scan('a', 11)], new Set(['a', 'b']), 10_000)).toEqual([]);
  expect(keys([scan('old', 9)], new Set(), 10_000)).toEqual([]);
});
it('C16 a scan that the house dates a moment later than the reload is remembered: no second label', () => {
  const before = new Set(['a', 'b']);
  const kept = new Set(JSON.parse(JSON.stringify(lastSeen(before))) as string[]);
  expect(keys([scan('b', 11), scan('a', 10)], kept, 9_000)).toEqual([]);
  expect(lastSeen(new Set(Array.from({ length: 900 }, (_, n) => `k${n}`)))).toHaveLength(200);
  expect(lastSeen(new Set(Array.from({ length: 900 }, (_, n) => `k${n}`))).at(-1)).toBe('k899');
});
