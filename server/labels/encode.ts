import bwipjs from 'bwip-js/node';
import type { Modules, SymbolWay, Symbology } from '#core/labels';

const NAMES: Readonly<Record<Symbology, string>> = {
  ean13: 'ean13',
  ean8: 'ean8',
  upca: 'upca',
  code128: 'code128',
  'gs1-128': 'code128',
  'gs1-datamatrix': 'datamatrix',
  datamatrix: 'datamatrix',
  qrcode: 'qrcode',
};
type Raw = { sbs?: number[]; pixs?: number[]; pixx?: number; pixy?: number };

// UTF-8, by the number that the extended channel interpretations give it: a reader that is not told guesses, and takes two Hebrew words for
// Japanese.
const UTF_8 = '^ECI000026';

/** A text as the modules of a code; null where the code cannot hold it.
 *  Shape: GS1 codes get FNC1 by the library's name for it, first and for each GS in the text; a QR code says first that it is UTF-8 where
 *         it is more than ASCII. No other escape stands in what we write, so a lot that looks like an identifier stays a lot. */
export function encodeModules({ symbology, text }: SymbolWay): Modules | null {
  const escaped = text.replaceAll('^', '^^');
  const isGs1 = symbology === 'gs1-128' || symbology === 'gs1-datamatrix';
  const isOther = symbology === 'qrcode' && !/^[\0-\x7f]*$/.test(text);
  const said = isGs1 ? `^FNC1${escaped.replaceAll('\u001d', '^FNC1')}` : isOther ? UTF_8 + escaped : text;
  const options = { bcid: NAMES[symbology], text: said, ...(isGs1 || isOther ? { parsefnc: true } : {}) };
  try {
    const [raw] = bwipjs.raw(options as never) as unknown as Raw[];
    if (raw?.sbs) return { shape: 'line', widths: raw.sbs, across: raw.sbs.reduce((sum, w) => sum + w, 0) };
    if (!raw?.pixs || !raw.pixx || !raw.pixy) return null;
    return { shape: 'matrix', across: raw.pixx, down: raw.pixy, isDark: raw.pixs.map((p) => p === 1) };
  } catch {
    return null;
  }
}
