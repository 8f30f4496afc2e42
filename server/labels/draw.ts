import bwipjs from 'bwip-js/node';
import type { LabelFace } from '#core/labels';

const MM = 4; // drawing units in a millimetre
const TEXT_SIZE = { huge: 17, large: 6, small: 4 } as const; // millimetres
const escape = (text: string): string => text.replace(/[&<>"']/g, (c) => `&#${c.charCodeAt(0)};`);

/** Draws a label as SVG at its own size: the lines, loudest first, and the code below them with a quiet zone.
 *  Errors: throws where the symbol cannot hold the text; `composeLabel` does not make such labels. */
export function drawLabel(face: LabelFace): string {
  const width = face.widthMm * MM;
  const height = face.heightMm * MM;
  let y = 2 * MM;
  const lines = face.lines.map((line) => {
    // Shrunk rather than cut: half a description misleads.
    const size = Math.min(TEXT_SIZE[line.size] * MM, (width - 6 * MM) / (line.text.length * 0.56));
    y += size * 1.05;
    return `<text x="${3 * MM}" y="${y.toFixed(1)}" font-family="'Barlow Condensed', sans-serif" font-weight="${line.size === 'small' ? 400 : 700}" font-size="${size.toFixed(1)}">${escape(line.text)}</text>`;
  });
  const symbol = bwipjs.toSVG({ bcid: face.symbol.type, text: face.symbol.text, height: 10, includetext: true, paddingwidth: 8, scale: 2 });
  const box = /viewBox="0 0 (\d+) (\d+)"/.exec(symbol);
  const [symbolWidth, symbolHeight] = [Number(box?.[1] ?? 200), Number(box?.[2] ?? 80)];
  const room = { width: width - 4 * MM, height: height - y - 3 * MM };
  const scale = Math.min(room.width / symbolWidth, room.height / symbolHeight);
  const placed = symbol.replace(
    '<svg ',
    `<svg x="${((width - symbolWidth * scale) / 2).toFixed(1)}" y="${(y + 1.5 * MM).toFixed(1)}" width="${(symbolWidth * scale).toFixed(1)}" height="${(symbolHeight * scale).toFixed(1)}" `,
  );
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${face.widthMm}mm" height="${face.heightMm}mm" viewBox="0 0 ${width} ${height}"><rect width="${width}" height="${height}" fill="#fff"/>${lines.join('')}${placed}</svg>`;
}
