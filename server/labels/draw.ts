import { once } from 'node:events';
import { createRequire } from 'node:module';
import bwipjs from 'bwip-js/node';
import PDFDocument from 'pdfkit';
import type { LabelFace, LabelSymbol } from '#core/labels';

const MM = 4; // drawing units in a millimetre
const TEXT_SIZE = { huge: 17, large: 6, small: 4 } as const; // millimetres; 17 mm is read from two metres and more
const CAPTION = 3.5; // millimetres, the code in letters under its bars

/** A label laid out, ready for any pen: in drawing units, four to a millimetre. */
type Layout = {
  readonly width: number;
  readonly height: number;
  readonly texts: readonly { x: number; y: number; size: number; bold: boolean; centred: boolean; text: string }[];
  readonly arrow: readonly (readonly [number, number])[];
  readonly bars: {
    readonly x: number;
    readonly y: number;
    readonly scale: number;
    readonly strokes: readonly { width: number; d: string }[];
    readonly areas: readonly string[];
  };
};

// The lines from the top, loudest first, the arrow at the right, the code below with its quiet zone.
function layOut(face: LabelFace): Layout {
  const width = face.widthMm * MM;
  const height = face.heightMm * MM;
  // A label half as high has letters half as high; the code keeps the rest.
  const shrink = Math.min(1, face.heightMm / 50);
  const arrowSize = face.arrow ? height * 0.34 : 0;
  let y = 2 * MM * shrink;
  const texts = face.lines.map((line) => {
    // Shrunk rather than cut: half a description misleads.
    const size = Math.min(TEXT_SIZE[line.size] * MM * shrink, (width - 6 * MM - arrowSize) / (line.text.length * 0.56));
    y += size * 1.05;
    return { x: 3 * MM, y, size, bold: line.size !== 'small', centred: false, text: line.text };
  });
  const symbol = bwipjs.toSVG(symbolOptions(face.symbol));
  const box = /viewBox="0 0 (\d+) (\d+)"/.exec(symbol);
  const [symbolWidth, symbolHeight] = [Number(box?.[1] ?? 200), Number(box?.[2] ?? 80)];
  const caption = shrink === 1 ? CAPTION * MM : 0;
  const room = { width: width - 4 * MM * shrink, height: height - y - 3 * MM * shrink - caption };
  const scale = Math.min(room.width / symbolWidth, room.height / symbolHeight);
  const top = y + 1.5 * MM * shrink;
  if (caption > 0)
    texts.push({
      x: width / 2,
      y: top + symbolHeight * scale + caption * 0.95,
      size: caption,
      bold: false,
      centred: true,
      text: face.symbol.caption,
    });
  return {
    width,
    height,
    texts,
    arrow: face.arrow ? arrowPoints(face.arrow, width - arrowSize - 3 * MM, 3 * MM * shrink, arrowSize) : [],
    bars: {
      x: (width - symbolWidth * scale) / 2,
      y: top,
      scale,
      strokes: [...symbol.matchAll(/<path stroke="#000000" stroke-width="([\d.]+)" d="([^"]+)"/g)].map(([, w, d]) => ({
        width: Number(w),
        d: d ?? '',
      })),
      areas: [...symbol.matchAll(/<path d="([^"]+)" fill-rule="evenodd"/g)].map(([, d]) => d ?? ''),
    },
  };
}

// FNC1 is told to the library by name; no other escape stands in what we write, so a lot that looks like an identifier stays a lot.
function symbolOptions(symbol: LabelSymbol): Parameters<typeof bwipjs.toSVG>[0] {
  if (symbol.type === 'qrcode') return { bcid: 'qrcode', text: symbol.text, paddingwidth: 4, paddingheight: 4, scale: 2 };
  const bars = { height: 10, paddingwidth: 10, scale: 2 };
  if (symbol.type !== 'gs1-128') return { bcid: symbol.type, text: symbol.text, ...bars };
  return { bcid: 'code128', text: `^FNC1${symbol.text.replaceAll('\u001d', '^FNC1')}`, parsefnc: true, ...bars };
}

