import { describe, expect, it } from '@jest/globals';
import { ROUTES } from '#contract';
import { faultsOf } from './faults.ts';

const judge = (name: keyof typeof ROUTES, body: unknown) => {
  const { body: schema } = ROUTES[name] as {
    body?: { safeParse(b: unknown): { error?: { issues: { path: PropertyKey[]; message: string }[] } } };
  };
  return schema?.safeParse(body).error?.issues ?? [];
};

describe('what is wrong with a form stands at its fields', () => {
  const item = { code: 'X', description: 'x', group: 'g', unit: 'each', decimals: 0, tracking: 'none', price: '1', barcode: '' };
  const known = Object.keys(item);

  it('each at its own, in a sentence, the first of several', () => {
    expect(faultsOf(judge('items.make', { ...item, code: ' ', decimals: 7, price: 'dear' }), known, {})).toEqual({
      fields: { code: 'Must not be empty.', decimals: 'Must be at most 3.', price: '“dear” is no amount such as 12.50.' },
      rest: null,
    });
    expect(faultsOf(judge('items.make', item), known, {})).toEqual({ fields: {}, rest: null });
  });

  it('a number that is none is told in words, never as the program sees it', () => {
    const { fields } = faultsOf(judge('items.make', { ...item, decimals: Number('two') }), known, {});
    expect(fields).toEqual({ decimals: 'Must be a number.' });
  });

  it('goes to the field that holds it under another name, and a line’s to its own', () => {
    const issues = [
      { path: ['volumeMl'], message: 'must not be below 0' },
      { path: ['lines', 1, 'qty'], message: 'must be a quantity' },
    ];
    expect(faultsOf(issues, ['litres'], { volumeMl: 'litres', 'lines.1.qty': 'second' })).toEqual({
      fields: { litres: 'Must not be below 0.', second: 'Must be a quantity.' },
      rest: null,
    });
  });

  it('what is about no field is not lost', () => {
    expect(
      faultsOf(
        [
          { path: ['version'], message: 'is old' },
          { path: [], message: 'No.' },
        ],
        ['code'],
        {},
      ),
    ).toEqual({
      fields: {},
      rest: 'Version is old; No.',
    });
  });
});
