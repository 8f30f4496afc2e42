import { useState } from 'react';
import { toast } from 'sonner';
import type { Customer } from '#contract/orders';
import { Button, Empty, Field, read, SearchBox, SidePanel, Tag, Tick, Trouble, useFilters, useRead } from '#web/base';
import { useSharedForm } from '#web/forms';
import { OrdersFrame } from './frame.tsx';

/** Customers: who they are, whether they take an order only whole, and the least life that goods must have for them. */
export function Customers() {
  const { of, set } = useFilters();
  const { data, error } = useRead('orders.customers', { query: { q: of('q') } }, { keep: true });
  const [chosen, setChosen] = useState<number | 'new' | null>(null);
  const rows = data?.customers ?? [];
  const customer = data?.customers.find((c) => c.id === chosen);
  return (
    <OrdersFrame
      title="Customers"
      act={
        <Button look="next" onClick={() => setChosen('new')}>
          Add a customer
        </Button>
      }
    >
      <SearchBox label="Search customers" placeholder="Name or code" value={of('q')} onChange={(e) => set('q', e.target.value)} />
      <Trouble error={error} />
      <div className="mt-3 flex gap-6">
        <div className="min-w-0 flex-1">
          {data && rows.length === 0 && <Empty title="No customer of that name.">Add one, or take the search away.</Empty>}
          {rows.length > 0 && (
            <table className="w-full" aria-label="Customers">
              <thead className="border-b-2 border-ink text-left text-sm text-soft">
                <tr>
                  <th className="font-normal">Code</th>
                  <th className="font-normal">Customer</th>
                  <th className="font-normal">What they take</th>
                  <th className="text-right font-normal">Open orders</th>
                </tr>
              </thead>
              <tbody>
                {rows.map((c) => (
                  <tr key={c.id} className={`border-b border-line ${c.id === chosen ? 'bg-shade' : ''}`}>
                    <td className="code py-1.5 pr-4 text-lg">{c.code}</td>
                    <td className="pr-4">
                      <button
                        type="button"
                        className="text-left font-semibold underline decoration-line underline-offset-4"
                        aria-pressed={c.id === chosen}
                        onClick={() => setChosen(c.id)}
                      >
                        {c.name}
                      </button>
                      <span className="block text-sm text-soft">{c.address}</span>
                    </td>
                    <td className="space-x-2">
                      {c.wholeOnly && <Tag tone="strong">whole orders only</Tag>}
                      {c.leastLife !== null && <Tag>{c.leastLife} days to keep</Tag>}
                    </td>
                    <td className="text-right">{c.open === 0 ? '' : c.open}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        {chosen === 'new' && <CustomerPanel onClose={() => setChosen(null)} onKept={setChosen} />}
        {customer && <CustomerPanel key={customer.id} customer={customer} onClose={() => setChosen(null)} onKept={setChosen} />}
      </div>
    </OrdersFrame>
  );
}

const valuesOf = (c: Customer | undefined) => ({
  code: c?.code ?? '',
  name: c?.name ?? '',
  address: c?.address ?? '',
  wholeOnly: c?.wholeOnly ?? false,
  leastLife: c && c.leastLife !== null ? String(c.leastLife) : '',
});

function CustomerPanel({ customer, onClose, onKept }: { customer?: Customer; onClose: () => void; onKept: (id: number) => void }) {
  const form = useSharedForm('orders.saveCustomer', {
    first: valuesOf(customer),
    version: customer?.version ?? 0,
    labels: { code: 'Code', name: 'Name', address: 'Address', wholeOnly: 'Whole orders only', leastLife: 'Days to keep' },
    input: ({ leastLife, ...rest }, version) => ({
      body: { ...rest, leastLife: leastLife.trim() === '' ? null : Number(leastLife), ...(customer ? { id: customer.id, version } : {}) },
    }),
    meanwhile: 'orders.customerChanged',
    readAgain: async () => {
      const { customers } = await read('orders.customers', { query: {} });
      const now = customers.find((c) => c.id === customer?.id);
      return { values: valuesOf(now), version: now?.version ?? 0 };
    },
    at: { 'orders.customerCodeTaken': 'code' },
    onDone: ({ id }, { name }) => {
      toast.success(`${name} is kept.`);
      onKept(id);
    },
  });
  return (
    <SidePanel title={customer?.name ?? 'A new customer'} onClose={onClose}>
      <form className="space-y-3" noValidate onSubmit={form.submit}>
        {form.panel}
        <Field code label="Code" {...form.field('code')} autoFocus={!customer} />
        <Field label="Name" {...form.field('name')} />
        <Field label="Address" {...form.field('address')} />
        <Tick
          label="Takes an order whole or not at all"
          checked={form.values.wholeOnly}
          onChange={(e) => form.set({ wholeOnly: e.target.checked })}
        />
        <Field label="Days that goods must keep from the due day" inputMode="numeric" {...form.field('leastLife')} />
        <Trouble error={form.trouble} />
        <Button
          look="next"
          type="submit"
          className="w-full"
          disabled={form.isSending || form.isUndecided || form.values.name.trim() === ''}
        >
          Keep {form.values.name.trim() || 'them'}
        </Button>
      </form>
    </SidePanel>
  );
}
