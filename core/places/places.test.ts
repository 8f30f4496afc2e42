import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { findColumns, qty, type BinId, type ItemId, type LotId } from '#core/base';
import {
  addressOrder,
  BIN_COLUMNS,
  buildGrid,
  checkBinRules,
  checkGrid,
  countGrid,
  judgeBinSheet,
  levelValues,
  splitAddress,
} from './index.ts';
import type { BinGrid, BinRules, Goods, GridLevel, KnownBin } from './index.ts';

const rules: BinRules = {
  bin: 1 as BinId,
  address: 'A-01-1',
  oneItem: false,
  oneLot: false,
  storageClass: null,
  units: null,
  volumeMl: null,
  weightG: null,
};
const goods = (over: Partial<Goods> = {}): Goods => ({
  item: 1 as ItemId,
  itemCode: 'HV-10',
  lot: 2 as LotId,
  qty: qty(5000),
  storageClass: 'dry',
  unitMl: 400,
  unitG: 1500,
  ...over,
});
const other = goods({ item: 9 as ItemId, itemCode: 'FR-11', lot: null, qty: qty(2000) });

describe('bins', () => {
  it('A3 an address comes apart into its levels and together again', () => {
    fc.assert(
      fc.property(fc.array(fc.stringMatching(/^[A-Z0-9]{1,3}$/), { minLength: 1, maxLength: 5 }), (levels) =>
        expect(splitAddress(levels.join('-')).levels).toEqual(levels),
      ),
    );
  });
  it('A3 bay 10 comes after bay 9, not after bay 1', () => {
    expect(['A-10-1', 'A-9-2', 'A-1-1'].sort(addressOrder)).toEqual(['A-1-1', 'A-9-2', 'A-10-1']);
    expect(['AA-1', 'B-1', 'Z-1', 'A-1'].sort(addressOrder)).toEqual(['A-1', 'B-1', 'Z-1', 'AA-1']);
    expect(['10', '1A', '2', '10A', '02'].sort(addressOrder)).toEqual(['1A', '02', '2', '10', '10A']);
  });
  it('A3 the order of addresses is one order: whatever three are taken, they agree', () => {
    const level = fc.string({ unit: fc.constantFrom('A', 'B', 'Z', 'K', '0', '1', '2', '9'), minLength: 1, maxLength: 4 });
    const any = fc.array(level, { minLength: 1, maxLength: 3 }).map((l) => l.join('-'));
    fc.assert(
      fc.property(any, any, any, (a, b, c) => {
        expect(Math.sign(addressOrder(a, b))).toBe(-Math.sign(addressOrder(b, a)) + 0);
        if (addressOrder(a, b) <= 0 && addressOrder(b, c) <= 0) expect(addressOrder(a, c)).toBeLessThanOrEqual(0);
        expect(addressOrder(a, b) === 0).toBe(a === b);
      }),
      { numRuns: 3000 },
    );
  });
});

describe('A5 rules of a bin', () => {
  it('one item only: names what lies there', () => {
    expect(checkBinRules({ ...rules, oneItem: true }, [other], [goods()])).toEqual({
      code: 'places.oneItem',
      bin: 'A-01-1',
      holds: 'FR-11',
    });
    expect(checkBinRules({ ...rules, oneItem: true }, [goods()], [goods()])).toBeNull();
  });
  it('one item only: two items that come in one posting break it together', () => {
    expect(checkBinRules({ ...rules, oneItem: true }, [], [goods(), other])).toMatchObject({ code: 'places.oneItem' });
  });
  it('one lot only: goods without a lot are another lot than goods with one', () => {
    expect(checkBinRules({ ...rules, oneLot: true }, [goods({ lot: null })], [goods()])).toMatchObject({ code: 'places.oneLot' });
  });
  it('storage class: cold goods do not go on a dry shelf', () => {
    expect(checkBinRules({ ...rules, storageClass: 'dry' }, [], [goods({ storageClass: 'cold' })])).toEqual({
      code: 'places.storageClass',
      bin: 'A-01-1',
      wants: 'dry',
      item: 'HV-10',
      is: 'cold',
    });
  });
  it('room in units, litres and kilograms: what is left is said, and exactly full is allowed', () => {
    expect(checkBinRules({ ...rules, units: qty(6000) }, [other], [goods()])).toEqual({ code: 'places.full', bin: 'A-01-1', room: 4 });
    expect(checkBinRules({ ...rules, units: qty(7000) }, [other], [goods()])).toBeNull();
    expect(checkBinRules({ ...rules, volumeMl: 2700 }, [other], [goods()])).toEqual({
      code: 'places.tooBulky',
      bin: 'A-01-1',
      room: 1.9,
      needs: 2,
    });
    expect(checkBinRules({ ...rules, weightG: 10_499 }, [other], [goods()])).toMatchObject({ code: 'places.tooHeavy', needs: 7.5 });
    expect(checkBinRules({ ...rules, weightG: 10_500 }, [other], [goods()])).toBeNull();
    expect(checkBinRules({ ...rules, weightG: 1000, volumeMl: 100 }, [other], [goods({ unitMl: 0, unitG: 0 })])).toBeNull();
  });
});

