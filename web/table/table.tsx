import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { createSortedRowModel, rowSortingFeature, sortFns, tableFeatures, useTable, type ColumnDef } from '@tanstack/react-table';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useMemo, useRef, useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { Button, sayNumber } from '#web/base';
import { useArrangement } from './arrangement.ts';
import type { Column } from './column.ts';
import { csvOf } from './csv.ts';

export type { Column } from './column.ts';

/** Reads all pages of a list as rows of a table, telling how many are there. */
export function rowsOf<Page, Row>(
  readAll: (progress: (page: Page) => void) => Promise<readonly Page[]>,
  rows: (page: Page) => readonly Row[],
): (progress: (rows: number) => void) => Promise<readonly Row[]> {
  return async (progress) => {
    let count = 0;
    const pages = await readAll((page) => progress((count += rows(page).length)));
    return pages.flatMap(rows);
  };
}

const ROW_PX = 36;
// Rows that are drawn beyond what is seen: enough for a turn of the wheel. More would be paid for by everybody who opens the page.
const OVERSCAN = 5;
// What stands above a table on most pages; a guess for the first moment.
const ABOVE_PX = 260;
const FEATURES = tableFeatures({ rowSortingFeature, sortedRowModel: createSortedRowModel(), sortFns });

type Props<Row> = {
  name: string;
  rows: readonly Row[];
  columns: readonly Column<Row>[];
  keyOf: (row: Row) => string | number;
  onOpen?: (row: Row) => void;
  picked?: ReadonlySet<string | number>;
  onPick?: (keys: ReadonlySet<string | number>) => void;
  height?: string;
  more?: (() => void) | undefined;
  /** Reads everything that the filter means, for saving it: rows that are not loaded yet too. */
  readAll?: (progress: (rows: number) => void) => Promise<readonly Row[]>;
  openKey?: string | number | undefined;
  /** By which columns the server orders the whole list (`useSort`); by others it is ordered here, once all of it is loaded. */
  sorts?: readonly string[];
  /** Keeps the order and the chosen columns in the address bar, under names that begin so; a page has one such table for each beginning. */
  keep?: string;
};

/** A dense table: sorted by a click on a title, walked with the arrow keys, opened with Enter, its columns chosen, what is seen saved as
 *  CSV. */
