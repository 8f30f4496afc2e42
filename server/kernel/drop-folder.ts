import { mkdir, readdir, readFile, rename, stat } from 'node:fs/promises';
import path from 'node:path';

const LOOK_MS = 2000;
const AT_ONCE = 20;

export type DroppedFile = { readonly name: string; readonly bytes: Buffer };
/** Who takes what lies in a folder: `taken` or `refused`, both final; what it throws makes the file wait. */
export type TakesFiles = (file: DroppedFile) => Promise<'taken' | 'refused'>;

/** Takes in what others drop into a folder, file by file, and puts each into `taken` or `refused` beside it.
 *  Shape:  `largest`: of a file, in bytes; of a larger one so many and one more are handed on. Returns what ends it. `onTaken` is called
 *          where something lay there.
 *  Note:   whoever drops a file writes it under another name and renames it to `….xml`: what has that name is whole. A server that ends
 *          between the two finds the file again; who takes it must know it then. */
export function watchFolder(folder: string, largest: number, take: TakesFiles, onTaken: () => void): () => Promise<void> {
  let busy: Promise<void> | null = null;
  const timer = setInterval(() => {
    busy ??= takeFiles(folder, largest, take)
      .then((any) => {
        if (any) onTaken();
      })
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

/** One look into the folder, in the order of the names. Returns whether anything lay there. */
export async function takeFiles(folder: string, largest: number, take: TakesFiles): Promise<boolean> {
  await mkdir(folder, { recursive: true });
  const names = (await readdir(folder, { withFileTypes: true }))
    .filter((f) => f.isFile() && f.name.toLowerCase().endsWith('.xml'))
    .map((f) => f.name)
    .sort();
  for (const name of names.slice(0, AT_ONCE)) {
    const file = path.join(folder, name);
    const tooLarge = (await stat(file)).size > largest;
    const was = await take({ name, bytes: tooLarge ? Buffer.alloc(largest + 1) : await readFile(file) }).catch(() => null);
    // Where the house itself fails, the file waits; those behind it do not.
    if (was === null) continue;
    await mkdir(path.join(folder, was), { recursive: true });
    await rename(file, path.join(folder, was, name));
  }
  return names.length > 0;
}