const anyLevel: fc.Arbitrary<GridLevel> = fc.oneof(
  fc.record({ a: fc.nat(25), b: fc.nat(25), skip: fc.subarray(['A', 'I', 'O']) }).map(({ a, b, skip }): GridLevel => ({
    kind: 'letters',
    from: String.fromCharCode(65 + Math.min(a, b)),
    to: String.fromCharCode(65 + Math.max(a, b)),
    skip,
  })),
  fc
    .record({ a: fc.nat(30), n: fc.nat(12), step: fc.integer({ min: 1, max: 3 }), skip: fc.subarray(['13', '4', '007']) })
    .map(({ a, n, step, skip }): GridLevel => ({ kind: 'numbers', from: a, to: a + n, digits: 2, step, skip })),
);
const anyGrid: fc.Arbitrary<BinGrid> = fc.record({
  levels: fc.array(anyLevel, { minLength: 1, maxLength: 4 }),
  separators: fc.constant(['-', '.', '/']),
  walk: fc.constantFrom('serpentine' as const, 'oneWay' as const),
  turned: fc.subarray(['A', 'B', 'C']),
});

describe('A3 the builder', () => {
  it('makes as many bins as the product of the ranges without the skips, each address once, walked 1, 2, 3 …', () => {
    fc.assert(
      fc.property(
        anyGrid.filter((g) => checkGrid(g) === null && countGrid(g) <= 5000),
        (grid) => {
          const built = buildGrid(grid);
          if (!built.ok) throw new Error(built.error.code);
          const bins = built.value;
          expect(bins.length).toBe(grid.levels.reduce((n, l) => n * levelValues(l).length, 1));
          expect(new Set(bins.map((b) => b.address)).size).toBe(bins.length);
          expect(bins.map((b) => b.walk)).toEqual(bins.map((_, i) => i + 1));
          for (const [i, level] of grid.levels.entries())
            if (level.kind === 'numbers') for (const b of bins) expect(level.skip).not.toContain(splitAddress(b.address).levels[i]);
        },
      ),
      { numRuns: 60 },
    );
  });
  it('skips bay 13 however it is written, and turns round at the end of each aisle', () => {
    const grid: BinGrid = {
      levels: [
        { kind: 'letters', from: 'A', to: 'B', skip: [] },
        { kind: 'numbers', from: 12, to: 14, digits: 3, step: 1, skip: ['13'] },
        { kind: 'numbers', from: 1, to: 2, digits: 1, step: 1, skip: [] },
      ],
      separators: ['-', '-'],
      walk: 'serpentine',
      turned: [],
    };
    expect(buildGrid(grid)).toMatchObject({ ok: true });
    const walk = (g: BinGrid): string => {
      const built = buildGrid(g);
      return built.ok ? built.value.map((b) => b.address).join(' ') : built.error.code;
    };
    expect(walk(grid)).toBe('A-012-1 A-012-2 A-014-1 A-014-2 B-014-1 B-014-2 B-012-1 B-012-2');
    expect(walk({ ...grid, walk: 'oneWay' })).toBe('A-012-1 A-012-2 A-014-1 A-014-2 B-012-1 B-012-2 B-014-1 B-014-2');
    expect(walk({ ...grid, turned: ['b'] })).toBe(walk({ ...grid, walk: 'oneWay' }));
  });
  it.each([
    [{ kind: 'letters', from: 'C', to: 'A', skip: [] }, 'places.gridRange'],
    [{ kind: 'letters', from: 'Ä', to: 'Z', skip: [] }, 'places.gridRange'],
    [{ kind: 'numbers', from: 1, to: 100, digits: 2, step: 1, skip: [] }, 'places.gridDigits'],
    [{ kind: 'numbers', from: 1, to: 1.5, digits: 2, step: 1, skip: [] }, 'places.gridRange'],
    [{ kind: 'numbers', from: 4, to: 4, digits: 1, step: 1, skip: ['4'] }, 'places.gridEmpty'],
    [{ kind: 'numbers', from: 1, to: 99_999, digits: 5, step: 1, skip: [] }, 'places.gridTooMany'],
  ] as [GridLevel, string][])('refuses %j', (level, code) => {
    expect(checkGrid({ levels: [level], separators: [], walk: 'oneWay', turned: [] })?.code).toBe(code);
  });
});

