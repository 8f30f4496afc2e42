import express, { type Request, type Response, type Router } from 'express';
import sharp from 'sharp';
import { isAllowed } from '#core/people';
import { keepFile, loadFile, refuse, type House } from '#server/kernel';

const MOST_MB = 50;
const LONGEST_SIDE = 1600; // pixels; larger pictures are made smaller, nobody needs more beside an item
const THUMB_SIDE = 240;

/** Takes and gives files: sheets to import, pictures and documents of items.
 *  Shape:  POST /api/files?name=… with the bytes as body; answers `{ id, name, size }`. GET /api/files/:id, `?thumb=1` for a small picture.
 *  Errors: too large (before it is read), empty, a picture that cannot be opened, a kind that is not kept here. */
export function fileRoutes(house: House): Router {
  const router = express.Router();
  router.post('/api/files', (req, _res, next) => {
    const me = req.me;
    if (!isAllowed(me?.role ?? null, ['lead', 'office', 'hand'])) refuse({ code: 'people.signInFirst' });
    const megabytes = Math.round(Number(req.get('content-length') ?? 0) / 1_000_000);
    if (megabytes > MOST_MB) refuse({ code: 'file.tooLarge', name: nameOf(req), megabytes, most: MOST_MB });
    next();
  });
  router.post(
    '/api/files',
    express.raw({ type: () => true, limit: `${MOST_MB}mb` }),
    (req, res, next) => void take(house, req, res).catch(next),
  );
  router.get('/api/files/:id', (req, res, next) => void give(house, req, res).catch(next));
  return router;
}

const nameOf = (req: Request): string =>
  String(req.query['name'] ?? 'The file')
    .replace(/[^\p{L}\p{N} ._()-]/gu, '_')
    .slice(0, 120);

async function take(house: House, req: Request, res: Response): Promise<void> {
  const name = nameOf(req);
  const bytes: Buffer = Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0);
  if (bytes.length === 0) refuse({ code: 'file.empty', name });
  const person = req.me?.id ?? 0;
  const kind = kindOf(name, bytes);
  if (kind === null) return refuse({ code: 'file.wrongKind', name, wanted: 'only pictures (JPEG, PNG, WebP), PDF, CSV and XLSX are kept' });
  if (kind !== 'picture') {
    const { id } = await keepFile(house.db, { name, type: kind, bytes, thumb: null, person });
    res.json({ id, name, size: bytes.length });
    return;
  }
  const picture = await readPicture(name, bytes);
  const { id } = await keepFile(house.db, { name, type: 'image/webp', ...picture, person });
  res.json({ id, name, size: picture.bytes.length });
}

// The name only says what is claimed; the first bytes say what it is.
function kindOf(
  name: string,
  bytes: Buffer,
): 'picture' | 'application/pdf' | 'text/csv' | 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet' | null {
  const start = bytes.subarray(0, 12).toString('latin1');
  if (/\.(jpe?g|png|webp|gif|tiff?|heic|avif|bmp)$/i.test(name)) return 'picture';
  if (start.startsWith('%PDF-')) return 'application/pdf';
  if (start.startsWith('PK') && /\.xlsx$/i.test(name)) return 'application/vnd.openxmlformats-officedocument.spreadsheetml.sheet';
  if (/\.(csv|txt|tsv)$/i.test(name)) return 'text/csv';
  return null;
}

// Written anew, so that neither an odd file nor what a phone noted of its place is kept.
async function readPicture(name: string, bytes: Buffer): Promise<{ bytes: Buffer; thumb: Buffer }> {
  try {
    const open = (): sharp.Sharp => sharp(bytes, { failOn: 'error', limitInputPixels: 100_000_000 }).rotate();
    return {
      bytes: await open()
        .resize({ width: LONGEST_SIDE, height: LONGEST_SIDE, fit: 'inside', withoutEnlargement: true })
        .webp({ quality: 82 })
        .toBuffer(),
      thumb: await open()
        .resize({ width: THUMB_SIDE, height: THUMB_SIDE, fit: 'inside', withoutEnlargement: true })
        .webp({ quality: 78 })
        .toBuffer(),
    };
  } catch {
    return refuse({ code: 'file.notAPicture', name });
  }
}

async function give(house: House, req: Request, res: Response): Promise<void> {
  if (!req.me) refuse({ code: 'people.signInFirst' });
  const id = Number(req.params['id']);
  const file = Number.isSafeInteger(id) && id > 0 && id < 2 ** 31 ? await loadFile(house.db, id) : undefined;
  if (!file) return refuse({ code: 'file.unknown', id });
  const small = req.query['thumb'] !== undefined && file.thumb;
  res
    .set('Cache-Control', 'private, max-age=31536000, immutable')
    .set('Content-Security-Policy', "default-src 'none'; sandbox")
    .set(
      'Content-Disposition',
      `${/^(image|application\/pdf)/.test(file.type) ? 'inline' : 'attachment'}; filename*=UTF-8''${encodeURIComponent(file.name)}`,
    )
    .type(small ? 'image/webp' : file.type)
    .send(small || file.bytes);
}
