import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { ReplyOf, Routes } from '#contract';
import { Button, Empty, Tag, Trouble, useMayReadCosts, useRead, useSend, sayDay } from '#web/base';
import { PurchasingFrame } from '#web/purchasing';
import { DataTable, type Column } from '#web/table';

type Row = ReplyOf<Routes['receiving.expected']>['orders'][number];
const COLUMNS: readonly Column<Row>[] = [
  { id: 'number', title: 'Order', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 100 },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier, width: 220 },
  {
    id: 'due',
    title: 'Due',
    value: (r) => r.due,
    show: (r) => (r.late ? <Tag tone="wrong">late, {sayDay(r.due)}</Tag> : sayDay(r.due)),
    width: 140,
  },
  { id: 'open', title: 'Lines open', value: (r) => r.openLines, number: true, width: 90 },
  { id: 'lines', title: 'Lines', value: (r) => r.lines, number: true, width: 70 },
  {
    id: 'state',
    title: 'State',
    value: (r) => (r.deliveryState === 'review' ? 'to review' : r.delivery ? 'being scanned' : r.partly ? 'partly here' : 'waiting'),
    width: 120,
  },
];

/** What is expected: purchase orders with something open, soonest first. */
export function ExpectedOrders() {
  const [search, setSearch] = useSearchParams();
  const go = useNavigate();
  const mayBuy = useMayReadCosts();
  const { data, error } = useRead('receiving.expected', {});
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const start = useSend('receiving.start', { onDone: (d) => void go(`/deliveries/${d.id}`) });
  const q = (search.get('q') ?? '').toLowerCase();
  const rows = data?.orders.filter((o) => `${o.number} ${o.supplier}`.toLowerCase().includes(q)) ?? [];
  const one = rows.length === 1 ? rows[0] : rows.find((r) => picked.size === 1 && picked.has(r.id));
  const suppliers = new Set(rows.filter((r) => picked.has(r.id)).map((r) => r.supplierId));
  return (
    <PurchasingFrame>
      <div className="mb-2 flex items-center gap-3">
        <input
          aria-label="Search expected orders"
          className="min-h-9 w-72 rounded border-2 border-ink/60 bg-sheet px-2"
          placeholder="Order or supplier"
          value={search.get('q') ?? ''}
          onChange={(e) => setSearch(e.target.value ? { q: e.target.value } : {}, { replace: true })}
        />
        {picked.size > 1 && (
          <Button
            look="next"
            className="ml-auto"
            disabled={suppliers.size > 1 || start.isPending}
            title={suppliers.size > 1 ? 'A delivery is of one supplier' : ''}
            onClick={() => start.mutate({ body: { orders: [...picked].map(Number) } })}
          >
            Receive {picked.size} together
          </Button>
        )}
        {one && picked.size < 2 && (
          <Button look="next" className="ml-auto" onClick={() => start.mutate({ body: { purchaseOrder: one.number } })}>
            {one.delivery ? 'Open its delivery' : `Start receiving ${one.number}`}
          </Button>
        )}
      </div>
      <Trouble error={error} />
      {data && rows.length === 0 && <Empty title="Nothing is expected.">Purchase orders that still expect goods stand here.</Empty>}
      {rows.length > 0 && (
        <DataTable
          name="Expected"
          rows={rows}
          columns={COLUMNS}
          keyOf={(r) => r.id}
          onOpen={(r) => (mayBuy ? void go(`/purchasing/${r.id}`) : setSearch({ q: r.number }))}
          picked={picked}
          onPick={setPicked}
        />
      )}
    </PurchasingFrame>
  );
}
