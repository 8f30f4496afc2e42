import { announce, Refusal, runInternal, sentenceOf, takeFiles, watchFolder, type Db, type DroppedFile, type Outbox } from '#server/kernel';
import { LARGEST_PAPER } from '#server/orders';
import { insertPaper, selectChannelSite } from './store.ts';
import { contentsOf, takePaper } from './take-paper.ts';

/** Takes in what sales channels and customers' programs drop into a folder, for the site of this name, or the first. What cannot be
 *  taken in is told at the desk. */
export function watchOrders(db: Db, outbox: Outbox, folder: string, site: string | null): () => Promise<void> {
  return watchFolder(
    folder,
    LARGEST_PAPER,
    (file) => takeOne(db, file, site),
    () => outbox.nudge(),
  );
}

/** One look into the folder. Returns whether anything lay there. */
export const takeDroppedOrders = (db: Db, folder: string, site: string | null = null): Promise<boolean> =>
  takeFiles(folder, LARGEST_PAPER, (file) => takeOne(db, file, site));

async function takeOne(db: Db, file: DroppedFile, name: string | null): Promise<'taken' | 'refused'> {
  const site = await selectChannelSite(db, name);
  // A house without that site takes nothing; what lies there waits.
  if (site === null) throw new Error(`There is no site “${name ?? ''}”.`);
  try {
    await runInternal(db, (trx) => takePaper(trx, { file, site, person: null }));
    return 'taken';
  } catch (error) {
    if (!(error instanceof Refusal)) throw error;
    await runInternal(db, async (trx) => {
      const says = sentenceOf(error.error);
      await insertPaper(trx, {
        ...{ file: file.name, contents: contentsOf(file.bytes), read: null, site },
        order: null,
        person: null,
        state: 'refused',
        says,
      });
      announce(trx, 'orders');
    });
    return 'refused';
  }
}
