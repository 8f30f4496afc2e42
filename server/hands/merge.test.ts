import { beforeAll, describe, expect, it } from '@jest/globals';
import { randomUUID } from 'node:crypto';
import type { Client } from '../testing/client.ts';
import { houseForTests } from '../testing/house.ts';
import { openHand, type Hand } from '../testing/hand.ts';

const { house } = houseForTests({});
let lead: Client;
let tobin: Hand;
let ines: Hand;
const who: Record<string, number> = {};
beforeAll(async () => {
  for (const p of await house.rows<{ id: number; name: string }>(`SELECT id, name FROM person`)) who[p.name.split(' ')[0] ?? ''] = p.id;
  lead = await house.signIn('Maren Oake');
  tobin = await openHand(await house.signIn('Tobin Sallow'), who['Tobin'] ?? 0);
  ines = await openHand(await house.signIn('Ines Farrow'), who['Ines'] ?? 0);
});

const one = async <Row>(sql: string, values: readonly unknown[] = []): Promise<Row> => {
  const [row] = await house.rows<Row>(sql, values);
  if (!row) throw new Error(`Nothing found by ${sql}`);
  return row;
};
const binOf = async (address: string): Promise<number> =>
  (await one<{ id: number }>(`SELECT id FROM bin WHERE address = ? AND site_id = 1`, [address])).id;
let made = 0;
/** An item with so many pieces in a shelf of its own. */
async function stocked(
  qty: number,
  tracking = 'none',
  lot?: { lot: string; expires: string },
): Promise<{ item: number; code: string; pack: number; bin: number; address: string }> {
  made += 1;
  const code = `HAND-${made}`;
  const item = (
    await lead.ask('items.make', {
      body: { code, description: `Hand goods ${made}`, group: 'Test', unit: 'each', decimals: 0, tracking: tracking as 'none' },
    })
  ).reply.id;
  const address = `H-${String(made).padStart(2, '0')}-1`;
  const [zone] = await house.rows<{ id: number }>(`SELECT id FROM zone WHERE site_id = 1 AND purpose = 'storage' ORDER BY id LIMIT 1`);
  await lead.ask('places.makeBin', { body: { zone: zone?.id ?? 0, address } });
  if (qty > 0)
    await lead.ask('stock.opening', { params: { id: item }, body: { lines: [{ bin: address, qty: String(qty), ...lot }] } } as never);
  const { pack } = await one<{ pack: number }>(`SELECT id AS pack FROM pack WHERE item_id = ?`, [item]);
  return { item, code, pack, bin: await binOf(address), address };
}
const lying = async (item: number): Promise<Record<string, number>> =>
  Object.fromEntries(
    (
      await house.rows<{ address: string; qty: number }>(
        `SELECT address, sum(qty)::float AS qty FROM stock_fact WHERE item_id = ? GROUP BY 1`,
        [item],
      )
    ).map((r) => [r.address, r.qty]),
  );
const put = (g: { item: number; bin: number }, to: number, qty: number, more: object = {}): object => ({
  kind: 'move.put',
  from: g.bin,
  to,
  item: g.item,
  lot: null,
  serial: null,
  condition: 'sound',
  qty: qty * 1000,
  over: null,
  ...more,
});
const clashes = async (): Promise<{ key: string; against: string; what: string; settlements: { how: string }[] }[]> =>
  (await lead.ask('hands.clashes', { query: { show: 'open' } })).reply.clashes;
const settle = async (key: string, body: { how: string; item?: number; serial?: string }): Promise<string> => {
  const answer = await lead.ask('hands.settle', { params: { key }, body });
  if (answer.status !== 200) throw new Error(answer.problem.detail);
  return answer.reply.says;
};

