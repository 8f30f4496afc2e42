import { beforeAll, expect, it } from '@jest/globals';
import { clashCases, type ClashCase } from '../testing/clash-cases.ts';
import { openHand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' });
let cases: ClashCase[];
beforeAll(async () => {
  const person = async (name: string): Promise<number> => {
    const [row] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = ?`, [name]);
    return row?.id ?? 0;
  };
  cases = clashCases({
    lead,
    tobin: await openHand(await house.signIn('Tobin Sallow'), await person('Tobin Sallow')),
    ines: await openHand(await house.signIn('Ines Farrow'), await person('Ines Farrow')),
    // The cases number what they bind, as the driver does; the house's own door has it by question marks.
    rows: async <Row>(sql: string, values: readonly unknown[] = []) => {
      const order: unknown[] = [];
      const asked = sql.replace(/\$(\d)/g, (_, n: string) => {
        order.push(values[Number(n) - 1]);
        return '?';
      });
      return house.rows<Row>(asked, order);
    },
  });
});

it('every clash of the table is made, stands as it is until it is settled, and is settled in each way once', async () => {
  const settled: string[] = [];
  for (const { name, make, before, ways } of cases)
    for (const { how, after, first } of ways) {
      const { act, gives, state } = await make();
      expect({ name, state: await state() }).toEqual({ name, state: before });
      const { clashes } = (await lead.ask('hands.clashes', { query: { show: 'open' } })).reply;
      const offered = clashes.find((c) => c.key === act)?.settlements.map((s) => s.how);
      expect({ name, offered }).toEqual({ name, offered: expect.arrayContaining([how]) });
      await first?.();
      const body = { how, ...(gives?.item && { item: gives.item.id }), ...(gives?.serial && { serial: gives.serial }) };
      // A double click: both at once, one of them does it.
      const answers = await Promise.all([1, 2].map(() => lead.ask('hands.settle', { params: { key: act }, body })));
      expect({ name, how, statuses: answers.map((a) => a.status).sort() }).toEqual({ name, how, statuses: [200, 409] });
      expect({ name, how, state: await state() }).toEqual({ name, how, state: after });
      settled.push(`${name}: ${how}`);
    }
  expect(settled).toHaveLength(28);
}, 120_000);
