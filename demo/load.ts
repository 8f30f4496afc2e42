// Loads the demo company into DATABASE_URL if it is empty; --fresh starts over.
import { ensureDatabase, migrate, NewerDatabase, openDatabase, query } from '#server/kernel';
import { loadDemo } from '#demo';

const url = process.env['DATABASE_OWNER_URL'] ?? process.env['DATABASE_URL'] ?? '';
try {
  await ensureDatabase(url);
  const db = openDatabase(url, { poolSize: 4 });
  if (process.argv.includes('--fresh')) {
    await query(db, `DROP SCHEMA public CASCADE`);
    await query(db, `CREATE SCHEMA public`);
  }
  await migrate(db);
  const [items] = await query<{ n: number }>(db, `SELECT count(*) AS n FROM item`);
  if (items?.n === 0) {
    const started = Date.now();
    process.stdout.write('Loading the demo company …\n');
    const told = await loadDemo(db);
    process.stdout.write(`${told} in ${((Date.now() - started) / 1000).toFixed(1)} s.\n`);
  }
  await db.destroy();
} catch (error) {
  process.stderr.write(error instanceof NewerDatabase ? `${error.message}\n` : `${(error as Error).stack}\n`);
  process.exit(1);
}
