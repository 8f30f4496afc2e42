import { lookAtPriceList } from '#server/items';
import { loadFile, openDatabase, parseSheet, refuse, type Db, type HelperWork, type Sheet } from '#server/kernel';
import { labelsPdf, type PdfRequest } from '#server/labels';
import { readUblPaper } from '#server/orders';
import { readUblAdvice } from '#server/receiving';
import { readPicture } from '#server/work';

/** What helpers do: whatever somebody sent that may be larger, or worse, than it looks. */
export const HELPERS: Readonly<Record<string, HelperWork<never, unknown>>> = {
  sheet: (asked: { database: string; file: number }): Promise<Sheet> => onDatabase(asked, (db) => sheetOf(db, asked.file)),
  priceList: (asked: { database: string; file: number; remembered: Parameters<typeof lookAtPriceList>[1] }) =>
    onDatabase(asked, async (db) => lookAtPriceList(await sheetOf(db, asked.file), asked.remembered)),
  picture: ({ name, bytes }: { name: string; bytes: Uint8Array }) => readPicture(name, Buffer.from(bytes)),
  advice: ({ name, bytes }: { name: string; bytes: Uint8Array }) => Promise.resolve(readUblAdvice(name, Buffer.from(bytes))),
  orderPaper: ({ name, bytes }: { name: string; bytes: Uint8Array }) => Promise.resolve(readUblPaper(name, Buffer.from(bytes))),
  labels: (request: PdfRequest, progress) => labelsPdf(request, progress),
};

async function onDatabase<T>({ database }: { database: string }, work: (db: Db) => Promise<T>): Promise<T> {
  const db = openDatabase(database, { poolSize: 1 });
  try {
    return await work(db);
  } finally {
    await db.destroy();
  }
}

async function sheetOf(db: Db, id: number): Promise<Sheet> {
  const file = await loadFile(db, id);
  return file ? parseSheet(file.bytes, file.name) : refuse({ code: 'file.unknown', id });
}
