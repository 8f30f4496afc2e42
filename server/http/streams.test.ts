import { connect, type Socket } from 'node:net';
import { describe, expect, it } from '@jest/globals';
import { announce, runInternal } from '#server/kernel';
import type { Client } from '../testing/client.ts';
import { houseForTests } from '../testing/house.ts';

const { house, lead } = houseForTests({ lead: 'Maren Oake' }, { jobs: false });

type Heard = {
  events: { event: string; data: string }[];
  until(fits: (e: { event: string; data: string }) => boolean): Promise<string>;
  ended: Promise<void>;
  close(): void;
};

/** Listens as a browser does. */
async function listen(client: Client, query = ''): Promise<Heard> {
  const stop = new AbortController();
  const answer = await client.raw(`/api/events${query}`, { signal: stop.signal });
  if (!answer.ok || !answer.body) throw new Error(`No stream: ${answer.status} ${await answer.text()}`);
  const events: Heard['events'] = [];
  let wake: () => void = () => undefined;
  const reader = answer.body.pipeThrough(new TextDecoderStream()).getReader();
  const ended = (async () => {
    let text = '';
    for (;;) {
      const { done, value } = await reader.read().catch(() => ({ done: true, value: undefined }));
      if (done) break;
      text += value ?? '';
      const parts = text.split('\n\n');
      text = parts.pop() ?? '';
      for (const part of parts) {
        const [event, data] = [/^event: (.*)$/m.exec(part)?.[1], /^data: (.*)$/m.exec(part)?.[1]];
        if (event !== undefined && data !== undefined) events.push({ event, data });
      }
      wake();
    }
    wake();
  })();
  return {
    events,
    ended,
    close: () => stop.abort(),
    until: async (fits) => {
      for (;;) {
        const found = events.find(fits);
        if (found) return found.data;
        await new Promise<void>((resolve) => {
          wake = resolve;
        });
      }
    },
  };
}

const say = async (mark: number, facts: object): Promise<void> => {
  await runInternal(house.db, async (trx) => announce(trx, 'stock', { items: [mark], ...facts }));
  house.outbox.nudge();
};
const isMark = (mark: number) => (e: { event: string; data: string }) => e.event === 'change' && e.data.includes(`[${mark}]`);

