import { beforeAll, beforeEach, describe, expect, it } from '@jest/globals';
import { runAudit } from '#server/stock';
import { emptyBins, lyingOf, shelved } from '../testing/goods.ts';
import { openHand, type Hand } from '../testing/hand.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand, other } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow', other: 'Ines Farrow' }, { jobs: false });
let tobin: Hand;
const rows = <Row>(sql: string, values: readonly unknown[] = []): Promise<Row[]> => house.rows<Row>(sql, values);
const one = async <Row>(sql: string, values: readonly unknown[] = []): Promise<Row> => {
  const [row] = await rows<Row>(sql, values);
  if (!row) throw new Error(`Nothing found by ${sql}`);
  return row;
};
beforeAll(async () => {
  const { id } = await one<{ id: number }>(`SELECT id FROM person WHERE name = 'Tobin Sallow'`);
  tobin = await openHand(hand, id);
});
// The demo's carts and rounds are its own: here every test begins with free ones.
beforeEach(async () => {
  for (const r of await rows<{ id: number }>(`SELECT id FROM round WHERE state = 'open' AND site_id = 1`))
    await lead.ask('picking.throwAway', { params: { id: r.id } });
  for (const c of await rows<{ id: number }>(`SELECT id FROM carry WHERE state = 'open' AND site_id = 1`))
    await lead.ask('carrying.throwAway', { params: { id: c.id } });
});

let made = 0;
const code = (): string => `CR-T${(made += 1)}`;
type Task = {
  id: number;
  key: string;
  from_bin: number;
  to_bin: number;
  qty: number;
  item: number;
  lot: string | null;
  sscc: string | null;
};
const tasksOf = (carry: number): Promise<Task[]> =>
  rows<Task>(
    `SELECT t.id, t.key, t.from_bin, t.to_bin, t.qty::int AS qty, t.item_id AS item, l.code AS lot, u.sscc
     FROM carry_task t LEFT JOIN lot l ON l.id = t.lot_id LEFT JOIN logistic_unit u ON u.id = t.unit_id WHERE t.carry_id = ? ORDER BY t.id`,
    [carry],
  );
const stateOf = async (carry: number): Promise<string> =>
  (await one<{ state: string }>(`SELECT state FROM carry WHERE id = ?`, [carry])).state;
const addressOf = async (bin: number): Promise<string> =>
  (await one<{ address: string }>(`SELECT address FROM bin WHERE id = ?`, [bin])).address;

/** An item with so many at arrivals, and nothing else of it anywhere. */
async function arrived(qty: number): Promise<{ item: number; code: string }> {
  const name = code();
  const { id } = await shelved(house, lead, { code: name, lying: [{ qty: String(qty) }] });
  const [bin] = await rows<{ address: string }>(`SELECT address FROM stock_fact WHERE item_id = ?`, [id]);
  await lead.ask('moves.move', { body: { from: bin?.address ?? '', to: 'ARRIVALS', code: name, qty: String(qty) } });
  return { item: id, code: name };
}
async function putAwayOf(...items: readonly number[]): Promise<{ id: number; number: string; tasks: Task[] }> {
  const { rows: waiting } = (await lead.ask('moves.putAway', { query: { from: 'arrivals' } })).reply;
  const only = waiting
    .filter((r) => items.includes(r.item))
    .map(({ bin, item, lot, serial, condition, sscc }) => ({ bin, item, lot, serial, condition, sscc }));
  const round = await lead.ask('carrying.putAway', { body: { only } });
  if (round.status !== 200) throw new Error(round.problem.detail);
  return { ...round.reply, tasks: await tasksOf(round.reply.id) };
}
/** An item with a pick face that wants more, and reserve in other bins. */
async function faced(of: { face: number; min: number; max: number; reserve: readonly number[] }): Promise<{
  item: number;
  code: string;
  face: { id: number; address: string };
  reserve: { id: number; address: string }[];
}> {
  const name = code();
  const { id: zone } = await one<{ id: number }>(`SELECT id FROM zone WHERE site_id = 1 AND purpose = 'storage' ORDER BY id LIMIT 1`);
  const bins: { id: number; address: string }[] = [];
  for (const n of [0, ...of.reserve.keys()].keys()) {
    const address = `${name}-${n}`;
    await lead.ask('places.makeBin', { body: { zone, address } });
    bins.push(await one<{ id: number; address: string }>(`SELECT id, address FROM bin WHERE address = ?`, [address]));
  }
  const [face, ...reserve] = bins as [{ id: number; address: string }, ...{ id: number; address: string }[]];
  const { id } = await shelved(house, lead, { code: name, lying: [] });
  const lines = [of.face, ...of.reserve].flatMap((n, at) => (n > 0 ? [{ bin: bins[at]?.address ?? '', qty: String(n), serials: [] }] : []));
  if (lines.length > 0) await lead.ask('stock.opening', { params: { id }, body: { lines } });
  await rows(`INSERT INTO home_bin (item_id, bin_id, min_qty, max_qty, role) VALUES (?, ?, ?, ?, 'face')`, [id, face.id, of.min, of.max]);
  return { item: id, code: name, face, reserve };
}
const refillOf = (g: { item: number; face: { id: number } }) =>
  lead.ask('carrying.refill', { body: { only: [{ item: g.item, bin: g.face.id }] } });
