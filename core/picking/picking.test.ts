import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId, type LineId, type LotId } from '#core/base';
import { chooseStock, decidePick, byWay, orderStops, type PickFacts, type PickSource } from './index.ts';

const source = (bin: number, amount: number, more: Partial<PickSource> = {}): PickSource => ({
  bin: bin as BinId,
  item: 1 as ItemId,
  lot: null,
  serial: null,
  expires: null,
  arrived: null,
  walk: bin,
  isPickFace: false,
  qty: qty(amount),
  ...more,
});
const want = (line: number, amount: number) => ({ line: line as LineId, item: 1 as ItemId, qty: qty(amount) });

describe('choosing stock for a round', () => {
  it('E4 the lot that expires first leaves first, even from the far bin', () => {
    const { picks } = chooseStock(
      [want(1, 5)],
      [source(100, 9, { lot: 2 as LotId, expires: '2027-06-01' }), source(300, 3, { lot: 1 as LotId, expires: '2027-01-01' })],
    );
    expect(picks.map((p) => [p.bin, p.qty])).toEqual([
      [300, 3],
      [100, 2],
    ]);
  });
  it('G2 prefers the pick face, and a bin that can serve the rest alone', () => {
    expect(chooseStock([want(1, 5)], [source(100, 9), source(200, 9, { isPickFace: true })]).picks.map((p) => p.bin)).toEqual([200]);
    expect(chooseStock([want(1, 5)], [source(100, 2), source(101, 6)]).picks.map((p) => p.bin)).toEqual([101]);
  });
  it('no source is used beyond what it holds, and what is missing is named', () => {
    fc.assert(
      fc.property(fc.array(fc.nat(20), { maxLength: 6 }), fc.array(fc.integer({ min: 1, max: 30 }), { maxLength: 6 }), (held, wanted) => {
        const sources = held.map((h, i) => source(100 + i, h));
        const { picks, missing } = chooseStock(
          wanted.map((w, i) => want(i, w)),
          sources,
        );
        for (const s of sources) expect(picks.filter((p) => p.bin === s.bin).reduce((sum, p) => sum + p.qty, 0)).toBeLessThanOrEqual(s.qty);
        const got = picks.reduce((sum, p) => sum + p.qty, 0);
        const lost = missing.reduce((sum, m) => sum + m.qty, 0);
        expect(got + lost).toBe(wanted.reduce((a, b) => a + b, 0));
        expect(got).toBe(
          Math.min(
            wanted.reduce((a, b) => a + b, 0),
            held.reduce((a, b) => a + b, 0),
          ),
        );
      }),
    );
  });
  it('G2 the stops stand in the order of the way; what came since, after the bin of the way that is nearest to it', () => {
    const bins = [1, 2, 3, 4, 5].map((n) => ({ id: n, walk: n * 10 }));
    const met = (way: readonly number[], of = bins): number[] => byWay(of, way).map((b) => b.id);
    expect(met([])).toEqual([1, 2, 3, 4, 5]);
    expect(met([5, 1, 4, 2, 3])).toEqual([5, 1, 4, 2, 3]);
    expect(met([5, 1, 3])).toEqual([5, 1, 2, 3, 4]);
    expect(met([9, 8])).toEqual([1, 2, 3, 4, 5]);
    fc.assert(
      fc.property(fc.shuffledSubarray([1, 2, 3, 4, 5, 6, 7]), fc.subarray(bins), (way, of) => {
        const order = met(way, of);
        expect(order.toSorted()).toEqual(of.map((b) => b.id).toSorted());
        const onWay = (ids: readonly number[]): number[] => ids.filter((id) => way.includes(id) && order.includes(id));
        expect(onWay(order)).toEqual(onWay(way));
      }),
    );
  });
  it('G2 lines of several orders at one bin are one stop, in walking order', () => {
    const lines = [
      { bin: 5 as BinId, walk: 9, order: 'A' },
      { bin: 3 as BinId, walk: 2, order: 'A' },
      { bin: 5 as BinId, walk: 9, order: 'B' },
    ];
    expect(orderStops(lines, [5, 3]).map((s) => s.bin)).toEqual([5, 3]);
    const stops = orderStops(lines, []);
    expect(stops.map((s) => [s.bin, s.picks.length])).toEqual([
      [3, 1],
      [5, 2],
    ]);
  });
});

const facts: PickFacts = {
  bin: 100 as BinId,
  binAddress: 'P-01-1',
  scannedBinAddress: 'P-01-1',
  item: 1 as ItemId,
  itemCode: 'HV-10',
  scannedItemCode: 'HV-10',
  lot: null,
  lotCode: null,
  scannedLotCode: null,
  expires: null,
  tracking: 'none',
  decimals: 0,
  lotsHere: [],
  planned: qty(3000),
  picked: qty(1000),
  today: '2026-11-23',
  serials: null,
  kept: [],
  scannedExpires: null,
  lotNamed: false,
  goodOn: null,
};
const command = { bin: 100 as BinId, item: 1 as ItemId, lot: null, serial: null, qty: qty(1000), over: null };

describe('a pick', () => {
  it('G4 the wrong bin, item and lot are each stopped in words that name both', () => {
    expect(decidePick({ ...command, bin: 101 as BinId }, { ...facts, scannedBinAddress: 'P-01-2' })).toEqual({
      ok: false,
      error: { code: 'picking.wrongBin', scanned: 'P-01-2', wanted: 'P-01-1' },
    });
    expect(decidePick({ ...command, item: 2 as ItemId }, { ...facts, scannedItemCode: 'HV-11' })).toMatchObject({
      error: { code: 'picking.wrongItem', scanned: 'HV-11', wanted: 'HV-10' },
    });
    expect(decidePick({ ...command, lot: 8 as LotId }, { ...facts, lot: 7 as LotId, lotCode: 'L7', scannedLotCode: 'L8' })).toMatchObject({
      error: { code: 'picking.wrongLot', scanned: 'L8', wanted: 'L7' },
    });
  });
  it('G3 not more than is still to take', () => {
    expect(decidePick({ ...command, qty: qty(2000) }, facts).ok).toBe(true);
    expect(decidePick({ ...command, qty: qty(3000) }, facts)).toMatchObject({ error: { code: 'picking.tooMany', taken: 3, open: 2 } });
  });
  it('E3 an expired lot does not leave; G5 a serial is asked for', () => {
    expect(decidePick(command, { ...facts, expires: '2026-11-22', lotCode: 'L7' })).toMatchObject({ error: { code: 'picking.expired' } });
    expect(decidePick(command, { ...facts, tracking: 'serial' })).toMatchObject({ error: { code: 'picking.serialWanted' } });
  });
});
