import { randomUUID } from 'node:crypto';
import { describe, expect, it } from '@jest/globals';
import { BYTE_ROUTES, ROUTES, type RouteName, type RouteSpec } from '#contract';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' });

const ledgerSize = async (): Promise<number> => (await house.rows<{ n: number }>(`SELECT count(*) AS n FROM movement`))[0]?.n ?? 0;
const stocked = async (): Promise<{ address: string; code: string; qty: string; item: number }> =>
  (
    await house.rows<{ address: string; code: string; qty: string; item: number }>(
      `SELECT f.address, i.code, trim_scale(f.qty)::text AS qty, i.id AS item
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND i.decimals = 0 AND f.qty > 5
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id)
       ORDER BY i.id
       LIMIT 1`,
    )
  )[0] as never;

describe('what cannot be, is refused in words, and nothing changes', () => {
  it.each([
    [
      'an unknown code',
      { from: 'ARRIVALS', to: 'A-01-1', code: 'NO-SUCH', qty: '1' },
      404,
      'items.unknownCode',
      'Nothing here is known by “NO-SUCH”',
    ],
    ['an unknown bin', { from: 'Z-99-9', to: 'A-01-1', code: 'HV-10', qty: '1' }, 404, 'places.unknownBin', 'There is no bin “Z-99-9”'],
    ['the bin of another site', { from: 'L-01-1', to: 'A-01-1', code: 'HV-10', qty: '1' }, 404, 'places.binElsewhere', 'L-01-1'],
    [
      'goods that are not in the bin',
      { from: 'SCRAP', to: 'A-01-1', code: 'HV-10', qty: '1' },
      409,
      'moves.notThere',
      'Bin SCRAP holds no HV-10',
    ],
    [
      'a word for a quantity',
      { from: 'SCRAP', to: 'A-01-1', code: 'HV-10', qty: 'lots' },
      400,
      'request.fields',
      'qty: “lots” is not a quantity',
    ],
    [
      'a quantity finer than anything is counted',
      { from: 'SCRAP', to: 'A-01-1', code: 'HV-10', qty: '0.0001' },
      400,
      'request.fields',
      'qty',
    ],
    ['a field that is missing', { from: 'SCRAP', code: 'HV-10' }, 400, 'request.fields', 'to: must be a text'],
    [
      'a damaged GS1 code',
      { from: 'SCRAP', to: 'A-01-1', code: ']C10112', qty: '1' },
      422,
      'items.gs1TooShort',
      'ends in the middle of (01)',
    ],
  ])('%s', async (_what, body, status, code, words) => {
    const before = await ledgerSize();
    const answer = await hand.ask('moves.move', { body: body as never });
    expect([answer.status, answer.problem.code]).toEqual([status, code]);
    expect(answer.problem.detail).toContain(words);
    expect(await ledgerSize()).toBe(before);
  });
  it('half a hive', async () => {
    const there = await stocked();
    const before = await ledgerSize();
    const move = (qty: string) => hand.ask('moves.move', { body: { from: there.address, to: 'QUARANTINE', code: there.code, qty } });
    const half = await move('0.5');
    expect([half.status, half.problem.code]).toEqual([422, 'stock.tooFine']);
    expect(half.problem.detail).toContain('0.5');
    expect(await ledgerSize()).toBe(before);
    // It is the half alone that was wrong.
    expect((await move('1')).status).toBe(200);
    expect(await ledgerSize()).toBe(before + 1);
  });
  it('too many: says what the bin holds and what was asked', async () => {
    const there = await stocked();
    const answer = await hand.ask('moves.move', {
      body: { from: there.address, to: 'QUARANTINE', code: there.code, qty: String(Number(there.qty) + 1) },
    });
    expect(answer.problem).toMatchObject({ status: 409, code: 'stock.binShort', bin: there.address, item: there.code, there: there.qty });
  });
  it('E3 an expired lot does not go to a shelf', async () => {
    const [lot] = await house.rows<{ address: string; code: string; lot: string }>(
      `SELECT f.address, i.code, f.lot FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.expired AND f.site_id = 1 LIMIT 1`,
    );
    const answer = await hand.ask('moves.move', {
      body: { from: lot?.address ?? '', to: 'A-01-1', code: lot?.code ?? '', lot: lot?.lot, qty: '1' },
    });
    expect(answer.problem).toMatchObject({ status: 409, code: 'moves.expiredToShelf', lot: lot?.lot });
    expect(
      (
        await hand.ask('moves.move', {
          body: { from: lot?.address ?? '', to: 'QUARANTINE', code: lot?.code ?? '', lot: lot?.lot, qty: '1' },
        })
      ).status,
    ).toBe(200);
  });
  it('C9 a serial that is here already is refused at the dock by name', async () => {
    const [serial] = await house.rows<{ code: string; item: string; item_id: number }>(
      `SELECT s.code, i.code AS item, i.id AS item_id
       FROM balance b
       JOIN serial s ON s.id = b.serial_id
       JOIN item i ON i.id = b.item_id
       LIMIT 1`,
    );
    const [order] = await house.rows<{ number: string }>(`SELECT number FROM purchase_order WHERE state = 'open' ORDER BY id LIMIT 1`);
    const started = await hand.ask('receiving.start', { body: { purchaseOrder: order?.number ?? '' } });
    const answer = await hand.ask('receiving.scan', {
      params: { id: started.reply.id },
      body: { code: serial?.item ?? '', serial: serial?.code, takeAnyway: true },
    });
    expect(answer.problem).toMatchObject({ status: 409, code: 'receiving.serialHere', serial: serial?.code });
  });
  it('unknown ids are named', async () => {
    expect((await lead.ask('items.item', { params: { id: 999_999 } })).problem).toMatchObject({ status: 404, code: 'items.unknownItem' });
    expect((await lead.ask('orders.order', { params: { id: 999_999 } })).problem).toMatchObject({
      status: 404,
      code: 'orders.unknownOrder',
    });
    expect((await lead.ask('items.item', { params: { id: 'x' as never } })).problem).toMatchObject({ status: 400, code: 'request.fields' });
  });
  it('a zero character anywhere, less than nothing, an opening into a cart: a sentence each, and nothing changes', async () => {
    const asked = [
      await lead.raw(`/api/scan?code=${encodeURIComponent('\u0000abc')}`),
      await lead.raw(`/api/download/items.csv?q=%00`),
      await lead.raw('/api/bins/%00'),
    ];
    for (const answer of asked) expect([answer.status, ((await answer.json()) as { code: string }).code]).toEqual([400, 'request.fields']);
    const note = await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', note: 'a\u0000b', lines: [] } });
    expect(note.problem.detail).toBe('the body: has a character in it that no text has.');
    const [item] = await house.rows<{ id: number }>(`SELECT id FROM item WHERE code = 'HV-10'`);
    const hold = await lead.ask('stock.hold', { body: { item: item?.id ?? 0, qty: '-1', reason: 'x' } });
    expect(hold.problem.detail).toBe('qty: -1 is less than nothing.');
    const opening = (bin: string) =>
      lead.ask('stock.opening', { params: { id: item?.id ?? 0 }, body: { lines: [{ bin, qty: '1' }], reason: 'x' } });
    for (const bin of ['CART-1', 'BENCH-1']) expect((await opening(bin)).problem.code).toBe('stock.passingThrough');
    await house.expectCleanAudit();
  });
  it('malformed JSON, 2 MB, no key, an address that is nothing: a problem document each', async () => {
    const send = async (init: RequestInit, path = '/api/moves'): Promise<{ type: string | null; code: string; status: number }> => {
      const answer = await hand.raw(path, {
        method: 'POST',
        ...init,
        headers: { 'Content-Type': 'application/json', 'Idempotency-Key': randomUUID(), ...init.headers },
      });
      return { type: answer.headers.get('content-type'), code: ((await answer.json()) as { code: string }).code, status: answer.status };
    };
    const type = 'application/problem+json; charset=utf-8';
    expect(await send({ body: '{"from":' })).toEqual({ type, code: 'request.malformed', status: 400 });
    expect(await send({ body: JSON.stringify({ from: 'x'.repeat(2_000_000) }) })).toEqual({ type, code: 'request.tooLarge', status: 413 });
    expect(await send({ body: '{}', headers: { 'Idempotency-Key': 'no' } })).toMatchObject({ status: 400 });
    expect(
      await send({ body: JSON.stringify({ from: 'SCRAP', to: 'A-01-1', code: 'HV-10' }), headers: { 'Idempotency-Key': '7' } }),
    ).toMatchObject({ code: 'request.noKey' });
    expect(await send({ body: '{}', headers: { Origin: 'https://elsewhere.example' } })).toMatchObject({ status: 400 });
    expect(
      await send({
        body: JSON.stringify({ from: 'SCRAP', to: 'A-01-1', code: 'HV-10' }),
        headers: { Origin: 'https://elsewhere.example' },
      }),
    ).toMatchObject({ code: 'request.otherOrigin', status: 403 });
    expect(await send({}, '/api/nothing-here')).toMatchObject({ code: 'request.unknownRoute', status: 404 });
  });
});

