/** A label as it comes off a roll or a sheet, in millimetres. */
export type Paper = { readonly widthMm: number; readonly heightMm: number };

/** Sizes of common rolls, in millimetres. */
export const LABEL_SIZES = {
  beam: { widthMm: 150, heightMm: 50, says: '150 × 50, for racks read from the aisle' },
  shelf: { widthMm: 102, heightMm: 51, says: '102 × 51' },
  item: { widthMm: 76, heightMm: 51, says: '76 × 51' },
  small: { widthMm: 51, heightMm: 25, says: '51 × 25, for drawers' },
  pallet: { widthMm: 102, heightMm: 152, says: '102 × 152, for pallets' },
} as const;
export type LabelSize = keyof typeof LABEL_SIZES;

/** How labels stand on a sheet of A4, in millimetres: the first from the upper left corner of the sheet, the next ones so far on. */
export type Sheet = {
  readonly columns: number;
  readonly rows: number;
  readonly leftMm: number;
  readonly topMm: number;
  readonly acrossMm: number;
  readonly downMm: number;
};
/** A4. Source: ISO 216. */
export const SHEET_MM = { widthMm: 210, heightMm: 297 } as const;

/** What no head and no sheet takes: labels between these, in millimetres. */
export const LEAST_PAPER: Paper = { widthMm: 20, heightMm: 12 };
export const MOST_PAPER: Paper = { widthMm: 220, heightMm: 300 };

/** Whether two papers are the same to a head; a tenth of a millimetre is how they are measured. */
export const isSamePaper = (a: Paper, b: Paper): boolean =>
  Math.abs(a.widthMm - b.widthMm) < 0.1 && Math.abs(a.heightMm - b.heightMm) < 0.1;

export const sayPaper = ({ widthMm, heightMm }: Paper): string => `${widthMm} × ${heightMm} mm`;

export type PaperError =
  | { code: 'labels.paperTooSmall'; widthMm: number; heightMm: number }
  | { code: 'labels.paperTooLarge'; widthMm: number; heightMm: number }
  | { code: 'labels.offSheet'; columns: number; rows: number }
  | { code: 'labels.overEachOther' };

/** What is wrong with a paper that somebody keyed; null where nothing is. */
export function paperFault(paper: Paper, sheet: Sheet | null): PaperError | null {
  const { widthMm, heightMm } = paper;
  if (!(widthMm >= LEAST_PAPER.widthMm && heightMm >= LEAST_PAPER.heightMm)) return { code: 'labels.paperTooSmall', widthMm, heightMm };
  if (!(widthMm <= MOST_PAPER.widthMm && heightMm <= MOST_PAPER.heightMm)) return { code: 'labels.paperTooLarge', widthMm, heightMm };
  if (!sheet) return null;
  const { columns, rows } = sheet;
  if ((columns > 1 && sheet.acrossMm < widthMm) || (rows > 1 && sheet.downMm < heightMm)) return { code: 'labels.overEachOther' };
  const right = sheet.leftMm + (columns - 1) * sheet.acrossMm + widthMm;
  const bottom = sheet.topMm + (rows - 1) * sheet.downMm + heightMm;
  const isOff = sheet.leftMm < 0 || sheet.topMm < 0 || right > SHEET_MM.widthMm + 0.1 || bottom > SHEET_MM.heightMm + 0.1;
  return isOff ? { code: 'labels.offSheet', columns, rows } : null;
}

/** Where a label comes to stand: the how manieth sheet, from 0, and its upper left corner there, in millimetres.
 *  Shape:  row by row; `first`: the place of the first label on the first sheet, from 0, so that a sheet that was begun is used up. */
export function placeOnSheet(sheet: Sheet, label: number, first: number): { page: number; leftMm: number; topMm: number } {
  const many = sheet.columns * sheet.rows;
  const at = label + first;
  const place = at % many;
  return {
    page: Math.floor(at / many),
    leftMm: sheet.leftMm + (place % sheet.columns) * sheet.acrossMm,
    topMm: sheet.topMm + Math.floor(place / sheet.columns) * sheet.downMm,
  };
}
