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
  const out: number[] = [];
  const row = (y: number): Uint8Array => rows.subarray(y * across, (y + 1) * across);
  const isSame = (a: Uint8Array, b: Uint8Array): boolean => a.every((byte, n) => byte === b[n]);
  for (let y = 0; y < height;) {
    let again = 0;
    while (again < 255 && y + again + 1 < height && isSame(row(y), row(y + again + 1))) again += 1;
    out.push(again);
    packRow(row(y), out);
    y += again + 1;
  }
  return Uint8Array.from(out);
}

const MOST = 128;
function packRow(row: Uint8Array, out: number[]): void {
  const run = (x: number): number => {
    let n = 1;
    while (n < MOST && x + n < row.length && row[x + n] === row[x]) n += 1;
    return n;
  };
  for (let x = 0; x < row.length;) {
    const same = run(x);
    if (same > 1 || x === row.length - 1) {
      out.push(same - 1, row[x] ?? 0);
      x += same;
      continue;
    }
    let n = 1;
    while (n < MOST && x + n < row.length && run(x + n) === 1) n += 1;
    // A single one is told as a run of one: 256 less one would be 255, which are two.
    if (n === 1) out.push(0, row[x] ?? 0);
    else out.push(257 - n, ...row.subarray(x, x + n));
    x += n;
  }
}
