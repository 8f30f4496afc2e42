import { afterEach, beforeEach, describe, expect, it } from '@jest/globals';
import { keepAs, keptAs } from './kept.ts';

const kept = new Map<string, string>();
let isFull = false;
beforeEach(() => {
  isFull = false;
  kept.clear();
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    value: {
      getItem: (k: string) => kept.get(k) ?? null,
      setItem: (k: string, v: string) => {
        if (isFull) throw new DOMException('no room', 'QuotaExceededError');
        kept.set(k, v);
      },
      removeItem: (k: string) => kept.delete(k),
    },
  });
});
afterEach(() => void Reflect.deleteProperty(globalThis, 'localStorage'));

describe('what a browser keeps', () => {
  it('keeps under a name, and forgets', () => {
    keepAs('sheet.7', { 3: { taken: '2' } });
    expect(keptAs('sheet.7')).toEqual({ 3: { taken: '2' } });
    expect(keptAs('sheet.8')).toBeNull();
    keepAs('sheet.7', null);
    expect([keptAs('sheet.7'), kept.size]).toEqual([null, 0]);
  });
  it('what another program wrote there, half a text, a browser without room or without any: nothing, and no fault', () => {
    kept.set('dockrow.sheet.7', '{"3":{"ta');
    expect(keptAs('sheet.7')).toBeNull();
    isFull = true;
    expect(() => keepAs('sheet.7', { 3: 1 })).not.toThrow();
    Reflect.deleteProperty(globalThis, 'localStorage');
    expect(() => keepAs('sheet.7', { 3: 1 })).not.toThrow();
    expect(keptAs('sheet.7')).toBeNull();
  });
});
