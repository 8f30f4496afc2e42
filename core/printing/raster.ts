/** A label in the dots of a head: black is 1, eight dots to a byte, the leftmost highest; every row begins with a byte of its own. */
export type Bitmap = { readonly width: number; readonly height: number; readonly rows: Uint8Array };

/** How many bytes a row of so many dots takes. */
export const rowBytes = (width: number): number => Math.ceil(width / 8);

const HEADER = 1796;
const SYNC = 'RaS2';
/** The name of the format, as printers say that they take it. */
export const RASTER_TYPE = 'image/pwg-raster';

/** Writes labels as the pages of one document for a printer: an open format, one bit for a dot, repeated rows and bytes told once.
 *  Units:  dots, at `dpi` of them to the inch.
 *  Source: PWG 5102.4-2012, Raster Format: the page header of 1,796 bytes (4.3), packed lines (4.4): how often a line comes again, then
 *          runs of equal bytes (0 to 127: 1 to 128 times) and of others (129 to 255: 128 to 2 of them). */
export function writeRaster(pages: readonly Bitmap[], dpi: number): Uint8Array {
  const parts: Uint8Array[] = [latin(SYNC)];
  for (const page of pages) parts.push(header(page, dpi, pages.length), packed(page));
  const whole = new Uint8Array(parts.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole;
}

const latin = (text: string): Uint8Array => Uint8Array.from(text, (c) => c.charCodeAt(0));
const BLACK = 3;

function header({ width, height }: Bitmap, dpi: number, pages: number): Uint8Array {
  const bytes = new Uint8Array(HEADER);
  const view = new DataView(bytes.buffer);
  const points = (dots: number): number => Math.round((dots * 72) / dpi);
  bytes.set(latin('PwgRaster'));
  bytes.set(latin('labels'), 128);
  for (const [at, value] of [
    [276, dpi],
    [280, dpi],
    // One copy: how many come is told by the pages.
    [340, 1],
    [352, points(width)],
    [356, points(height)],
    [372, width],
    [376, height],
    // Bits of a colour, bits of a dot.
    [384, 1],
    [388, 1],
    [392, rowBytes(width)],
    [396, 0],
    [400, BLACK],
    // Colours.
    [420, 1],
    [452, pages],
    [456, 1],
    [460, 1],
  ] as const)
    view.setUint32(at, value);
  return bytes;
}

function packed({ width, height, rows }: Bitmap): Uint8Array {
  const across = rowBytes(width);
  // A row that packs worst takes two bytes for one.
  const out = new Uint8Array(height * (2 * across + 1));
  const isSame = (a: number, b: number): boolean => {
    for (let x = 0; x < across; x += 1) if (rows[a * across + x] !== rows[b * across + x]) return false;
    return true;
  };
  let at = 0;
  for (let y = 0; y < height;) {
    let again = 0;
    while (again < 255 && y + again + 1 < height && isSame(y, y + again + 1)) again += 1;
    out[at] = again;
    at = packRow(rows.subarray(y * across, (y + 1) * across), out, at + 1);
    y += again + 1;
  }
  return out.subarray(0, at);
}

const MOST = 128;
// Packs a row behind what is packed already; returns where the next begins.
function packRow(row: Uint8Array, out: Uint8Array, begin: number): number {
  const run = (x: number): number => {
    let n = 1;
    while (n < MOST && x + n < row.length && row[x + n] === row[x]) n += 1;
    return n;
  };
  let at = begin;
  for (let x = 0; x < row.length;) {
    const same = run(x);
    let others = 0;
    if (same === 1) {
      others = 1;
      while (others < MOST && x + others < row.length && run(x + others) === 1) others += 1;
    }
    if (others > 1) {
      out[at] = 257 - others;
      out.set(row.subarray(x, x + others), at + 1);
      at += 1 + others;
      x += others;
    } else {
      // A single one is told as a run of one: as one of others it would be 256, which no byte holds.
      out[at] = same - 1;
      out[at + 1] = row[x] as number;
      at += 2;
      x += same;
    }
  }
  return at;
}
