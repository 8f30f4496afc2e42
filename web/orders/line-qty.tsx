import { useState } from 'react';
import { toast } from 'sonner';
import type { Order } from '#contract/orders';
import { Button, useSend } from '#web/base';
import { qtyFault } from './draft.ts';

/** How many of a line are ordered, to be changed on the spot, wherever the order is; what that did besides is said. */
export function LineQty({ order, line }: { order: number; line: Order['lineList'][number] }) {
  const [qty, setQty] = useState<string | null>(null);
  const change = useSend('picking.changeLine', {
    onDone: (r) => {
      setQty(null);
      toast.success([r.qty === '0' ? `${line.code} is taken out.` : `${r.qty} of ${line.code} are ordered now.`, ...r.did].join(' '));
    },
  });
  if (qty === null)
    return (
      <button
        type="button"
        className="underline decoration-line underline-offset-4 hover:decoration-ink"
        title="Change how many are ordered"
        onClick={() => setQty(line.qty)}
      >
        {line.qty} <span className="text-sm font-normal text-soft">{line.unit}</span>
      </button>
    );
  // Which decimals an item has the server knows; here it is asked whether it is a number at all.
  const isNone = qty.trim() === '0';
  const fault = isNone ? null : qtyFault({ decimals: 3, qty });
  const params = { id: order, line: line.id };
  return (
    <form
      className="flex items-center justify-end gap-1 text-base font-normal"
      onSubmit={(e) => {
        e.preventDefault();
        if (fault === null) change.mutate({ params, body: { qty: qty.replace(',', '.') } });
      }}
      onKeyDown={(e) => e.key === 'Escape' && setQty(null)}
    >
      <input
        autoFocus
        aria-label={`How many ${line.code} are ordered`}
        aria-invalid={fault !== null}
        inputMode="decimal"
        className="w-20 rounded border-2 border-ink bg-sheet px-1 text-right text-lg font-bold"
        value={qty}
        onFocus={(e) => e.target.select()}
        onChange={(e) => setQty(e.target.value)}
      />
      <Button type="submit" disabled={fault !== null || change.isPending || qty === line.qty}>
        Set
      </Button>
      <Button look="quiet" disabled={change.isPending} onClick={() => change.mutate({ params, body: { qty: '0' } })}>
        Take out
      </Button>
    </form>
  );
}
