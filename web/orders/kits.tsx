import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { Order } from '#contract/orders';
import { Button, Field, sayMoment, Tag, Trouble, useMe, useSend } from '#web/base';
import { useCommandForm } from '#web/forms';

type Line = Order['lineList'][number];
type Kit = NonNullable<Order['kit']>;

/** Who makes some of a line, and how many could be made of free parts (G9). */
export function KitsOfLine({ line, mayEnter }: { line: Line; mayEnter: boolean }) {
  const make = useSend('orders.makeKit', {
    onDone: (r) =>
      r.missing.length === 0
        ? toast.success(`${r.number} makes them: its parts are promised.`)
        : toast.warning(`${r.number} makes them. Missing for it: ${r.missing.map((m) => `${m.qty} ${m.code}`).join(', ')}.`),
  });
  const made = line.making.reduce((sum, m) => sum + Number(m.left), 0);
  const open = Number(line.qty) - Number(line.shipped) - Number(line.promised) - made;
  const many = Math.min(Math.floor(open), line.kits ?? 0);
  return (
    <>
      {line.making.map((m) => (
        <span key={m.id} className="block text-sm">
          {m.left} to be made on{' '}
          <Link className="code underline" to={`/orders/${m.id}`}>
            {m.number}
          </Link>
        </span>
      ))}
      {mayEnter && many > 0 && (
        <Button disabled={make.isPending} onClick={() => make.mutate({ body: { item: line.item, qty: String(many), line: line.id } })}>
          Make {many} of their parts
        </Button>
      )}
    </>
  );
}

/** The kits that an order makes: how many of them are made, what can be made now, and each time that some were. */
export function KitsOfOrder({ order, kit }: { order: Order; kit: Kit }) {
  const { me } = useMe();
  const apart = useSend('picking.takeApart', {
    onDone: (r) => toast.success(`${r.number} is taken apart: its parts are at ${r.bin}.`),
  });
  return (
    <section className="mt-3 max-w-3xl" aria-label="Kits">
      <h2 className="border-b-2 border-ink font-bold">Becomes</h2>
      <p className="flex flex-wrap items-baseline gap-3 py-2">
        <strong className="code text-3xl">
          {kit.made} of {kit.qty}
        </strong>
        <Link to={`/items/${kit.item}`} className="text-lg hover:underline">
          <span className="code">{kit.code}</span> {kit.description}
        </Link>
        <span className="text-soft">
          {kit.for ? (
            <>
              for{' '}
              <Link to={`/orders/${kit.for.id}`} className="code underline">
                {kit.for.number}
              </Link>
              {kit.for.state !== 'open' && ` (${kit.for.state})`}
            </>
          ) : (
            'for stock'
          )}
        </span>
      </p>
      {order.state === 'open' && Number(kit.ready) > 0 && <SayMade key={kit.ready} order={order} kit={kit} />}
      {order.state === 'open' && Number(kit.ready) === 0 && (
        <p className="text-soft">Its parts are picked first; then say here, or on the handheld, that the kits are made.</p>
      )}
      <ul>
        {kit.assemblies.map((a) => (
          <li key={a.id} className="flex items-baseline gap-3 border-b border-line py-1">
            <span className="code">{a.number}</span>
            <span>
              {a.qty} made, {sayMoment(a.at)} by {a.person}
            </span>
            <Link className="underline" to={`/ledger?document=${a.document}`}>
              what moved
            </Link>
            {a.apart ? (
              <Tag>taken apart</Tag>
            ) : (
              me?.role === 'lead' && (
                <Button look="quiet" disabled={apart.isPending} onClick={() => apart.mutate({ params: { id: a.id } })}>
                  Take apart
                </Button>
              )
            )}
          </li>
        ))}
      </ul>
      <Trouble error={apart.error} />
    </section>
  );
}

function SayMade({ order, kit }: { order: Order; kit: Kit }) {
  const [toStock, setToStock] = useState(kit.for === null);
  const form = useCommandForm('picking.assemble', {
    first: { qty: kit.ready, bin: '' },
    input: ({ qty, bin }) => ({ params: { id: order.id }, body: { qty, ...(toStock && bin ? { bin } : {}) } }),
    at: {
      qty: 'qty',
      bin: 'bin',
      'picking.kitsMade': 'qty',
      'picking.partsShort': 'qty',
      'picking.tooFine': 'qty',
      'picking.kitWhere': 'bin',
    },
    onDone: (r) =>
      r.aside === '0'
        ? toast.success(`Made: they are at ${r.bin}.`)
        : toast.warning(`Made. ${r.aside} nobody wants any more: at arrivals.`),
  });
  return (
    <form className="my-2 flex flex-wrap items-end gap-2" noValidate onSubmit={form.submit}>
      <div className="w-24">
        <Field label="How many" inputMode="decimal" {...form.field('qty')} />
      </div>
      {toStock && (
        <div className="w-40">
          <Field code label="Into bin" {...form.field('bin')} />
        </div>
      )}
      <Button type="submit" look="next" disabled={form.isSending}>
        They are made
      </Button>
      {kit.for !== null && (
        <Button look="quiet" onClick={() => setToStock(!toStock)}>
          {toStock ? `For ${kit.for.number} after all` : 'Into a bin instead'}
        </Button>
      )}
      <Trouble error={form.trouble} />
    </form>
  );
}
