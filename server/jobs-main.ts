import { setPriority } from 'node:os';
import { openDatabase, Outbox, runJobs } from '#server/kernel';
import { startPrinting } from '#server/labels';
import { watchOrders } from '#server/channel';
import { watchNotices } from '#server/receiving';
import { JOBS } from './jobs.ts';

// A thread of its own: reading a sheet of 50,000 rows must not hold up a scan. Each of two jobs at once takes three connections: one for
// its lock, one for its transaction, one to say how far it is.
// Somebody waits for a scan, nobody for a job: of this thread alone, where the system tells threads apart.
if (process.platform === 'linux') setPriority(10);
const url = process.env['DATABASE_URL'] ?? '';
const db = openDatabase(url, { poolSize: 8, patient: true });
const outbox = new Outbox(db, url);
await runJobs(db, outbox, JOBS);
startPrinting(db, outbox, process.env['DOCKROW_PRINTER_URL'] ?? null);
const notices = process.env['DOCKROW_NOTICES'];
if (notices) watchNotices(db, outbox, notices);
const sent = process.env['DOCKROW_ORDERS'];
if (sent) watchOrders(db, outbox, sent, process.env['DOCKROW_ORDERS_SITE'] ?? null);