describe('I1 what was carried on the floor', () => {
  it('is posted once, when it happened, by whom and on which device, however often it is told', async () => {
    const g = await stocked(10);
    const to = await binOf('QUARANTINE');
    tobin.does(put(g, to, 4), { ago: 3_600_000 });
    const acts = [...tobin.waiting()];
    expect(await tobin.tell()).toMatchObject([{ outcome: 'done' }]);
    expect(await tobin.tell(acts)).toMatchObject([{ outcome: 'repeated' }]);
    expect(await lying(g.item)).toEqual({ [g.address]: 6, QUARANTINE: 4 });
    const m = await one<{ ago: number; told: boolean; name: string; device: string }>(
      `SELECT round(extract(epoch FROM now_here() - m.at) / 60)::int AS ago, m.told > m.at + interval '50 minutes' AS told,
         p.name, m.device
       FROM movement m
       JOIN person p ON p.id = m.person_id
       WHERE m.item_id = ? AND m.to_bin = ?`,
      [g.item, to],
    );
    expect(m).toEqual({ ago: 60, told: true, name: 'Tobin Sallow', device: expect.stringMatching(/^Handheld/) });
  });
  it('a device clock that is two hours wrong changes nothing of when it happened', async () => {
    const g = await stocked(3);
    tobin.does(put(g, await binOf('QUARANTINE'), 1), { ago: 60_000 });
    const [act] = tobin.waiting();
    const wrong = { ...(act as NonNullable<typeof act>), doneAt: (act?.doneAt ?? 0) + 7_200_000 };
    // The clock runs ahead, so it would be in the future; it is never later than when it was told.
    await tobin.tell([wrong]);
    const { early } = await one<{ early: boolean }>(`SELECT at <= now() AS early FROM hand_act WHERE key = ?`, [wrong.key]);
    expect(early).toBe(true);
  });
  it('is told in its order: what comes after something that was not told waits', async () => {
    const g = await stocked(5);
    const q = await binOf('QUARANTINE');
    const first = tobin.does(put(g, q, 2));
    tobin.does({ kind: 'move.undo', act: first });
    const [a, b] = tobin.waiting();
    expect(await tobin.tell([b as NonNullable<typeof b>])).toMatchObject([{ outcome: 'failed' }]);
    expect(await tobin.tell([a as NonNullable<typeof a>, b as NonNullable<typeof b>])).toMatchObject([
      { outcome: 'done' },
      { outcome: 'done' },
    ]);
    expect(await lying(g.item)).toEqual({ [g.address]: 5 });
  });
  it('the record holds less: both bins are to be counted, and what is there is posted', async () => {
    const g = await stocked(3);
    const q = await binOf('QUARANTINE');
    const told = await tobin.tells(put(g, q, 5));
    expect(told).toMatchObject({ outcome: 'clash', says: expect.stringContaining('3') });
    expect(await lying(g.item)).toEqual({ [g.address]: 3 });
    const clash = (await clashes()).find((c) => c.key === told.act);
    expect(clash).toMatchObject({
      what: `Put 5 ${g.code} from ${g.address} into QUARANTINE`,
      settlements: [{ how: 'post' }, { how: 'count' }],
    });
    expect(await settle(told.act, { how: 'post' })).toMatch(/^Posted 3/);
    expect(await lying(g.item)).toEqual({ QUARANTINE: 3 });
    expect((await lead.ask('hands.settle', { params: { key: told.act }, body: { how: 'post' } })).problem.code).toBe('hands.settledBefore');
    const again = await tobin.tells(put(g, q, 1));
    await settle(again.act, { how: 'count' });
    const waiting = await house.rows(`SELECT bin_id FROM trouble WHERE item_id = ? AND settled_at IS NULL`, [g.item]);
    expect(waiting).toHaveLength(4);
    expect(await lying(g.item)).toEqual({ QUARANTINE: 3 });
  });
  it('A5 a rule of the bin is broken, or the bin was retired: a lead accepts that it lies there, or has it carried back', async () => {
    const [g, other] = [await stocked(4), await stocked(1)];
    const { version } = await one<{ version: number }>(`SELECT version FROM bin WHERE id = ?`, [other.bin]);
    await lead.ask('places.changeBin', { params: { id: other.bin }, body: { oneItem: true, version } } as never);
    await house.rows(`UPDATE bin SET one_item = true WHERE id = ? AND 1 = ?`, [other.bin, 1]);
    const back = await tobin.tells(put(g, other.bin, 1));
    expect(back).toMatchObject({ outcome: 'clash', says: expect.stringContaining('one item only') });
    await settle(back.act, { how: 'back' });
    expect(await lying(g.item)).toEqual({ [g.address]: 4 });
    const kept = await tobin.tells(put(g, other.bin, 1));
    await settle(kept.act, { how: 'accept' });
    expect(await lying(g.item)).toEqual({ [g.address]: 3, [other.address]: 1 });
    const empty = await stocked(0);
    await house.rows(`UPDATE bin SET retired_at = now() WHERE id = ? AND 1 = ?`, [empty.bin, 1]);
    const gone = await tobin.tells(put(g, empty.bin, 2));
    expect(gone).toMatchObject({ outcome: 'clash', says: expect.stringContaining('retired') });
    await settle(gone.act, { how: 'bringBack' });
    expect(await lying(g.item)).toEqual({ [g.address]: 1, [other.address]: 1, [empty.address]: 2 });
  });
  it('a hand who takes back what clashed settles it without the lead', async () => {
    const g = await stocked(1);
    const told = await tobin.tells(put(g, await binOf('QUARANTINE'), 9));
    expect(told.outcome).toBe('clash');
    expect(await tobin.tells({ kind: 'move.undo', act: told.act })).toMatchObject({ outcome: 'done' });
    expect((await clashes()).some((c) => c.key === told.act)).toBe(false);
  });
});

