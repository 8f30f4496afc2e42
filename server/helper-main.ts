import { setPriority } from 'node:os';
import { serveHelper } from '#server/kernel';
import { HELPERS } from './helper.ts';

// Somebody waits for a scan, nobody for a sheet.
setPriority(10);
serveHelper(HELPERS);
