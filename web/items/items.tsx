import { useDeferredValue, useMemo } from 'react';
import { Link, useNavigate } from 'react-router';
import { ITEM_SORTS, type ItemRow, type ListRow } from '#contract/items';
import {
  atSite,
  Empty,
  Tag,
  Tick,
  Trouble,
  useFilters,
  useMayReadCosts,
  useRead,
  useReadPages,
  SearchBox,
  ItemPicture,
  ButtonLink,
  sayMoney,
} from '#web/base';
import { ChoiceField, Select, usePicked } from '#web/forms';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';
import { ItemsFrame } from './frame.tsx';

const TRACKED: Readonly<Record<string, string>> = {
  none: '',
  lot: 'lot',
  lotExpiry: 'lot + expiry',
  serial: 'serial',
  serialOut: 'serial when it ships',
};
const COLUMNS: readonly Column<ItemRow>[] = [
  {
    id: 'code',
    title: 'Code',
    value: (r) => r.code,
    show: (r) => (
      <span className="flex items-center gap-2">
        <ItemPicture item={r.id} /> <span className="code text-lg">{r.code}</span>
      </span>
    ),
    width: 120,
  },
  {
    id: 'description',
    title: 'Description',
    value: (r) => r.description,
    show: (r) => (
      <>
        {r.description} {r.retired && <Tag tone="strong">retired</Tag>}
      </>
    ),
    width: 260,
  },
  { id: 'group', title: 'Group', value: (r) => r.group, width: 110 },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier, width: 140 },
  { id: 'tracking', title: 'Tracked by', value: (r) => TRACKED[r.tracking] ?? '', width: 110 },
  { id: 'onHand', title: 'On hand', value: (r) => Number(r.onHand), number: true, width: 80 },
  { id: 'free', title: 'Free', value: (r) => Number(r.free), show: (r) => <strong>{r.free}</strong>, number: true, width: 80 },
  { id: 'unit', title: 'Unit', value: (r) => r.unit, width: 70 },
  { id: 'price', title: 'Price', value: (r) => Number(r.price), show: (r) => sayMoney(r.price), number: true, width: 80 },
  { id: 'cost', title: 'Cost', value: (r) => Number(r.cost), show: (r) => sayMoney(r.cost), number: true, width: 80, hidden: true },
  { id: 'storage', title: 'Storage', value: (r) => r.storageClass, width: 80, hidden: true },
];
const LIST_COLUMNS: readonly Column<ListRow>[] = [
  { id: 'partNo', title: 'Part number', value: (r) => r.partNo, show: (r) => <span className="code text-lg">{r.partNo}</span>, width: 110 },
  { id: 'description', title: 'Description', value: (r) => r.description, width: 260 },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier, width: 150 },
  { id: 'pack', title: 'Pack of', value: (r) => Number(r.packUnits), number: true, width: 70 },
  { id: 'cost', title: 'Cost', value: (r) => Number(r.cost), show: (r) => sayMoney(r.cost), number: true, width: 80 },
  { id: 'price', title: 'Sells at', value: (r) => Number(r.price ?? 0), show: (r) => sayMoney(r.price), number: true, width: 80 },
  {
    id: 'item',
    title: 'Stocked as',
    value: (r) => r.item?.code ?? '',
    show: (r) =>
      r.item ? (
        <Link to={`/items/${r.item.id}`} className="code underline">
          {r.item.code}
        </Link>
      ) : (
        <span className="text-soft">not stocked</span>
      ),
    width: 110,
  },
];