const take = (carry: number, t: Task, qty: number): object => ({
  ...{ kind: 'carry.take', carry, task: t.key, item: t.item, lot: t.lot, serial: null, qty: qty * 1000 },
});
const put = (carry: number, t: Task, qty: number, more: { to?: number } = {}): object => ({
  ...{ kind: 'carry.put', carry, task: t.key, item: t.item, lot: t.lot, serial: null, qty: qty * 1000, to: t.to_bin, over: null, ...more },
});
const tells = async (what: object): Promise<string> => {
  const { outcome, says } = await tobin.tells(what);
  return says ?? outcome;
};
const audit = async (): Promise<unknown> => (await runAudit(house.db)).faults;

describe('I2 a put-away round', () => {
  it('walks what lies at arrivals into bins, each with its reason, and is over with the last piece', async () => {
    const [a, b] = [await arrived(6), await arrived(4)];
    const round = await putAwayOf(a.item, b.item);
    expect(round.tasks).toHaveLength(2);
    const { reply } = await lead.ask('carrying.carry', { params: { id: round.id } });
    expect(reply).toMatchObject({ kind: 'putAway', cart: null, lines: 2, done: 0, state: 'open' });
    expect(reply.tasks.every((t) => t.why !== '' && t.from === 'ARRIVALS')).toBe(true);
    // Two things are not sent into the room of one empty bin.
    expect(new Set(round.tasks.map((t) => t.to_bin)).size).toBe(2);
    const [first, second] = round.tasks as [Task, Task];
    expect(await tells(put(round.id, first, 6))).toBe('done');
    expect(await tells(put(round.id, second, 3))).toBe('done');
    expect(await stateOf(round.id)).toBe('open');
    expect(await tells(put(round.id, second, 1))).toBe('done');
    expect(await stateOf(round.id)).toBe('done');
    expect(await lyingOf(house, a.item)).toEqual({ [await addressOf(first.to_bin)]: 6 });
    const told = await rows(`SELECT DISTINCT m.reason, d.kind FROM movement m JOIN document d ON d.id = m.document_id WHERE d.number = ?`, [
      round.number,
    ]);
    expect(told).toEqual([{ reason: `Put away ${round.number}`, kind: 'carry' }]);
    expect(await audit()).toEqual([]);
  });
  it('the same goods are on one round; what a round to the bench fetches is nobody’s to put away', async () => {
    const g = await arrived(5);
    await putAwayOf(g.item);
    const { rows: waiting } = (await lead.ask('moves.putAway', { query: { from: 'arrivals' } })).reply;
    const only = waiting
      .filter((r) => r.item === g.item)
      .map(({ bin, item, lot, serial, condition, sscc }) => ({ bin, item, lot, serial, condition, sscc }));
    expect((await lead.ask('carrying.putAway', { body: { only } })).problem.code).toBe('carrying.nothingToPutAway');
  });
  it('two who make a round of the same goods at one moment get one', async () => {
    const g = await arrived(5);
    const { rows: waiting } = (await lead.ask('moves.putAway', { query: { from: 'arrivals' } })).reply;
    const only = waiting
      .filter((r) => r.item === g.item)
      .map(({ bin, item, lot, serial, condition, sscc }) => ({ bin, item, lot, serial, condition, sscc }));
    const answers = await Promise.all([lead, hand, other, lead].map((who) => who.ask('carrying.putAway', { body: { only } })));
    expect(answers.filter((x) => x.status === 200)).toHaveLength(1);
  });
  it('“I put it somewhere else” is kept; undo brings it back and opens the round again', async () => {
    const g = await arrived(3);
    const round = await putAwayOf(g.item);
    const [task] = round.tasks as [Task];
    const [elsewhere] = await emptyBins(house, 1, 20).then((bins) => bins.filter((b) => b.id !== task.to_bin));
    const key = crypto.randomUUID();
    await tobin.tells(put(round.id, task, 3, { to: elsewhere?.id ?? 0 }), { key });
    expect(await lyingOf(house, g.item)).toEqual({ [elsewhere?.address ?? '']: 3 });
    expect(await stateOf(round.id)).toBe('done');
    expect(await tells({ kind: 'carry.undo', carry: round.id, act: key })).toBe('done');
    expect(await lyingOf(house, g.item)).toEqual({ ARRIVALS: 3 });
    expect(await stateOf(round.id)).toBe('open');
    expect(await tells({ kind: 'carry.undo', carry: round.id, act: key })).toContain('no such line');
    expect(await audit()).toEqual([]);
  });
  it('what is not there ends its line, and the bin is counted; what somebody else carried away is no trouble', async () => {
    const [a, b] = [await arrived(3), await arrived(3)];
    const round = await putAwayOf(a.item, b.item);
    const [first, second] = round.tasks as [Task, Task];
    const troubles = async (item: number): Promise<number> =>
      (await one<{ n: number }>(`SELECT count(*)::int AS n FROM trouble WHERE item_id = ? AND settled_at IS NULL`, [item])).n;
    await lead.ask('moves.move', { body: { from: 'ARRIVALS', to: 'QUARANTINE', code: a.item === first.item ? a.code : b.code, qty: '3' } });
    await tells({ kind: 'carry.trouble', carry: round.id, task: first.key, trouble: 'notFound' });
    expect(await troubles(first.item)).toBe(0);
    await tells({ kind: 'carry.trouble', carry: round.id, task: second.key, trouble: 'notFound' });
    expect(await troubles(second.item)).toBe(1);
    expect(await stateOf(round.id)).toBe('done');
  });
  it('a pallet goes whole', async () => {
    const g = await arrived(8);
    await rows(
      `WITH u AS (INSERT INTO logistic_unit (sscc) VALUES ('395200010000077714') RETURNING id)
      UPDATE balance SET unit_id = (SELECT id FROM u) WHERE item_id = ?`,
      [g.item],
    );
    // The ledger must say the same: this stands for a delivery with a unit.
    await rows(`ALTER TABLE movement DISABLE TRIGGER USER`);
    await rows(
      `UPDATE movement SET to_unit = (SELECT id FROM logistic_unit WHERE sscc = '395200010000077714')
      WHERE id = (SELECT max(id) FROM movement WHERE item_id = ?)`,
      [g.item],
    );
    await rows(`ALTER TABLE movement ENABLE TRIGGER USER`);
    const { rows: waiting } = (await lead.ask('moves.putAway', { query: { from: 'arrivals' } })).reply;
    const unit = waiting.find((r) => r.item === g.item);
    expect(unit?.sscc).toBe('395200010000077714');
    const round = await putAwayOf(g.item);
    const [task] = round.tasks as [Task];
    expect(task.sscc).toBe('395200010000077714');
    const key = crypto.randomUUID();
    await tobin.tells(put(round.id, task, 8), { key });
    expect(await lyingOf(house, g.item)).toEqual({ [await addressOf(task.to_bin)]: 8 });
    expect(await stateOf(round.id)).toBe('done');
    expect(await tells({ kind: 'carry.undo', carry: round.id, act: key })).toBe('done');
    expect(await lyingOf(house, g.item)).toEqual({ ARRIVALS: 8 });
    const body = { lines: [{ task: task.id, put: '8', to: await addressOf(task.to_bin) }] };
    expect((await lead.ask('carrying.keySheet', { params: { id: round.id }, body })).reply).toEqual({ pieces: '8', short: 0 });
    expect(await audit()).toEqual([]);
  });
});