describe('who did it', () => {
  it('devices have names of their own, also those that are greeted or named at the same moment', async () => {
    const hello = (cookie: string, name?: string) =>
      lead.raw('/api/hands/device', {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Cookie: cookie },
        body: JSON.stringify(name === undefined ? {} : { name }),
      });
    const made = await Promise.all([1, 2, 3, 4].map(() => hello(lead.cookie)));
    const names = await Promise.all(made.map(async (m) => ((await m.json()) as { name: string }).name));
    expect(new Set(names).size).toBe(4);
    const cookies = made.map((m) => `${lead.cookie}; ${m.headers.getSetCookie()[0]?.split(';')[0] ?? ''}`);
    const answers = await Promise.all(cookies.map((c, n) => hello(c, n % 2 === 0 ? 'Cold store' : 'COLD STORE')));
    expect(answers.map((a) => a.status).sort()).toEqual([200, 409, 409, 409]);
    const refused = (await (answers.find((a) => a.status === 409) as Response).json()) as { code: string };
    expect(refused.code).toBe('hands.nameTaken');
    const [{ n } = { n: 0 }] = await house.rows<{ n: number }>(`SELECT count(*)::int AS n FROM device WHERE lower(name) = ?`, [
      'cold store',
    ]);
    expect(n).toBe(1);
  });
  it('the author is believed who signed in on the device, whoever carries it back; nobody else is', async () => {
    const g = await stocked(6);
    const q = await binOf('QUARANTINE');
    const forged = await tobin.tells(put(g, q, 1), { person: who['Ines'] ?? 0 });
    expect(forged).toMatchObject({ outcome: 'clash', says: expect.stringContaining('never signed in') });
    await settle(forged.act, { how: 'drop' });
    expect(await lying(g.item)).toEqual({ [g.address]: 6 });
    const { status } = await (
      await house.signIn('Odile Wrack')
    ).raw('/api/hands/acts', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ sentAt: 1, waiting: 0, acts: [] }),
    });
    expect(status).toBe(403);
  });
  it('L4 a lead’s powers go with the lead: told by a colleague, a broken rule waits for a lead like a hand’s', async () => {
    const [g, other] = [await stocked(4), await stocked(1)];
    await house.rows(`UPDATE bin SET one_item = true WHERE id = ? AND 1 = ?`, [other.bin, 1]);
    const own = await openHand(lead, who['Maren'] ?? 0);
    expect(await own.tells(put(g, other.bin, 1, { over: 'full house' }))).toMatchObject({ outcome: 'done' });
    await house.rows(
      `INSERT INTO device_person (device_id, person_id) SELECT d.id, ? FROM device d WHERE d.person_id = ? ON CONFLICT DO NOTHING`,
      [who['Maren'], who['Tobin']],
    );
    const carried = await tobin.tells(put(g, other.bin, 1, { over: 'because I say so' }), { person: who['Maren'] ?? 0 });
    expect(carried).toMatchObject({ outcome: 'clash', says: expect.stringContaining('one item only') });
    await settle(carried.act, { how: 'back' });
    expect(await lying(g.item)).toEqual({ [g.address]: 3, [other.address]: 1 });
  });
  it('a site or a person that does not exist is refused whole, and nothing is kept', async () => {
    const g = await stocked(2);
    for (const more of [{ person: 999_999 }, { site: 999_999 }]) {
      const key = tobin.does(put(g, g.bin + 1, 1), more);
      await expect(tobin.tell(tobin.waiting().slice(-1))).rejects.toThrow(/no site|[Nn]obody|999999/);
      expect(await house.rows(`SELECT 1 FROM hand_act WHERE key = ?`, [key])).toEqual([]);
      tobin.forget(key);
    }
  });
  it('A1 goods and papers of another site are nobody’s here', async () => {
    const g = await stocked(2);
    const { id } = await one<{ id: number }>(`SELECT id FROM bin WHERE site_id = 2 AND use = 'shelf' LIMIT 1`);
    expect(await tobin.tells(put(g, id, 1))).toMatchObject({ outcome: 'clash' });
    expect(await lying(g.item)).toEqual({ [g.address]: 2 });
  });
});