export function DataTable<Row extends object>({
  name,
  rows,
  columns,
  keyOf,
  onOpen,
  picked,
  onPick,
  height = 'calc(100dvh - 260px)',
  more,
  readAll,
  openKey,
  sorts,
  keep,
}: Props<Row>) {
  const { hidden, setHidden, sorting, setSorting } = useArrangement(columns, keep);
  const [at, setAt] = useState(0);
  const [saving, setSaving] = useState<number | null>(null);
  const without = [...hidden].sort().join(',');
  const shown = useMemo(() => columns.filter((c) => !without.split(',').includes(c.id)), [columns, without]);
  const isPart = more !== undefined;
  const defs = useMemo(
    () =>
      shown.map((c): ColumnDef<typeof FEATURES, Row> => ({
        id: c.id,
        header: c.title,
        accessorFn: (row) => c.value(row),
        // An order over a part of the list would look like one over all of it.
        enableSorting: !isPart || sorts?.includes(c.id) === true,
      })),
    [shown, sorts, isPart],
  );
  const data = useSame(rows);
  const table = useTable({
    features: FEATURES,
    data,
    columns: defs,
    state: { sorting },
    manualSorting: sorting.some((s) => sorts?.includes(s.id)),
    onSortingChange: (change) => setSorting(typeof change === 'function' ? change(sorting) : change),
  });
  const sorted = table.getRowModel().rows;
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: sorted.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => ROW_PX,
    overscan: OVERSCAN,
    // As high as it will be, so that the rows are drawn with the page and not after it was measured.
    initialRect: { width: 0, height: Math.min(rows.length * ROW_PX, window.innerHeight - ABOVE_PX) },
  });
  const widths = `${onPick ? '36px ' : ''}${shown.map((c) => `minmax(${c.width}px, ${c.width}fr)`).join(' ')}`;
  const toggle = (key: string | number): void => {
    const next = new Set(picked);
    if (!next.delete(key)) next.add(key);
    onPick?.(next);
  };
  // What is saved is all that the filter means, in the order that is seen; the loaded rows are only the beginning of it.
  const save = async (): Promise<void> => {
    setSaving(rows.length);
    try {
      const seen = sorted.map((r) => r.original);
      const loaded = new Set(seen.map(keyOf));
      const all = more && readAll ? await readAll(setSaving) : seen;
      const rest = all.filter((r) => !loaded.has(keyOf(r)));
      saveCsv(name, shown, [...seen, ...rest]);
    } catch (error) {
      toast.error(`Nothing was saved: ${(error as Error).message}`);
    } finally {
      setSaving(null);
    }
  };
  const onKey = (event: React.KeyboardEvent): void => {
    const row = sorted[at]?.original;
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
    if (step !== undefined) {
      const next = Math.min(Math.max(0, at + step), sorted.length - 1);
      setAt(next);
      virtual.scrollToIndex(next);
      event.preventDefault();
    } else if (event.key === 'Enter' && row) onOpen?.(row);
    else if (event.key === ' ' && row && onPick) {
      toggle(keyOf(row));
      event.preventDefault();
    }
  };
  return (
    <div>
      <div className="mb-1 flex items-center justify-end gap-3 text-sm text-soft">
        <span className="mr-auto">
          {sorted.length} {sorted.length === 1 ? 'row' : 'rows'}
          {more ? ' so far' : ''}
          {picked && picked.size > 0 ? `, ${picked.size} marked` : ''}
        </span>
        <Popover className="relative">
          <PopoverButton className="underline decoration-line underline-offset-4">Columns</PopoverButton>
          <PopoverPanel className="absolute right-0 z-20 w-48 rounded border-2 border-ink bg-sheet p-2 text-ink">
            {columns.map((c) => (
              <label key={c.id} className="flex gap-2 py-0.5">
                <input
                  type="checkbox"
                  checked={!hidden.has(c.id)}
                  onChange={() => setHidden(hidden.has(c.id) ? [...hidden].filter((h) => h !== c.id) : [...hidden, c.id])}
                />
                {c.title}
              </label>
            ))}
          </PopoverPanel>
        </Popover>
        <button
          type="button"
          className="underline decoration-line underline-offset-4 disabled:opacity-50"
          disabled={saving !== null}
          onClick={() => void save()}
        >
          {saving === null ? 'Save as CSV' : `Reading ${sayNumber(saving)} rows …`}
        </button>
      </div>
      <div
        ref={scroller}
        tabIndex={0}
        role="grid"
        aria-label={name}
        aria-rowcount={sorted.length}
        onKeyDown={onKey}
        className="overflow-auto border-2 border-ink/70 bg-sheet"
        style={{ maxHeight: height }}
      >
        <div
          role="row"
          className="sticky top-0 z-10 grid border-b-2 border-ink/70 bg-shade text-sm"
          style={{ gridTemplateColumns: widths }}
        >
          {onPick && <span role="columnheader" aria-label="Marked" />}
          {table.getHeaderGroups()[0]?.headers.map((header, i) => (
            <button
              key={header.id}
              type="button"
              role="columnheader"
              aria-sort={{ asc: 'ascending' as const, desc: 'descending' as const }[header.column.getIsSorted() as string] ?? 'none'}
              disabled={!header.column.getCanSort()}
              onClick={header.column.getToggleSortingHandler()}
              className={`truncate px-2 py-1.5 font-semibold ${shown[i]?.number ? 'text-right' : 'text-left'}`}
            >
              {shown[i]?.title} {{ asc: '↑', desc: '↓' }[header.column.getIsSorted() as string] ?? ''}
            </button>
          ))}
        </div>
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map((item) => {
            const row = sorted[item.index];
            if (!row) return null;
            const key = keyOf(row.original);
            const active = item.index === at;
            return (
              <div
                key={key}
                role="row"
                aria-selected={picked?.has(key) ?? active}
                onClick={() => {
                  setAt(item.index);
                  onOpen?.(row.original);
                }}
                className={`absolute inset-x-0 grid items-center border-b [contain:strict] border-line ${
                  onOpen ? 'cursor-pointer hover:bg-shade' : ''
                } ${openKey === key ? 'bg-shade outline-2 -outline-offset-2 outline-ink' : active ? 'bg-shade/60' : ''}`}
                style={{ gridTemplateColumns: widths, height: ROW_PX, transform: `translateY(${item.start}px)` }}
              >
                {onPick && (
                  <span role="gridcell" className="text-center" onClick={(e) => e.stopPropagation()}>
                    <input
                      type="checkbox"
                      aria-label={`Mark ${key}`}
                      checked={picked?.has(key) ?? false}
                      onChange={() => toggle(key)}
                      className="size-4"
                    />
                  </span>
                )}
                <Cells row={row.original} columns={shown} />
              </div>
            );
          })}
        </div>
      </div>
      {more && (
        <div className="mt-2 text-center">
          <Button onClick={more}>Show more</Button>
        </div>
      )}
    </div>
  );
}

// The cells of a row: drawn again only where the row itself is another.
const Cells = memo(function Cells<Row extends object>({ row, columns }: { row: Row; columns: readonly Column<Row>[] }) {
  return columns.map((c) => (
    <span key={c.id} role="gridcell" className={`truncate px-2 ${c.number ? 'text-right' : ''}`}>
      {c.show?.(row) ?? c.value(row)}
    </span>
  ));
}) as <Row extends object>(of: { row: Row; columns: readonly Column<Row>[] }) => ReactNode;

// The same list again where it holds the same rows: whoever puts pages together makes a new one each time.
function useSame<Row>(rows: readonly Row[]): readonly Row[] {
  const [kept, keep] = useState(rows);
  if (kept === rows) return kept;
  if (kept.length === rows.length && kept.every((row, i) => row === rows[i])) return kept;
  keep(rows);
  return rows;
}

function saveCsv<Row>(name: string, columns: readonly Column<Row>[], rows: readonly Row[]): void {
  const link = document.createElement('a');
  link.href = URL.createObjectURL(new Blob([csvOf(columns, rows)], { type: 'text/csv' }));
  link.download = `${name.toLowerCase().replace(/\W+/g, '-')}.csv`;
  link.click();
  URL.revokeObjectURL(link.href);
  const sums = columns
    .filter((c) => c.number)
    .map(
      (c) =>
        `${c.title} ${rows.reduce((sum, r) => sum + (Number(c.value(r)) || 0), 0).toLocaleString('en-GB', { maximumFractionDigits: 2 })}`,
    );
  toast.success(
    `${sayNumber(rows.length)} ${rows.length === 1 ? 'row' : 'rows'} saved.${sums.length > 0 ? ` Sums: ${sums.join(', ')}.` : ''}`,
  );
}
