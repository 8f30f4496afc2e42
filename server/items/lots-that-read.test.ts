import { describe, expect, it } from '@jest/globals';
import { shelved } from '../testing/goods.ts';
import { openHand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });
const setRule = (onlyThatRead: boolean) => lead.ask('items.setLotRule', { body: { onlyThatRead } });
const lots = async (): Promise<number> => (await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM lot`))[0]?.n ?? 0;
const SAYS =
  'Lot LOT 2 has a space in it, which a code cannot hold. This house takes only lots that a label can hold: give it another number.';

describe('D1 lots that no code can hold', () => {
  it('are taken where the house says nothing, and refused where they are typed once a lead wants it so', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'READS-1', tracking: 'lot', lying: [{ qty: '2', lot: 'LOT 1' }] });
    const bin = bins[0]?.address ?? '';
    const lines = [{ bin, qty: '1', lot: 'LOT 2', serials: [] }];
    const adjust = (lot: string) =>
      lead.ask('stock.adjust', { params: { id }, body: { bin, way: 'plus', qty: '1', lot, serials: [], reason: 'found' } });
    const [balance] = await house.rows<{ id: number }>(`SELECT id FROM balance WHERE item_id = ?`, [id]);
    await setRule(true);
    expect((await lead.ask('items.lotRule', {})).reply).toEqual({ onlyThatRead: true });
    const before = await lots();
    const refused = [
      await adjust('LOT 2'),
      await lead.ask('stock.opening', { params: { id }, body: { lines, reason: 'found' } }),
      await lead.ask('moves.move', {
        body: { from: bin, to: 'ARRIVALS', code: 'READS-1', lot: 'LOT 1', qty: '1', newLot: 'LOT 2' },
      } as never),
      await lead.ask('lots.relabel', { body: { balance: balance?.id ?? 0, lot: 'LOT 2', qty: '1', reason: 'repacked' } } as never),
      await lead.ask('stock.changeTracking', {
        params: { id },
        body: {
          tracking: 'lotExpiry',
          lines: [{ bin: bins[0]?.id ?? 0, condition: 'sound', qty: '2', lot: 'LOT 2', expires: '2031-01-31' }],
        },
      }),
    ];
    expect(refused.map((r) => r.problem.detail)).toEqual(refused.map(() => SAYS));
    expect(await lots()).toBe(before);
    // What is here already goes on, and a number that a code can hold is taken.
    expect((await adjust('LOT 1')).status).toBe(200);
    expect((await adjust('LOT-2')).status).toBe(200);
    await setRule(false);
    expect((await adjust('LOT 2')).status).toBe(200);
  });
  it('what a hand took before it heard of the rule is never refused', async () => {
    const { id, bins } = await shelved(house, lead, { code: 'READS-2', tracking: 'lot', lying: [{ qty: '2', lot: 'A' }] });
    const [maren] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Maren Oake'`);
    const device = await openHand(lead, maren?.id ?? 0);
    await setRule(true);
    const told = await device.tells({
      ...{ kind: 'adjust.say', bin: bins[0]?.id ?? 0, item: id, way: 'plus', qty: 3000, lot: 'LOT 9', expires: null, serial: null },
      reason: 'found',
    });
    expect(told.outcome).toBe('done');
    const facts = await lead.raw('/api/hands/facts?kind=bin&after=0');
    expect(await facts.json()).toMatchObject({ onlyLotsThatRead: true });
    await setRule(false);
    expect(await (await lead.raw('/api/hands/facts?kind=bin&after=0')).json()).toMatchObject({ onlyLotsThatRead: false });
  });
  it('only a lead says so', async () => {
    expect((await hand.ask('items.setLotRule', { body: { onlyThatRead: true } })).problem).toMatchObject({ code: 'people.noRight' });
  });
});
