import type { Request, Response } from 'express';
import { loadFile, query, refuse, type House } from '#server/kernel';

// A day without asking again; after that once, in the background. What is shown in between was true yesterday, and no number hangs on it.
const KEPT = 'private, max-age=300, stale-while-revalidate=86400';

/** Gives the picture of an item, small: the first of its files that is one, else a plain box with the beginning of its code, so that every
 *  item looks like something and no screen shows a hole.
 *  Errors: an item that is not there. */
export async function givePicture(house: House, item: number, req: Request, res: Response): Promise<void> {
  const [found] = await query<{ code: string; file: number | null }>(
    house.db,
    `SELECT i.code, (
       SELECT f.id
       FROM item_file x
       JOIN file f ON f.id = x.file_id AND f.type LIKE 'image/%'
       WHERE x.item_id = i.id
       ORDER BY x.at, f.id
       LIMIT 1) AS file
     FROM item i
     WHERE i.id = ?`,
    [item],
  );
  if (!found) return refuse({ code: 'items.unknownItem', id: item });
  const tag = `"picture-${found.file ?? found.code.slice(0, 3)}"`;
  res.set('Cache-Control', KEPT).set('Content-Security-Policy', "default-src 'none'; style-src 'unsafe-inline'; sandbox").set('ETag', tag);
  if (req.get('if-none-match') === tag) return void res.status(304).end();
  const file = found.file === null ? undefined : await loadFile(house.db, found.file);
  if (file) res.type(file.thumb ? 'image/webp' : file.type).send(file.thumb ?? file.bytes);
  else res.type('image/svg+xml').send(plainBox(found.code));
}

const plainBox = (code: string): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><rect width="100" height="100" fill="#fffdf8"/>` +
  `<g fill="#e9dfca" stroke="#1c1a17" stroke-width="2" stroke-linejoin="round"><path d="M14 40H86V88H14Z"/><path d="M14 40 26 ` +
  `24H74L86 40Z"/></g>` +
  `<text x="50" y="74" font-family="sans-serif" font-weight="700" font-size="24" text-anchor="middle" fill="#57514a">${[...code]
    .filter((c) => /[\p{L}\p{N}]/u.test(c))
    .slice(0, 3)
    .join('')}</text></svg>`;
