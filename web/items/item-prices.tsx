import type { Choice } from '#contract/desk';
import type { Item } from '#contract/items';
import { Button, Field, sayDay, sayMoney, siteToday, Trouble, useSend } from '#web/base';
import { ChoiceField, DateField, Select, useCommandForm } from '#web/forms';
import { WrongBySite } from './wrong-by-site.tsx';

/** What it costs and sells at, from which day; and who supplies it. */
export function Prices({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const coming = item.amounts.filter((a) => !a.begun);
  const past = item.amounts.filter((a) => a.begun);
  return (
    <>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Price and cost</h2>
      <p className="flex items-baseline justify-between py-1">
        <span>Sells at</span>
        <strong className="code text-3xl">{sayMoney(item.price)}</strong>
      </p>
      {item.cost !== null && (
        <p className="flex justify-between py-1">
          <span>Costs</span>
          <span>{sayMoney(item.cost)}</span>
        </p>
      )}
      {coming.map((a, i) => (
        <p key={i} className="flex justify-between border-t border-line py-1 font-semibold">
          <span>
            {a.kind === 'price' ? 'Will sell at' : 'Will cost'} from {sayDay(a.from)}
          </span>
          <span>{sayMoney(a.amount)}</span>
        </p>
      ))}
      {past.length > 2 && (
        <details>
          <summary className="cursor-pointer text-soft">What it was before</summary>
          <ul>
            {past.map((a, i) => (
              <li key={i} className="flex justify-between border-b border-line py-0.5 text-sm">
                <span>
                  {a.kind} from {a.from === '2000-01-01' ? 'the beginning' : sayDay(a.from)}, {a.source}
                </span>
                <span>{sayMoney(a.amount)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <WrongBySite item={item.id} />
      {mayChange && <AmountForm item={item.id} />}
      <h2 className="mt-5 mb-1 border-b-2 border-ink font-bold">Suppliers</h2>
      <Suppliers item={item} mayChange={mayChange} />
    </>
  );
}

function AmountForm({ item }: { item: number }) {
  const form = useCommandForm('items.setAmount', {
    first: { kind: 'price' as 'price' | 'cost', amount: '', from: siteToday() },
    input: (body) => ({ params: { id: item }, body }),
    onDone: (_, { kind, from }) => form.reset({ kind, from }),
  });
  return (
    <form className="mt-2 flex items-end gap-2" noValidate onSubmit={form.submit}>
      <Select
        label="New"
        {...form.chosen('kind')}
        options={[
          ['price', 'price'],
          ['cost', 'cost'],
        ]}
      />
      <div className="w-24">
        <Field label="Amount" inputMode="decimal" {...form.field('amount')} />
      </div>
      <DateField label="Valid from" {...form.chosen('from')} />
      <Button type="submit" disabled={!form.values.amount || form.isSending}>
        Set
      </Button>
      <Trouble error={form.trouble} />
    </form>
  );
}

function Suppliers({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const remove = useSend('items.setSupplier');
  const form = useCommandForm('items.setSupplier', {
    first: { supplier: null as Choice | null, partNo: '', cost: '', leadDays: '7' },
    input: ({ supplier, partNo, cost, leadDays }) => ({
      params: { id: item.id },
      body: { supplier: supplier?.id ?? 0, partNo, cost: cost || '0', leadDays: Number(leadDays) },
    }),
    onDone: () => form.reset(),
  });
  return (
    <>
      {item.suppliers.length === 0 && <p className="py-1 text-soft">Nobody yet.</p>}
      <ul>
        {item.suppliers.map((s) => (
          <li key={s.id} className="flex items-baseline justify-between gap-2 border-b border-line py-1">
            <span>
              {s.name}
              {s.partNo && <span className="text-soft">, part {s.partNo}</span>}
            </span>
            <span className="whitespace-nowrap">
              {s.cost !== null && `${sayMoney(s.cost)} · `}
              {s.leadDays} days{' '}
              {mayChange && (
                <button
                  type="button"
                  className="text-sm text-soft underline"
                  aria-label={`Remove ${s.name}`}
                  onClick={() => remove.mutate({ params: { id: item.id }, body: { supplier: s.id, cost: '0', leadDays: 0, remove: true } })}
                >
                  remove
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
      {mayChange && (
        <form className="mt-2 grid grid-cols-2 items-end gap-2" noValidate onSubmit={form.submit}>
          <ChoiceField kind="supplier" label="Supplier" {...form.chosen('supplier')} />
          <Field label="Their part number" {...form.field('partNo')} />
          <Field label="Cost" inputMode="decimal" {...form.field('cost')} />
          <Field label="Lead time in days" inputMode="numeric" {...form.field('leadDays')} />
          <Trouble error={form.trouble} />
          <Button type="submit" disabled={!form.values.supplier || form.isSending}>
            Save the supplier
          </Button>
        </form>
      )}
    </>
  );
}
