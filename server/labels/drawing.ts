import { layOut, type Box, type Dpi, type Drawing, type LabelFace, type LabelFault, type LabelTools } from '#core/labels';
import { encodeModules } from './encode.ts';
import { labelLetters } from './letters.ts';

/** Resolution of drawings that go to no printer of their own: the coarsest, which every other head can print as well. */
export const USUAL_DPI: Dpi = 203;
/** The fonts and codes of labels. */
export const labelTools: LabelTools = { letters: labelLetters, encode: encodeModules };

/** A label laid out for a head.
 *  Errors: a fault where the label cannot be. */
export const drawingOf = (face: LabelFace, dpi: Dpi = USUAL_DPI): Drawing | LabelFault => layOut(face, dpi, labelTools);
export const isFault = (drawing: Drawing | LabelFault): drawing is LabelFault => 'code' in drawing;

/** The arrow of a label in its box: a plain triangle on a shaft, known from any distance; upside down it is the other one. */
export function arrowPoints(way: 'up' | 'down', { x, y, width, height }: Box): [number, number][] {
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
