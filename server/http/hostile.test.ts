import { randomUUID } from 'node:crypto';
import { beforeAll, describe, expect, it } from '@jest/globals';
import { hostileOf, type Hostile } from '../testing/hostile.ts';
import { houseForTests } from '../testing/house.ts';
import { describeApi } from './openapi.ts';

const REQUESTS = Number(process.env['HOSTILE_REQUESTS'] ?? 3000);
const SEED = Number(process.env['HOSTILE_SEED'] ?? 20261126);
const AT_ONCE = 6;
// They would end the session that asks, or the brake on guessing would answer for all that follows.
const LEFT_OUT = [
  'people.signOut',
  'people.signIn',
  'people.badgeIn',
  'people.firstLead',
  'people.endSessions',
  'people.endSession',
  'people.change',
  'people.ownSecret',
];

type Parameter = { name: string; in: 'path' | 'query' | 'header'; required: boolean; schema: Record<string, unknown> };
type Operation = {
  operationId: string;
  parameters: Parameter[];
  requestBody?: { content: Record<string, { schema: Record<string, unknown> }> };
};
type Request = { name: string; path: string; init: RequestInit };

const { house, lead } = houseForTests({ lead: 'Maren Oake' });
let chance: Hostile;
beforeAll(async () => {
  const rows = await house.rows<{ text: string }>(
    `(SELECT code AS text FROM item ORDER BY id LIMIT 20)
     UNION ALL (SELECT address FROM bin ORDER BY id LIMIT 20)
     UNION ALL (SELECT code FROM barcode ORDER BY code LIMIT 5)
     UNION ALL (SELECT code FROM lot ORDER BY id LIMIT 5)
     UNION ALL (SELECT number FROM customer_order ORDER BY id LIMIT 5)
     UNION ALL (SELECT number FROM purchase_order ORDER BY id LIMIT 5)`,
  );
  chance = hostileOf(
    SEED,
    rows.map((r) => r.text),
    [1, 2, 3, 4, 5, 7, 8, 9, 12, 20, 40, 100, 300],
  );
});

const OPERATIONS = Object.entries(describeApi()['paths'] as Record<string, Record<string, Operation>>).flatMap(([path, byMethod]) =>
  Object.entries(byMethod).map(([method, operation]) => ({ path, method, operation })),
);

function headersOf(isCommand: boolean): Record<string, string> {
  const headers: Record<string, string> = isCommand ? { 'Content-Type': 'application/json', 'Idempotency-Key': randomUUID() } : {};
  const odd = chance.random();
  if (odd < 0.02) headers['Idempotency-Key'] = 'x'.repeat(300);
  else if (odd < 0.04) headers['Origin'] = chance.pick(['null', 'junk', 'http://', 'https://elsewhere.example', ':::']);
  else if (odd < 0.06)
    headers['Content-Type'] = chance.pick(['text/plain', 'application/json; charset=nonsense', 'multipart/form-data', '%%']);
  else if (odd < 0.08) headers['Content-Encoding'] = chance.pick(['gzip', 'br', 'nonsense']);
  else if (odd < 0.1) headers['Dock-Row-Site'] = chance.pick(['0', '-1', '1e9', 'x', '99999999999', '2']);
  else if (odd < 0.11) headers['Accept'] = 'nothing/none';
  return headers;
}

function requestFor({ path, method, operation }: (typeof OPERATIONS)[number]): Request {
  // A third fits wholly, so that it gets past the door; the others fit less and less.
  const wild = chance.pick([0, 0, 0.03, 0.1, 0.3]);
  const said = (p: Parameter): string => {
    const value = chance.valueOf(p.schema, wild, p.name);
    const text = typeof value === 'string' ? value : (JSON.stringify(value) ?? '');
    return encodeURIComponent(/\p{Surrogate}/u.test(text) ? 'lone' : text.slice(0, 3000));
  };
  const filled = operation.parameters.filter((p) => p.in === 'path').reduce((so, p) => so.replace(`{${p.name}}`, said(p) || '%20'), path);
  const query = operation.parameters
    .filter((p) => p.in === 'query' && (p.required || chance.random() < 0.5))
    .map((p) => `${p.name}=${said(p)}`);
  const content = operation.requestBody?.content;
  const json = content?.['application/json']?.schema;
  const isCommand = method === 'post';
  const body = json
    ? bodyText(json, wild)
    : content
      ? chance.pick(['', 'a,b\n1,2', 'PK\u0003\u0004junk', '%PDF-1.4', '\u0000\u0001'])
      : isCommand
        ? '{}'
        : undefined;
  return {
    name: operation.operationId,
    path: filled + (query.length > 0 ? `?${query.join('&')}` : ''),
    init: { method: method.toUpperCase(), headers: headersOf(isCommand), ...(body === undefined ? {} : { body }) },
  };
}

