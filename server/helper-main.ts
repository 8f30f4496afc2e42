import { setPriority } from 'node:os';
import { HELPERS } from './helper.ts';
// From its own file: all of the kernel would begin a database's library with each helper.
import { serveHelper } from './kernel/helper.ts';

// Somebody waits for a scan, nobody for a sheet.
setPriority(10);
serveHelper(HELPERS);