describe('rights are checked on the server, for every route of the table', () => {
  const entries = Object.entries(ROUTES) as [RouteName, RouteSpec][];
  it.each(entries.filter(([, r]) => r.allow !== 'public').map(([name]) => name))('L4 %s wants somebody signed in', async (name) => {
    expect((await house.stranger.ask(name, { params: { id: 1, entry: 1, pick: 1, tally: 1 } as never })).problem).toMatchObject({
      status: 401,
      code: 'people.signInFirst',
    });
  });
  it.each(entries.filter(([, r]) => r.allow !== 'public' && r.allow.length > 0 && !r.allow.includes('hand')).map(([name]) => name))(
    'L4 %s is not for a hand',
    async (name) => {
      expect((await hand.ask(name, { params: { id: 1 } as never })).problem).toMatchObject({ status: 403, code: 'people.noRight' });
    },
  );
  it('L4 five wrong passwords close the door for a while, to the right one too', async () => {
    const attempt = async (password: string) =>
      (await house.stranger.ask('people.signIn', { body: { name: 'Odile Wrack', password } })).problem.code;
    for (let n = 0; n < 5; n += 1) expect(await attempt('wrong')).toBe('people.wrongPassword');
    expect(await attempt('comb-and-frame')).toBe('people.tooManyTries');
  });
  it('L4 by badge and PIN on the floor', async () => {
    expect((await house.stranger.ask('people.badgeIn', { body: { badge: 'BADGE-7103', pin: '7103' } })).reply).toMatchObject({
      name: 'Ines Farrow',
      role: 'hand',
    });
    expect((await house.stranger.ask('people.badgeIn', { body: { badge: 'BADGE-7103', pin: '0000' } })).problem.code).toBe(
      'people.wrongPin',
    );
  });
});

