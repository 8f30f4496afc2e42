import { once } from 'node:events';
import PDFDocument from 'pdfkit';
import { labelsSentence, placeOnSheet, SHEET_MM, type Drawing, type LabelFace, type Sheet } from '#core/labels';
import { arrowPoints, drawingOf, isFault } from './drawing.ts';
import { runsOf, type Run } from './letters.ts';
import { logoPng, NO_LOGOS, type Logos } from './logo.ts';
import { facesOf, fontInPairs } from './shapes.ts';

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
        // The library takes a font that is open already, too; its types do not say so.
        if (!fonts.has(face.name))
          document.registerFont(face.name, face === facesOf(t.isBold)[0] ? (fontInPairs(face) as never) : face.file);
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
