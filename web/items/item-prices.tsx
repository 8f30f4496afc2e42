import { useState } from 'react';
import type { Item } from '#contract/items';
import { roundAmount } from '#core/base';
import { Button, Field, Select, siteToday, useRead, useSend } from '#web/base';

/** What it costs and sells at, from which day; and who supplies it. */
export function Prices({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const coming = item.amounts.filter((a) => !a.begun);
  const past = item.amounts.filter((a) => a.begun);
  return (
    <>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Price and cost</h2>
      <p className="flex items-baseline justify-between py-1">
        <span>Sells at</span>
        <strong className="code text-3xl">{item.price}</strong>
      </p>
      {item.cost !== null && (
        <p className="flex justify-between py-1">
          <span>Costs</span>
          <span>{roundAmount(item.cost)}</span>
        </p>
      )}
      {coming.map((a, i) => (
        <p key={i} className="flex justify-between border-t border-line py-1 font-semibold">
          <span>
            {a.kind === 'price' ? 'Will sell at' : 'Will cost'} from {a.from}
          </span>
          <span>{roundAmount(a.amount)}</span>
        </p>
      ))}
      {past.length > 2 && (
        <details>
          <summary className="cursor-pointer text-soft">What it was before</summary>
          <ul>
            {past.map((a, i) => (
              <li key={i} className="flex justify-between border-b border-line py-0.5 text-sm">
                <span>
                  {a.kind} from {a.from === '2000-01-01' ? 'the beginning' : a.from}, {a.source}
                </span>
                <span>{roundAmount(a.amount)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      {mayChange && <AmountForm item={item.id} />}
      <h2 className="mt-5 mb-1 border-b-2 border-ink font-bold">Suppliers</h2>
      <Suppliers item={item} mayChange={mayChange} />
    </>
  );
}

function AmountForm({ item }: { item: number }) {
  const [form, setForm] = useState({ kind: 'price' as 'price' | 'cost', amount: '', from: siteToday() });
  const set = useSend('items.setAmount', { quiet: true, onDone: () => setForm({ ...form, amount: '' }) });
  return (
    <form
      className="mt-2 flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        set.mutate({ params: { id: item }, body: form });
      }}
    >
      <Select
        label="New"
        value={form.kind}
        onChange={(e) => setForm({ ...form, kind: e.target.value as 'price' })}
        options={[
          ['price', 'price'],
          ['cost', 'cost'],
        ]}
      />
      <div className="w-24">
        <Field
          label="Amount"
          inputMode="decimal"
          value={form.amount}
          onChange={(e) => setForm({ ...form, amount: e.target.value })}
          problem={set.error?.message}
        />
      </div>
      <Field label="Valid from" type="date" value={form.from} onChange={(e) => setForm({ ...form, from: e.target.value })} />
      <Button type="submit" disabled={!form.amount}>
        Set
      </Button>
    </form>
  );
}

function Suppliers({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const { data } = useRead('items.suppliers', {}, { enabled: mayChange });
  const [form, setForm] = useState({ supplier: '', partNo: '', cost: '', leadDays: '7' });
  const save = useSend('items.setSupplier', { quiet: true, onDone: () => setForm({ supplier: '', partNo: '', cost: '', leadDays: '7' }) });
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
              {s.cost !== null && `${roundAmount(s.cost)} · `}
              {s.leadDays} days{' '}
              {mayChange && (
                <button
                  type="button"
                  className="text-sm text-soft underline"
                  aria-label={`Take ${s.name} away`}
                  onClick={() => save.mutate({ params: { id: item.id }, body: { supplier: s.id, cost: '0', leadDays: 0, remove: true } })}
                >
                  take away
                </button>
              )}
            </span>
          </li>
        ))}
      </ul>
      {mayChange && (
        <form
          className="mt-2 grid grid-cols-2 items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            save.mutate({
              params: { id: item.id },
              body: { supplier: Number(form.supplier), partNo: form.partNo, cost: form.cost || '0', leadDays: Number(form.leadDays) },
            });
          }}
        >
          <Select
            label="Supplier"
            value={form.supplier}
            onChange={(e) => setForm({ ...form, supplier: e.target.value })}
            options={[['', 'choose …'], ...(data?.suppliers ?? []).map((s) => [s.id, s.name] as const)]}
          />
          <Field label="Their part number" value={form.partNo} onChange={(e) => setForm({ ...form, partNo: e.target.value })} />
          <Field
            label="Cost"
            value={form.cost}
            onChange={(e) => setForm({ ...form, cost: e.target.value })}
            problem={save.error?.message}
          />
          <Field
            label="Lead time in days"
            value={form.leadDays}
            inputMode="numeric"
            onChange={(e) => setForm({ ...form, leadDays: e.target.value })}
          />
          <Button type="submit" disabled={!form.supplier}>
            Keep the supplier
          </Button>
        </form>
      )}
    </>
  );
}
