/** A page as it lies on the strip: eight dots to a byte, the leftmost highest, 1 where it is black; a row begins with a byte. */
export type Page = { readonly width: number; readonly height: number; readonly dpi: number; readonly rows: Uint8Array };

/** Whether a dot is black. */
export const isBlack = ({ width, rows }: Page, x: number, y: number): boolean =>
  (((rows[y * Math.ceil(width / 8) + (x >> 3)] ?? 0) >> (7 - (x & 7))) & 1) === 1;

const HEADER = 1796;

/** Reads a document in PWG 5102.4 as a printer does, by itself: nothing of who writes it is used. Errors: throws where it is none. */
export function readRaster(bytes: Buffer): Page[] {
  if (bytes.subarray(0, 4).toString('latin1') !== 'RaS2') throw new Error('not a raster');
  const pages: Page[] = [];
  let at = 4;
  while (at < bytes.length) {
    const number = (where: number): number => bytes.readUInt32BE(at + where);
    const [dpi, width, height, across] = [number(276), number(372), number(376), number(392)];
    if (number(388) !== 1 || across !== Math.ceil(width / 8) || width > 20_000 || height > 20_000) throw new Error('not for this head');
    at += HEADER;
    const rows = new Uint8Array(across * height);
    for (let y = 0; y < height;) {
      const times = bytes.readUInt8(at) + 1;
      at += 1;
      const row = Buffer.alloc(across);
      for (let x = 0; x < across;) {
        const told = bytes.readUInt8(at);
        at += 1;
        if (told <= 127) {
          row.fill(bytes.readUInt8(at), x, x + told + 1);
          x += told + 1;
          at += 1;
        } else {
          const many = 257 - told;
          bytes.copy(row, x, at, at + many);
          x += many;
          at += many;
        }
      }
      for (let n = 0; n < times && y < height; n += 1, y += 1) rows.set(row, y * across);
    }
    pages.push({ width, height, dpi, rows });
  }
  return pages;
}
