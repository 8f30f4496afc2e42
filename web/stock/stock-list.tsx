import { Link, useNavigate } from 'react-router';
import { STOCK_SORTS, type StockRow } from '#contract/stock';
import {
  atSite,
  siteZone,
  Empty,
  Field,
  Plate,
  Trouble,
  useFilters,
  useMayReadCosts,
  useRead,
  useReadPages,
  sayMoment,
  sayMoney,
  counted,
} from '#web/base';
import { ChoiceField, DateField, Select, usePicked } from '#web/forms';
import { ItemsFrame } from '#web/items';
import { momentAt } from './site-moment.ts';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';

const ITEM: readonly Column<StockRow>[] = [
  { id: 'code', title: 'Item', value: (r) => r.code, show: (r) => <span className="code text-lg">{r.code}</span>, width: 90 },
  { id: 'description', title: 'Description', value: (r) => r.description, width: 220 },
  { id: 'group', title: 'Group', value: (r) => r.group, width: 110 },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier, width: 140 },
];
const FIGURES: readonly Column<StockRow>[] = [
  { id: 'qty', title: 'Quantity', value: (r) => Number(r.qty), show: (r) => <strong>{r.qty}</strong>, number: true, width: 90 },
  { id: 'unit', title: 'Unit', value: (r) => r.unit, width: 60 },
];
const WORTH: readonly Column<StockRow>[] = [
  { id: 'cost', title: 'Cost of one', value: (r) => Number(r.cost), show: (r) => sayMoney(r.cost), number: true, width: 90 },
  { id: 'value', title: 'Value', value: (r) => Number(r.value), show: (r) => sayMoney(r.value), number: true, width: 100 },
];
const PLACE: readonly Column<StockRow>[] = [
  { id: 'site', title: 'Site', value: (r) => r.site ?? '', width: 110 },
  { id: 'bin', title: 'Bin', value: (r) => r.bin ?? '', show: (r) => r.bin && <Plate address={r.bin} />, width: 110 },
  { id: 'lot', title: 'Lot or serial', value: (r) => r.lot ?? r.serial ?? '', width: 110 },
  { id: 'condition', title: 'Condition', value: (r) => r.condition ?? '', width: 80 },
];

const DAY_ENDS = '23:59';

/** The stock list and what it is worth (B13): now, or as it was at any past moment; by group, supplier, site; to carry away. */
export function StockList() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const by = (of('by') || 'item') as 'item' | 'place';
  const worth = (of('worth') || 'group') as 'group' | 'supplier' | 'site';
  const at = of('on') ? momentAt(`${of('on')}T${of('time') || DAY_ENDS}`, siteZone()) : '';
  const [supplier, setSupplier] = usePicked('supplier', of('supplier'), (id) => set('supplier', id));
  const filter = {
    ...(at ? { at } : {}),
    ...(of('site') ? { site: Number(of('site')) } : {}),
    ...(of('supplier') ? { supplier: Number(of('supplier')) } : {}),
    group: of('group'),
    q: of('q'),
  };
  const { pages, more, error, readAll } = useReadPages('stock.list', {
    query: { ...filter, by, sort: useSort('stock', STOCK_SORTS), limit: 300 },
  });
  const isFiltered = ['site', 'supplier', 'group', 'q'].some((name) => of(name) !== '');
  const mayValue = useMayReadCosts();
  const { data: value } = useRead('stock.value', { query: { ...filter, by: worth } }, { keep: true, enabled: mayValue });
  const { data: sites } = useRead('places.sites', {});
  const figures = mayValue ? [...FIGURES, ...WORTH] : FIGURES;
  const rows = pages.flatMap((p) => p.rows);
  const carry = new URLSearchParams(Object.entries({ ...filter, by }).flatMap(([k, v]) => (v === '' ? [] : [[k, String(v)]])));
  return (
    <ItemsFrame
      act={
        mayValue && (
          <>
            <a className="underline decoration-line underline-offset-4" href={atSite(`/api/download/stock.xlsx?${carry.toString()}`)}>
              as XLSX
            </a>
            <a className="underline decoration-line underline-offset-4" href={atSite(`/api/download/stock.csv?${carry.toString()}`)}>
              as CSV
            </a>
          </>
        )
      }
    >
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <Field label="Search" value={of('q')} onChange={(e) => set('q', e.target.value)} />
        <div className="w-44">
          <DateField label="As it was on (empty: now)" value={of('on')} onChange={(day) => set('on', day)} />
        </div>
        {of('on') && (
          <div className="w-28">
            <Field label="At" type="time" value={of('time') || DAY_ENDS} onChange={(e) => set('time', e.target.value)} />
          </div>
        )}
        <Select
          label="Row for each"
          value={by}
          onChange={(v) => set('by', v)}
          options={[
            ['item', 'item'],
            ['place', 'bin, lot and serial'],
          ]}
        />
        <Select
          label="Site"
          value={of('site')}
          onChange={(v) => set('site', v)}
          options={[['', 'every site'], ...(sites?.sites ?? []).map((s) => [String(s.id), s.name] as const)]}
        />
        <div className="w-60">
          <ChoiceField kind="supplier" label="Supplier" placeholder="Every supplier" value={supplier} onChange={setSupplier} />
        </div>
      </div>
      <Trouble error={error} />
      <div className="grid grid-cols-1 gap-6 lg:grid-cols-[1fr_18rem]">
        <div className="min-w-0">
          {pages.length > 0 && rows.length === 0 && (
            <Empty title={isFiltered ? 'No stock fits.' : at ? 'There was no stock then.' : 'There is no stock yet.'}>
              {isFiltered ? 'Take a filter away.' : 'What is received, or entered as opening stock on an item’s page, stands here.'}
            </Empty>
          )}
          {rows.length > 0 && (
            <DataTable
              sorts={STOCK_SORTS}
              keep="stock"
              name="Stock"
              rows={rows}
              columns={by === 'item' ? [...ITEM, ...figures] : [...ITEM.slice(0, 2), ...PLACE, ...figures]}
              keyOf={(r) => `${r.item}-${r.bin}-${r.lot}-${r.serial}-${r.condition}`}
              onOpen={(r) => void go(`/items/${r.item}`)}
              more={more}
              readAll={rowsOf(readAll, (page) => page.rows)}
            />
          )}
        </div>
        {value && (
          <aside aria-label="Value">
            <p className="code text-5xl leading-none" data-testid="stock-value">
              {sayMoney(value.total)}
            </p>
            <p className="text-soft">
              {counted(
                value.rows.reduce((n, r) => n + r.items, 0),
                'item',
                'items',
              )}
            </p>
            <p className="mb-3 text-soft">at cost{at ? `, as of ${sayMoment(at)}` : ', now'}</p>
            <Select
              label="By"
              hideLabel
              className="mb-2 w-full"
              value={worth}
              onChange={(v) => set('worth', v)}
              options={[
                ['group', 'by group'],
                ['supplier', 'by supplier'],
                ['site', 'by site'],
              ]}
            />
            <ul>
              {value.rows.map((r) => (
                <li key={r.name} className="flex justify-between gap-2 border-b border-line py-1">
                  {worth === 'group' ? (
                    <Link
                      to={`/stock?group=${encodeURIComponent(r.name)}`}
                      className="min-w-0 truncate underline decoration-line underline-offset-4"
                    >
                      {r.name}
                    </Link>
                  ) : (
                    <span className="min-w-0 truncate">{r.name}</span>
                  )}
                  <span>{sayMoney(r.value)}</span>
                </li>
              ))}
            </ul>
          </aside>
        )}
      </div>
    </ItemsFrame>
  );
}
