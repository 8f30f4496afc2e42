import { describe, expect, it } from '@jest/globals';
import { pressOf, type SpentPress } from './queries.ts';

const fresh: SpentPress = { input: '', key: '', busy: false, doneAt: -Infinity };
let n = 0;
const key = (): string => `key-${(n += 1)}`;

describe('a button that posts', () => {
  it('B1 is spent by the first press: a double click is one command', () => {
    const first = pressOf(fresh, 'add 5', 0, key) as SpentPress;
    expect(first.busy).toBe(true);
    expect(pressOf(first, 'add 5', 80, key)).toBeNull();
    const answered = { ...first, busy: false, key: '', doneAt: 60 };
    expect(pressOf(answered, 'add 5', 180, key)).toBeNull();
    expect(pressOf(answered, 'add 5', 2000, key)).not.toBeNull();
  });
  it('C18 pressed again after an answer that never came, it is the same command; another command has another key', () => {
    const first = pressOf(fresh, 'add 5', 0, key) as SpentPress;
    const lost = { ...first, busy: false };
    expect(pressOf(lost, 'add 5', 9000, key)?.key).toBe(first.key);
    expect(pressOf(lost, 'add 6', 9000, key)?.key).not.toBe(first.key);
  });
});
