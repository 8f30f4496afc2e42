import { lookAtPriceList } from '#server/items';
import { loadFile, openDatabase, parseSheet, refuse, type Db, type Sheet } from '#server/kernel';
import { readUblPaper } from '#server/orders';
import { readUblAdvice } from '#server/receiving';
import { readPicture } from '#server/work';

type Asked = { readonly database: string; readonly file: number };
type Sent = { readonly name: string; readonly bytes: Uint8Array };

/** A sheet that the database keeps, as rows. */
export const readSheet = (asked: Asked): Promise<Sheet> => onDatabase(asked, (db) => sheetOf(db, asked.file));
/** A price list that the database keeps, as it would be read. */
export const readPriceList = (asked: Asked & { readonly remembered: Parameters<typeof lookAtPriceList>[1] }) =>
  onDatabase(asked, async (db) => lookAtPriceList(await sheetOf(db, asked.file), asked.remembered));
/** A picture that somebody sent, as it is kept. */
export const readPictureFile = ({ name, bytes }: Sent) => readPicture(name, Buffer.from(bytes));
/** A supplier's advice of what is on its way. */
export const readAdvice = async ({ name, bytes }: Sent) => Promise.resolve(readUblAdvice(name, Buffer.from(bytes)));
/** A customer's order on paper. */
export const readOrderPaper = async ({ name, bytes }: Sent) => Promise.resolve(readUblPaper(name, Buffer.from(bytes)));

async function onDatabase<T>({ database }: Pick<Asked, 'database'>, work: (db: Db) => Promise<T>): Promise<T> {
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
