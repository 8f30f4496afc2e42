import { describe, expect, it } from '@jest/globals';
import { findColumns, qty, type WantedColumn } from '#core/base';
import { canBeHome, HOME_COLUMNS, judgeHomeSheet, type KnownHomes } from './home-sheet.ts';
import { isItemColumn, ITEM_COLUMNS, judgeItemSheet, type ItemRecord, type KnownItems } from './item-sheet.ts';
import { ownFault, type OwnField } from './own-field.ts';

const rowsOf = (...cells: string[][]): { row: number; cells: string[] }[] => cells.map((c, i) => ({ row: i + 2, cells: c }));
const columnsOf = (wanted: readonly WantedColumn[], header: string[], own: string[] = []): ReadonlyMap<string, number> => {
  const found = findColumns(header, [...wanted, ...own.map((label) => ({ key: `own:${label}`, title: label, required: false }))]);
  if (!found.ok) throw new Error(found.error.code);
  return found.value;
};

const JAR: ItemRecord = {
  code: 'JAR-3',
  description: 'Jar 30 ml',
  group: 'Glass',
  unit: 'each',
  decimals: 2,
  tracking: 'lot',
  storageClass: 'dry',
  price: '1.2',
  cost: '0.4',
  weightG: 40,
  volumeMl: 60,
  countClass: 'B',
  note: 'fragile',
  own: { Shelf: 'low' },
};
const COLOUR: OwnField = { label: 'Colour', kind: 'choice', choices: ['blue', 'green'] };
const known = (of: Partial<KnownItems> = {}): KnownItems => ({
  records: new Map([['JAR-3', JAR]]),
  retired: new Set(),
  barcodes: new Map(),
  own: [COLOUR],
  ...of,
});
const judge = (header: string[], cells: string[][], of: Partial<KnownItems> = {}) => {
  const rows = rowsOf(...cells);
  return rows.map(judgeItemSheet(columnsOf(ITEM_COLUMNS, header, ['Colour']), rows, known(of)));
};

describe('a sheet of items (B1, B5)', () => {
  it('a new item takes what the sheet says, and what every item begins with where it is silent', () => {
    const [made] = judge(['Item', 'Description'], [['lid-3', 'Lid']]);
    expect(made).toMatchObject({ row: 2, verdict: 'new', name: 'LID-3' });
    expect(made?.record).toMatchObject({
      code: 'LID-3',
      unit: 'each',
      decimals: 0,
      tracking: 'none',
      price: '0',
      countClass: 'C',
      own: {},
    });
  });
  it('a column that the sheet does not have, and an empty cell, leave what the item has', () => {
    const [same] = judge(['Code', 'Description', 'Weight g', 'Tracked'], [['JAR-3', 'Jar 30 ml', '', '']]);
    expect(same).toMatchObject({ verdict: 'same', says: 'As it is.' });
    expect(same?.record).toEqual(JAR);
  });
  it('says what changes, in the words of the sheet; an amount that is written longer is the same amount', () => {
    const [changed] = judge(['Code', 'Description', 'Price', 'Colour'], [['JAR-3', 'Jar of 30 ml', '1.20', 'blue']]);
    expect(changed).toMatchObject({ verdict: 'changed', says: 'description Jar 30 ml → Jar of 30 ml, Colour none → blue.' });
    expect(changed?.record?.own).toEqual({ Shelf: 'low', Colour: 'blue' });
  });
  it('what stock hangs on does not change this way: tracking, base unit, fewer decimals', () => {
    const [fault] = judge(['Code', 'Description', 'Tracked', 'Unit', 'Decimals'], [['JAR-3', 'Jar', 'serial', 'box', '0']]);
    expect(fault).toMatchObject({ verdict: 'fault', record: null });
    expect(fault?.says).toContain('how an item is tracked changes on its own page');
    expect(fault?.says).toContain('the base unit does not change');
    expect(fault?.says).toContain('fewer are set on its own page');
  });
  it('tells all that is wrong with a row at once', () => {
    const [fault] = judge(
      ['Code', 'Description', 'Tracked', 'Weight g', 'Price', 'Count class', 'Colour'],
      [['', '', 'colour', '-3', 'dear', 'AB', 'red']],
    );
    expect(fault?.name).toBe('(no code)');
    for (const part of ['code is empty', 'no description', 'none of', 'no whole number', 'no price', 'not one character', 'blue, green'])
      expect(fault?.says).toContain(part);
  });
  it('an item twice in the sheet, a retired one, a code that is a barcode of another: a fault each', () => {
    const [first, twice] = judge(['Code', 'Description'], [['A', 'a'], ['a', 'b']]); // prettier-ignore
    expect([first?.verdict, twice?.says]).toEqual(['new', 'A stands in row 2 too.']);
    const [retired] = judge(['Code', 'Description'], [['OLD', 'x']], { retired: new Set(['OLD']) });
    expect(retired?.says).toContain('is retired');
    const barcodes = new Map([['04006381333931', 'JAR-3']]);
    const [short] = judge(['Code', 'Description'], [['4006381333931', 'x']], { barcodes });
    expect(short).toMatchObject({ verdict: 'fault' });
    expect(short?.says).toContain('JAR-3');
    // The item that has the code already may have it.
    const own = new Map([['JAR-3', 'JAR-3']]);
    expect(judge(['Code', 'Description'], [['JAR-3', 'Jar 30 ml']], { barcodes: own })[0]?.verdict).toBe('same');
  });
  it('knows its own titles, so that no field of the company is called like one', () => {
    expect([isItemColumn('Sell price'), isItemColumn('unit'), isItemColumn('Colour')]).toEqual([true, true, false]);
  });
});