describe('C what was scanned at the dock', () => {
  async function delivery(): Promise<{ id: number; lines: { item: number; pack: number; code: string }[] }> {
    const { number } = await one<{ number: string }>(
      `SELECT o.number
       FROM purchase_order o
       WHERE o.state = 'open' AND o.site_id = 1
         AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id AND d.open)
       AND EXISTS (
         SELECT 1
         FROM purchase_line l
         JOIN item i ON i.id = l.item_id
         WHERE l.purchase_order_id = o.id AND i.tracking = 'none' AND NOT l.closed
       )
       ORDER BY o.id
       LIMIT 1`,
    );
    const id = (await lead.ask('receiving.start', { body: { purchaseOrder: number } })).reply.id;
    const lines = await house.rows<{ item: number; pack: number; code: string }>(
      `SELECT l.item_id AS item, (SELECT id FROM pack WHERE item_id = l.item_id ORDER BY units LIMIT 1) AS pack, i.code
       FROM delivery d
       JOIN delivery_order x ON x.delivery_id = d.id
       JOIN purchase_line l ON l.purchase_order_id = x.purchase_order_id
       JOIN item i ON i.id = l.item_id
       WHERE d.id = ? AND i.tracking = 'none'`,
      [id],
    );
    return { id, lines };
  }
  const enter = (d: number, g: { item: number; pack: number }, qty = 1, more: object = {}): object => ({
    kind: 'receive.enter',
    delivery: d,
    item: g.item,
    pack: g.pack,
    qty: qty * 1000,
    lot: null,
    expires: null,
    serial: null,
    takeAnyway: true,
    ...more,
  });
  const entries = (d: number): Promise<{ qty: string; lot: string | null; expires: string | null; serial: string | null }[]> =>
    house.rows(
      `SELECT trim_scale(qty)::text AS qty, lot, expires, serial
       FROM delivery_entry
       WHERE delivery_id = ? AND taken_out_at IS NULL
       ORDER BY id`,
      [d],
    );

  it('C3 C18 several hands scan into one delivery; changes and undo are of one’s own; a delivery in review opens again', async () => {
    const d = await delivery();
    const [line] = d.lines;
    const first = tobin.does(enter(d.id, line as never, 1));
    tobin.does({ kind: 'receive.change', delivery: d.id, entry: first, qty: 7000 });
    const second = tobin.does(enter(d.id, line as never, 1));
    tobin.does({ kind: 'receive.takeOut', delivery: d.id, entry: second });
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(['done', 'done', 'done', 'done']);
    expect(await ines.tells({ kind: 'receive.finish', delivery: d.id })).toMatchObject({ outcome: 'done' });
    expect(await tobin.tells(enter(d.id, line as never, 2))).toMatchObject({ outcome: 'done' });
    expect((await lead.ask('receiving.delivery', { params: { id: d.id } })).reply.state).toBe('scanning');
    expect((await entries(d.id)).map((e) => e.qty)).toEqual(['7', '2']);
    await lead.ask('receiving.finish', { params: { id: d.id } });
    expect(await tobin.tells({ kind: 'receive.change', delivery: d.id, entry: first, qty: 6000 })).toMatchObject({ outcome: 'done' });
    await lead.ask('receiving.post', { params: { id: d.id }, body: {} });
    const late = await tobin.tells(enter(d.id, line as never, 3));
    expect(late).toMatchObject({ outcome: 'clash', says: expect.stringContaining('posted') });
    expect(await settle(late.act, { how: 'followUp' })).toMatch(/^Entered into delivery DL-/);
    const { id: follows } = await one<{ id: number }>(`SELECT id FROM delivery WHERE follows = ?`, [d.id]);
    expect(await entries(follows)).toMatchObject([{ qty: '3' }]);
    const dropped = await tobin.tells(enter(d.id, line as never, 3));
    await settle(dropped.act, { how: 'drop' });
    expect(await entries(follows)).toHaveLength(1);
  });
  it('C6 a code that nobody knows is kept, and tied by the lead; C9 a serial that is here; C8 one lot with two dates', async () => {
    const d = await delivery();
    const plain = await stocked(0);
    const code = `5${String(Date.now()).slice(-10)}`;
    const unknown = tobin.does({ kind: 'receive.unknown', delivery: d.id, code, qty: 1000 });
    tobin.does({ kind: 'receive.change', delivery: d.id, entry: unknown, qty: 12_000 });
    expect((await tobin.tell()).map((o) => o.outcome)).toEqual(['clash', 'done']);
    await settle(unknown, { how: 'tie', item: plain.item });
    expect(await entries(d.id)).toMatchObject([{ qty: '12' }]);
    expect(await tobin.tells({ kind: 'receive.unknown', delivery: d.id, code, qty: 2000 })).toMatchObject({ outcome: 'done' });

    const serial = await stocked(0, 'serial');
    const s = (text: string) => enter(d.id, serial, 1, { serial: text });
    expect(await tobin.tells(s('S-1'))).toMatchObject({ outcome: 'done' });
    const twice = await ines.tells(s('S-1'));
    expect(twice).toMatchObject({ outcome: 'clash', says: expect.stringContaining('S-1') });
    await settle(twice.act, { how: 'serial', serial: 'S-2' });
    const third = await ines.tells(s('S-2'));
    await settle(third.act, { how: 'drop' });

    const dated = await stocked(0, 'lotExpiry');
    const l = (lot: string, expires: string) => enter(d.id, dated, 1, { lot, expires });
    expect(await tobin.tells(l('L1', '2031-01-31'))).toMatchObject({ outcome: 'done' });
    const other = await ines.tells(l('L1', '2031-03-31'));
    expect(other).toMatchObject({ outcome: 'clash', says: expect.stringContaining('31 Mar 2031') });
    await settle(other.act, { how: 'known' });
    const right = await ines.tells(l('L1', '2031-02-28'));
    await settle(right.act, { how: 'date' });
    const all = await entries(d.id);
    expect(all.filter((e) => e.lot === 'L1').map((e) => e.expires)).toEqual(['2031-02-28', '2031-02-28', '2031-02-28']);
    expect(all.filter((e) => e.serial).map((e) => e.serial)).toEqual(['S-1', 'S-2']);
    expect(await tobin.tells({ kind: 'receive.finish', delivery: d.id })).toMatchObject({ outcome: 'done' });
    expect(await ines.tells({ kind: 'receive.finish', delivery: d.id })).toMatchObject({ outcome: 'done' });
  });
});

