import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Mend } from '#contract/desk';
import type { ReplyOf, Routes } from '#contract';
import { ago, Button, Empty, Trouble, useRead, useSend } from '#web/base';

type HomeReply = ReplyOf<Routes['desk.home']>;
type Part = Exclude<keyof HomeReply, 'people' | 'lowDisk'>;
type Wrong = HomeReply['short']['rows'][number];

const PARTS: readonly { part: Part; title: string }[] = [
  { part: 'clashes', title: 'From the floor, to be settled' },
  { part: 'late', title: 'Late' },
  { part: 'overdue', title: 'Overdue from suppliers' },
  { part: 'trouble', title: 'Trouble on the floor' },
  { part: 'short', title: 'Not all promised' },
  { part: 'held', title: 'Held orders' },
  { part: 'expired', title: 'Expired on shelves' },
  { part: 'expiring', title: 'Expires within 30 days' },
  { part: 'counts', title: 'Due for counting' },
];
const ACT: Readonly<Record<Mend['kind'], string>> = {
  open: 'Open',
  settle: 'Settled',
  promise: 'Promise what is free',
  release: 'Release',
  quarantine: 'Move to quarantine',
  count: 'Plan a count',
};

/** Home: what is wrong or will be soon, each line with the act that mends it on the spot; and who is on what. What waits is on the row above. */
export function Home() {
  const { data, error, refetch } = useRead('desk.home', {});
  if (!data) return <Trouble error={error} onAgain={() => void refetch()} />;
  const parts = PARTS.filter(({ part }) => data[part].total > 0);
  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-3">
      {data.lowDisk !== null && (
        <p role="alert" className="border-2 border-wrong p-3 text-lg font-bold text-wrong lg:col-span-3">
          The disk of the database has {data.lowDisk} MB left. Make room: once it is full nothing can be booked.
        </p>
      )}
      <div className="gap-x-8 md:columns-2 lg:col-span-2">
        {parts.length === 0 && <Empty title="Nothing is wrong.">What waits is on the row above.</Empty>}
        {parts.map(({ part, title }) => (
          <section key={part} aria-label={title} className="mb-5 break-inside-avoid">
            <h2 className="mb-1 flex items-baseline gap-2 border-b-2 border-ink font-bold">
              {title}{' '}
              <span className="code text-lg" data-testid={`home-${part}`}>
                {data[part].total}
              </span>
            </h2>
            <ul>
              {data[part].rows.slice(0, 6).map((w) => (
                <WrongLine key={w.key} wrong={w} />
              ))}
            </ul>
            {data[part].total > 6 && <p className="pt-1 text-sm text-soft">and {data[part].total - 6} more</p>}
          </section>
        ))}
      </div>
      <section>
        <h2 className="mb-1 border-b-2 border-ink font-bold">Who is on what</h2>
        {data.people.length === 0 && <p className="text-soft">Nobody is scanning just now.</p>}
        <ul>
          {data.people.map((p) => (
            <li key={p.name} className="flex justify-between border-b border-line py-1.5">
              <span>
                <strong>{p.name}</strong> {p.doing}
              </span>
              <span className="text-sm text-soft">{ago(p.at)}</span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}

function WrongLine({ wrong }: { wrong: Wrong }) {
  const mend = useMend();
  return (
    <li className="flex items-center gap-3 border-b border-line py-1">
      <Link to={wrong.path} className="min-w-0 flex-1 hover:bg-shade">
        <span className="block truncate font-semibold">{wrong.name}</span>
        <span className="block truncate text-sm text-soft">{wrong.detail}</span>
      </Link>
      {wrong.mend.kind === 'open' ? (
        <Link to={wrong.path} className="px-3 text-sm underline decoration-line underline-offset-4">
          {ACT.open}
        </Link>
      ) : (
        <Button className="text-sm whitespace-nowrap" disabled={mend.busy} onClick={() => mend.act(wrong.mend, wrong.name)}>
          {ACT[wrong.mend.kind]}
        </Button>
      )}
    </li>
  );
}

// What each act of this page does, at once; what it did can be undone or opened from what it says.
function useMend(): { busy: boolean; act: (mend: Mend, name: string) => void } {
  const go = useNavigate();
  const undo = useSend('stock.undo', { onDone: (r) => toast(`Undone: ${r.document}.`) });
  const settle = useSend('picking.settle', { onDone: () => toast.success('Settled.') });
  const release = useSend('orders.release', { onDone: () => toast.success('The order is released.') });
  const promise = useSend('orders.promise', {
    onDone: (r) =>
      r.missing.length === 0
        ? toast.success('All of it is promised.')
        : toast.warning(`Still missing: ${r.missing.map((m) => `${m.qty} ${m.code}`).join(', ')}.`),
  });
  const move = useSend('moves.move', {
    onDone: (r) =>
      toast.success(`${r.qty} ${r.code} is in ${r.to}.`, {
        action: { label: 'Undo', onClick: () => undo.mutate({ params: { id: r.document }, body: { reason: 'Undone on home' } }) },
      }),
  });
  const count = useSend('counting.make', {
    onDone: (r) =>
      toast.success(`${r.number} is planned: ${r.bins} bins.`, { action: { label: 'Open', onClick: () => void go(`/counts/${r.id}`) } }),
  });
  return {
    busy: [settle, release, promise, move, count].some((m) => m.isPending),
    act: (mend) => {
      switch (mend.kind) {
        case 'settle':
          return settle.mutate({ params: { id: mend.trouble } });
        case 'promise':
          return promise.mutate({ body: { orders: [mend.order], mode: 'free' } });
        case 'release':
          return release.mutate({ params: { id: mend.order } });
        case 'quarantine': {
          const { from, to, code, lot, qty } = mend;
          return move.mutate({ body: { from, to, code, lot, qty, reason: 'Expired' } });
        }
        case 'count':
          return count.mutate({ body: { zone: mend.zone, blind: true } });
        case 'open':
          return undefined;
      }
    },
  };
}
