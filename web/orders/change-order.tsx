import { useState } from 'react';
import { toast } from 'sonner';
import type { Order } from '#contract/orders';
import { Button, Field, SidePanel, Trouble } from '#web/base';
import { DateField, Select, useCommandForm } from '#web/forms';
import { qtyFault } from './draft.ts';
import { PRIORITIES } from './more-of-order.tsx';

/** Changes what stands at the head of an open order, and what of it is no stock. */
export function ChangeOrder({ order, onClose }: { order: Order; onClose: () => void }) {
  const [extras, setExtras] = useState<readonly { text: string; qty: string }[]>(order.extras);
  const form = useCommandForm('orders.change', {
    first: {
      due: order.due,
      priority: order.priority,
      reference: order.reference,
      carrier: order.carrier,
      note: order.note,
      leastLife: order.leastLife === null ? '' : String(order.leastLife),
    },
    input: ({ leastLife, ...rest }) => ({
      params: { id: order.id },
      body: {
        ...rest,
        leastLife: leastLife.trim() === '' ? null : Number(leastLife),
        extras: extras.filter((e) => e.text.trim() !== '').map(({ text, qty }) => ({ text, qty: qty.replace(',', '.') })),
      },
    }),
    at: { 'orders.referenceKnown': 'reference' },
    onDone: () => {
      toast.success(`${order.number} is changed.`);
      onClose();
    },
  });
  const set = (n: number, part: Partial<{ text: string; qty: string }>): void =>
    setExtras((was) => was.map((e, i) => (i === n ? { ...e, ...part } : e)));
  const wrong = extras.some((e) => e.text.trim() !== '' && qtyFault({ decimals: 3, qty: e.qty }) !== null);
  return (
    <SidePanel title={`Change ${order.number}`} onClose={onClose}>
      <form className="space-y-3" noValidate onSubmit={form.submit}>
        <DateField label="Due" {...form.chosen('due')} />
        <Select label="Priority" options={PRIORITIES} {...form.chosen('priority')} />
        <Field label="Customer’s own reference" maxLength={60} {...form.field('reference')} />
        <Field label="Carrier" maxLength={60} {...form.field('carrier')} />
        <Field label="Note" maxLength={500} {...form.field('note')} />
        <Field label="Days that goods must keep from the due day" inputMode="numeric" {...form.field('leastLife')} />
        <fieldset className="space-y-2">
          <legend className="text-sm text-soft">Lines that are no stock</legend>
          {extras.map((e, n) => (
            <div key={n} className="flex items-end gap-2">
              <div className="flex-1">
                <Field
                  hideLabel
                  label={`Line ${n + 1} that is no stock`}
                  maxLength={120}
                  value={e.text}
                  onChange={(x) => set(n, { text: x.target.value })}
                />
              </div>
              <div className="w-16">
                <Field
                  hideLabel
                  label={`How many of line ${n + 1}`}
                  inputMode="decimal"
                  value={e.qty}
                  onChange={(x) => set(n, { qty: x.target.value })}
                />
              </div>
            </div>
          ))}
          <Button onClick={() => setExtras((was) => [...was, { text: '', qty: '1' }])}>Add a line that is no stock</Button>
        </fieldset>
        <Trouble error={form.trouble} />
        <Button look="next" type="submit" className="w-full" disabled={form.isSending || wrong}>
          Change {order.number}
        </Button>
      </form>
    </SidePanel>
  );
}
