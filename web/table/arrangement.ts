import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { Column } from './column.ts';

export type Sorting = { id: string; desc: boolean }[];

const orderIn = (search: URLSearchParams, keep: string): { id: string; desc: boolean } | null => {
  const order = search.get(`${keep}-by`);
  return order === null ? null : { id: order.replace(/^-/, ''), desc: order.startsWith('-') };
};

/** In which order the server is asked for the rows of a table: the one that was chosen at its titles, where the server knows it. */
export function useSort<const Id extends string>(keep: string, sorts: readonly Id[]): Id | `-${Id}` | undefined {
  const [search] = useSearchParams();
  const order = orderIn(search, keep);
  const id = sorts.find((s) => s === order?.id);
  return id === undefined ? undefined : order?.desc ? `-${id}` : id;
}

/** The order of the rows and which columns are hidden: in the address bar where the table has a name there, else with the screen. */
export function useArrangement<Row>(columns: readonly Column<Row>[], keep: string | undefined) {
  const first = columns.filter((c) => c.hidden).map((c) => c.id);
  const [own, setOwn] = useState<{ hidden: readonly string[]; sorting: Sorting }>({ hidden: first, sorting: [] });
  const [search, setSearch] = useSearchParams();
  const put = (name: string, value: string | null): void =>
    setSearch(
      (was) => {
        const next = new URLSearchParams(was);
        if (value === null) next.delete(name);
        else next.set(name, value);
        return next;
      },
      { replace: true },
    );
  if (keep === undefined)
    return {
      hidden: new Set(own.hidden),
      setHidden: (hidden: readonly string[]) => setOwn({ ...own, hidden }),
      sorting: own.sorting,
      setSorting: (sorting: Sorting) => setOwn({ ...own, sorting }),
    };
  const [left, order] = [search.get(`${keep}-without`), orderIn(search, keep)];
  return {
    hidden: new Set(left === null ? first : left.split(',').filter(Boolean)),
    setHidden: (hidden: readonly string[]) => put(`${keep}-without`, hidden.join(',')),
    sorting: order === null ? [] : [order],
    setSorting: ([by]: Sorting) => put(`${keep}-by`, by ? `${by.desc ? '-' : ''}${by.id}` : null),
  };
}