describe('G what was picked', () => {
  async function round(
    g: { item: number },
    qty: number,
  ): Promise<{ order: number; number: string; round: number; pick: string; lot: string | null }> {
    const { id: customer, today } = await one<{ id: number; today: string }>(
      `SELECT id, to_char(now_here(), 'YYYY-MM-DD') AS today FROM customer LIMIT 1`,
    );
    const order = (await lead.ask('orders.make', { body: { customer, due: today, lines: [{ item: g.item, qty: String(qty) }] } })).reply;
    await lead.ask('orders.promise', { body: { orders: [order.id], mode: 'free' } });
    const made = (await lead.ask('picking.make', { body: { orders: [order.id] } })).reply;
    const { key, lot } = await one<{ key: string; lot: string | null }>(
      `SELECT k.key, l.code AS lot FROM round_pick k LEFT JOIN lot l ON l.id = k.lot_id WHERE k.round_id = ?`,
      [made.id],
    );
    return { order: order.id, number: order.number, round: made.id, pick: key, lot };
  }
  const take = (r: { round: number; pick: string }, g: { item: number; bin: number }, qty: number, more: object = {}): object => ({
    kind: 'pick.take',
    round: r.round,
    pick: r.pick,
    bin: g.bin,
    item: g.item,
    lot: null,
    serial: null,
    qty: qty * 1000,
    ...more,
  });
  const bench = () => binOf('BENCH-1');

  it('G3 G5 G10 taken, taken back, taken again, put down, packed and gone, all told afterwards', async () => {
    const g = await stocked(9);
    const r = await round(g, 5);
    const wrong = tobin.does(take(r, g, 4));
    tobin.does({ kind: 'pick.undo', round: r.round, taken: wrong });
    const taken = tobin.does(take(r, g, 5));
    tobin.does({ kind: 'pick.putDown', round: r.round, bin: await bench() });
    tobin.does({ kind: 'pack.order', order: r.order, pieces: [taken], parcels: 2 });
    tobin.does({ kind: 'pack.ship', order: r.order, pieces: [taken] });
    expect((await tobin.tell()).map((o) => [o.outcome, o.says])).toEqual(Array(6).fill(['done', null]));
    expect(await lying(g.item)).toEqual({ [g.address]: 4 });
    expect(await one(`SELECT state, parcels FROM customer_order WHERE id = ?`, [r.order])).toEqual({ state: 'shipped', parcels: 2 });
  });
  it('E4 another lot: of a lead it is picked, of a hand it waits until a lead accepts it; what moves is what was taken', async () => {
    const g = await stocked(6, 'lotExpiry', { lot: 'FIRST', expires: '2029-01-31' });
    await lead.ask('stock.opening', {
      params: { id: g.item },
      body: { lines: [{ bin: g.address, qty: '6', lot: 'SECOND', expires: '2029-06-30', serials: [] }], reason: 'test' },
    });
    const r = await round(g, 5);
    expect(r.lot).toBe('FIRST');
    const over = 'FIRST stands behind a pallet';
    expect((await tobin.tells(take(r, g, 2, { lot: 'SECOND' }))).says).toContain('Wrong lot');
    const told = await tobin.tells(take(r, g, 2, { lot: 'SECOND', over }));
    expect(told.says).toContain('A lead accepts that');
    const lots = (): Promise<{ lot: string; qty: number; use: string }[]> =>
      house.rows(`SELECT lot, qty::int AS qty, use FROM stock_fact WHERE item_id = ? ORDER BY use, lot`, [g.item]);
    expect((await lots()).filter((l) => l.use === 'cart')).toEqual([]);
    expect(await settle(told.act, { how: 'accept' })).toContain('the other lot is picked');
    expect((await lots()).filter((l) => l.use === 'cart')).toEqual([{ lot: 'SECOND', qty: 2, use: 'cart' }]);
    const maren = await openHand(lead, who['Maren'] ?? 0);
    const more = await maren.tells(take(r, g, 1, { lot: 'SECOND', over }));
    expect(more.outcome).toBe('done');
    const [reason] = await house.rows<{ reason: string }>(`SELECT reason FROM movement WHERE item_id = ? ORDER BY id DESC LIMIT 1`, [
      g.item,
    ]);
    expect(reason?.reason).toBe(`Picked for ${r.number}, lot SECOND instead of FIRST: ${over}`);
    await tobin.tells({ kind: 'pick.undo', round: r.round, taken: more.act });
    expect((await lots()).find((l) => l.use === 'shelf' && l.lot === 'SECOND')?.qty).toBe(4);
    await house.expectCleanAudit();
  });
  it('H1 what was not looked at is not packed: the bench is told to look again', async () => {
    const g = await stocked(9);
    const r = await round(g, 5);
    const taken = tobin.does(take(r, g, 5));
    tobin.does({ kind: 'pick.putDown', round: r.round, bin: await bench() });
    await tobin.tell();
    const blind = await tobin.tells({ kind: 'pack.order', order: r.order, pieces: [], parcels: 1 });
    expect(blind).toMatchObject({ outcome: 'clash', says: expect.stringContaining('not what was looked at') });
    await settle(blind.act, { how: 'seen' });
    expect(await tobin.tells({ kind: 'pack.order', order: r.order, pieces: [taken], parcels: 1 })).toMatchObject({ outcome: 'done' });
    const held = await tobin.tells({ kind: 'pack.ship', order: r.order, pieces: [taken, randomUUID()] });
    expect(held.outcome).toBe('clash');
    expect((await lead.ask('hands.settle', { params: { key: held.act }, body: { how: 'again' } })).status).toBe(409);
    await settle(held.act, { how: 'seen' });
  });
  it('H6 the order was held meanwhile: the goods on the cart are put back, or picked after all', async () => {
    const g = await stocked(8);
    const r = await round(g, 4);
    await lead.ask('orders.hold', { params: { id: r.order }, body: { reason: 'unpaid' } });
    const two = await tobin.tells(take(r, g, 2));
    expect(two).toMatchObject({ outcome: 'clash', says: expect.stringContaining('unpaid') });
    expect(await settle(two.act, { how: 'putBack' })).toContain('to be put away');
    expect((await lying(g.item))[g.address]).toBe(6);
    const after = await tobin.tells(take(r, g, 2));
    await lead.ask('orders.release', { params: { id: r.order } });
    await settle(after.act, { how: 'again' });
    expect((await lying(g.item))[g.address]).toBe(4);
  });
  it('G6 the record was short: what the hand held is found stock, and the bin is counted; or it is put back', async () => {
    const g = await stocked(5);
    const r = await round(g, 5);
    await lead.ask('moves.move', { body: { from: g.address, to: 'QUARANTINE', code: g.code, qty: '2' } });
    await house.rows(`UPDATE promise SET qty = 5 WHERE item_id = ? AND 1 = ?`, [g.item, 1]);
    await house.rows(
      `INSERT INTO promise (line_id, site_id, item_id, qty)
       SELECT id, 1, item_id, 5
       FROM order_line
       WHERE order_id = ? AND NOT EXISTS (SELECT 1 FROM promise p WHERE p.line_id = order_line.id)`,
      [r.order],
    );
    const short = await tobin.tells(take(r, g, 5));
    expect(short).toMatchObject({ outcome: 'clash' });
    await settle(short.act, { how: 'asFound' });
    expect(await lying(g.item)).toMatchObject({ QUARANTINE: 2 });
    expect((await lying(g.item))[g.address]).toBeUndefined();
    expect(await house.rows(`SELECT 1 FROM trouble WHERE item_id = ? AND bin_id = ? AND settled_at IS NULL`, [g.item, g.bin])).toHaveLength(
      1,
    );
    // The two that lie in quarantine are promised to nobody.
    const [{ qty } = { qty: 0 }] = await house.rows<{ qty: number }>(`SELECT sum(qty)::float AS qty FROM promise WHERE item_id = ?`, [
      g.item,
    ]);
    expect(qty).toBe(5);
  });
  it('G6 trouble told later: the hand goes where its device said', async () => {
    const g = await stocked(6);
    const r = await round(g, 4);
    const elsewhere = await stocked(0);
    await lead.ask('moves.move', { body: { from: g.address, to: elsewhere.address, code: g.code, qty: '2' } });
    const key = randomUUID();
    const first = tobin.does(take(r, g, 2));
    tobin.does({
      kind: 'pick.trouble',
      round: r.round,
      pick: r.pick,
      trouble: 'short',
      instead: [{ key, bin: elsewhere.bin, lot: null, qty: 2000 }],
    });
    tobin.does(take({ round: r.round, pick: key }, { item: g.item, bin: elsewhere.bin }, 2));
    tobin.does({ kind: 'pick.putDown', round: r.round, bin: await bench() });
    expect((await tobin.tell()).map((o) => [o.outcome, o.says])).toEqual(Array(4).fill(['done', null]));
    expect((await lying(g.item))['BENCH-1']).toBe(4);
    expect(first).toBeTruthy();
  });
});

