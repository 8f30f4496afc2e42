import { describe, expect, it } from '@jest/globals';
import { addPurchaseLine, purchaseLineFault, purchaseTotal, type PurchaseDraftLine } from './draft.ts';

const line = (more: Partial<PurchaseDraftLine> = {}): PurchaseDraftLine => ({
  key: 'item-1',
  line: null,
  item: 1,
  code: 'JR-1',
  description: 'Jar',
  unit: 'each',
  partNo: '',
  received: '0',
  packs: [],
  qty: '12',
  cost: '2.50',
  ...more,
});

describe('a purchase order that is being entered', () => {
  it('B11 the same goods again are so many more of them', () => {
    const lines = addPurchaseLine(addPurchaseLine([line()], line({ key: 'item-2', item: 2, qty: '1' })), line({ qty: '24' }));
    expect(lines.map((l) => [l.item, l.qty])).toEqual([
      [1, '36'],
      [2, '1'],
    ]);
  });

  it.each([
    [{ qty: 'lots' }, 'Key how many, such as 12.'],
    [{ qty: '0' }, 'It must be more than 0.'],
    [{ qty: '-3' }, 'It must be more than 0.'],
    [{ qty: '3', received: '4' }, '4 have come already.'],
    [{ cost: 'dear' }, 'Key the cost of one, such as 12.50.'],
    [{ qty: '2,5', cost: '1,25' }, null],
    [{ cost: '' }, null],
  ])('says what is wrong with a line: %o', (more, fault) => {
    expect(purchaseLineFault(line(more))).toBe(fault);
  });

  it('adds up what can be read, exactly', () => {
    expect(purchaseTotal([line({ qty: '3', cost: '0.335' }), line({ qty: '1', cost: '1,10' }), line({ qty: 'x' })], 'EUR')).toBe('€2.11');
  });
});
