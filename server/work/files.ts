import { once } from 'node:events';
import type { Request, Response } from 'express';
import sharp from 'sharp';
import { askHelper, fileParts, keepFile, query, refuse, Refusal, type Db, type House } from '#server/kernel';
import type { Me } from '#contract/people';

const LONGEST_SIDE = 1600; // pixels; larger pictures are made smaller, nobody needs more beside an item
const THUMB_SIDE = 240;
/** The largest picture that is opened, in pixels: twice what a good telephone takes. Said by its head, before anything is unpacked. */
const MOST_PIXELS = 100_000_000;
const PICTURE_MS = 20_000;
/** Whoever does not read on for so long has gone away, milliseconds. */
const SLOWEST_MS = 30_000;
const SHEETS = ['text/csv', 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet', 'application/xml'];

const KEPT = 'only pictures (JPEG, PNG, WebP), PDF, CSV, XLSX and XML are kept';

/** The name that a file is kept under: nothing in it that a path or a header would take for its own. */
export const nameOf = (text: string): string => text.replace(/[^\p{L}\p{N} ._()-]/gu, '_').slice(0, 120);

/** Takes a file: a sheet to import, a picture or a document of an item. Answers `{ id, name, size }`.
 *  Errors: empty, a picture that cannot be opened, a kind that is not kept here, a sheet of somebody who may not import any. */
export async function takeFile(
  house: House,
  me: Me,
  sent: { name: string; bytes: Buffer },
): Promise<{ id: number; name: string; size: number }> {
  const { bytes } = sent;
  const name = nameOf(sent.name);
  if (bytes.length === 0) refuse({ code: 'file.empty', name });
  const kind = kindOf(name, bytes);
  if (kind === null) return refuse({ code: 'file.wrongKind', name, wanted: KEPT });
  if (SHEETS.includes(kind) && me.role === 'hand') refuse({ code: 'people.noRight', role: me.role, act: 'Send a sheet' });
  if (kind !== 'picture') {
    const { id } = await keepFile(house.db, { name, type: kind, bytes, thumb: null, person: me.id });
    return { id, name, size: bytes.length };
  }
  const { id, size } = await keepPicture(house.db, { name, bytes, person: me.id });
  return { id, name, size };
}

/** Opens a picture, writes it anew and keeps it, with a small one beside it.
 *  Errors: what cannot be opened, or has too many pixels. */
export async function keepPicture(
  db: Pick<Db, 'raw'>,
  sent: { name: string; bytes: Buffer; person: number },
): Promise<{ id: number; size: number }> {
  const { name, bytes, person } = sent;
  const picture = await askHelper<{ bytes: Uint8Array; thumb: Uint8Array }>(
    'picture',
    { name, bytes },
    { what: `Opening ${name}`, most: PICTURE_MS },
  );
  const { id } = await keepFile(db, {
    name,
    type: 'image/webp',
    bytes: Buffer.from(picture.bytes),
    thumb: Buffer.from(picture.thumb),
    person,
  });
  return { id, size: picture.bytes.length };
}

// The name only says what is claimed; the first bytes say what it is. A text has no mark of its own: there the name must say it.
function kindOf(name: string, bytes: Buffer): 'picture' | 'application/pdf' | (typeof SHEETS)[number] | null {
  const start = bytes.subarray(0, 16).toString('latin1');
  if (/^(\xff\xd8\xff|\x89PNG\r\n\x1a\n|GIF8[79]a|II\*\0|MM\0\*|BM)|^RIFF....WEBP|^....ftyp(heic|heix|mif1|avif)/s.test(start))
    return 'picture';
  if (start.startsWith('%PDF-')) return 'application/pdf';
  if (start.startsWith('PK') && /\.xlsx$/i.test(name)) return 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
  if (/\.(jpe?g|png|webp|gif|tiff?|heic|avif|bmp)$/i.test(name)) return refuse({ code: 'file.notAPicture', name });
  if (/\.(csv|txt|tsv)$/i.test(name)) return 'text/csv';
  if (/\.xml$/i.test(name)) return 'application/xml';
  return null;
}

/** Reads a picture and writes it anew, so that neither an odd file nor what a phone noted of its place is kept. For a helper. */
export async function readPicture(name: string, bytes: Buffer): Promise<{ bytes: Buffer; thumb: Buffer }> {
  sharp.concurrency(1);
  sharp.cache(false);
  const sized = async (side: number, quality: number): Promise<Buffer> =>
    sharp(bytes, { failOn: 'error', limitInputPixels: MOST_PIXELS })
      .rotate()
      .resize({ width: side, height: side, fit: 'inside', withoutEnlargement: true })
      .webp({ quality })
      .toBuffer();
  try {
    const { width, height } = await sharp(bytes, { limitInputPixels: false }).metadata();
    if (width * height > MOST_PIXELS) return refuse({ code: 'file.tooManyPixels', name, width, height, most: MOST_PIXELS });
    return { bytes: await sized(LONGEST_SIDE, 82), thumb: await sized(THUMB_SIDE, 78) };
  } catch (error) {
    if (error instanceof Refusal) throw error;
    return refuse({ code: 'file.notAPicture', name });
  }
}

type Kept = { name: string; type: string; hasThumb: boolean; forLeads: boolean };

/** Gives a file back. A sheet may hold what goods cost: only those who may read costs open it; what shows a badge is
 *  for leads. */
export async function giveFile(house: House, me: Me, asked: { id: number; thumb: boolean }, req: Request, res: Response): Promise<void> {
  const [file] = await query<Kept>(
    house.db,
    `SELECT name, type, thumb IS NOT NULL AS "hasThumb", for_leads AS "forLeads" FROM file WHERE id = ?`,
    [asked.id],
  );
  if (!file) return refuse({ code: 'file.unknown', id: asked.id });
  if (SHEETS.includes(file.type) && me.role === 'hand') refuse({ code: 'people.noRight', role: me.role, act: 'Open a sheet' });
  if (file.forLeads && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'See badges' });
  const small = asked.thumb && file.hasThumb;
  res
    .set('Cache-Control', 'private, max-age=31536000, immutable')
    .set('Content-Security-Policy', "default-src 'none'; sandbox")
    .set(
      'Content-Disposition',
      `${/^(image|application\/pdf)/.test(file.type) ? 'inline' : 'attachment'}; filename*=UTF-8''${encodeURIComponent(file.name)}`,
    )
    .type(small ? 'image/webp' : file.type);
  for await (const part of fileParts(house.db, asked.id, small ? 'thumb' : 'bytes')) {
    if (req.destroyed || res.destroyed) return;
    if (!res.write(part)) await once(res, 'drain', { signal: AbortSignal.timeout(SLOWEST_MS) });
  }
  res.end();
}
