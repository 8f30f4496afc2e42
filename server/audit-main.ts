// npm run audit: proves the ledger, prints every fault, exits 1 on any.
import { openDatabase } from '#server/kernel';
import { runAudit } from '#server/stock';

const url = process.env['DATABASE_URL'];
if (!url) throw new Error('DATABASE_URL is not set.');
const db = openDatabase(url, { poolSize: 2 });
const { checks, faults } = await runAudit(db);
await db.destroy();
for (const fault of faults) console.log(`FAULT  ${fault.check}: ${fault.detail}`);
console.log(faults.length === 0 ? `Audit clean: ${checks} checks.` : `Audit found ${faults.length} faults.`);
process.exitCode = faults.length === 0 ? 0 : 1;
