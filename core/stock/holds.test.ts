import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, sumQty, ZERO, type BinId, type ItemId, type LotId, type Qty, type SiteId } from '#core/base';
import { coveringHold, decideHold, decideRelease, type HeldPieces, type StandingHold } from './index.ts';

const pieces = (bin: number, n: number, item = 1): HeldPieces => ({
  item: item as ItemId,
  lot: null,
  serial: null,
  bin: bin as BinId,
  unit: null,
  qty: qty(n * 1000),
});
const total = (of: readonly { qty: Qty }[]): number => sumQty(of.map((p) => p.qty)) / 1000;

describe('which pieces a hold takes (B10)', () => {
  it('takes them in their order, and of the last one what is wanted still', () => {
    const taken = decideHold([pieces(1, 3), pieces(2, 5), pieces(3, 9)], { qty: qty(4000), what: 'JAR-3' });
    expect(taken).toEqual({ ok: true, value: [pieces(1, 3), pieces(2, 1)] });
  });
  it('a hold without a number takes all, also where that is nothing: it stands for what comes', () => {
    expect(decideHold([], { qty: null, what: 'bin A-01' })).toEqual({ ok: true, value: [] });
    expect(decideHold([pieces(1, 3)], { qty: null, what: 'JAR-3' })).toEqual({ ok: true, value: [pieces(1, 3)] });
  });
  it.each([
    [[], 1000, 'stock.nothingToHold'],
    [[pieces(1, 3)], 3001, 'stock.binShort'],
    [[pieces(1, 3)], 0, 'stock.binShort'],
    [[pieces(1, 3)], -1000, 'stock.binShort'],
  ])('refuses a number that is not there (%#)', (there, wanted, code) => {
    expect(decideHold(there, { qty: qty(wanted), what: 'JAR-3' })).toMatchObject({ ok: false, error: { code } });
  });
  it('takes exactly what was asked, and from no place more than lies there', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 1, max: 9 }), { minLength: 1, maxLength: 6 }), fc.nat(), (lying, seed) => {
        const there = lying.map((n, bin) => pieces(bin, n));
        const wanted = 1 + (seed % total(there));
        const taken = decideHold(there, { qty: qty(wanted * 1000), what: 'JAR-3' });
        if (!taken.ok) throw new Error(taken.error.code);
        expect(total(taken.value)).toBe(wanted);
        for (const t of taken.value) expect(t.qty).toBeLessThanOrEqual(there.find((p) => p.bin === t.bin)?.qty ?? ZERO);
      }),
    );
  });
});

describe('what a release sets free (B10)', () => {
  const free = (): Qty => ZERO;
  const nobody = (): null => null;
  it('follows the goods to where they lie now, looking first where they were held', () => {
    const release = decideRelease([pieces(1, 4)], [pieces(2, 9), pieces(1, 3)], free, nobody);
    expect(release).toEqual({ sound: [pieces(1, 3), pieces(2, 1)], handed: [], gone: ZERO });
  });
  it('says what was taken away meanwhile, and frees no other goods for it', () => {
    expect(decideRelease([pieces(1, 4)], [pieces(1, 1)], free, nobody)).toEqual({ sound: [pieces(1, 1)], handed: [], gone: qty(3000) });
    expect(decideRelease([pieces(1, 4)], [pieces(1, 9, 2)], free, nobody)).toEqual({ sound: [], handed: [], gone: qty(4000) });
  });
  it('what a standing hold names too is handed to it and stays held', () => {
    const release = decideRelease([pieces(1, 4)], [pieces(1, 2), pieces(2, 2)], free, (p) => (p.bin === 2 ? 77 : null));
    expect(release).toEqual({ sound: [pieces(1, 2)], handed: [{ ...pieces(2, 2), to: 77 }], gone: ZERO });
  });
  it(
    'however two holds of one thing are released, and whatever was lost meanwhile, what is left held is never less than the other ' +
      'hold has',
    () => {
      fc.assert(
        fc.property(
          fc.integer({ min: 1, max: 9 }),
          fc.integer({ min: 1, max: 9 }),
          fc.nat({ max: 18 }),
          fc.nat({ max: 3 }),
          (mine, other, lost, far) => {
            const held = Math.max(0, mine + other - lost);
            const there = [pieces(1, Math.min(held, far)), pieces(2, Math.max(0, held - far))].filter((p) => p.qty > 0);
            const release = decideRelease([pieces(1, mine)], there, () => qty(other * 1000), nobody);
            const freed = total(release.sound);
            expect(freed + release.gone / 1000).toBe(mine);
            expect(held - freed).toBeGreaterThanOrEqual(Math.min(held, other));
          },
        ),
      );
    },
  );
  it('two lines of one hold share what is there: nothing is freed twice', () => {
    const release = decideRelease([pieces(1, 3), pieces(1, 3)], [pieces(1, 4)], free, nobody);
    expect(total(release.sound)).toBe(4);
    expect(release.gone).toBe(2000);
  });
});

describe('which hold names goods (B10)', () => {
  const hold = (of: Partial<StandingHold>): StandingHold => ({
    id: 1,
    site: 1 as SiteId,
    item: null,
    lot: null,
    serial: null,
    bin: null,
    ...of,
  });
  const goods = { site: 1 as SiteId, bin: 5 as BinId, item: 1 as ItemId, lot: 2 as LotId, serial: null };
  it('each thing that it names must fit, and the site always', () => {
    expect(coveringHold([hold({ lot: 2 as LotId })], goods)?.id).toBe(1);
    expect(coveringHold([hold({ bin: 5 as BinId, item: 1 as ItemId })], goods)?.id).toBe(1);
    for (const named of [{ lot: 3 as LotId }, { bin: 6 as BinId }, { item: 2 as ItemId }, { site: 2 as SiteId }])
      expect(coveringHold([hold(named)], goods)).toBeNull();
  });
  it('of several the oldest', () => {
    expect(coveringHold([hold({ id: 9 }), hold({ id: 4 }), hold({ id: 7 })], goods)?.id).toBe(4);
  });
});
