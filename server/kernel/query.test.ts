import { randomUUID } from 'node:crypto';
import { Socket } from 'node:net';
import { describe, expect, it, jest } from '@jest/globals';
import { announce, query, refuse, runCommand, together, type Trx } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';

const { house } = houseForTests({}, { jobs: false });

const note = (trx: Trx, name: string, value = '1'): Promise<{ value: string }[]> =>
  query(trx, `INSERT INTO setting (name, value) VALUES (?, to_jsonb(?::text)) RETURNING value`, [name, value]);
const noted = (like: string): Promise<{ name: string }[]> => house.rows(`SELECT name FROM setting WHERE name LIKE ? ORDER BY name`, [like]);
const codeOf = (error: unknown): string => (error as { code?: string }).code ?? (error as Error).message;

describe('statements that are asked for together', () => {
  it('are done in their order, each seeing what those before it did', async () => {
    const found = await house.db.transaction(async (trx) => {
      const [, before, , after] = await together([
        note(trx, 'in order 1'),
        query<{ n: number }>(trx, `SELECT count(*) AS n FROM setting WHERE name LIKE ?`, ['in order %']),
        note(trx, 'in order 2'),
        query<{ n: number }>(trx, `SELECT count(*) AS n FROM setting WHERE name LIKE ?`, ['in order %']),
      ]);
      return [before[0]?.n, after[0]?.n];
    });
    expect(found).toEqual([1, 2]);
  });

  it('read, behind a lock, what whoever held it wrote', async () => {
    const LOCK = `SELECT pg_advisory_xact_lock(?)`;
    const first = await house.db.transaction();
    await query(first, LOCK, [77]);
    await note(first, 'behind a lock', 'old');
    const second = house.db.transaction((trx) =>
      together([query(trx, LOCK, [77]), query<{ value: string }>(trx, `SELECT value FROM setting WHERE name = ?`, ['behind a lock'])]),
    );
    // It waits: the first goes on to write.
    while ((await house.rows<{ n: number }>(`SELECT count(*) AS n FROM pg_locks WHERE NOT granted AND objid = ?`, [77]))[0]?.n === 0);
    await query(first, `UPDATE setting SET value = '"new"' WHERE name = ?`, ['behind a lock']);
    await first.commit();
    expect((await second)[1]).toEqual([{ value: 'new' }]);
  });

  it('throw what the first of them throws, when all have ended, and leave nothing', async () => {
    const ended: string[] = [];
    const slow = async (trx: Trx): Promise<void> => {
      await query(trx, `SELECT 1 WHERE ? = 1`, [1]);
      await query(trx, `SELECT 1 / ?::int`, [0]).catch(() => ended.push('slow'));
      throw new Error('what stands first');
    };
    const failed = house.db.transaction(async (trx) => {
      await note(trx, 'left behind');
      await together([slow(trx), query(trx, `SELECT 'x'::int WHERE ? = 1`, [1]), note(trx, 'left behind 2')]);
    });
    expect(codeOf(await failed.catch((error: unknown) => error))).toBe('what stands first');
    expect(ended).toEqual(['slow']);
    // What failed only because another had failed is never what is said.
    const other = house.db.transaction((trx) =>
      together([note(trx, 'left behind 3'), query(trx, `SELECT 1 / ?::int`, [0]), note(trx, 'left behind 4')]),
    );
    expect(codeOf(await other.catch((error: unknown) => error))).toBe('22012');
    expect(await noted('left behind%')).toEqual([]);
  });

  it('are refused by a transaction that has ended, and where values are missing', async () => {
    const kept = await house.db.transaction((trx) => Promise.resolve({ trx }));
    await expect(note(kept.trx, 'too late')).rejects.toThrow('The transaction has ended');
    await expect(query(house.db, `SELECT ?::int + ?::int`, [1])).rejects.toThrow('2 places and 1 values');
    expect(await query(house.db, `SELECT '{"a": 1}'::jsonb \\? 'a' AS has WHERE ? = 1`, [1])).toEqual([{ has: true }]);
    expect(await noted('too late')).toEqual([]);
  });
});

