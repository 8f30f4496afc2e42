import { crc32, deflateSync } from 'node:zlib';
import { inDots, type Drawing, type GreyPicture } from '#core/labels';

/** The pictures of a company by the files that they are kept in. */
export type Logos = ReadonlyMap<number, GreyPicture>;
export const NO_LOGOS: Logos = new Map();

/** The logo of a label as a picture of one bit for each dot: the address (`data:`) of a PNG; null where the label has none, or its file is
 *  gone. */
export function logoPng({ logo }: Pick<Drawing, 'logo'>, logos: Logos): string | null {
  const picture = logo && logos.get(logo.file);
  if (!logo || !picture) return null;
  const { width, height } = logo.box;
  const known = pictures.get(picture)?.get(`${width}×${height}`);
  if (known) return known;
  const made = `data:image/png;base64,${pngOf(inDots(picture, width, height), width, height).toString('base64')}`;
  pictures.set(picture, (pictures.get(picture) ?? new Map<string, string>()).set(`${width}×${height}`, made));
  return made;
}
// Two thousand labels have the same logo in the same size.
const pictures = new WeakMap<GreyPicture, Map<string, string>>();

// Source: PNG Specification (third edition), sections 5.3 (chunks), 11.2.1 (IHDR), 7.2 (scanlines of one bit); 0 is black.
function pngOf(dots: Uint8Array, width: number, height: number): Buffer {
  const across = Math.ceil(width / 8) + 1;
  const rows = Buffer.alloc(across * height);
  for (let y = 0; y < height; y += 1)
    for (let x = 0; x < width; x += 1)
      if (!dots[y * width + x]) {
        const at = y * across + 1 + (x >> 3);
        rows[at] = (rows[at] as number) | (0x80 >> (x & 7));
      }
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head[8] = 1;
  return Buffer.concat([
    Buffer.from('89504e470d0a1a0a', 'hex'),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(rows)),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

function chunk(type: string, data: Buffer): Buffer {
  const named = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const [size, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
  size.writeUInt32BE(data.length);
  sum.writeUInt32BE(crc32(named));
  return Buffer.concat([size, named, sum]);
}