function bodyText(schema: Record<string, unknown>, wild: number): string {
  if (chance.random() < 0.02) return chance.pick(['', '{', '[', 'null', '"x"', '7', '{"a":'.repeat(2000), '['.repeat(100_000)]);
  return JSON.stringify(chance.valueOf(schema, wild)) ?? 'null';
}

type Said = { name: string; status: number; path: string; body: string; says: string };

async function ask({ name, path, init }: Request): Promise<Said> {
  const answer = await lead.raw(path, init);
  // A stream never ends by itself.
  const says = answer.headers.get('content-type')?.startsWith('text/event-stream')
    ? (await answer.body?.cancel(), '')
    : await answer.text();
  return { name, status: answer.status, path: path.slice(0, 300), body: String(init.body ?? '').slice(0, 300), says: says.slice(0, 300) };
}

describe('whatever is asked', () => {
  it('ten who undo one document at once: one does, nine are told that it was undone', async () => {
    const [there] = await house.rows<{ address: string; code: string }>(
      `SELECT f.address, i.code
       FROM stock_fact f
       JOIN item i ON i.id = f.item_id
       WHERE f.site_id = 1 AND f.use = 'shelf' AND i.tracking = 'none' AND f.condition = 'sound' AND f.qty > 3
         AND NOT EXISTS (SELECT 1 FROM hold_line h WHERE h.bin_id = f.bin_id)
           AND NOT EXISTS (SELECT 1 FROM promise p WHERE p.item_id = i.id)
         ORDER BY f.balance_id
         LIMIT 1`,
    );
    const moved = await lead.ask('moves.move', {
      body: { from: there?.address ?? '', to: 'QUARANTINE', code: there?.code ?? '', qty: '1' },
    });
    const undone = await Promise.all(
      Array.from({ length: 10 }, () => lead.ask('stock.undo', { params: { id: moved.reply.document }, body: { reason: 'wrong' } })),
    );
    expect(undone.map((u) => u.status).sort()).toEqual([200, ...Array<number>(9).fill(409)]);
    await house.expectCleanAudit();
  });

  it(`of ${REQUESTS} requests made by chance (seed ${SEED}), over every route that is described, none breaks the server`, async () => {
    const asked = OPERATIONS.filter((o) => !LEFT_OUT.includes(o.operation.operationId));
    const done = new Map<string, number>();
    const broken: Said[] = [];
    let through = 0;
    for (let n = 0; n < REQUESTS; n += AT_ONCE) {
      const batch = Array.from({ length: AT_ONCE }, (_, i) => requestFor(asked[(n + i) % asked.length] as (typeof asked)[number]));
      for (const said of await Promise.all(batch.map(ask))) {
        done.set(said.name, (done.get(said.name) ?? 0) + 1);
        if (said.status >= 500) broken.push(said);
        if (said.status < 300) through += 1;
      }
    }
    expect(broken).toEqual([]);
    expect(done.size).toBe(asked.length);
    // Else it would only have tried the doors.
    expect(through).toBeGreaterThan(REQUESTS / 8);
    await house.expectCleanAudit();
  }, 600_000);

  it('what was once answered with a broken server is answered with a sentence', async () => {
    const send = (path: string, init: RequestInit = {}): Promise<Response> => lead.raw(path, init);
    const command = (path: string, body: string, headers: Record<string, string> = {}): Promise<Response> =>
      send(path, { method: 'POST', body, headers: { 'Content-Type': 'application/json', 'Idempotency-Key': randomUUID(), ...headers } });
    const cases: [string, Promise<Response>, number][] = [
      ['an origin that is null', command('/api/moves', '{"from":"A","to":"B","code":"C"}', { Origin: 'null' }), 403],
      ['an origin that is none', command('/api/moves', '{"from":"A","to":"B","code":"C"}', { Origin: 'junk' }), 403],
      ['a word that every object knows', send('/api/download/constructor.csv'), 404],
      ['the same as a file', send('/api/download/__proto__.xlsx'), 404],
      ['a path out of the folder', send('/assets/..%2f..%2fpackage.json'), 404],
      ['a path that cannot be decoded', send('/api/bins/%E0%A4%A'), 400],
      ['nests of objects', command('/api/moves', `${'{"a":'.repeat(5000)}1${'}'.repeat(5000)}`), 400],
      ['nests of lists', command('/api/moves', '['.repeat(200_000) + ']'.repeat(200_000)), 400],
      ['a cursor of another list', send(`/api/items?after=${Buffer.from('[["x"]]').toString('base64url')}`), 400],
      ['a cursor with a zero character', send(`/api/items?after=${Buffer.from('["\\u0000"]').toString('base64url')}`), 400],
    ];
    for (const [what, answer, status] of cases) {
      const got = await answer;
      const { detail } = (await got.json()) as { detail: string };
      expect({ what, status: got.status, says: detail.length > 10 }).toEqual({ what, status, says: true });
    }
  });
});
