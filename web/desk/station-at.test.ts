import { describe, expect, it } from '@jest/globals';
import { stationAt } from './station-at.ts';

const at = (path: string): ReturnType<typeof stationAt> => {
  const [pathname = '', search = ''] = path.split('?');
  return stationAt({ pathname, search });
};

describe('the station that is lit on the row', () => {
  it.each([
    ['/', null],
    ['/expected', 'expected'],
    ['/deliveries', 'dock'],
    ['/deliveries?show=review', 'review'],
    ['/deliveries?q=DL-1001&show=review', 'review'],
    ['/put-away', 'putAway'],
    ['/places', 'shelf'],
    ['/places/plan', 'shelf'],
    ['/bins/7', 'shelf'],
    ['/orders', 'orders'],
    ['/orders?q=Kestrel', 'orders'],
    ['/orders?state=shipped', 'gone'],
    ['/rounds/3', 'rounds'],
    ['/bench/9', 'bench'],
    ['/counts/2', 'counts'],
    ['/items', null],
    ['/me', null],
  ])('%s: %s', (path, station) => {
    expect(at(path)).toBe(station);
  });
  it('a delivery in review is not lit “At the dock”, and an order that has left not “Ordered”', () => {
    expect([at('/deliveries/4'), at('/orders/12'), at('/orders/new')]).toEqual([null, null, null]);
  });
});
