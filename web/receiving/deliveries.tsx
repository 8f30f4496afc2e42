import { Link, useNavigate, useSearchParams } from 'react-router';
import type { ReplyOf, Routes } from '#contract';
import { counted, Empty, sayAgo, Tag, Trouble, useRead } from '#web/base';
import { DataTable, type Column } from '#web/table';

type Row = ReplyOf<Routes['receiving.deliveries']>['deliveries'][number];
const STATE = { scanning: 'being scanned', review: 'to review', posted: 'posted', thrown: 'thrown away' } as const;
const COLUMNS: readonly Column<Row>[] = [
  { id: 'number', title: 'Delivery', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 100 },
  {
    id: 'state',
    title: 'State',
    value: (r) => STATE[r.state],
    show: (r) => <Tag tone={r.state === 'review' ? 'strong' : 'plain'}>{STATE[r.state]}</Tag>,
    width: 130,
  },
  {
    id: 'supplier',
    title: 'From',
    value: (r) => (r.back ? `${r.back.customer ?? 'a customer'}, back` : (r.supplier ?? 'not said yet')),
    width: 220,
  },
  {
    id: 'order',
    title: 'Order',
    value: (r) => r.back?.shipment?.number ?? (r.orders.map((o) => o.number).join(', ') || 'without an order'),
    width: 120,
  },
  { id: 'entries', title: 'Entries', value: (r) => r.entries, number: true, width: 80 },
  { id: 'by', title: 'Begun by', value: (r) => r.by, width: 120 },
  { id: 'touched', title: 'Last scan', value: (r) => r.touched, show: (r) => sayAgo(r.touched), width: 110 },
];

/** What stands at the dock being scanned, or what was handed in for review; each says how many the other are. */
export function Deliveries() {
  const [search] = useSearchParams();
  const go = useNavigate();
  const { data, error } = useRead('receiving.deliveries', { query: { state: 'open' } });
  const isReview = search.get('show') === 'review';
  const rows = data?.deliveries.filter((d) => (d.state === 'review') === isReview) ?? [];
  const others = (data?.deliveries.length ?? 0) - rows.length;
  return (
    <section>
      <div className="mb-1 flex items-baseline gap-4">
        <h1 className="code text-3xl">{isReview ? 'To review' : 'At the dock'}</h1>
        {others > 0 && (
          <Link className="underline decoration-line underline-offset-4" to={isReview ? '/deliveries' : '/deliveries?show=review'}>
            {counted(others, 'delivery', 'deliveries')} {isReview ? (others === 1 ? 'is' : 'are') : others === 1 ? 'waits' : 'wait'}{' '}
            {isReview ? 'being scanned' : 'for review'}
          </Link>
        )}
        <span className="ml-auto flex gap-4">
          <Link className="underline decoration-line underline-offset-4" to="/deliveries/notices">
            Announced
          </Link>
          {!isReview && (
            <Link className="underline decoration-line underline-offset-4" to="/deliveries/return">
              Take goods back
            </Link>
          )}
          {!isReview && (
            <Link className="underline decoration-line underline-offset-4" to="/deliveries/import">
              Receive by sheet
            </Link>
          )}
          <Link className="underline decoration-line underline-offset-4" to="/deliveries/failures">
            What failed
          </Link>
        </span>
      </div>
      <Trouble error={error} />
      {data && rows.length === 0 && (
        <Empty title={isReview ? 'Nothing waits for review.' : 'Nothing stands at the dock.'}>
          {isReview
            ? 'A delivery comes here when the hand that scanned it hands it in.'
            : 'A delivery begins when a hand scans a purchase order.'}
        </Empty>
      )}
      {rows.length > 0 && (
        <DataTable name="Deliveries" rows={rows} columns={COLUMNS} keyOf={(r) => r.id} onOpen={(r) => void go(`/deliveries/${r.id}`)} />
      )}
    </section>
  );
}
