import { useDeferredValue, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import type { ItemRow } from '#contract/items';
import { Button, Trouble, useRead, useSend, Field } from '#web/base';

type Line = { item: ItemRow; qty: string };
const inThreeDays = (): string => new Date(Date.now() + 3 * 86_400_000).toISOString().slice(0, 10);

/** Fast lines: search, quantity, Enter, on to the next; the order grows beside the search. */
export function NewOrder() {
  const go = useNavigate();
  const [customer, setCustomer] = useState('');
  const [due, setDue] = useState(inThreeDays);
  const [lines, setLines] = useState<readonly Line[]>([]);
  const [q, setQ] = useState('');
  const [at, setAt] = useState(0);
  const [chosen, setChosen] = useState<ItemRow | null>(null);
  const [qty, setQty] = useState('1');
  const [onlyFree, setOnlyFree] = useState(true);
  const words = useDeferredValue(q);
  const searchBox = useRef<HTMLInputElement>(null);
  const { data: customers } = useRead('orders.customers', {});
  const { data: found } = useRead(
    'items.search',
    { query: { q: words, ...(onlyFree ? { free: 'yes' as const } : {}), limit: 30 } },
    { keep: true },
  );
  const promise = useSend('orders.promise');
  const make = useSend('orders.make', { quiet: true });
  const add = (): void => {
    if (!chosen) return;
    setLines((was) => [...was.filter((l) => l.item.id !== chosen.id), { item: chosen, qty }]);
    setChosen(null);
    setQ('');
    setQty('1');
    searchBox.current?.focus();
  };
  const save = async (): Promise<void> => {
    const order = await make.mutateAsync({
      body: { customer: Number(customer), due, lines: lines.map((l) => ({ item: l.item.id, qty: l.qty })) },
    });
    await promise.mutateAsync({ body: { orders: [order.id], mode: 'free' } });
    void go(`/orders/${order.id}`);
  };
  const items = found?.items ?? [];
  return (
    <div className="grid gap-8 lg:grid-cols-2">
      <section>
        <h1 className="code text-3xl">New order</h1>
        <div className="my-2 flex items-center gap-3">
          <input
            ref={searchBox}
            autoFocus
            aria-label="Search items to order"
            className="min-h-10 flex-1 rounded border-2 border-ink bg-sheet px-2 text-lg"
            placeholder="Item: code, words, barcode"
            value={q}
            onChange={(e) => {
              setQ(e.target.value);
              setAt(0);
            }}
            onKeyDown={(e) => {
              if (e.key === 'ArrowDown') setAt((n) => Math.min(n + 1, items.length - 1));
              else if (e.key === 'ArrowUp') setAt((n) => Math.max(0, n - 1));
              else if (e.key === 'Enter' && items[at]) setChosen(items[at]);
              else return;
              e.preventDefault();
            }}
          />
          <label className="flex items-center gap-2">
            <input type="checkbox" className="size-4" checked={onlyFree} onChange={(e) => setOnlyFree(e.target.checked)} /> only what is
            free
          </label>
        </div>
        <ul className="border-2 border-ink/70 bg-sheet" role="listbox" aria-label="Found items">
          {items.length === 0 && (
            <li className="p-2 text-soft">
              Nothing {onlyFree ? 'free ' : ''}is known by “{words}”.
            </li>
          )}
          {items.slice(0, 14).map((item, i) => (
            <li
              key={item.id}
              role="option"
              aria-selected={chosen?.id === item.id}
              onClick={() => setChosen(item)}
              className={`cursor-pointer border-b border-line px-2 py-1 last:border-0 ${chosen?.id === item.id ? 'bg-shade' : i === at ? 'bg-shade/60' : ''}`}
            >
              <span className="flex items-baseline gap-3">
                <span className="code text-lg">{item.code}</span>
                <span className="flex-1 truncate">{item.description}</span>
                <span>
                  <strong>{item.free}</strong> <span className="text-sm text-soft">{item.unit} free</span>
                </span>
              </span>
              {chosen?.id === item.id && (
                <form
                  className="flex items-center gap-2 py-1"
                  onSubmit={(e) => {
                    e.preventDefault();
                    add();
                  }}
                >
                  <input
                    autoFocus
                    aria-label="How many"
                    className="w-28 rounded border-2 border-ink bg-sheet px-2 text-xl font-bold"
                    inputMode="decimal"
                    value={qty}
                    onFocus={(e) => e.target.select()}
                    onChange={(e) => setQty(e.target.value)}
                    onClick={(e) => e.stopPropagation()}
                  />
                  <Button look="next" type="submit">
                    Add
                  </Button>
                  {Number(qty) > Number(item.free) && (
                    <span className="font-semibold text-wrong">{item.free} free: the rest cannot be promised yet</span>
                  )}
                </form>
              )}
            </li>
          ))}
        </ul>
      </section>
      <section>
        <div className="flex items-end gap-3">
          <label className="flex-1">
            <span className="block text-sm text-soft">Customer</span>
            <select
              aria-label="Customer"
              className="min-h-9 w-full rounded border-2 border-ink/60 bg-sheet"
              value={customer}
              onChange={(e) => setCustomer(e.target.value)}
            >
              <option value="">Choose …</option>
              {customers?.customers.map((c) => (
                <option key={c.id} value={c.id}>
                  {c.name}
                </option>
              ))}
            </select>
          </label>
          <div className="w-44">
            <Field label="Due" type="date" value={due} onChange={(e) => setDue(e.target.value)} />
          </div>
        </div>
        <h2 className="mt-4 border-b-2 border-ink font-bold">
          {lines.length} {lines.length === 1 ? 'line' : 'lines'}
        </h2>
        {lines.length === 0 && <p className="py-3 text-soft">Find an item on the left, press Enter, key how many, press Enter.</p>}
        <ul>
          {lines.map((l) => (
            <li key={l.item.id} className="flex items-baseline gap-3 border-b border-line py-1.5">
              <span className="code text-lg">{l.item.code}</span>
              <span className="flex-1 truncate">{l.item.description}</span>
              <strong className="text-lg">{l.qty}</strong> {l.item.unit}
              <Button look="quiet" onClick={() => setLines((was) => was.filter((x) => x !== l))}>
                Take out
              </Button>
            </li>
          ))}
        </ul>
        <div className="mt-4 space-y-3">
          <Trouble error={make.error} />
          <Button
            look="next"
            className="min-h-11 w-full text-lg"
            disabled={!customer || lines.length === 0 || make.isPending}
            onClick={() => void save()}
          >
            Save and promise what is free
          </Button>
        </div>
      </section>
    </div>
  );
}