describe('J what was counted', () => {
  async function countOf(g: { bin: number }): Promise<number> {
    const { id: zone } = await one<{ id: number }>(`SELECT zone_id AS id FROM bin WHERE id = ?`, [g.bin]);
    const open = await house.rows<{ id: number }>(`SELECT id FROM stock_count WHERE zone_id = ? AND state = 'open'`, [zone]);
    const [inIt] = await house.rows<object>(`SELECT 1 FROM count_bin WHERE count_id = ? AND bin_id = ?`, [open[0]?.id ?? 0, g.bin]);
    // A bin that was made after the count began is not part of it.
    if (open[0] && !inIt) await lead.ask('counting.throwAway', { params: { id: open[0].id } });
    return (inIt ? open[0]?.id : undefined) ?? (await lead.ask('counting.make', { body: { zone } })).reply.id;
  }
  const found = (count: number, g: { item: number; bin: number }, qty: number, more: object = {}): object => ({
    kind: 'count.tally',
    count,
    bin: g.bin,
    item: g.item,
    lot: null,
    expires: null,
    serial: null,
    qty: qty * 1000,
    adds: false,
    ...more,
  });
  const tallied = async (count: number, bin: number): Promise<number> =>
    (
      await one<{ qty: number }>(
        `SELECT coalesce(sum(qty), 0)::float AS qty FROM tally WHERE count_id = ? AND bin_id = ? AND taken_out_at IS NULL`,
        [count, bin],
      )
    ).qty;

  it('J2 two who counted one bin without knowing of each other: added, or the second stands', async () => {
    const [a, b] = [await stocked(5), await stocked(5)];
    const count = await countOf(a);
    for (const g of [a, b]) {
      await tobin.tells(found(count, g, 3));
      const first = ines.does(found(count, g, 1));
      ines.does(found(count, g, 1));
      expect((await ines.tell()).map((o) => o.outcome)).toEqual(['clash', 'clash']);
      expect(await tallied(count, g.bin)).toBe(3);
      expect(await settle(first, { how: g === a ? 'add' : 'instead' })).toMatch(/^2 tallies/);
      expect(await tallied(count, g.bin)).toBe(g === a ? 5 : 2);
    }
    expect(await ines.tells(found(count, a, 1))).toMatchObject({ outcome: 'done' });
  });
  it('J4 a lot that nobody knew is new; changed, taken out, begun again; a bin that is empty', async () => {
    const g = await stocked(0, 'lotExpiry');
    const count = await countOf(g);
    expect(await tobin.tells(found(count, g, 2, { lot: 'NEW-1' }))).toMatchObject({
      outcome: 'clash',
      says: expect.stringContaining('expires'),
    });
    const key = tobin.does(found(count, g, 2, { lot: 'NEW-2', expires: '2030-05-05' }));
    tobin.does({ kind: 'count.change', count, tally: key, qty: 4000 });
    const more = tobin.does(found(count, g, 1, { lot: 'NEW-2', expires: null }));
    tobin.does({ kind: 'count.takeOut', count, tally: more });
    expect((await tobin.tell()).map((o) => [o.outcome, o.says])).toEqual(Array(4).fill(['done', null]));
    expect(await tallied(count, g.bin)).toBe(4);
    expect(await one(`SELECT expires FROM lot WHERE item_id = ? AND code = 'NEW-2'`, [g.item])).toEqual({ expires: '2030-05-05' });
    expect(await tobin.tells({ kind: 'count.again', count, bin: g.bin })).toMatchObject({ outcome: 'done' });
    expect(await tallied(count, g.bin)).toBe(0);
    expect(await tobin.tells({ kind: 'count.verdict', count, bin: g.bin, verdict: 'none' })).toMatchObject({ outcome: 'done' });
  });
  it('J5 the count was thrown away meanwhile: it begins another, or is dropped', async () => {
    const g = await stocked(3);
    const count = await countOf(g);
    await lead.ask('counting.throwAway', { params: { id: count } });
    const late = await tobin.tells(found(count, g, 2));
    expect(late).toMatchObject({ outcome: 'clash', says: expect.stringContaining('thrown away') });
    expect(await settle(late.act, { how: 'followUp' })).toMatch(/^In count CT-/);
    expect(await tallied(await countOf(g), g.bin)).toBe(2);
    const dropped = await tobin.tells(found(count, g, 2));
    await settle(dropped.act, { how: 'drop' });
  });
});
