import { openDatabase, Outbox, runJobs } from '#server/kernel';
import { JOBS } from './jobs.ts';

// A thread of its own: reading a sheet of 50,000 rows must not hold up a scan. Each of two jobs at once takes three connections: one for its
// lock, one for its transaction, one to say how far it is.
const url = process.env['DATABASE_URL'] ?? '';
const db = openDatabase(url, { poolSize: 8 });
await runJobs(db, new Outbox(db, url), JOBS);
