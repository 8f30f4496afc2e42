import { useDeferredValue } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { Button, Empty, Trouble, useRead } from '#web/base';
import { DataTable, type Column } from '#web/table';
import type { ItemRow } from '#contract/items';

const TRACKED: Readonly<Record<string, string>> = {
  none: '',
  lot: 'lot',
  lotExpiry: 'lot + expiry',
  serial: 'serial',
  serialOut: 'serial when it ships',
};
const COLUMNS: readonly Column<ItemRow>[] = [
  { id: 'code', title: 'Code', value: (r) => r.code, show: (r) => <span className="code text-lg">{r.code}</span>, width: 90 },
  { id: 'description', title: 'Description', value: (r) => r.description, width: 260 },
  { id: 'group', title: 'Group', value: (r) => r.group, width: 120 },
  { id: 'tracking', title: 'Kept by', value: (r) => TRACKED[r.tracking] ?? '', width: 130 },
  { id: 'onHand', title: 'On hand', value: (r) => Number(r.onHand), number: true, width: 90 },
  { id: 'free', title: 'Free', value: (r) => Number(r.free), show: (r) => <strong>{r.free}</strong>, number: true, width: 90 },
  { id: 'unit', title: 'Unit', value: (r) => r.unit, width: 70 },
  { id: 'price', title: 'Price', value: (r) => Number(r.price), show: (r) => r.price, number: true, width: 80, hidden: true },
];

/** Items: search by any code or words as one types; the filters stay in the address bar. */
export function Items() {
  const [search, setSearch] = useSearchParams();
  const go = useNavigate();
  const q = useDeferredValue(search.get('q') ?? '');
  const group = search.get('group') ?? '';
  const free = search.get('free') === 'yes';
  const { data, error, refetch } = useRead(
    'items.search',
    { query: { q, group, ...(free ? { free: 'yes' as const } : {}), limit: 500 } },
    { keep: true },
  );
  const set = (name: string, value: string): void =>
    setSearch(
      (was) => {
        const next = new URLSearchParams(was);
        if (value) next.set(name, value);
        else next.delete(name);
        return next;
      },
      { replace: true },
    );
  return (
    <section>
      <div className="mb-2 flex items-end gap-3">
        <h1 className="code text-3xl">Items</h1>
        <input
          autoFocus
          aria-label="Search items"
          className="min-h-9 w-96 rounded border-2 border-ink/60 bg-sheet px-2"
          placeholder="Code, barcode, words, supplier’s number"
          value={search.get('q') ?? ''}
          onChange={(e) => set('q', e.target.value)}
        />
        <select
          aria-label="Group"
          className="min-h-9 rounded border-2 border-ink/60 bg-sheet px-1"
          value={group}
          onChange={(e) => set('group', e.target.value)}
        >
          <option value="">Every group</option>
          {data?.groups.map((g) => (
            <option key={g}>{g}</option>
          ))}
        </select>
        <label className="flex min-h-9 items-center gap-2">
          <input type="checkbox" className="size-4" checked={free} onChange={(e) => set('free', e.target.checked ? 'yes' : '')} /> only what
          is free
        </label>
        <Button className="ml-auto" onClick={() => void go('/items/new')}>
          New item
        </Button>
      </div>
      <Trouble error={error} onAgain={() => void refetch()} />
      {data && data.items.length === 0 && (
        <Empty title={`Nothing is known by “${q}”.`}>
          Fewer words find more. A code that is on a box but not here can be tied to an item on the item’s page.
        </Empty>
      )}
      {data && data.items.length > 0 && (
        <DataTable name="Items" rows={data.items} columns={COLUMNS} keyOf={(r) => r.id} onOpen={(r) => void go(`/items/${r.id}`)} />
      )}
    </section>
  );
}
