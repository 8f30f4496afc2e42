import { announce, Refusal, runInternal, sentenceOf, takeFiles, watchFolder, type Db, type DroppedFile, type Outbox } from '#server/kernel';
import { contentsOf, takeNotice } from './notices.ts';
import { insertRefusal } from './store-notice.ts';
import { LARGEST_ADVICE } from './ubl-advice.ts';

/** Takes in what suppliers drop into a folder. What cannot be taken in is told at the desk. */
export function watchNotices(db: Db, outbox: Outbox, folder: string): () => Promise<void> {
  return watchFolder(
    folder,
    LARGEST_ADVICE,
    (file) => takeOne(db, file),
    () => outbox.nudge(),
  );
}

/** One look into the folder. Returns whether anything lay there. */
export const takeDropped = (db: Db, folder: string): Promise<boolean> => takeFiles(folder, LARGEST_ADVICE, (file) => takeOne(db, file));

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
