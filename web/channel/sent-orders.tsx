import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { OrderPaperRow } from '#contract/channel';
import { ago, Button, counted, Empty, sayAgo, Tag, Trouble, uploadFile, useRead, useSend } from '#web/base';
import { OrdersFrame } from '#web/orders';
import { DataTable, type Column } from '#web/table';
import { FileDrop } from '#web/work';

const KIND = { order: 'order', change: 'change', cancellation: 'cancellation', unread: 'file' } as const;
const STATE = { done: 'done', waiting: 'waits', refused: 'not taken in', aside: 'put aside' } as const;
const COLUMNS: readonly Column<OrderPaperRow>[] = [
  { id: 'kind', title: 'What', value: (r) => KIND[r.kind], width: 120 },
  { id: 'reference', title: 'Their number', value: (r) => r.reference || r.fileName, width: 150 },
  { id: 'customer', title: 'From', value: (r) => r.customer, width: 200 },
  {
    id: 'order',
    title: 'Order',
    value: (r) => r.order?.number ?? '',
    show: (r) =>
      r.order && (
        <Link className="code text-lg underline decoration-line underline-offset-4" to={`/orders/${r.order.id}`}>
          {r.order.number}
        </Link>
      ),
    width: 100,
  },
  { id: 'says', title: 'What came of it', value: (r) => r.says, show: (r) => <span title={r.says}>{r.says}</span>, width: 330 },
  { id: 'state', title: 'State', value: (r) => STATE[r.state], width: 110 },
  { id: 'by', title: 'Brought by', value: (r) => r.by ?? 'came by itself', width: 130 },
  { id: 'at', title: 'Since', value: (r) => r.at, show: (r) => ago(r.at), width: 80 },
];

/** What other programs sent of orders (F2): first what waits for somebody, then what became of the rest. */
export function SentOrders() {
  const { data, error } = useRead('channel.papers', {});
  const waiting = data?.open.filter((p) => p.state === 'waiting') ?? [];
  const refused = data?.open.filter((p) => p.state === 'refused') ?? [];
  return (
    <OrdersFrame title="Sent by other programs">
      <div className="space-y-5">
        <Trouble error={error} />
        {waiting.length > 0 && (
          <section aria-label="Waiting" className="space-y-3">
            <h2 className="text-lg font-bold">
              {counted(waiting.length, 'change waits', 'changes wait')} for you; the orders are held meanwhile
            </h2>
            {waiting.map((p) => (
              <Waiting key={p.id} paper={p} />
            ))}
          </section>
        )}
        {refused.map((p) => (
          <Refused key={p.id} paper={p} />
        ))}
        {data && data.past.length === 0 && data.open.length === 0 && (
          <Empty title="No program sent an order yet.">
            Orders, changes and cancellations (UBL 2.1) are taken in here, or by themselves where a sales channel drops them.
          </Empty>
        )}
        <TakeIn />
        {data && data.past.length > 0 && <DataTable name="Sent orders" rows={data.past} columns={COLUMNS} keyOf={(r) => r.id} />}
      </div>
    </OrdersFrame>
  );
}

function Waiting({ paper }: { paper: OrderPaperRow }) {
  const settle = useSend('channel.settle', { onDone: (r) => toast.success(r.says) });
  const say = (how: 'do' | 'aside'): void => settle.mutate({ params: { id: paper.id }, body: { how } });
  const cancels = paper.kind === 'cancellation';
  return (
    <div className="flex flex-wrap items-center gap-4 border-2 border-ink bg-shade p-3">
      <p className="min-w-0 flex-1">
        <strong>{paper.customer}</strong> {cancels ? 'cancels' : 'changes'}{' '}
        <Link className="code text-xl underline" to={`/orders/${paper.order?.id ?? 0}`}>
          {paper.order?.number}
        </Link>{' '}
        <Tag>their {paper.reference}</Tag>
        <span className="block text-soft">
          {paper.says} It came {sayAgo(paper.at)}.
        </span>
      </p>
      <Button disabled={settle.isPending} onClick={() => say('aside')}>
        Leave the order as it is
      </Button>
      <Button look={cancels ? 'wrong' : 'next'} disabled={settle.isPending} onClick={() => say('do')}>
        {cancels ? 'Cancel it, goods go back' : 'Change it'}
      </Button>
    </div>
  );
}

function Refused({ paper }: { paper: OrderPaperRow }) {
  const settle = useSend('channel.settle');
  return (
    <section role="alert" className="flex items-start gap-3 border-2 border-wrong bg-wrong-pale p-3">
      <p className="min-w-0 flex-1">
        <strong>A dropped file was not taken in</strong>, {sayAgo(paper.at)}. {paper.says}
      </p>
      <Button disabled={settle.isPending} onClick={() => settle.mutate({ params: { id: paper.id }, body: { how: 'aside' } })}>
        Seen
      </Button>
    </section>
  );
}

function TakeIn() {
  const [trouble, setTrouble] = useState<Error | null>(null);
  const take = useSend('channel.take', {
    quiet: true,
    onDone: (r) => toast.success(r.isNew ? r.says : `It was taken in before. ${r.says}`),
  });
  const send = async (file: File): Promise<void> => {
    setTrouble(null);
    try {
      const { id } = await uploadFile(file);
      take.mutate({ body: { file: id } });
    } catch (error) {
      setTrouble(error as Error);
    }
  };
  return (
    <div className="max-w-xl space-y-2">
      <FileDrop
        label="Drop an order, a change or a cancellation (XML) here, or choose one"
        accept=".xml"
        busy={take.isPending}
        onFile={(f) => void send(f)}
      />
      <Trouble error={trouble ?? take.error} />
    </div>
  );
}