describe('I5 a refill round', () => {
  it('fills a face below its minimum up to its maximum, out of reserve, over a cart', async () => {
    const g = await faced({ face: 2, min: 5, max: 20, reserve: [10, 30] });
    const listed = (await lead.ask('carrying.faces')).reply.faces.find((f) => f.item === g.item);
    expect(listed).toMatchObject({ there: '2', min: '5', max: '20', wants: '18', reserve: '40', why: 'belowMin' });
    const { reply } = await refillOf(g);
    const tasks = await tasksOf(reply.id);
    expect(tasks.reduce((sum, t) => sum + t.qty, 0)).toBe(18);
    // What comes counts as there.
    expect((await lead.ask('carrying.faces')).reply.faces.find((f) => f.item === g.item)).toBeUndefined();
    for (const t of tasks) expect(await tells(take(reply.id, t, t.qty))).toBe('done');
    const cart = (await lead.ask('carrying.carry', { params: { id: reply.id } })).reply.cart ?? '';
    expect((await lyingOf(house, g.item))[cart]).toBe(18);
    for (const t of tasks) expect(await tells(put(reply.id, t, t.qty))).toBe('done');
    expect((await lyingOf(house, g.item))[g.face.address]).toBe(20);
    expect(await stateOf(reply.id)).toBe('done');
    expect(await audit()).toEqual([]);
  });
  it('what rides on its cart is nobody else’s: not to be moved, adjusted or promised away', async () => {
    const g = await faced({ face: 0, min: 5, max: 10, reserve: [30] });
    const { reply } = await refillOf(g);
    const [task] = (await tasksOf(reply.id)) as [Task];
    await tells(take(reply.id, task, 4));
    const cart = (await lead.ask('carrying.carry', { params: { id: reply.id } })).reply.cart ?? '';
    const moved = await lead.ask('moves.move', { body: { from: cart, to: 'QUARANTINE', code: g.code, qty: '1' } });
    expect(moved.problem.code).toBe('stock.carriedGoods');
    expect((await lead.ask('moves.move', { body: { from: g.reserve[0]?.address ?? '', to: cart, code: g.code } })).problem.code).toBe(
      'stock.passingThrough',
    );
    expect(await tells(put(reply.id, task, 5))).toContain('too many');
    expect(await tells(take(reply.id, task, 7))).toContain('too many');
  });
  it('what open rounds are on their way for is no reserve, and what a refill fetches no round plans', async () => {
    const g = await faced({ face: 0, min: 5, max: 20, reserve: [20] });
    const { reply } = await refillOf(g);
    expect((await tasksOf(reply.id)).reduce((sum, t) => sum + t.qty, 0)).toBe(20);
    const order = await lead.ask('orders.make', {
      body: { customer: 1, due: '2027-01-31', lines: [{ item: g.item, qty: '5' }] },
    } as never);
    expect(order.status).toBe(200);
    const { id } = order.reply as unknown as { id: number };
    await lead.ask('orders.promise', { body: { orders: [id], mode: 'free' } } as never);
    expect((await lead.ask('picking.make', { body: { orders: [id] } })).problem.code).toBe('picking.nothingToPick');
  });
  it('orders that no round serves are reckoned in; a round that serves them is not', async () => {
    const g = await faced({ face: 6, min: 5, max: 20, reserve: [40] });
    const listed = async () => (await lead.ask('carrying.faces')).reply.faces.find((f) => f.item === g.item);
    expect(await listed()).toBeUndefined();
    const order = await lead.ask('orders.make', {
      body: { customer: 1, due: '2027-01-31', lines: [{ item: g.item, qty: '9' }] },
    } as never);
    const { id } = order.reply as unknown as { id: number };
    await lead.ask('orders.promise', { body: { orders: [id], mode: 'free' } } as never);
    expect(await listed()).toMatchObject({ needed: '9', wants: '14', why: 'tonight' });
    expect((await lead.ask('picking.make', { body: { orders: [id] } })).status).toBe(200);
    expect((await listed())?.needed ?? '0').toBe('0');
  });
  it('undo of a take while the goods are put is refused; thrown away, what rides on the cart goes to arrivals', async () => {
    const g = await faced({ face: 0, min: 5, max: 10, reserve: [30] });
    const { reply } = await refillOf(g);
    const [task] = (await tasksOf(reply.id)) as [Task];
    const key = crypto.randomUUID();
    await tobin.tells(take(reply.id, task, 6), { key });
    await tells(put(reply.id, task, 2));
    expect(await tells({ kind: 'carry.undo', carry: reply.id, act: key })).toContain('put down already');
    expect((await hand.ask('carrying.throwAway', { params: { id: reply.id } })).status).toBe(403);
    const thrown = await lead.ask('carrying.throwAway', { params: { id: reply.id } });
    expect(thrown.reply).toEqual({ pieces: '4', bin: 'ARRIVALS' });
    expect(await lyingOf(house, g.item)).toEqual({ [g.face.address]: 2, ARRIVALS: 4, [g.reserve[0]?.address ?? '']: 24 });
    expect(await tells(put(reply.id, task, 4))).toContain('thrown away');
    expect(await audit()).toEqual([]);
    // The hand put them down all the same: the lead posts it as what it is.
    const { clashes } = (await lead.ask('hands.clashes', { query: { show: 'open', job: `carry:${reply.id}` } })).reply;
    const last = clashes.find((c) => c.what.startsWith('Put 4'));
    expect(last?.settlements.map((s) => s.how)).toContain('asMove');
    expect((await lead.ask('hands.settle', { params: { key: last?.key ?? '' }, body: { how: 'asMove' } })).status).toBe(200);
    expect((await lyingOf(house, g.item))[g.face.address]).toBe(6);
  });
  it('without reserve, or without a cart, it says so and makes nothing', async () => {
    const g = await faced({ face: 0, min: 5, max: 10, reserve: [] });
    expect((await refillOf(g)).problem.code).toBe('carrying.nothingToRefill');
    const held: number[] = [];
    for (;;) {
      const made = await refillOf(await faced({ face: 0, min: 5, max: 10, reserve: [30] }));
      if (made.status !== 200) {
        expect(made.problem.code).toBe('carrying.noCart');
        break;
      }
      held.push(made.reply.id);
    }
    expect(held.length).toBeGreaterThan(0);
    expect(
      new Set((await rows<{ cart_bin: number }>(`SELECT cart_bin FROM carry WHERE id = ANY(?::int[])`, [held])).map((c) => c.cart_bin))
        .size,
    ).toBe(held.length);
  });
  it('a round is one hand’s: given, taken, and refused to others until then', async () => {
    const g = await faced({ face: 0, min: 5, max: 10, reserve: [30] });
    const { reply } = await refillOf(g);
    expect((await hand.ask('carrying.take', { params: { id: reply.id } })).status).toBe(200);
    expect((await other.ask('carrying.take', { params: { id: reply.id } })).problem.code).toBe('carrying.others');
    const { id: ines } = await one<{ id: number }>(`SELECT id FROM person WHERE name = 'Ines Farrow'`);
    expect((await hand.ask('carrying.give', { params: { id: reply.id }, body: { person: ines } })).status).toBe(200);
    expect((await lead.ask('carrying.carry', { params: { id: reply.id } })).reply.person).toBe('Ines Farrow');
  });
});

