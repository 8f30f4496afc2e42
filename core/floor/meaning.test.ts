import { describe, expect, it } from '@jest/globals';
import { qty, type LotId } from '#core/base';
import { BINS, codeOf, GOODS, testFloor } from './testing.ts';
import { goodsOfSerial, labelFor, meaningBy, type ContentFact } from './index.ts';

const { jar, lot, dated, serial } = GOODS;

describe('what a scan means on a device', () => {
  it('goods whose code looks like the number of a paper are goods; a paper that is not known is a paper all the same', () => {
    const facts = testFloor();
    facts.putItem({ ...jar, id: 90 as typeof jar.id, code: 'TR-11', packs: jar.packs.map((p) => ({ ...p, codes: [] })) });
    expect(meaningBy(facts, 'tr-11')).toMatchObject({ kind: 'item', item: { code: 'TR-11' } });
    expect(meaningBy(facts, 'TR-12')).toMatchObject({ kind: 'paper' });
  });
  it('a barcode with or without its leading zero is one code; two items of one code are named, not guessed', () => {
    const facts = testFloor();
    expect(meaningBy(facts, codeOf(jar))).toMatchObject({ kind: 'item', item: { id: jar.id } });
    facts.putItem({ ...lot, packs: [{ ...jar.packs[0], id: 99 } as (typeof lot.packs)[number]] });
    expect(meaningBy(facts, codeOf(jar))).toMatchObject({ kind: 'several', names: ['JAR-1', 'LOT-3'] });
  });
  it('what is taken out of the facts is no longer known, what is put in again is', () => {
    const facts = testFloor([{ bin: BINS.a.id, item: serial.id, serial: 'S-1' }]);
    expect(meaningBy(facts, 'S-1').kind).toBe('serial');
    facts.dropBalance(1);
    expect(meaningBy(facts, 'S-1').kind).toBe('unknown');
    facts.dropBin(BINS.a.id);
    expect(meaningBy(facts, 'OLD RACK').kind).toBe('unknown');
    facts.putBin({ ...BINS.a, address: 'A-99-1' });
    expect(meaningBy(facts, 'old rack')).toMatchObject({ kind: 'bin', bin: { address: 'A-99-1' } });
  });
});

describe('C8 C9 what answers where a lot or a serial is asked for', () => {
  it('a text that is a lot of one thing and a serial of another is the one that was asked for', () => {
    const facts = testFloor([{ bin: BINS.a.id, item: serial.id, serial: '1001', qty: qty(1) }]);
    facts.putLot({ id: 50 as LotId, item: dated.id, code: '1001', expires: null });
    const both = meaningBy(facts, '1001');
    expect(both.kind).toBe('several');
    expect([labelFor(both, 'lot', lot.id), labelFor(both, 'serial', serial.id), labelFor(both, 'serial', jar.id)]).toEqual([
      '1001',
      '1001',
      null,
    ]);
    // Where it is a bin as well, it is the bin that was scanned.
    facts.putBin({ ...BINS.b, names: ['1001'] });
    expect(labelFor(meaningBy(facts, '1001'), 'lot', lot.id)).toBeNull();
  });
  it('a serial of other goods is never one; what nobody knows may be new, if a label can bear it', () => {
    const facts = testFloor([{ bin: BINS.a.id, item: serial.id, serial: 'S-1' }]);
    expect(labelFor(meaningBy(facts, 'S-1'), 'serial', GOODS.out.id)).toBeNull();
    expect(labelFor(meaningBy(facts, ' NEW-1 '), 'serial', serial.id)).toBe('NEW-1');
    for (const text of ['x'.repeat(41), 'a\u0007b', 'A-01-1', 'PO-1', codeOf(jar)])
      expect(labelFor(meaningBy(facts, text), 'lot', lot.id)).toBeNull();
  });
});

describe('a serial by itself', () => {
  const at = (item: { id: ContentFact['item'] }, bin: { id: ContentFact['bin'] }) => ({ item: item.id, bin: bin.id, serial: '1001' });
  const serials = (...lying: ReturnType<typeof at>[]) => testFloor(lying).serialsBy('1001');
  const here = (bin: { id: number }) => (id: number) => id === bin.id;
  it('means the goods that alone bear it, wherever they lie', () => {
    expect(goodsOfSerial(serials(at(GOODS.serial, BINS.a)), here(BINS.b))).toBe(GOODS.serial.id);
  });
  it('of two kinds of goods that bear it, those that lie here; never one of them by chance', () => {
    const two = serials(at(GOODS.serial, BINS.a), at(GOODS.out, BINS.b));
    expect(goodsOfSerial(two, here(BINS.a))).toBe(GOODS.serial.id);
    expect(goodsOfSerial(two, here(BINS.b))).toBe(GOODS.out.id);
    expect(goodsOfSerial(two, here(BINS.c))).toBeNull();
    expect(goodsOfSerial(serials(at(GOODS.serial, BINS.a), at(GOODS.out, BINS.a)), here(BINS.a))).toBeNull();
    expect(goodsOfSerial([], here(BINS.a))).toBeNull();
  });
});
