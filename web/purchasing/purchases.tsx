import { useNavigate } from 'react-router';
import { PURCHASE_SORTS, type PurchaseRow } from '#contract/purchasing';
import { ButtonLink, Empty, sayDay, sayMoney, SearchBox, Tag, Trouble, useFilters, useReadPages } from '#web/base';
import { ChoiceField, DateField, Select, usePicked } from '#web/forms';
import { DataTable, rowsOf, useSort, type Column } from '#web/table';
import { PurchasingFrame } from './frame.tsx';
import { PURCHASE_STATE, PurchaseTag } from './state-tag.tsx';

const COLUMNS: readonly Column<PurchaseRow>[] = [
  { id: 'number', title: 'Order', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 100 },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier, width: 220 },
  { id: 'state', title: 'State', value: (r) => r.state, show: (r) => <PurchaseTag order={r} />, width: 140 },
  {
    id: 'due',
    title: 'Due',
    value: (r) => r.due,
    show: (r) => (r.late ? <Tag tone="wrong">late, {sayDay(r.due)}</Tag> : sayDay(r.due)),
    width: 140,
  },
  { id: 'lines', title: 'Lines', value: (r) => r.lines, number: true, width: 70 },
  { id: 'openLines', title: 'To come', value: (r) => r.openLines, number: true, width: 80 },
  { id: 'total', title: 'Amount', value: (r) => Number(r.total), show: (r) => sayMoney(r.total), number: true, width: 110 },
];

/** What is ordered of suppliers, whatever its state. */
export function Purchases() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const state = (of('state') || 'all') as PurchaseRow['state'] | 'all';
  const [supplier, setSupplier] = usePicked('supplier', of('supplier'), (id) => set('supplier', id));
  const { pages, more, error, readAll } = useReadPages('purchasing.list', {
    query: {
      state,
      q: of('q'),
      ...(of('supplier') ? { supplier: Number(of('supplier')) } : {}),
      ...(of('from') ? { from: of('from') } : {}),
      ...(of('to') ? { to: of('to') } : {}),
      sort: useSort('purchases', PURCHASE_SORTS),
      limit: 200,
    },
  });
  const rows = pages.flatMap((p) => p.orders);
  const isFiltered = ['q', 'supplier', 'from', 'to', 'state'].some((name) => of(name) !== '');
  return (
    <PurchasingFrame
      act={
        <ButtonLink look="next" to="/purchasing/new">
          New purchase order
        </ButtonLink>
      }
    >
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <SearchBox
          label="Search purchase orders"
          className="w-56"
          placeholder="Order, supplier or reference"
          value={of('q')}
          onChange={(e) => set('q', e.target.value)}
        />
        <Select
          label="State"
          value={state}
          onChange={(v) => set('state', v === 'all' ? '' : v)}
          options={[
            ['all', 'every state'],
            ...Object.entries(PURCHASE_STATE).map(([v, words]) => [v as PurchaseRow['state'], words] as const),
          ]}
        />
        <div className="w-56">
          <ChoiceField kind="supplier" label="Supplier" placeholder="Every supplier" value={supplier} onChange={setSupplier} />
        </div>
        <div className="w-44">
          <DateField label="Due from" value={of('from')} onChange={(day) => set('from', day)} />
        </div>
        <div className="w-44">
          <DateField label="Due until" value={of('to')} onChange={(day) => set('to', day)} />
        </div>
      </div>
      <Trouble error={error} />
      {pages.length > 0 && rows.length === 0 && (
        <Empty title={isFiltered ? 'No purchase order fits.' : 'Nothing was ordered yet.'}>
          {isFiltered ? 'Take a filter away.' : 'Begin with “What to buy”, or enter one with “New purchase order”.'}
        </Empty>
      )}
      {rows.length > 0 && (
        <DataTable
          name="Purchase orders"
          keep="purchases"
          sorts={PURCHASE_SORTS}
          rows={rows}
          columns={COLUMNS}
          keyOf={(r) => r.id}
          onOpen={(r) => void go(`/purchasing/${r.id}`)}
          more={more}
          readAll={rowsOf(readAll, (page) => page.orders)}
        />
      )}
    </PurchasingFrame>
  );
}
