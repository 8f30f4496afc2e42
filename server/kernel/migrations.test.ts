import { describe, expect, it } from '@jest/globals';
import { figuresOf, type Figures } from '#server/backup';
import { grantApplication, migrate, NewerDatabase, query } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';

const { house } = houseForTests({}, { jobs: false });

const SAME: readonly (keyof Figures)[] = [
  'movement',
  'balance',
  'promise',
  'order_line',
  'customer_order',
  'document',
  'item',
  'bin',
  'picked',
  'hold_line',
  'delivery_entry',
  'tally',
  'file',
];

describe('a migration over the data of the version before', () => {
  it('keeps every figure, and what waited in the old shape is done in the new', async () => {
    await query(
      house.owner,
      `INSERT INTO file (name, type, size, sha256, bytes, person_id) VALUES ('old.csv', 'text/csv', 3, 'old', 'a,b', 1)`,
    );
    const before = await figuresOf(house.owner);
    // What was found of goods is no older than the tables that it goes down with: it is laid aside, and back.
    await query(house.owner, `CREATE TABLE aside AS TABLE inspection`);
    await query(house.owner, `CREATE TABLE aside_failure AS TABLE inspection_failure`);
    // To the version before the labels' faces and the tries of jobs, one after the other, the newest first.
    for (let at = ''; at !== '006-ground';) {
      const [, undone] = (await house.owner.migrate.down()) as [number, string[]];
      at = undone[0] ?? '006-ground';
    }
    // As the version before left them: a label that was drawn when it was asked for, an import in the middle.
    await query(house.owner, `INSERT INTO print_job (title, svg, person_id) VALUES ('Bin A-01-1', '<svg/>', 1)`);
    await query(
      house.owner,
      `INSERT INTO job (kind, title, person_id, site_id, input, state)
        VALUES ('places.importBins', 'Bins', 1, 1, '{"file": 1}', 'running')`,
    );
    expect(await query(house.owner, `SELECT 1 FROM information_schema.columns WHERE table_name = 'job' AND column_name = 'tries'`)).toEqual(
      [],
    );
    await migrate(house.owner);
    await grantApplication(house.owner, house.url);
    await query(house.owner, `INSERT INTO inspection OVERRIDING SYSTEM VALUE TABLE aside`);
    await query(house.owner, `INSERT INTO inspection_failure TABLE aside_failure`);
    await query(house.owner, `DROP TABLE aside, aside_failure`);
    const after = await figuresOf(house.owner);
    for (const table of SAME) expect({ table, ...after[table] }).toEqual({ table, ...before[table] });
    expect(await query(house.db, `SELECT svg, face FROM print_job WHERE title = 'Bin A-01-1'`)).toEqual([{ svg: '<svg/>', face: null }]);
    expect(await query(house.db, `SELECT tries, broke FROM job WHERE state = 'running'`)).toEqual([{ tries: 0, broke: null }]);
    await house.expectCleanAudit();
  }, 60_000);
  it('is done once, also by two who start at once; a database that is ahead is left alone', async () => {
    await Promise.all([migrate(house.owner), migrate(house.owner)]);
    await query(house.owner, `INSERT INTO migration (name, batch, migration_time) VALUES ('999-ahead', 9, now())`);
    await expect(migrate(house.owner)).rejects.toBeInstanceOf(NewerDatabase);
    await query(house.owner, `DELETE FROM migration WHERE name = '999-ahead'`);
  });
});
