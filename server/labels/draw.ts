import { once } from 'node:events';
import PDFDocument from 'pdfkit';
import sharp from 'sharp';
import {
  labelsSentence,
  layOut,
  mmOf,
  placeOnSheet,
  SHEET_MM,
  type Box,
  type Dpi,
  type Drawing,
  type LabelFace,
  type LabelFault,
  type LabelTools,
  type PlacedText,
  type Sheet,
} from '#core/labels';
import { rowBytes, type Bitmap } from '#core/printing';
import { encodeModules } from './encode.ts';
import { logoPng, NO_LOGOS, type Logos } from './logo.ts';
import { labelLetters, runsOf, type Run } from './letters.ts';

/** Resolution of drawings that go to no printer of their own: the coarsest, which every other head can print as well. */
export const USUAL_DPI: Dpi = 203;
/** The fonts and codes of labels. */
export const labelTools: LabelTools = { letters: labelLetters, encode: encodeModules };

/** A label laid out for a head.
 *  Errors: a fault where the label cannot be. */
export const drawingOf = (face: LabelFace, dpi: Dpi = USUAL_DPI): Drawing | LabelFault => layOut(face, dpi, labelTools);
export const isFault = (drawing: Drawing | LabelFault): drawing is LabelFault => 'code' in drawing;

// A plain triangle on a shaft: known from any distance, and upside down it is the other one.
function arrowPoints(way: 'up' | 'down', { x, y, width, height }: Box): [number, number][] {
  return [
    [0.5, 0],
    [1, 0.55],
    [0.68, 0.55],
    [0.68, 1],
    [0.32, 1],
    [0.32, 0.55],
    [0, 0.55],
  ].map(([px = 0, py = 0]) => [x + px * width, y + (way === 'up' ? py : 1 - py) * height]);
}

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

/** What a PDF of labels is asked for. `sheet`: A4 with labels on it, from the place `first` on; without, a page for each label. */
export type PdfRequest = {
  readonly faces: readonly LabelFace[];
  readonly sheet: Sheet | null;
  readonly first: number;
  readonly logos?: Logos;
};

/** Draws labels as one PDF, in vectors with their fonts. For a helper: a thousand labels take seconds.
 *  Shape:  a label that cannot be has no page and no place; `faults` says which and why, a sentence each. `unsaid`: what those that are
 *          drawn do not say. */
export async function labelsPdf(
  { faces, sheet, first, logos = NO_LOGOS }: PdfRequest,
  progress: (done: number, total: number) => void,
): Promise<{ pdf: Buffer; faults: string[]; unsaid: string[] }> {
  const document = new PDFDocument({ autoFirstPage: false, margin: 0, info: { Title: 'Labels', Producer: 'Dock Row' } });
  const parts: Buffer[] = [];
  document.on('data', (part: Buffer) => parts.push(part));
  const ended = once(document, 'end');
  const fonts = new Set<string>();
  const faults: string[] = [];
  const unsaid = new Set<string>();
  let [drawn, pages] = [0, 0];
  for (const [n, face] of faces.entries()) {
    const drawing = drawingOf(face);
    progress(n + 1, faces.length);
    if (isFault(drawing)) {
      faults.push(labelsSentence(drawing));
      continue;
    }
    for (const says of drawing.unsaid) unsaid.add(says);
    const at = sheet ? placeOnSheet(sheet, drawn, first) : { page: drawn, leftMm: 0, topMm: 0 };
    const paper = sheet ? SHEET_MM : face;
    for (; pages <= at.page; pages += 1)
      document.addPage({ size: [paper.widthMm * POINTS_PER_MM, paper.heightMm * POINTS_PER_MM], margin: 0 });
    document.save().translate(at.leftMm * POINTS_PER_MM, at.topMm * POINTS_PER_MM);
    drawInto(document, drawing, fonts, logoPng(drawing, logos));
    document.restore();
    drawn += 1;
  }
  document.end();
  await ended;
  return { pdf: Buffer.concat(parts), faults, unsaid: [...unsaid] };
}

const POINTS_PER_MM = 72 / 25.4;

function drawInto(document: PDFKit.PDFDocument, d: Drawing, fonts: Set<string>, logo: string | null): void {
  document.scale(72 / d.dpi);
  for (const t of d.texts) {
    let { x } = t;
    for (const run of runsOf(t.text, t.isBold)) {
      const { face, text, extent } = run;
      if (run.isRtl || TURNED.test(text)) drawOutlines(document, run, { ...t, x });
      else {
        if (!fonts.has(face.name)) document.registerFont(face.name, face.file);
        fonts.add(face.name);
        document.font(face.name).fontSize(t.size).text(text, x, t.baseline, { lineBreak: false, baseline: 'alphabetic' });
      }
      x += extent.width * t.size;
    }
  }
  // Under the same address it is kept once in the file, however many labels it is on.
  if (d.logo && logo !== null) document.image(logo, d.logo.box.x, d.logo.box.y, { width: d.logo.box.width, height: d.logo.box.height });
  if (d.arrow && d.arrowWay) document.polygon(...arrowPoints(d.arrowWay, d.arrow)).fill('#000');
  document.fillColor('#000').addContent(`${d.dark.map((b) => `${b.x} ${b.y} ${b.width} ${b.height} re`).join('\n')}\nf`);
}

// The library turns round by itself what it takes for written from right to left, the digits of such a script too, and 12 becomes 21: runs
// of it are drawn by their outlines.
const TURNED = /[\p{Script_Extensions=Arabic}\p{Script=Hebrew}]/u;

function drawOutlines(document: PDFKit.PDFDocument, run: Run, at: { x: number; baseline: number; size: number }): void {
  const scale = at.size / run.face.font.unitsPerEm;
  document.fillColor('#000');
  for (const { id, outline, x, y } of run.glyphs) {
    const to = [scale, 0, 0, -scale, at.x + x * scale, at.baseline - y * scale].map((n) => n.toFixed(5)).join(' ');
    document.addContent(`q ${to} cm\n${pdfPath(id, outline)}\nf Q`);
  }
}

const pdfPaths = new Map<string, string>();
// An outline in the operators of a PDF page. A curve of fonts is quadratic, that of a page cubic.
// Source: ISO 32000-1, table 59 (m, l, c, h).
function pdfPath(id: string, outline: string): string {
  const known = pdfPaths.get(id);
  if (known !== undefined) return known;
  const path: string[] = [];
  let [x, y] = [0, 0];
  for (const [, command = '', args = ''] of outline.matchAll(/([MLQCZ])([^MLQCZ]*)/g)) {
    const n = args.match(/-?\d*\.?\d+/g)?.map(Number) ?? [];
    const [a = 0, b = 0, c = 0, d = 0] = n;
    if (command === 'M') path.push(`${a} ${b} m`);
    else if (command === 'L') path.push(`${a} ${b} l`);
    else if (command === 'C') path.push(`${n.join(' ')} c`);
    else if (command === 'Q') path.push(`${[toCubic(x, a), toCubic(y, b), toCubic(c, a), toCubic(d, b), c, d].join(' ')} c`);
    else path.push('h');
    [x, y] = [n.at(-2) ?? x, n.at(-1) ?? y];
  }
  const made = path.join('\n');
  pdfPaths.set(id, made);
  return made;
}

const toCubic = (end: number, control: number): string => (end + (2 / 3) * (control - end)).toFixed(2);