describe('a command counts once', () => {
  it('the same command sent 5 times at once is done once and answered the same', async () => {
    const there = await stocked();
    const key = randomUUID();
    const body = { from: there.address, to: 'QUARANTINE', code: there.code, qty: '1' };
    const before = await ledgerSize();
    const answers = await Promise.all(Array.from({ length: 5 }, () => hand.ask('moves.move', { body, key })));
    expect(new Set(answers.map((a) => JSON.stringify(a.reply))).size).toBe(1);
    expect(answers.filter((a) => !a.replayed)).toHaveLength(1);
    expect(await ledgerSize()).toBe(before + 1);
  });
  it('a key that was used for something else is refused', async () => {
    const there = await stocked();
    const key = randomUUID();
    expect(
      (await hand.ask('moves.move', { body: { from: there.address, to: 'QUARANTINE', code: there.code, qty: '1' }, key })).status,
    ).toBe(200);
    expect(
      (await hand.ask('moves.move', { body: { from: there.address, to: 'QUARANTINE', code: there.code, qty: '2' }, key })).problem,
    ).toMatchObject({ status: 422, code: 'request.keyReused' });
  });
  it('I1 an undo puts the goods back once, not twice', async () => {
    const there = await stocked();
    const moved = await hand.ask('moves.move', { body: { from: there.address, to: 'QUARANTINE', code: there.code, qty: '1' } });
    expect((await hand.ask('stock.undo', { params: { id: moved.reply.document }, body: { reason: 'wrong bin' } })).status).toBe(200);
    expect((await hand.ask('stock.undo', { params: { id: moved.reply.document }, body: { reason: 'wrong bin' } })).problem.code).toBe(
      'stock.alreadyUndone',
    );
    await house.expectCleanAudit();
  });
});

describe('the description of the API', () => {
  it('L7 names every route of the table with its parameters', async () => {
    const api = (await (await house.stranger.raw('/api/openapi.json')).json()) as {
      openapi: string;
      paths: Record<string, Record<string, { operationId: string }>>;
    };
    expect(api.openapi).toBe('3.1.0');
    const named = Object.values(api.paths).flatMap((p) => Object.values(p).map((o) => o.operationId));
    expect(named.sort()).toEqual([...Object.keys(ROUTES), ...Object.keys(BYTE_ROUTES)].sort());
  });
});
