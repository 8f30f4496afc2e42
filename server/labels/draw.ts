import sharp from 'sharp';
import { mmOf, type Dpi, type Drawing, type GreyPicture, type LabelFace, type LabelFault, type PlacedText } from '#core/labels';
import { rowBytes, type Bitmap } from '#core/printing';
import { arrowPoints, drawingOf, isFault, USUAL_DPI } from './drawing.ts';
import { logoPng, NO_LOGOS, type Logos } from './logo.ts';
import { runsOf } from './letters.ts';

const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const short = (n: number): string => n.toFixed(1);
const lengthIn = (dots: number, dpi: Dpi): string => `${mmOf(dots, dpi).toFixed(3)}mm`;

// Letters by the name of their outline, which is defined once in a label. The same name is the same outline wherever it is defined, so
// labels may stand on one page.
function svgText(t: PlacedText, defined: Map<string, string>): string {
  let { x } = t;
  return runsOf(t.text, t.isBold)
    .map((run) => {
      const scale = t.size / run.face.font.unitsPerEm;
      const at = `translate(${short(x)} ${short(t.baseline)})scale(${scale.toFixed(5)} ${(-scale).toFixed(5)})`;
      x += run.extent.width * t.size;
      const glyphs = run.glyphs.filter((g) => g.outline !== '');
      for (const g of glyphs) defined.set(g.id, g.outline);
      return `<g transform="${at}">${glyphs.map((g) => `<use href="#${g.id}" x="${g.x}"${g.y === 0 ? '' : ` y="${g.y}"`}/>`).join('')}</g>`;
    })
    .join('');
}

/** Draws a label as SVG at its own size; one unit of it is one dot of the head, and letters are outlines: every program that shows it shows
 *  the same. What is written can be read by programs in `aria-label`. */
export function drawSvg(d: Drawing, logos: Logos): string {
  const defined = new Map<string, string>();
  const texts = d.texts.map((t) => svgText(t, defined));
  const arrow =
    d.arrow && d.arrowWay
      ? `<polygon points="${arrowPoints(d.arrowWay, d.arrow)
          .map((p) => p.map(short).join(','))
          .join(' ')}"/>`
      : '';
  const picture = logoPng(d, logos);
  const { x = 0, y = 0, width = 0, height = 0 } = d.logo?.box ?? {};
  const at = `x="${x}" y="${y}" width="${width}" height="${height}"`;
  const logo = picture === null ? '' : `<image ${at} style="image-rendering:pixelated" href="${picture}"/>`;
  const dark = d.dark.map((b) => `M${b.x} ${b.y}h${b.width}v${b.height}h-${b.width}z`).join('');
  const said = escape(d.texts.map((t) => t.text).join(', '));
  const outlines = [...defined].map(([id, outline]) => `<path id="${id}" d="${outline}"/>`).join('');
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" role="img" aria-label="${said}" width="${lengthIn(d.width, d.dpi)}" ` +
    `height="${lengthIn(d.height, d.dpi)}" viewBox="0 0 ${d.width} ${d.height}"><defs>${outlines}</defs><rect width="${d.width}" ` +
    `height="${d.height}" fill="#fff"/>${texts.join('')}${arrow}${logo}<path shape-rendering="crispEdges" d="${dark}"/></svg>`
  );
}

/** Draws a label for a head, or says why it cannot be. */
export function drawLabel(face: LabelFace, dpi: Dpi = USUAL_DPI, logos: Logos = NO_LOGOS): { svg: string } | { fault: LabelFault } {
  const drawing = drawingOf(face, dpi);
  return isFault(drawing) ? { fault: drawing } : { svg: drawSvg(drawing, logos) };
}

// One pixel for each dot.
function inDots(svg: string): sharp.Sharp {
  const [, width, height] = /viewBox="0 0 (\d+) (\d+)"/.exec(svg) ?? [];
  return sharp(Buffer.from(svg.replace(/ width="[^"]+mm" height="[^"]+mm"/, ` width="${width}" height="${height}"`)));
}

/** A label as the picture that a head prints: a pixel for each dot, black or white. */
export const drawPng = (d: Drawing, logos: Logos = NO_LOGOS): Promise<Buffer> =>
  inDots(drawSvg(d, logos))
    .flatten({ background: '#fff' })
    .greyscale()
    .threshold(128)
    .toColourspace('b-w')
    .png({ compressionLevel: 3 })
    .toBuffer();

/** A label that was drawn as SVG in the dots of its head, as they are sent to it: what is at least half dark is black.
 *  Errors: throws where the text is no drawing of ours. */
export async function drawBitmap(svg: string): Promise<Bitmap> {
  // The drawing is black on white and hides what is behind it: one of its colours says all, and the library is asked for no more.
  const { data, info } = await inDots(svg).raw().toBuffer({ resolveWithObject: true });
  const { width, height, channels } = info;
  const across = rowBytes(width);
  const rows = new Uint8Array(across * height);
  for (let y = 0, from = 0; y < height; y += 1)
    for (let byte = 0, x = 0; byte < across; byte += 1) {
      let eight = 0;
      for (let bit = 0x80; bit > 0 && x < width; bit >>= 1, x += 1, from += channels) if ((data[from] as number) < 128) eight |= bit;
      rows[y * across + byte] = eight;
    }
  return { width, height, rows };
}

/** A kept picture in greys; what shows through is paper. */
export async function greysOf(bytes: Uint8Array): Promise<GreyPicture> {
  const { data, info } = await sharp(bytes)
    .flatten({ background: '#fff' })
    .greyscale()
    .toColourspace('b-w')
    .raw()
    .toBuffer({ resolveWithObject: true });
  return { width: info.width, height: info.height, greys: new Uint8Array(data) };
}
