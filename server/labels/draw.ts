import { createRequire } from 'node:module';
import bwipjs from 'bwip-js/node';
import PDFDocument from 'pdfkit';
import svgToPdf from 'svg-to-pdfkit';
import type { LabelFace } from '#core/labels';

const MM = 4; // drawing units in a millimetre
const TEXT_SIZE = { huge: 17, large: 6, small: 4 } as const; // millimetres; 17 mm is read from two metres and more
const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** Draws a label as SVG at its own size: the lines, loudest first, the arrow at the right, and the code below with a quiet zone.
 *  Errors: throws where the symbol cannot hold the text; `composeLabel` does not make such labels. */
export function drawLabel(face: LabelFace): string {
  const width = face.widthMm * MM;
  const height = face.heightMm * MM;
  // A label half as high has letters half as high; the code keeps at least 40 % of the height.
  const shrink = Math.min(1, face.heightMm / 50);
  const arrowWidth = face.arrow ? height * 0.34 : 0;
  let y = 2 * MM * shrink;
  const lines = face.lines.map((line) => {
    // Shrunk rather than cut: half a description misleads.
    const size = Math.min(TEXT_SIZE[line.size] * MM * shrink, (width - 6 * MM - arrowWidth) / (line.text.length * 0.56));
    y += size * 1.05;
    return `<text x="${3 * MM}" y="${y.toFixed(1)}" font-family="Barlow Condensed, sans-serif" font-weight="${line.size === 'small' ? 400 : 700}" font-size="${size.toFixed(1)}">${escape(line.text)}</text>`;
  });
  const symbol = bwipjs.toSVG({
    bcid: face.symbol.type,
    text: face.symbol.text,
    height: 10,
    includetext: shrink === 1,
    paddingwidth: 10,
    scale: 2,
  });
  const box = /viewBox="0 0 (\d+) (\d+)"/.exec(symbol);
  const [symbolWidth, symbolHeight] = [Number(box?.[1] ?? 200), Number(box?.[2] ?? 80)];
  const room = { width: width - 4 * MM * shrink, height: height - y - 3 * MM * shrink };
  const scale = Math.min(room.width / symbolWidth, room.height / symbolHeight);
  const placed = symbol.replace(
    '<svg ',
    `<svg x="${((width - symbolWidth * scale) / 2).toFixed(1)}" y="${(y + 1.5 * MM * shrink).toFixed(1)}" width="${(symbolWidth * scale).toFixed(1)}" height="${(symbolHeight * scale).toFixed(1)}" `,
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${face.widthMm}mm" height="${face.heightMm}mm" viewBox="0 0 ${width} ${height}"><rect width="${width}" height="${height}" fill="#fff"/>${lines.join('')}${face.arrow ? arrow(face.arrow, width - arrowWidth - 3 * MM, 3 * MM * shrink, arrowWidth) : ''}${placed}</svg>`;
}

// A plain triangle on a shaft: known from any distance, and upside down it is the other one.
function arrow(way: 'up' | 'down', x: number, y: number, size: number): string {
  const points = [
    [0.5, 0],
    [1, 0.55],
    [0.68, 0.55],
    [0.68, 1],
    [0.32, 1],
    [0.32, 0.55],
    [0, 0.55],
  ].map(([px = 0, py = 0]) => `${(x + px * size).toFixed(1)},${(y + (way === 'up' ? py : 1 - py) * size).toFixed(1)}`);
  return `<polygon points="${points.join(' ')}"/>`;
}

const require = createRequire(import.meta.url);
const FONT = require.resolve('@expo-google-fonts/barlow-condensed/400Regular/BarlowCondensed_400Regular.ttf');
const BOLD = require.resolve('@expo-google-fonts/barlow-condensed/700Bold/BarlowCondensed_700Bold.ttf');
const POINTS = 72 / 25.4;

/** Writes labels as one PDF, a page of label size for each, in vectors. The document streams: it is ended by this function. */
export function labelsPdf(faces: readonly LabelFace[]): PDFKit.PDFDocument {
  const document = new PDFDocument({ autoFirstPage: false, margin: 0, info: { Title: 'Labels', Producer: 'Dock Row' } });
  document.registerFont('label', FONT);
  document.registerFont('label-bold', BOLD);
  for (const face of faces) {
    const [width, height] = [face.widthMm * POINTS, face.heightMm * POINTS];
    document.addPage({ size: [width, height], margin: 0 });
    svgToPdf(document, drawLabel(face), 0, 0, {
      width,
      height,
      assumePt: false,
      fontCallback: (_family, bold) => (bold ? 'label-bold' : 'label'),
    });
  }
  document.end();
  return document;
}
