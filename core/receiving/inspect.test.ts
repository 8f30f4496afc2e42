import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type Qty } from '#core/base';
import { decideBringBack, type ReceivedStock } from './reverse.ts';
import { decideChangeOfFound, decideFinding, decideSetApart, failedOf, type Finding } from './inspect.ts';

const finding = (checked: number, failed: [number, number][] = [], note = ''): Finding => ({
  checked: qty(checked * 1000),
  failed: failed.map(([reason, n]) => ({ reason, qty: qty(n * 1000) })),
  note,
});
const of = (arrived: number, decimals = 0) => ({
  item: 'HV-10',
  decimals,
  arrived: qty(arrived * 1000),
  isReason: (reason: number) => reason < 10,
});
const codeOf = (result: { ok: boolean; error?: { code: string } }): string | undefined => result.error?.code;

describe('C11 what was found of an entry', () => {
  it('is kept with parts of one reason added up, parts of nothing left out, the note without its edges', () => {
    expect(
      decideFinding(
        finding(
          5,
          [
            [1, 1],
            [2, 0],
            [1, 2],
          ],
          '  lids bent ',
        ),
        of(6),
      ),
    ).toEqual({
      ok: true,
      value: finding(5, [[1, 3]], 'lids bent'),
    });
  });
  it('cannot be more than arrived, nor more failed than looked at, nor half of a whole, nor for a reason that nobody knows', () => {
    expect(codeOf(decideFinding(finding(7), of(6)))).toBe('receiving.checkedTooMany');
    expect(
      codeOf(
        decideFinding(
          finding(2, [
            [1, 2],
            [2, 1],
          ]),
          of(6),
        ),
      ),
    ).toBe('receiving.failedTooMany');
    expect(codeOf(decideFinding(finding(2, [[1, 0.5]]), of(6)))).toBe('receiving.tooFine');
    expect(decideFinding(finding(2, [[1, 0.5]]), of(6, 1)).ok).toBe(true);
    expect(codeOf(decideFinding(finding(2, [[11, 1]]), of(6)))).toBe('receiving.unknownReason');
  });
  it('stands against a quantity that is said anew: not fewer than failed', () => {
    expect(codeOf(decideChangeOfFound(finding(5, [[1, 3]]), 'HV-10', qty(2000)))).toBe('receiving.failedTooMany');
    expect(decideChangeOfFound(finding(5, [[1, 3]]), 'HV-10', qty(3000)).ok).toBe(true);
    expect(decideChangeOfFound(null, 'HV-10', qty(1000)).ok).toBe(true);
  });
});

const lyings = fc.uniqueArray(fc.record({ bin: fc.integer({ min: 1, max: 6 }), qty: fc.integer({ min: 1, max: 9 }) }), {
  selector: (l) => l.bin,
  maxLength: 6,
});
const asStock = (rows: readonly { bin: number; qty: number }[], failed = false): ReceivedStock[] =>
  rows.map((r) => ({ bin: r.bin as BinId, address: `B${r.bin}`, qty: qty(r.qty * 1000), ...(failed ? { failed } : {}) }));
const sum = (rows: readonly { qty: Qty }[]): number => rows.reduce((total, r) => total + r.qty, 0);

describe('goods that failed after they were received', () => {
  it('so many go apart or come back that as many are apart as have failed; never more than lies anywhere', () => {
    fc.assert(
      fc.property(lyings, fc.nat(12), fc.nat(12), (rows, before, now) => {
        const lying = asStock(rows);
        const decided = decideSetApart(
          { item: 'HV-10', before: qty(before * 1000), now: qty(now * 1000), receivedInto: 1 as BinId },
          lying,
        );
        const wanted = (now - before) * 1000;
        if (wanted > sum(lying)) return expect(codeOf(decided)).toBe('receiving.notAllHere');
        if (!decided.ok) throw new Error('There was enough.');
        const { apart, back } = decided.value;
        expect(sum(apart) - back).toBe(wanted);
        expect(apart.length === 0 || back === 0).toBe(true);
        for (const a of apart) expect(a.qty).toBeLessThanOrEqual(lying.find((l) => l.bin === a.bin)?.qty ?? 0);
        // Those that lie where they were received are nearest to whoever looks at them.
        const atDock = lying.find((l) => l.bin === 1)?.qty ?? 0;
        if (wanted > 0) expect(sum(apart.filter((a) => a.bin === 1))).toBe(Math.min(atDock, wanted));
      }),
    );
  });

  it('all come back when their line is reversed, and no more sound ones than the rest of it', () => {
    fc.assert(
      fc.property(lyings, lyings, fc.integer({ min: 1, max: 12 }), fc.nat(12), (soundRows, failedRows, received, bad) => {
        fc.pre(bad <= received);
        const [sound, failed] = [asStock(soundRows), asStock(failedRows, true)];
        const [all, apart] = [qty(received * 1000), qty(bad * 1000)];
        const decided = decideBringBack({ item: 'HV-10', qty: all, into: 1 as BinId, failed: apart }, [...failed, ...sound]);
        const isThere = sum(sound) >= all - apart && sum(failed) >= apart;
        expect(decided.ok).toBe(isThere);
        if (!decided.ok) return;
        expect(sum(decided.value.filter((m) => m.failed === true))).toBe(apart);
        const fromElsewhere = decided.value.filter((m) => m.failed !== true);
        expect(fromElsewhere.every((m) => m.bin !== 1)).toBe(true);
        const inPlace = sound.find((l) => l.bin === 1)?.qty ?? 0;
        expect(sum(fromElsewhere)).toBe(Math.max(0, all - apart - inPlace));
      }),
    );
  });

  it('of nothing is nothing', () => {
    expect(failedOf(null)).toBe(0);
    expect(
      failedOf(
        finding(3, [
          [1, 1],
          [2, 1],
        ]),
      ),
    ).toBe(2000);
  });
});
