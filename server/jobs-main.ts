import { openDatabase, Outbox, runJobs } from '#server/kernel';
import { JOBS } from './jobs.ts';

// A thread of its own: reading a sheet of 50,000 rows must not hold up a scan.
const url = process.env['DATABASE_URL'] ?? '';
const db = openDatabase(url, { poolSize: 4 });
await runJobs(db, new Outbox(db, url), JOBS);
