import { describe, expect, it } from '@jest/globals';
import { grantApplication, query } from '#server/kernel';
import { houseForTests } from '../testing/house.ts';

const { house } = houseForTests({}, { jobs: false });

describe('L6 the role of the application', () => {
  const NOT_ALLOWED = [
    ['changes the ledger', `UPDATE movement SET qty = 1`],
    ['takes from the ledger', `DELETE FROM movement WHERE id = 1`],
    ['empties it', `TRUNCATE movement CASCADE`],
    ['empties what stands beside it', `TRUNCATE balance CASCADE`],
    ['switches its guard off', `ALTER TABLE movement DISABLE TRIGGER ALL`],
    ['takes its guard away', `DROP TRIGGER movement_append_only ON movement`],
    [
      'adds a guard of its own',
      `CREATE TRIGGER x BEFORE INSERT ON movement FOR EACH ROW EXECUTE FUNCTION suppress_redundant_updates_trigger()`,
    ],
    ['goes around all guards', `SET session_replication_role = replica`],
    ['drops the rule that no balance is below zero', `ALTER TABLE balance DROP CONSTRAINT balance_not_negative`],
    ['becomes the owner', `SET ROLE postgres`],
    ['says that a migration was done', `INSERT INTO migration (name, batch) VALUES ('999', 9)`],
    ['makes a table', `CREATE TABLE mine (id int)`],
    ['makes a role', `CREATE ROLE mine SUPERUSER`],
  ] as const;
  it.each(NOT_ALLOWED)('never %s', async (_what, sql) => {
    await expect(query(house.db, sql)).rejects.toMatchObject({ code: expect.stringMatching(/^42(501|704|883)$|^0LP01$/) as unknown });
  });
  it('the same are its owner’s to do: it is the role that is refused, and nothing else', async () => {
    for (const [, sql] of NOT_ALLOWED.slice(4, 5)) {
      const trx = await house.owner.transaction();
      await query(trx, sql);
      await trx.rollback();
    }
    await grantApplication(house.owner, house.url);
    await grantApplication(house.owner, house.url);
    expect(await query(house.db, `SELECT count(*)::int > 0 AS some FROM movement`)).toEqual([{ some: true }]);
    await house.expectCleanAudit();
  });
});
