import { describe, expect, it } from '@jest/globals';
import { qty, type BinId } from '#core/base';
import { suggestPutAway } from '#core/moves';
import { decideShipment } from './index.ts';

describe('bins', () => {
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
    const line = { item: 'HV-10', picked: qty(2), putDown: qty(2), expired: null, hold: null, serialMissing: false };
    const order = { number: 'CO-1', heldFor: null };
    expect(decideShipment(order, [line]).ok).toBe(true);
    expect(decideShipment({ ...order, heldFor: 'unpaid' }, [line])).toMatchObject({ error: { code: 'shipping.held', reason: 'unpaid' } });
    expect(decideShipment(order, [])).toMatchObject({ error: { code: 'shipping.nothingPicked' } });
    expect(decideShipment(order, [{ ...line, putDown: qty(0) }])).toMatchObject({ error: { code: 'shipping.onCart' } });
    expect(decideShipment(order, [{ ...line, expired: '2026-01-01' }])).toMatchObject({ error: { code: 'shipping.expired' } });
    expect(decideShipment(order, [{ ...line, hold: 7 }])).toMatchObject({ error: { code: 'shipping.goodsHeld', item: 'HV-10' } });
    expect(decideShipment(order, [{ ...line, serialMissing: true }])).toMatchObject({ error: { code: 'shipping.serialMissing' } });
  });
});
