import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Home } from '#contract/desk';
import { counted, useSend } from '#web/base';

type Expired = Home['expired']['rows'][number];

/** Carries expired goods to quarantine, at once; what it did can be undone from what it says. */
export function useQuarantine(): { busy: boolean; act: (lot: Expired) => void } {
  const undo = useSend('stock.undo', { onDone: (r) => toast(`Undone: ${r.document}.`) });
  const move = useSend('moves.move', {
    onDone: (r) =>
      toast.success(`${r.qty} ${r.code} is in ${r.to}.`, {
        action: { label: 'Undo', onClick: () => undo.mutate({ params: { id: r.document }, body: { reason: 'Undone on home' } }) },
      }),
  });
  return {
    busy: move.isPending,
    act: ({ address, to, code, lot, qty }) => move.mutate({ body: { from: address, to: to ?? '', code, lot, qty, reason: 'Expired' } }),
  };
}

/** What mends the other things that home names, each at once. */
export function useMends() {
  const go = useNavigate();
  const settle = useSend('picking.settle', { onDone: () => toast.success('Settled.') });
  const release = useSend('orders.release', { onDone: () => toast.success('The order is released.') });
  const promise = useSend('orders.promise', {
    onDone: (r) =>
      r.missing.length === 0
        ? toast.success('All of it is promised.')
        : toast.warning(`Still missing: ${r.missing.map((m) => `${m.qty} ${m.code}`).join(', ')}.`),
  });
  const count = useSend('counting.make', {
    onDone: (r) =>
      toast.success(`${r.number} is planned: ${counted(r.bins, 'bin', 'bins')}.`, {
        action: { label: 'Open', onClick: () => void go(`/counts/${r.id}`) },
      }),
  });
  return { settle, release, promise, count, busy: [settle, release, promise, count].some((m) => m.isPending) };
}
