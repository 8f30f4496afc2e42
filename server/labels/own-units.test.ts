import { beforeAll, describe, expect, it } from '@jest/globals';
import { isSscc, ssccOf } from '#core/items';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' }, { jobs: false });
beforeAll(async () => {
  await house.rows(`DELETE FROM setting WHERE name = 'unit prefix'`);
});

const keep = (prefix: string, who = lead) => who.ask('labels.setUnitPrefix', { body: { prefix } });
const print = (count: number, who = hand) => who.ask('labels.print', { body: { kind: 'unitsAhead', count } });
const printed = async (): Promise<string[]> => {
  const rows = await house.rows<{ text: string }>(
    `SELECT face->'code'->'ways'->0->>'text' AS text FROM print_job WHERE title LIKE 'Unit %' ORDER BY id`,
  );
  return rows.map(({ text }) => text.replace(/^\D*00/, ''));
};
const refused = ({ status, problem }: { status: number; problem: { detail: string } }): unknown => [status, problem.detail];

describe('C15 labels for pallets that come without one', () => {
  it('are not printed before a lead has said the prefix, and a prefix is digits', async () => {
    expect(refused(await print(2))).toEqual([409, expect.stringContaining('prefix is not known')]);
    expect((await keep('9520099', hand)).status).toBe(403);
    for (const wrong of ['', '123', '1234567890123', '95 20099', '９５２００９９']) expect((await keep(wrong)).status).toBe(400);
    expect(await printed()).toEqual([]);
    expect((await keep(' 9520099 ')).status).toBe(200);
    expect((await lead.ask('labels.units', {})).reply).toEqual({ prefix: '9520099', left: 1e10 });
  });
  it('carry numbers that scanners know, each once, whoever prints at the same time', async () => {
    expect((await print(0)).status).toBe(400);
    expect((await print(201)).status).toBe(400);
    const answers = await Promise.all([print(40), print(40, lead), print(40)]);
    expect(answers.map((a) => a.status)).toEqual([200, 200, 200]);
    const numbers = await printed();
    expect(numbers).toHaveLength(120);
    expect(new Set(numbers).size).toBe(120);
    expect(numbers.every((n) => isSscc(n) && n.startsWith('09520099'))).toBe(true);
  });
  it('pass over a number that stock, a delivery or a notice has, and say when a prefix is used up before anything is printed', async () => {
    const before = (await printed()).length;
    const [a, b] = [ssccOf('9520099', before) ?? '', ssccOf('9520099', before + 1) ?? ''];
    await house.rows(`INSERT INTO logistic_unit (sscc) VALUES (?), (?)`, [a, b]);
    await print(2);
    expect((await printed()).slice(before)).toEqual([ssccOf('9520099', before + 2), ssccOf('9520099', before + 3)]);
    await house.rows(`SELECT setval('number_unit', 99990)`);
    await keep('952009912345');
    expect(refused(await print(20))).toEqual([
      409,
      'Prefix 952009912345 has 9 numbers left for pallets and cartons: a longer run needs another prefix.',
    ]);
    expect(await printed()).toHaveLength(before + 2);
  });
});
