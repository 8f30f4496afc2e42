// npm run backup [-- FILE] and npm run restore -- FILE [--over]: the whole house in one file, and back.
import path from 'node:path';
import { backUp, BackupFault, bringBack } from '#server/backup';

const url = process.env['DATABASE_OWNER_URL'] ?? process.env['DATABASE_URL'];
if (!url) throw new Error('DATABASE_URL is not set.');
const [act, ...rest] = process.argv.slice(2);
const over = rest.includes('--over');
const named = rest.find((word) => !word.startsWith('-'));
const say = (sentence: string): void => void process.stdout.write(`${sentence}\n`);
const stamp = new Date().toISOString().slice(0, 16).replace(/[-:]/g, '').replace('T', '-');

try {
  if (act === 'backup') {
    const file = path.resolve(named ?? `dock-row-${stamp}.backup`);
    const head = await backUp(url, file, say);
    say(`${file} holds everything as it was at ${head.madeAt}, and was proved.`);
  } else {
    if (!named) throw new BackupFault('say which file: npm run restore -- FILE.');
    const { head, kept } = await bringBack(url, path.resolve(named), { over, say });
    say(`Everything is as it was at ${head.madeAt}.${kept ? ` What was there before is kept as the database ${kept}.` : ''}`);
  }
} catch (error) {
  if (!(error instanceof BackupFault)) throw error;
  process.stderr.write(`\nNothing was ${act === 'backup' ? 'kept' : 'changed'}: ${error.message}\n`);
  process.exitCode = 1;
}