// A plain triangle on a shaft: known from any distance, and upside down it is the other one.
function arrowPoints(way: 'up' | 'down', x: number, y: number, size: number): [number, number][] {
  return [
    [0.5, 0],
    [1, 0.55],
    [0.68, 0.55],
    [0.68, 1],
    [0.32, 1],
    [0.32, 0.55],
    [0, 0.55],
  ].map(([px = 0, py = 0]) => [x + px * size, y + (way === 'up' ? py : 1 - py) * size]);
}

const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);
const short = (n: number): string => n.toFixed(1);

/** Draws a label as SVG at its own size.
 *  Errors: throws where the symbol cannot hold the text; `composeLabel` does not make such labels. */
export function drawLabel(face: LabelFace): string {
  const l = layOut(face);
  const texts = l.texts.map(
    (t) =>
      `<text x="${short(t.x)}" y="${short(t.y)}"${t.centred ? ' text-anchor="middle"' : ''} font-family="Barlow Condensed, ` +
      `sans-serif" font-weight="${t.bold ? 700 : 400}" font-size="${short(t.size)}">${escape(t.text)}</text>`,
  );
  const arrow = l.arrow.length > 0 ? `<polygon points="${l.arrow.map(([x, y]) => `${short(x)},${short(y)}`).join(' ')}"/>` : '';
  const strokes = l.bars.strokes.map((s) => `<path stroke="#000" stroke-width="${s.width}" d="${s.d}"/>`).join('');
  const areas = l.bars.areas.map((d) => `<path fill="#000" fill-rule="evenodd" d="${d}"/>`).join('');
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" width="${face.widthMm}mm" height="${face.heightMm}mm" viewBox="0 0 ${l.width} ` +
    `${l.height}"><rect width="${l.width}" height="${l.height}" fill="#fff"/>${texts.join('')}${arrow}<g ` +
    `transform="translate(${short(l.bars.x)} ${short(l.bars.y)}) scale(${l.bars.scale.toFixed(4)})">${strokes}${areas}</g></svg>`
  );
}

const require = createRequire(import.meta.url);
const FONT = require.resolve('@expo-google-fonts/barlow-condensed/400Regular/BarlowCondensed_400Regular.ttf');
const BOLD = require.resolve('@expo-google-fonts/barlow-condensed/700Bold/BarlowCondensed_700Bold.ttf');
const POINTS = 72 / 25.4 / MM; // points in a drawing unit

/** Draws labels as one PDF, a page of label size for each, in vectors. For a helper: a thousand labels take seconds. */
export async function labelsPdf(faces: readonly LabelFace[], progress: (done: number, total: number) => void): Promise<Buffer> {
  const document = new PDFDocument({ autoFirstPage: false, margin: 0, info: { Title: 'Labels', Producer: 'Dock Row' } });
  const parts: Buffer[] = [];
  document.on('data', (part: Buffer) => parts.push(part));
  const ended = once(document, 'end');
  document.registerFont('label', FONT);
  document.registerFont('label-bold', BOLD);
  for (const [n, face] of faces.entries()) {
    drawPage(document, face);
    progress(n + 1, faces.length);
  }
  document.end();
  await ended;
  return Buffer.concat(parts);
}

function drawPage(document: PDFKit.PDFDocument, face: LabelFace): void {
  const l = layOut(face);
  document.addPage({ size: [l.width * POINTS, l.height * POINTS], margin: 0 });
  document.scale(POINTS);
  for (const t of l.texts) {
    document.font(t.bold ? 'label-bold' : 'label').fontSize(t.size);
    const x = t.centred ? t.x - document.widthOfString(t.text) / 2 : t.x;
    document.text(t.text, x, t.y, { lineBreak: false, baseline: 'alphabetic' });
  }
  if (l.arrow.length > 0) document.polygon(...l.arrow.map(([x, y]) => [x, y] as [number, number])).fill('#000');
  document.translate(l.bars.x, l.bars.y).scale(l.bars.scale);
  for (const s of l.bars.strokes) document.path(s.d).lineWidth(s.width).stroke('#000');
  for (const d of l.bars.areas) document.path(d).fill('#000', 'even-odd');
}
