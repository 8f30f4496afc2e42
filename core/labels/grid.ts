import type { Paper } from './papers.ts';
import { dotsFor, dotsIn, type Dpi } from './dots.ts';

/** Dots of a head, from the upper left corner of the label. */
export type Box = { readonly x: number; readonly y: number; readonly width: number; readonly height: number };

/** Heads do not print to the edge, and paper moves. Millimetres. */
export const MARGIN_MM = 1.5;
/** Between two things on a label. Millimetres. */
export const GAP_MM = 1;
/** A cell of the grid holds a line of the smallest letters that are read, and what stands in two of them has its gap. Millimetres. */
const CELL_MM = 4;

/** Where something stands on a label, in cells: the column and the row of its upper left one, from 0, and how many it takes. */
export type CellBox = { readonly column: number; readonly row: number; readonly across: number; readonly down: number };

/** Cells of a label, inside its margin. */
export function gridOf({ widthMm, heightMm }: Paper): { columns: number; rows: number } {
  const cells = (mm: number): number => Math.max(1, Math.floor((mm - 2 * MARGIN_MM) / CELL_MM));
  return { columns: cells(widthMm), rows: cells(heightMm) };
}

export const isOnGrid = ({ column, row, across, down }: CellBox, { columns, rows }: { columns: number; rows: number }): boolean =>
  column >= 0 && row >= 0 && across >= 1 && down >= 1 && column + across <= columns && row + down <= rows;

export const overlap = (a: CellBox, b: CellBox): boolean =>
  a.column < b.column + b.across && b.column < a.column + a.across && a.row < b.row + b.down && b.row < a.row + a.down;

/** The dots of a box of cells, half a gap inside it on each side: what stands in two boxes never touches. */
export function dotsOfCells(cells: CellBox, paper: Paper, dpi: Dpi): Box {
  const { columns, rows } = gridOf(paper);
  const [margin, half] = [dotsFor(MARGIN_MM, dpi), Math.ceil(dotsFor(GAP_MM, dpi) / 2)];
  const at = (cell: number, of: number, mm: number): number => margin + Math.floor((cell * (dotsIn(mm, dpi) - 2 * margin)) / of);
  const [left, right] = [cells.column, cells.column + cells.across].map((c) => at(c, columns, paper.widthMm)) as [number, number];
  const [top, bottom] = [cells.row, cells.row + cells.down].map((r) => at(r, rows, paper.heightMm)) as [number, number];
  return { x: left + half, y: top + half, width: right - left - 2 * half, height: bottom - top - 2 * half };
}