describe('A4 a sheet of bins', () => {
  const header = ['zone', 'BIN', 'Alias', 'one-item', 'Room in units'];
  const columns = findColumns(header, BIN_COLUMNS);
  const known: KnownBin = {
    ...{ zone: 'ST', address: 'A-01-1', oldNames: ['OLD-7'], walk: 4, oneItem: false, oneLot: true, storageClass: 'dry' },
    ...{ units: null, volumeMl: 5000, weightG: null, arrow: null, id: 100, isEmpty: false, isRetired: false },
  };
  const judge = (...rows: string[][]) =>
    judgeBinSheet(
      columns.ok ? columns.value : new Map(),
      rows.map((cells, i) => ({ row: i + 2, cells })),
      { zones: new Set(['ST', 'PF']), bins: new Map([['A-01-1', known]]) },
    );
  it('says of every row whether it is new, changed, the same or wrong, and counts rows as the person sees them', () => {
    const { verdicts, make, change } = judge(
      ['st', 'b-01-1', '', 'yes', '12.5'],
      ['ST', 'A-01-1', 'OLD-7', 'no', ''],
      ['ST', 'a-01-1', '', '', ''],
      ['ZZ', 'B-01-2', '', '', ''],
      ['ST', 'B 01 2 3 4 5', '', '', ''],
      ['ST', 'B-02-1', 'OLD-7', '', ''],
      ['ST', 'B-02-2', '', 'perhaps', ''],
      ['ST', 'B-02-3', '', '', '-4'],
      ['PF', 'A-01-1', '', '', ''],
    );
    expect(verdicts.map((v) => [v.row, v.verdict])).toEqual([
      [2, 'new'],
      [3, 'same'],
      [4, 'fault'],
      [5, 'fault'],
      [6, 'fault'],
      [7, 'fault'],
      [8, 'fault'],
      [9, 'fault'],
      [10, 'fault'],
    ]);
    expect(verdicts[2]?.says).toBe('A-01-1 stands in row 3 too.');
    expect(verdicts[5]?.says).toBe('The old name OLD-7 already means bin A-01-1.');
    expect(make).toMatchObject([{ address: 'B-01-1', zone: 'ST', oneItem: true, units: 12_500 }]);
    expect(change).toEqual([]);
  });
  it('leaves what has no column as it is, and takes away what has an empty cell', () => {
    const { change, verdicts } = judge(['ST', 'A-01-1', '', 'no', '']);
    expect(change).toMatchObject([{ id: 100, oldNames: [], oneLot: true, volumeMl: 5000 }]);
    expect(verdicts[0]?.says).toBe('old names OLD-7 → none.');
  });
  it('does not move a bin with stock to another zone', () => {
    expect(judge(['PF', 'A-01-1', 'OLD-7', '', '']).verdicts[0]).toMatchObject({ verdict: 'fault' });
  });
  it('names columns that are missing and columns that mean nothing', () => {
    expect(findColumns(['Zone', 'Colour'], BIN_COLUMNS)).toMatchObject({ ok: false, error: { missing: ['Address'], unknown: ['Colour'] } });
  });
});