/** Items and suppliers' lists: search by any code or words as one types; every filter stays in the address bar. */
export function Items() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const q = useDeferredValue(of('q'));
  const over = (of('over') || 'items') as 'items' | 'lists' | 'both';
  // What a search finds is there at once, and is ordered here; else the whole list is, by the server.
  const sort = useSort('items', ITEM_SORTS);
  const query = {
    q,
    group: of('group'),
    over,
    ...(of('supplier') ? { supplier: Number(of('supplier')) } : {}),
    ...(of('free') ? { free: 'yes' as const } : {}),
    ...(of('retired') ? { retired: 'yes' as const } : {}),
    ...(q ? {} : { sort }),
    limit: 300,
  };
  const { pages, more, error, readAll } = useReadPages('items.search', { query });
  const { limit: _, over: __, ...meant } = query;
  const filter = new URLSearchParams(Object.entries(meant).flatMap(([k, v]) => (v === '' || k === 'sort' ? [] : [[k, String(v)]])));
  const isFiltered = ['group', 'supplier', 'free', 'retired'].some((name) => of(name) !== '');
  const [supplier, setSupplier] = usePicked('supplier', of('supplier'), (id) => set('supplier', id));
  const { data: own } = useRead('items.ownFields', {});
  const mayReadCosts = useMayReadCosts();
  const items = pages.flatMap((p) => p.items);
  const listRows = pages[0]?.listRows ?? [];
  const columns = useMemo(
    () => [
      ...COLUMNS.filter((c) => c.id !== 'cost' || mayReadCosts),
      ...(own?.fields ?? [])
        .filter((f) => !f.retired)
        .map((f): Column<ItemRow> => ({ id: `own-${f.id}`, title: f.label, value: (r) => r.own[f.label] ?? '', width: 100, hidden: true })),
    ],
    [own, mayReadCosts],
  );
  const insteadOf = pages[0]?.insteadOf;
  return (
    <ItemsFrame
      act={
        <>
          {mayReadCosts && (
            <a className="underline decoration-line underline-offset-4" href={atSite(`/api/download/items.xlsx?${filter.toString()}`)}>
              {q || query.group || of('supplier') || of('free') || of('retired') ? 'these as XLSX' : 'all as XLSX'}
            </a>
          )}
          <ButtonLink to="/items/new">New item</ButtonLink>
        </>
      }
    >
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <SearchBox
          label="Search items"
          className="w-96"
          autoFocus
          placeholder="Code, barcode, words, supplier’s number"
          value={of('q')}
          onChange={(e) => set('q', e.target.value)}
        />
        <Select
          label="Where to look"
          hideLabel
          value={over}
          onChange={(v) => set('over', v === 'items' ? '' : v)}
          options={[
            ['items', 'in stocked items'],
            ['lists', 'in price lists'],
            ['both', 'in both'],
          ]}
        />
        <Select
          label="Group"
          hideLabel
          value={of('group')}
          onChange={(v) => set('group', v)}
          options={[['', 'every group'], ...(pages[0]?.groups ?? []).map((g) => [g, g] as const)]}
        />
        <div className="w-60">
          <ChoiceField kind="supplier" label="Supplier" hideLabel placeholder="Every supplier" value={supplier} onChange={setSupplier} />
        </div>
        <Tick label="only what is free" checked={of('free') === 'yes'} onChange={(e) => set('free', e.target.checked ? 'yes' : '')} />
        <Tick label="retired too" checked={of('retired') === 'yes'} onChange={(e) => set('retired', e.target.checked ? 'yes' : '')} />
      </div>
      <Trouble error={error} />
      {insteadOf && (
        <p className="mb-2">
          “{q}” finds little. This is what <strong>{insteadOf}</strong> finds too.
        </p>
      )}
      {pages.length > 0 && items.length === 0 && listRows.length === 0 && (
        <Empty title={q ? `Nothing is known by “${q}”.` : isFiltered ? 'Nothing fits these filters.' : 'There is no item yet.'}>
          {q ? (
            over === 'items' ? (
              'Look in the price lists too; or fewer words.'
            ) : (
              'Fewer words find more.'
            )
          ) : isFiltered ? (
            'Take a filter away.'
          ) : (
            <>
              Make one with “New item”, or{' '}
              <Link className="underline" to="/items/import">
                import a sheet of them
              </Link>
              .
            </>
          )}
        </Empty>
      )}
      {items.length > 0 && (
        <DataTable
          {...(q ? {} : { sorts: ITEM_SORTS })}
          keep="items"
          name="Items"
          rows={items}
          columns={columns}
          keyOf={(r) => r.id}
          onOpen={(r) => void go(`/items/${r.id}`)}
          more={more}
          readAll={rowsOf(readAll, (page) => page.items)}
          {...(listRows.length > 0 ? { height: '40dvh' } : {})}
        />
      )}
      {listRows.length > 0 && (
        <>
          <h2 className="mt-4 mb-1 border-b-2 border-ink font-bold">On suppliers’ price lists</h2>
          <DataTable
            name="Price lists"
            rows={listRows}
            columns={LIST_COLUMNS.filter((c) => c.id !== 'cost' || mayReadCosts)}
            keyOf={(r) => r.id}
            height="45dvh"
            onOpen={(r) => r.item && void go(`/items/${r.item.id}`)}
          />
        </>
      )}
    </ItemsFrame>
  );
}