describe('G12 I2 the sheet that came back', () => {
  it('is what was really done: fewer, and somewhere else; all of it or nothing', async () => {
    const [a, b] = [await arrived(6), await arrived(4)];
    const round = await putAwayOf(a.item, b.item);
    const [first, second] = round.tasks as [Task, Task];
    const [elsewhere] = await emptyBins(house, 1, 20).then((bins) => bins.filter((x) => !round.tasks.some((t) => t.to_bin === x.id)));
    const lines = [
      { task: first.id, put: String(first.qty), to: elsewhere?.address ?? '' },
      { task: second.id, put: String(second.qty - 1), to: await addressOf(second.to_bin), why: 'damaged' as const },
    ];
    const nowhere = [lines[0] as (typeof lines)[0], { ...(lines[1] as (typeof lines)[1]), to: 'NO-SUCH-BIN' }];
    expect((await lead.ask('carrying.keySheet', { params: { id: round.id }, body: { lines: nowhere } })).problem.code).toBe(
      'places.unknownBin',
    );
    expect((await lyingOf(house, first.item))['ARRIVALS']).toBe(first.qty);
    const keyed = await lead.ask('carrying.keySheet', { params: { id: round.id }, body: { lines } });
    expect(keyed.reply).toEqual({ pieces: String(first.qty + second.qty - 1), short: 1 });
    expect(await lyingOf(house, first.item)).toEqual({ [elsewhere?.address ?? '']: first.qty });
    expect(await stateOf(round.id)).toBe('done');
    expect((await lead.ask('carrying.keySheet', { params: { id: round.id }, body: { lines } })).problem.code).toBe('carrying.ended');
    expect(await audit()).toEqual([]);
  });
  it('a sheet never puts goods where orders go out, nor one line twice; what was scanned before it was written counts', async () => {
    const g = await faced({ face: 0, min: 5, max: 10, reserve: [30] });
    const { reply } = await refillOf(g);
    const [task] = (await tasksOf(reply.id)) as [Task];
    await tells(take(reply.id, task, 4));
    const key = (lines: readonly object[]) => lead.ask('carrying.keySheet', { params: { id: reply.id }, body: { lines } } as never);
    const cart = (await lead.ask('carrying.carry', { params: { id: reply.id } })).reply.cart ?? '';
    for (const to of ['BENCH-1', cart]) expect((await key([{ task: task.id, put: '4', to }])).problem.code).toBe('stock.passingThrough');
    expect(
      await tells(put(reply.id, task, 4, { to: (await one<{ id: number }>(`SELECT id FROM bin WHERE address = 'BENCH-1'`)).id })),
    ).toContain('BENCH-1');
    const line = { task: task.id, put: '1', to: g.face.address };
    expect((await key([line, line])).problem.code).toBe('carrying.keyedTwice');
    // Fewer than ride on the cart: the rest is put down yet. More than that, but fewer than planned: the rest never came.
    expect((await key([{ ...line, put: '3' }])).reply).toEqual({ pieces: '3', short: 0 });
    expect(await stateOf(reply.id)).toBe('open');
    expect((await key([{ ...line, put: '5' }])).reply).toEqual({ pieces: '5', short: 1 });
    expect(await stateOf(reply.id)).toBe('done');
    expect((await lyingOf(house, g.item))[g.face.address]).toBe(8);
    expect(await audit()).toEqual([]);
  });
  it('a refill sheet takes and puts at once; more than was planned is refused', async () => {
    const g = await faced({ face: 0, min: 5, max: 10, reserve: [30] });
    const { reply } = await refillOf(g);
    const [task] = (await tasksOf(reply.id)) as [Task];
    const key = (n: string) =>
      lead.ask('carrying.keySheet', { params: { id: reply.id }, body: { lines: [{ task: task.id, put: n, to: g.face.address }] } });
    expect((await key('11')).problem.code).toBe('carrying.tooMany');
    expect((await key('10')).reply).toEqual({ pieces: '10', short: 0 });
    expect(await lyingOf(house, g.item)).toEqual({ [g.face.address]: 10, [g.reserve[0]?.address ?? '']: 20 });
    const pdf = await lead.raw(`/api/carries/${reply.id}/sheet.pdf`, { method: 'GET' });
    expect(pdf.headers.get('content-type')).toBe('application/pdf');
    expect(await audit()).toEqual([]);
  });
});
