import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { ORDER_SORTS, type Missing, type OrderRow } from '#contract/orders';
import { Button, ButtonLink, counted, Empty, SearchBox, Tag, Trouble, useFilters, useReadPages, useSend, sayDay } from '#web/base';
import { Select } from '#web/forms';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';
import { OrdersFrame } from './frame.tsx';
import { MissingPanel } from './missing.tsx';

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
  {
    id: 'customer',
    title: 'For',
    value: (r) => r.customer,
    show: (r) => (
      <>
        {r.customer}
        {r.reference && <span className="text-soft"> · {r.reference}</span>}
      </>
    ),
    width: 220,
  },
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
  {
    id: 'ready',
    title: 'Can be picked',
    value: (r) => READY[r.ready],
    show: (r) => (
      <>
        {READY[r.ready]}
        {r.blocked && (
          <span className="text-soft">
            {' '}
            · lacks {r.blocked.qty} <span className="code">{r.blocked.code}</span>
          </span>
        )}
      </>
    ),
    width: 210,
  },
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
  const asked = {
    ready: chosenOf(READY_CHOICES, of('ready')),
    kind: chosenOf(KIND_CHOICES, of('kind')),
    due: chosenOf(DUE_CHOICES, of('due')),
    step: chosenOf(STEP_CHOICES, of('step')),
  };
  const [missing, setMissing] = useState<{ promised: number; missing: readonly Missing[] } | null>(null);
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const { pages, more, error, isPending, readAll } = useReadPages('orders.list', {
    query: { state, ...asked, q: of('q'), sort: useSort('orders', ORDER_SORTS), limit: 300 },
  });
  const rows = pages.flatMap((p) => p.orders);
  const isFiltered = of('q') !== '' || Object.values(asked).some((a) => a !== undefined);
  const promise = useSend('orders.promise', {
    onDone: (r) => {
      setPicked(new Set());
      setMissing(r.missing.length === 0 ? null : r);
      if (r.missing.length === 0) toast.success(`All promised: ${counted(r.promised, 'line', 'lines')}.`);
    },
  });
  const round = useSend('picking.make', { onDone: (r) => void go(`/rounds/${r.id}`) });
  const orders = [...picked].map(Number);
  return (
    <OrdersFrame
      title={state === 'open' ? 'Ordered' : 'Gone'}
      act={
        picked.size > 0 ? (
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
        )
      }
    >
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <SearchBox
          label="Search orders"
          className="w-64"
          placeholder="Order, customer or reference"
          value={of('q')}
          onChange={(e) => set('q', e.target.value)}
        />
        {state === 'open' && (
          <>
            <Narrow label="What can be picked of it" choices={READY_CHOICES} value={of('ready')} onChange={(v) => set('ready', v)} />
            <Narrow label="When it is due" choices={DUE_CHOICES} value={of('due')} onChange={(v) => set('due', v)} />
            <Narrow label="How far it is" choices={STEP_CHOICES} value={of('step')} onChange={(v) => set('step', v)} />
          </>
        )}
        <Narrow label="Whom it is for" choices={KIND_CHOICES} value={of('kind')} onChange={(v) => set('kind', v)} />
        {state === 'open' && !isFiltered && !more && rows.length > 0 && <span className="text-soft">{whereTheyAre(rows)}</span>}
      </div>
      {missing && <MissingPanel {...missing} onClose={() => setMissing(null)} />}
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
    </OrdersFrame>
  );
}

// The first of each says that nothing is left out.
const READY_CHOICES = [
  ['', 'whatever can be picked'],
  ['yes', 'can go now: all of it, nobody at it'],
  ['all', '● all of it'],
  ['part', '◐ part of it'],
  ['nothing', '○ nothing of it'],
] as const;
const DUE_CHOICES = [
  ['', 'due whenever'],
  ['today', 'due by today'],
  ['late', 'late'],
] as const;
const KIND_CHOICES = [
  ['', 'for whomever'],
  ['customer', 'for customers'],
  ['job', 'for jobs'],
  ['transfer', 'to other sites'],
  ['counter', 'over the counter'],
  ['kit', 'kits to make'],
] as const;
const STEP_CHOICES = [
  ['', 'however far'],
  ['new', STEP.new],
  ['promised', STEP.promised],
  ['onRound', STEP.onRound],
  ['atBench', STEP.atBench],
  ['packed', STEP.packed],
  ['held', STEP.held],
] as const;

type Choices = readonly (readonly [value: string, label: string])[];

// What an address says and no choice has is as good as nothing said.
function chosenOf<C extends Choices>(choices: C, value: string): Exclude<C[number][0], ''> | undefined {
  return choices.some(([v]) => v === value) && value !== '' ? (value as Exclude<C[number][0], ''>) : undefined;
}

function Narrow({
  label,
  choices,
  value,
  onChange,
}: {
  label: string;
  choices: Choices;
  value: string;
  onChange: (value: string) => void;
}) {
  return <Select hideLabel label={label} className="w-52" value={value} options={choices} onChange={onChange} />;
}

// Why the row says fewer than the list has: what is walked for or lies at the bench is at a station of its own.
function whereTheyAre(rows: readonly OrderRow[]): string {
  const picked = rows.filter((r) => r.step === 'onRound').length;
  const bench = rows.filter((r) => r.step === 'atBench' || r.step === 'packed').length;
  const gone = [picked > 0 && `${picked} being picked`, bench > 0 && `${bench} at the bench`].filter(Boolean);
  return gone.length === 0 ? '' : `${rows.length - picked - bench} here, ${gone.join(', ')}`;
}
