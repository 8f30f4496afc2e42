import { Link, useNavigate } from 'react-router';
import type { Choice } from '#contract/desk';
import type { Item } from '#contract/items';
import { Button, Field, Trouble, useRead, useSend } from '#web/base';
import { ChoiceField, useCommandForm } from '#web/forms';

/** What a kit is made of, and how many could be made now (B12). */
export function Kit({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const { data: kit } = useRead('stock.kit', { params: { id: item.id } }, { enabled: item.parts.length > 0 });
  const parts = item.parts.map((p) => ({ item: p.item, qty: p.qty }));
  const remove = useSend('items.setParts');
  const form = useCommandForm('items.setParts', {
    first: { part: null as Choice | null, qty: '1' },
    input: ({ part, qty }) => ({
      params: { id: item.id },
      body: { parts: [...parts.filter((p) => p.item !== part?.id), ...(part ? [{ item: part.id, qty }] : [])] },
    }),
    at: { parts: 'qty', 'items.kitSelf': 'part', 'items.kitCircle': 'part', 'items.partTooFine': 'qty' },
    onDone: () => form.reset(),
  });
  if (item.parts.length === 0 && item.partOf.length === 0 && !mayChange) return null;
  return (
    <div>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Made of</h2>
      {item.parts.length === 0 && <p className="py-1 text-soft">It is no kit.</p>}
      <ul>
        {item.parts.map((p) => (
          <li key={p.item} className="flex items-baseline gap-2 border-b border-line py-1">
            <span className="code w-12 text-right text-lg">{p.qty}</span>
            <Link to={`/items/${p.item}`} className="min-w-0 flex-1 truncate hover:underline">
              <span className="code">{p.code}</span> {p.description}
            </Link>
            {mayChange && (
              <button
                type="button"
                className="text-sm text-soft underline"
                aria-label={`Remove ${p.code}`}
                onClick={() => remove.mutate({ params: { id: item.id }, body: { parts: parts.filter((x) => x.item !== p.item) } })}
              >
                remove
              </button>
            )}
          </li>
        ))}
      </ul>
      {kit?.sites.map((s) => (
        <p key={s.site} className="py-1">
          <strong className="code text-2xl">{s.kits}</strong> could be made at {s.site}
          {s.scarcest && <span className="text-soft">; the scarcest part is {s.scarcest}</span>}
        </p>
      ))}
      {item.parts.length > 0 && <MakeForStock item={item} />}
      {item.partOf.length > 0 && (
        <p className="py-1 text-soft">
          Part of{' '}
          {item.partOf.map((k) => (
            <Link key={k.item} to={`/items/${k.item}`} className="mr-2 underline">
              {k.code}
            </Link>
          ))}
        </p>
      )}
      <Trouble error={form.trouble} />
      {mayChange && (
        <form className="mt-1 flex items-end gap-2" noValidate onSubmit={form.submit}>
          <div className="w-20">
            <Field label="How many" inputMode="decimal" {...form.field('qty')} />
          </div>
          <div className="flex-1">
            <ChoiceField kind="item" label="Part" {...form.chosen('part')} />
          </div>
          <Button type="submit" disabled={!form.values.part || form.isSending}>
            Add
          </Button>
        </form>
      )}
    </div>
  );
}

/** Has some made for stock (G9): an order of their parts, to be picked and put together. */
function MakeForStock({ item }: { item: Item }) {
  const go = useNavigate();
  const form = useCommandForm('orders.makeKit', {
    first: { qty: '1' },
    input: ({ qty }) => ({ body: { item: item.id, qty } }),
    at: { qty: 'qty', 'orders.nothing': 'qty', 'stock.finerThanItem': 'qty' },
    onDone: (r) => void go(`/orders/${r.id}`),
  });
  return (
    <>
      <Trouble error={form.trouble} />
      <form className="mt-1 mb-3 flex items-end gap-2" noValidate onSubmit={form.submit}>
        <div className="w-20">
          <Field label="How many" inputMode="decimal" {...form.field('qty')} />
        </div>
        <Button type="submit" disabled={form.isSending}>
          Have them made for stock
        </Button>
      </form>
    </>
  );
}