describe('a command', () => {
  const stamp = { person: null, route: 'test', request: {}, site: null };

  it('begins, takes its key and asks what it begins with in one packet; its reply and its end are another', async () => {
    const act = (): Promise<unknown> =>
      runCommand(house.db, { ...stamp, key: randomUUID() }, (trx) => together([note(trx, randomUUID()), note(trx, randomUUID())]));
    // The connection is there, and knows the statements.
    await act();
    const written = jest.spyOn(Socket.prototype, '_write');
    await act();
    // Each is one piece for the system, too, though the driver writes five for a statement.
    const packets = written.mock.calls.map(([piece]) => String(piece));
    written.mockRestore();
    expect(packets.map((packet) => [packet.includes('BEGIN'), packet.includes('COMMIT')])).toEqual([
      [true, false],
      [false, true],
    ]);
  });

  it('whose key stands without a reply is nobody’s: it is done', async () => {
    const key = randomUUID();
    await house.rows(`INSERT INTO command (key, route, request_hash) VALUES (?, 'test', '')`, [key]);
    const work = (trx: Trx): Promise<string> => note(trx, 'taken over').then(() => 'done');
    expect(await runCommand(house.db, { ...stamp, key }, work)).toEqual({ reply: 'done', repeated: false });
    expect(await noted('taken over')).toHaveLength(1);
  });

  it('that answers nothing has been done all the same', async () => {
    const key = randomUUID();
    const work = (trx: Trx): Promise<undefined> => note(trx, `silent ${randomUUID()}`).then(() => undefined);
    await runCommand(house.db, { ...stamp, key }, work);
    expect(await runCommand(house.db, { ...stamp, key }, work)).toMatchObject({ repeated: true });
    expect(await noted('silent %')).toHaveLength(1);
  });

  it('sent a second time is answered by what the first came to, whatever the second comes to; what the second began is gone', async () => {
    const key = randomUUID();
    const work = (trx: Trx): Promise<string> => note(trx, 'the first').then(() => 'done');
    await runCommand(house.db, { ...stamp, key }, work);
    const seen: string[] = [];
    const others: readonly ((trx: Trx) => Promise<string>)[] = [
      () => refuse({ code: 'request.malformed' }),
      () => Promise.reject(new Error('not there any more')),
      (trx) => query(trx, `SELECT 1 / ?::int`, [0]).then(() => 'never'),
      // What it asks for when its transaction has gone back is refused.
      async (trx) => {
        await note(trx, 'the second');
        for (;;) await note(trx, 'and on').then(() => seen.push('on'));
      },
    ];
    for (const other of others) expect(await runCommand(house.db, { ...stamp, key }, other)).toEqual({ reply: 'done', repeated: true });
    const another = { ...stamp, key, request: { other: true } };
    await expect(runCommand(house.db, another, work)).rejects.toMatchObject({ error: { code: 'request.keyReused' } });
    expect(seen.length).toBeLessThan(3);
    expect(await noted('the first')).toHaveLength(1);
    expect(await noted('the second')).toEqual([]);
    expect(await noted('and on')).toEqual([]);
  });

  it.each([
    ['the database refuses at its end', `RAISE EXCEPTION 'not with me'`],
    ['its connection ends in its very commit', `PERFORM pg_terminate_backend(pg_backend_pid())`],
  ])('is not answered where %s, though all of its statements were done: it may be sent again', async (_, atItsEnd) => {
    await house.rows(`CREATE FUNCTION end_badly() RETURNS trigger LANGUAGE plpgsql AS
      'BEGIN ${atItsEnd.replaceAll("'", "''")}; RETURN NULL; END'`);
    await house.rows(`CREATE CONSTRAINT TRIGGER ends_badly AFTER INSERT ON setting DEFERRABLE INITIALLY DEFERRED
      FOR EACH ROW EXECUTE FUNCTION end_badly()`);
    const key = randomUUID();
    const work = (trx: Trx): Promise<string> => note(trx, `kept ${key}`).then(() => 'done');
    await expect(runCommand(house.db, { ...stamp, key }, work)).rejects.toThrow();
    expect(await noted(`kept ${key}`)).toEqual([]);
    await house.rows(`DROP FUNCTION end_badly() CASCADE`);
    // As the screens do: the pool may not have heard yet that its connection is gone.
    const again = await runCommand(house.db, { ...stamp, key }, work).catch(() => runCommand(house.db, { ...stamp, key }, work));
    expect(again).toEqual({ reply: 'done', repeated: false });
    expect(await noted(`kept ${key}`)).toHaveLength(1);
  });

  it('that is refused gives its key back: it may be sent again', async () => {
    const key = randomUUID();
    const refused = runCommand(house.db, { ...stamp, key }, () => refuse({ code: 'request.malformed' }));
    await expect(refused).rejects.toMatchObject({ error: { code: 'request.malformed' } });
    const work = (trx: Trx): Promise<string> => note(trx, 'sent again').then(() => 'done');
    expect(await runCommand(house.db, { ...stamp, key }, work)).toEqual({ reply: 'done', repeated: false });
    expect(await noted('sent again')).toHaveLength(1);
  });

  it('is done once, however many send it at once; one that breaks at its last statement leaves nothing, not even its key', async () => {
    const key = randomUUID();
    const work = (trx: Trx): Promise<string> => note(trx, `once ${randomUUID()}`).then(() => 'done');
    const all = await Promise.all(Array.from({ length: 8 }, () => runCommand(house.db, { ...stamp, key }, work)));
    expect(all.map((a) => a.reply)).toEqual(all.map(() => 'done'));
    expect(all.filter((a) => !a.repeated)).toHaveLength(1);
    expect(await noted('once %')).toHaveLength(1);

    // A change that no column holds: the statement that goes with the commit fails.
    const broken = randomUUID();
    const fails = runCommand(house.db, { ...stamp, key: broken }, async (trx) => {
      await note(trx, 'half');
      announce(trx, 'stock', { text: '\u0000' });
    });
    await expect(fails).rejects.toThrow();
    expect(await noted('half')).toEqual([]);
    expect(await house.rows(`SELECT 1 FROM command WHERE key = ?`, [broken])).toEqual([]);
  });
});
