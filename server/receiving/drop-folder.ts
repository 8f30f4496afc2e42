import { mkdir, readdir, readFile, rename, stat } from 'node:fs/promises';
import path from 'node:path';
import { announce, Refusal, runInternal, sentenceOf, type Db, type Outbox } from '#server/kernel';
import { contentsOf, takeNotice, type DroppedFile } from './notices.ts';
import { insertRefusal } from './store-notice.ts';
import { LARGEST_ADVICE } from './ubl-advice.ts';

const LOOK_MS = 2000;
const AT_ONCE = 20;

/** Takes in what suppliers drop into a folder, file by file, and puts each into `taken` or `refused` beside it. Whoever drops a file
 *  writes it
 *  under another name and renames it to `….xml`: what has that name is whole.
 *  What cannot be taken in is told at the desk. A server that ends between the two finds the file again and knows it. */
export function watchNotices(db: Db, outbox: Outbox, folder: string): () => Promise<void> {
  let busy: Promise<void> | null = null;
  const timer = setInterval(() => {
    busy ??= takeDropped(db, folder)
      .then((any) => (any ? outbox.nudge() : undefined))
      // A folder that is not there now may be there later; what lies in it stays there.
      .catch(() => undefined)
      .finally(() => {
        busy = null;
      });
  }, LOOK_MS);
  return async () => {
    clearInterval(timer);
    await busy;
  };
}

/** One look into the folder. Returns whether anything lay there. */
export async function takeDropped(db: Db, folder: string): Promise<boolean> {
  await mkdir(folder, { recursive: true });
  const names = (await readdir(folder, { withFileTypes: true }))
    .filter((f) => f.isFile() && f.name.toLowerCase().endsWith('.xml'))
    .map((f) => f.name)
    .sort();
  for (const name of names.slice(0, AT_ONCE)) {
    const file = path.join(folder, name);
    const tooLarge = (await stat(file)).size > LARGEST_ADVICE;
    const dropped: DroppedFile = { name, bytes: tooLarge ? Buffer.alloc(LARGEST_ADVICE + 1) : await readFile(file) };
    const was = await takeOne(db, dropped).catch(() => null);
    // Where the house itself fails, the file waits; those behind it do not.
    if (was === null) continue;
    await mkdir(path.join(folder, was), { recursive: true });
    await rename(file, path.join(folder, was, name));
  }
  return names.length > 0;
}

async function takeOne(db: Db, file: DroppedFile): Promise<'taken' | 'refused'> {
  try {
    await runInternal(db, (trx) => takeNotice(trx, { file, site: null, person: null }));
    return 'taken';
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await runInternal(db, async (trx) => {
      await insertRefusal(trx, { fileName: file.name, contents: contentsOf(file.bytes), says: sentenceOf(error.error) });
      announce(trx, 'receiving');
    });
    return 'refused';
  }
}