describe('the stream of changes', () => {
  it('tells each site what is its own, and everybody what is everybody’s', async () => {
    const [here, there] = await Promise.all([listen(lead, '?workingAt=1'), listen(lead, '?workingAt=2')]);
    await say(1001, { site: 1 });
    await say(1002, { site: 2 });
    await say(1003, {});
    await Promise.all([here.until(isMark(1003)), there.until(isMark(1003))]);
    const marks = (heard: Heard): string[] =>
      heard.events.filter((e) => e.event === 'change').map((e) => /\[(\d+)\]/.exec(e.data)?.[1] ?? '');
    expect(marks(here)).toEqual(['1001', '1003']);
    expect(marks(there)).toEqual(['1002', '1003']);
    here.close();
    there.close();
  });

  it('a command tells its site, its records, and nothing to the others', async () => {
    const there = await listen(lead, '?workingAt=2');
    const here = await listen(lead, '?workingAt=1');
    const [one] = await house.rows<{ address: string; code: string; item: number; bin: number }>(
      `SELECT f.address, i.code, i.id AS item, f.bin_id AS bin
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 3
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id) ORDER BY f.balance_id LIMIT 1`,
    );
    const moved = await lead.ask('moves.move', { body: { from: one?.address ?? '', to: 'QUARANTINE', code: one?.code ?? '', qty: '1' } });
    expect(moved.status).toBe(200);
    const told = JSON.parse(await here.until((e) => e.event === 'change' && e.data.includes('"stock"'))) as {
      facts: { site: number; items: number[]; bins: number[] };
    };
    expect(told.facts).toMatchObject({ site: 1, items: [one?.item] });
    expect(told.facts.bins).toContain(one?.bin);
    await say(1004, {});
    await there.until(isMark(1004));
    expect(there.events.filter((e) => e.event === 'change')).toHaveLength(1);
    here.close();
    there.close();
  });

  it('the row and home come as data where they are wanted: once when they are others, not at all when they are not', async () => {
    const desk = await listen(lead, '?figures&workingAt=1');
    const plain = await listen(lead, '?workingAt=1');
    const orders = await house.rows<{ number: string }>(
      `SELECT o.number
       FROM purchase_order o
       WHERE o.site_id = 1 AND o.state = 'open' AND NOT EXISTS (SELECT 1 FROM delivery_order d WHERE d.purchase_order_id = o.id)
       ORDER BY o.id
       LIMIT 2`,
    );
    const waiting = async (): Promise<number> =>
      (await lead.ask('desk.row')).reply.stations.find((s) => s.station === 'dock')?.waiting ?? 0;
    const before = await waiting();
    const isRow =
      (more: number) =>
      (e: { event: string; data: string }): boolean =>
        e.event === 'row' &&
        (JSON.parse(e.data) as { stations: { station: string; waiting: number }[] }).stations.some(
          (s) => s.station === 'dock' && s.waiting === before + more,
        );
    const start = async (n: number): Promise<number> =>
      (await lead.ask('receiving.start', { body: { purchaseOrder: orders[n]?.number ?? '' } })).status;
    expect(await start(0)).toBe(200);
    await desk.until(isRow(1));
    await desk.until((e) => e.event === 'home');
    const told = desk.events.filter((e) => e.event === 'row').length;
    // Much is said, and nothing of it is in the row: the next row that comes is that of the next delivery.
    for (let n = 0; n < 20; n += 1) await say(2000 + n, { site: 1 });
    await desk.until(isMark(2019));
    expect(await start(1)).toBe(200);
    await desk.until(isRow(2));
    expect(desk.events.filter((e) => e.event === 'row')).toHaveLength(told + 1);
    expect(plain.events.filter((e) => e.event !== 'change' && e.event !== 'hello')).toEqual([]);
    desk.close();
    plain.close();
  });

  it('whoever is locked out, or taken off the site, hears nothing more; the others do', async () => {
    const ines = await house.signIn('Ines Farrow');
    const [hers, mine] = await Promise.all([listen(ines, '?workingAt=1'), listen(lead, '?workingAt=1')]);
    const [person] = await house.rows<{ id: number }>(`SELECT id FROM person WHERE name = 'Ines Farrow'`);
    await lead.ask('people.change', { params: { id: person?.id ?? 0 }, body: { active: false } });
    await hers.ended;
    await say(1005, { site: 1 });
    await mine.until(isMark(1005));
    expect(hers.events.some(isMark(1005))).toBe(false);
    mine.close();
  });

  it('one sign-in may listen twelve times, and again once it let go', async () => {
    const tobin = await house.signIn('Tobin Sallow');
    const all = await Promise.all(Array.from({ length: 12 }, () => listen(tobin)));
    expect((await tobin.raw('/api/events')).status).toBe(429);
    const other = await listen(await house.signIn('Tobin Sallow'));
    all[0]?.close();
    let again = await tobin.raw('/api/events');
    while (again.status === 429) {
      await say(1006, {});
      again = await tobin.raw('/api/events');
    }
    expect(again.status).toBe(200);
    await again.body?.cancel();
    for (const stream of [...all, other]) stream.close();
  });

  it('whoever never reads is let go; who reads misses nothing', async () => {
    const { hostname, port } = new URL(house.address);
    const deaf: Socket = await new Promise((resolve) => {
      const socket = connect({ host: hostname, port: Number(port) }, () => resolve(socket));
    });
    // Paused before the answer comes: nothing is ever read of it.
    deaf.pause();
    deaf.write(`GET /api/events?workingAt=1 HTTP/1.1\r\nHost: ${hostname}\r\nCookie: ${lead.cookie}\r\n\r\n`);
    const mine = await listen(lead, '?workingAt=1');
    const gone = new Promise<void>((resolve) => deaf.on('close', () => resolve()));
    deaf.on('error', () => undefined);
    const wide = Array.from({ length: 20_000 }, (_, n) => n);
    let told = 0;
    // Told far more than its socket and what may wait for it can hold.
    while (told < 200) {
      told += 1;
      await say(3000 + told, { site: 1, bins: wide });
      await mine.until(isMark(3000 + told));
      if (house.streams.size === 1) break;
    }
    expect(house.streams.size).toBe(1);
    expect(told).toBeLessThan(200);
    deaf.resume();
    await gone;
    mine.close();
  }, 60_000);
});
