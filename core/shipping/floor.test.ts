import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { qty, type BinId, type ItemId, type LotId } from '#core/base';
import { suggestPutAway } from '#core/moves';
import { decideShipment } from './index.ts';
import { addressOrder, checkBinRules, splitAddress } from '#core/places';

const rules = { bin: 1 as BinId, address: 'A-01-1', oneItem: false, oneLot: false, capacity: null };
const entering = { item: 1 as ItemId, itemCode: 'HV-10', lot: 2 as LotId, qty: qty(5000) };

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
  });
  it('A5 the first rule that would be broken is named', () => {
    const other = [{ item: 9 as ItemId, itemCode: 'FR-11', lot: null, qty: qty(1) }];
    expect(checkBinRules({ ...rules, oneItem: true }, other, entering)).toEqual({ code: 'places.oneItem', bin: 'A-01-1', holds: 'FR-11' });
    expect(
      checkBinRules({ ...rules, oneLot: true }, [{ item: 1 as ItemId, itemCode: 'HV-10', lot: 3 as LotId, qty: qty(1) }], entering),
    ).toMatchObject({ code: 'places.oneLot' });
    expect(
      checkBinRules(
        { ...rules, capacity: qty(6000) },
        other.map((o) => ({ ...o, qty: qty(2000) })),
        entering,
      ),
    ).toEqual({ code: 'places.full', bin: 'A-01-1', room: 4 });
    expect(checkBinRules(rules, other, entering)).toBeNull();
  });
  it('I2 the home bin with room comes first, then the same lot, then the nearest empty bin', () => {
    const candidate = { isHome: false, holdsSameLot: false, holdsSameItem: false, isEmpty: false, room: null, breaksRule: false };
    const home = { ...candidate, bin: 1 as BinId, isHome: true, room: qty(3), walk: 90 };
    const lot = { ...candidate, bin: 2 as BinId, holdsSameLot: true, walk: 50 };
    const near = { ...candidate, bin: 3 as BinId, isEmpty: true, walk: 10 };
    const far = { ...candidate, bin: 4 as BinId, isEmpty: true, walk: 40 };
    expect(suggestPutAway(qty(3), 0, [far, near, lot, home])).toEqual({ bin: 1, why: 'home' });
    expect(suggestPutAway(qty(4), 0, [far, near, lot, home])).toEqual({ bin: 2, why: 'sameLot' });
    expect(suggestPutAway(qty(4), 0, [far, near])).toEqual({ bin: 3, why: 'empty' });
    expect(suggestPutAway(qty(4), 0, [{ ...near, breaksRule: true }])).toBeNull();
  });
  it('H6 nothing ships that is held, on a cart, expired, or lacks its serial', () => {
    const line = { item: 'HV-10', picked: qty(2), putDown: qty(2), expired: null, serialMissing: false };
    const order = { number: 'CO-1', heldFor: null, packed: true };
    expect(decideShipment(order, [line]).ok).toBe(true);
    expect(decideShipment({ ...order, heldFor: 'unpaid' }, [line])).toMatchObject({ error: { code: 'shipping.held', reason: 'unpaid' } });
    expect(decideShipment(order, [])).toMatchObject({ error: { code: 'shipping.nothingPicked' } });
    expect(decideShipment(order, [{ ...line, putDown: qty(0) }])).toMatchObject({ error: { code: 'shipping.onCart' } });
    expect(decideShipment(order, [{ ...line, expired: '2026-01-01' }])).toMatchObject({ error: { code: 'shipping.expired' } });
    expect(decideShipment(order, [{ ...line, serialMissing: true }])).toMatchObject({ error: { code: 'shipping.serialMissing' } });
  });
});
