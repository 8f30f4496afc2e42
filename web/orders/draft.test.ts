import { describe, expect, it } from '@jest/globals';
import {
  addToDraft,
  draftFault,
  emptyDraft,
  orderOfDraft,
  qtyFault,
  setDraftQty,
  takeFromDraft,
  type DraftLine,
  type OrderDraft,
} from './draft.ts';

const hive: DraftLine = { item: 1, code: 'HV-10', description: 'Hive', unit: 'each', decimals: 0, qty: '2' };
const rope: DraftLine = { item: 2, code: 'RP-8', description: 'Rope', unit: 'm', decimals: 2, qty: '1.5' };
const empty: OrderDraft = { ...emptyDraft('2027-01-10'), customer: '7' };

describe('F1 the draft of an order', () => {
  it('the same item again adds to its line', () => {
    const twice = addToDraft(addToDraft(addToDraft(empty, hive), rope), { ...hive, qty: '3' });
    expect(twice.lines.map((l) => [l.code, l.qty])).toEqual([
      ['HV-10', '5'],
      ['RP-8', '1.5'],
    ]);
  });
  it.each([
    [hive, '-3', 'It must be more than 0.'],
    [hive, '0', 'It must be more than 0.'],
    [hive, '1.5', 'It is counted whole.'],
    [rope, '1.555', 'It is counted to 2 decimals.'],
    [rope, 'two', 'Key how many, such as 12.'],
    [rope, '1,25', null],
  ] as const)('$0.code, $1 of it, is told at the line itself', (line, qty, fault) => expect(qtyFault({ ...line, qty })).toBe(fault));
  it('a wrong line keeps the order from being saved, and is named', () => {
    const draft = setDraftQty(addToDraft(addToDraft(empty, hive), rope), 2, '0');
    expect(draftFault(draft)).toBe('RP-8: It must be more than 0.');
    expect(draftFault(takeFromDraft(draft, 2))).toBeNull();
    expect(draftFault({ ...draft, customer: '' })).toBe('Choose the customer first.');
    expect(draftFault(empty)).toBe('Add an item first.');
  });
  it.each<[Partial<OrderDraft>, string | null]>([
    [{ kind: 'job' }, 'Say for which job it is.'],
    [{ kind: 'job', job: 'Repair' }, null],
    [{ kind: 'transfer' }, 'Choose the site to which it goes.'],
    [{ kind: 'transfer', toSite: 2 }, null],
  ])('F3 %j: %s', (is, fault) => {
    expect(draftFault({ ...addToDraft(empty, hive), customer: '', ...is })).toBe(fault);
  });
  it('F3 becomes the order of its kind: what was keyed for another kind is left', () => {
    const draft = { ...addToDraft(empty, { ...rope, qty: '1,25' }), job: 'Repair', toSite: 2 };
    expect(orderOfDraft(draft)).toMatchObject({ kind: 'customer', customer: 7, lines: [{ item: 2, qty: '1.25' }] });
    expect(orderOfDraft(draft)).not.toHaveProperty('job');
    expect(orderOfDraft({ ...draft, kind: 'job' })).toMatchObject({ job: 'Repair' });
    expect(orderOfDraft({ ...draft, kind: 'transfer' })).not.toHaveProperty('customer');
  });
});
