import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { ORDER_SORTS, type OrderRow } from '#contract/orders';
import { Button, ButtonLink, counted, Empty, SearchBox, Tag, Tick, Trouble, useFilters, useReadPages, useSend, sayDay } from '#web/base';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';

export const READY = { all: '● all', part: '◐ part', nothing: '○ nothing', done: '— done' } as const;
export const STEP = {
  new: 'entered',
  promised: 'promised',
  onRound: 'being picked',
  atBench: 'at the bench',
  packed: 'packed',
  shipped: 'shipped',
  held: 'held',
  cancelled: 'cancelled',
} as const;
const COLUMNS: readonly Column<OrderRow>[] = [
  { id: 'number', title: 'Order', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 90 },
  { id: 'customer', title: 'Customer', value: (r) => r.customer, width: 220 },
  {
    id: 'due',
    title: 'Due',
    value: (r) => r.due,
    show: (r) => (r.late ? <Tag tone="wrong">late, {sayDay(r.due)}</Tag> : sayDay(r.due)),
    width: 140,
  },
  { id: 'priority', title: 'Priority', value: (r) => r.priority, number: true, width: 70 },
  { id: 'lines', title: 'Lines', value: (r) => r.lines, number: true, width: 60 },
  { id: 'pieces', title: 'Pieces', value: (r) => Number(r.pieces), number: true, width: 70 },
  { id: 'ready', title: 'Can be picked', value: (r) => READY[r.ready], width: 110 },
  {
    id: 'step',
    title: 'State',
    value: (r) => STEP[r.step],
    show: (r) =>
      r.heldFor ? (
        <Tag tone="wrong">held</Tag>
      ) : (
        <Tag tone={r.step === 'promised' ? 'strong' : 'plain'}>
          {STEP[r.step]}
          {r.round ? ` ${r.round}` : ''}
        </Tag>
      ),
    width: 170,
  },
];

/** Orders: what is to leave, most urgent first. Mark some to promise or to make one walk of them. */
export function Orders() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const state = (of('state') || 'open') as 'open' | 'shipped';
  const ready = of('ready') === 'yes' ? ('yes' as const) : undefined;
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const { pages, more, error, isPending, readAll } = useReadPages('orders.list', {
    query: { state, ready, q: of('q'), sort: useSort('orders', ORDER_SORTS), limit: 300 },
  });
  const rows = pages.flatMap((p) => p.orders);
  const isFiltered = of('q') !== '' || ready !== undefined;
  const promise = useSend('orders.promise', {
    onDone: (r) => {
      setPicked(new Set());
      if (r.missing.length === 0) toast.success(`All promised: ${counted(r.promised, 'line', 'lines')}.`);
      else
        toast.warning(
          `${counted(r.promised, 'line', 'lines')} promised. Missing: ${r.missing
            .slice(0, 5)
            .map((m) => `${m.qty} ${m.code} for ${m.order}`)
            .join(', ')}${r.missing.length > 5 ? ' …' : ''}`,
        );
    },
  });
  const round = useSend('picking.make', { onDone: (r) => void go(`/rounds/${r.id}`) });
  const orders = [...picked].map(Number);
  return (
    <section>
      <div className="mb-2 flex items-center gap-3">
        <h1 className="code text-3xl">{state === 'open' ? 'Ordered' : 'Gone'}</h1>
        {state === 'open' && !isFiltered && !more && rows.length > 0 && <span className="text-soft">{whereTheyAre(rows)}</span>}
        <SearchBox
          label="Search orders"
          className="w-64"
          placeholder="Order or customer"
          value={of('q')}
          onChange={(e) => set('q', e.target.value)}
        />
        {state === 'open' && (
          <Tick label="can be picked whole" checked={ready === 'yes'} onChange={(e) => set('ready', e.target.checked ? 'yes' : '')} />
        )}
        <span className="ml-auto" />
        {picked.size > 0 ? (
          <>
            <Button onClick={() => promise.mutate({ body: { orders, mode: 'free' } })}>Promise what is free to {picked.size}</Button>
            <Button look="next" onClick={() => round.mutate({ body: { orders } })}>
              Make one round of {picked.size}
            </Button>
          </>
        ) : (
          <ButtonLink look="next" to="/orders/new">
            New order
          </ButtonLink>
        )}
      </div>
      <Trouble error={error} />
      {!isPending && rows.length === 0 && !error && (
        <Empty title={isFiltered ? 'No order fits.' : state === 'open' ? 'No open orders.' : 'Nothing has left yet.'}>
          {isFiltered ? 'Take a filter away.' : state === 'open' && 'Enter one with “New order”.'}
        </Empty>
      )}
      {rows.length > 0 && (
        <DataTable
          sorts={ORDER_SORTS}
          name="Orders"
          keep="orders"
          rows={rows}
          columns={COLUMNS}
          keyOf={(r) => r.id}
          onOpen={(r) => void go(`/orders/${r.id}`)}
          more={more}
          readAll={rowsOf(readAll, (page) => page.orders)}
          {...(state === 'open' ? { picked, onPick: setPicked } : {})}
        />
      )}
    </section>
  );
}

// Why the row says fewer than the list has: what is walked for or lies at the bench is at a station of its own.
function whereTheyAre(rows: readonly OrderRow[]): string {
  const picked = rows.filter((r) => r.step === 'onRound').length;
  const bench = rows.filter((r) => r.step === 'atBench' || r.step === 'packed').length;
  const gone = [picked > 0 && `${picked} being picked`, bench > 0 && `${bench} at the bench`].filter(Boolean);
  return gone.length === 0 ? '' : `${rows.length - picked - bench} here, ${gone.join(', ')}`;
}