describe('a field of the company’s own (B4)', () => {
  const field = (kind: OwnField['kind']): OwnField => ({ label: 'F', kind, choices: ['a', 'b'] });
  it.each([
    ['number', ['12', '-1.5', ''], ['12,5', 'x', '1e3', '--1']],
    ['date', ['2027-03-31', ''], ['2027-02-30', '31.3.2027', '2027-3-1']],
    ['choice', ['a', ''], ['A', 'c']],
    ['text', ['anything', ''], []],
  ] as const)('%s', (kind, good, bad) => {
    for (const text of good) expect([text, ownFault(field(kind), text)]).toEqual([text, null]);
    for (const text of bad) expect(ownFault(field(kind), text)).toMatchObject({ code: 'items.fieldValue', text });
  });
});

describe('a sheet of homes (A6)', () => {
  const homes: KnownHomes = {
    bins: new Map([
      ['A-01', { id: 1, use: 'shelf', purpose: 'storage' }],
      ['OLD-A', { id: 1, use: 'shelf', purpose: 'storage' }],
      ['DOCK', { id: 2, use: 'arrivals', purpose: 'dock' }],
    ]),
    items: new Map([['JAR-3', 7]]),
    homes: new Map([['1|7', { role: 'face', min: qty(1000), max: null }]]),
  };
  const judgeHomes = (...cells: string[][]) =>
    judgeHomeSheet(columnsOf(HOME_COLUMNS, ['Bin', 'Item', 'Role', 'Min', 'Max']), rowsOf(...cells), homes);
  it('what is as it was is not written again; a limit that is left out is taken away', () => {
    expect(judgeHomes(['a-01', 'jar-3', '', '1', '']).wishes).toEqual([]);
    expect(judgeHomes(['A-01', 'JAR-3', 'reserve', '', '9'])).toMatchObject({
      verdicts: [{ verdict: 'changed' }],
      wishes: [{ bin: 1, item: 7, role: 'reserve', min: null, max: qty(9000) }],
    });
  });
  it('a bin is one home by all of its names: by its old one it is as it was, and twice in a sheet is a fault', () => {
    expect(judgeHomes(['OLD-A', 'JAR-3', 'face', '1', '']).verdicts).toMatchObject([{ verdict: 'same' }]);
    const { verdicts, wishes } = judgeHomes(['A-01', 'JAR-3', 'face', '2', ''], ['OLD-A', 'JAR-3', 'face', '3', '']);
    expect(verdicts.map((v) => v.verdict)).toEqual(['changed', 'fault']);
    expect(wishes).toHaveLength(1);
  });
  it.each([
    [['B-9', 'JAR-3', '', '', ''], 'There is no bin “B-9” at this site.'],
    [['DOCK', 'JAR-3', '', '', ''], 'DOCK is no home: goods pass through there.'],
    [['A-01', 'NIX', '', '', ''], 'There is no item “NIX”.'],
    [['A-01', 'JAR-3', 'best', '', ''], '“best” under Role is neither face nor reserve.'],
    [['A-01', 'JAR-3', '', 'few', ''], 'Minimum or maximum is no number.'],
    [['A-01', 'JAR-3', '', '-1', ''], 'Minimum or maximum is no number.'],
    [['A-01', 'JAR-3', '', '5', '2'], 'The minimum 5 is more than the maximum 2.'],
  ])('%j: %s', (cells, says) => {
    expect(judgeHomes(cells)).toEqual({ verdicts: [expect.objectContaining({ verdict: 'fault', says })], wishes: [] });
  });
  it('goods live on shelves of zones for storing alone', () => {
    expect(canBeHome({ use: 'shelf', purpose: 'pickFace' })).toBe(true);
    for (const purpose of ['dock', 'packing', 'quarantine', 'scrap']) expect(canBeHome({ use: 'shelf', purpose })).toBe(false);
    expect(canBeHome({ use: 'cart', purpose: 'storage' })).toBe(false);
  });
});
