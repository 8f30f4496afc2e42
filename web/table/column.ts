import type { ReactNode } from 'react';

/** A column of a table: what stands in it, how it is shown where that is more than its text, and whether it is a number. */
export type Column<Row> = {
  id: string;
  title: string;
  value: (row: Row) => string | number;
  show?: (row: Row) => ReactNode;
  number?: boolean;
  width: number;
  hidden?: boolean;
};
