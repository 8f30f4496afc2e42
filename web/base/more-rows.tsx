import { useState } from 'react';
import { Button } from './parts.tsx';
import { sayNumber } from './say.ts';

// Rows with fields and buttons that a page draws at once: a few hundred are what a browser draws while nobody waits for it.
const ROWS = 100;

/** The beginning of a long list, and how to have more of it. */
export type Beginning<Row> = { readonly shown: readonly Row[]; readonly left: number; readonly more: () => void };

/** Shows a long list of rows that are more than figures (where they are only that, a `DataTable` draws what is seen) a hundred at a time:
 *  two thousand at once hold the screen for half a minute. */
export function useBeginning<Row>(rows: readonly Row[]): Beginning<Row> {
  const [count, setCount] = useState(ROWS);
  return { shown: rows.slice(0, count), left: Math.max(0, rows.length - count), more: () => setCount(count + ROWS) };
}

/** Asks for more of a list that was begun; nothing where all of it is there. */
export function MoreRows({ of }: { of: Beginning<unknown> }) {
  if (of.left === 0) return null;
  return (
    <p className="flex items-center gap-3 py-3">
      <Button onClick={of.more}>Show {Math.min(ROWS, of.left)} more</Button>
      <span className="text-soft">{sayNumber(of.left)} are not shown yet.</span>
    </p>
  );
}
