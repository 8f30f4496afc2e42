import { expect, it } from '@jest/globals';
import { newScans } from './each-scan.ts';

const at = (second: number): string => new Date(second * 1000).toISOString();
const scan = (key: string, second: number): { key: string; at: string } => ({ key, at: at(second) });
const keys = (...asked: Parameters<typeof newScans>): string[] => newScans(...asked).map((s) => s.key);
const here = (): boolean => true;

it('C16 every scan since the screen is open is one, in its order, also the first and two that came at once', () => {
  expect(keys([scan('a', 11)], new Set(), here)).toEqual(['a']);
  expect(keys([scan('c', 13), scan('b', 12), scan('a', 11)], new Set(['a']), here)).toEqual(['b', 'c']);
});
it('C16 what stands at the top again after an undo is no new scan, nor is what stood there when the screen was opened', () => {
  expect(keys([scan('a', 11)], new Set(['a', 'b']), here)).toEqual([]);
});
it('C16 a scan is one whatever the clocks say: those of the house and of the device differ by seconds or hours', () => {
  expect(keys([scan('a', 11), scan('b', -7200)], new Set(['a']), here)).toEqual(['b']);
  expect(keys([scan('a', 7200)], new Set(['a']), here)).toEqual([]);
});
it('C16 what somebody scans with another device has its label from there', () => {
  expect(keys([scan('b', 12), scan('a', 11)], new Set(), (key) => key === 'a')).toEqual(['a']);
});
