import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Order } from '#contract/orders';
import { counted, Plate, Progress, sayMoment, useRead, lasting } from '#web/base';

const total = (order: Order, of: (line: Order['lineList'][number]) => string): number =>
  Math.round(order.lineList.reduce((sum, line) => sum + Number(of(line)), 0) * 1000) / 1000;

/** The way of an order through the house: what is behind it, where it is, who has it and since when, and what comes. */
export function OrderWay({ order }: { order: Order }) {
  const isOpen = order.state === 'open';
  const { data: rounds } = useRead('picking.rounds', { query: { state: 'open' } }, { enabled: order.round !== null });
  const { data: bench } = useRead('shipping.bench', {}, { enabled: isOpen });
  const round = rounds?.rounds.find((r) => r.number === order.round);
  const here = bench?.orders.find((o) => o.id === order.id);
  const ordered = total(order, (l) => l.qty);
  const shipped = total(order, (l) => l.shipped);
  const [promised, picked] = [total(order, (l) => l.promised) + shipped, total(order, (l) => l.picked) + shipped];
  const steps: { name: string; is: 'done' | 'part' | 'toCome'; says: ReactNode }[] = [
    { name: 'Entered', is: 'done', says: sayMoment(order.at) },
    { name: 'Promised', is: part(promised, ordered), says: <Progress done={promised} of={ordered} what="pieces" /> },
    {
      name: 'Picked',
      is: part(picked, ordered),
      says: (
        <>
          <Progress done={picked} of={ordered} what="pieces" />
          {round && (
            <Link to={`/rounds/${round.id}`} className="block underline decoration-line underline-offset-4">
              {round.number}, {round.person ?? 'nobody has it'}, {lasting(round.at)}
            </Link>
          )}
        </>
      ),
    },
    {
      name: 'At the bench',
      is: here || shipped > 0 ? 'done' : 'toCome',
      says: here && (
        <span className="flex flex-wrap items-center gap-2">
          {here.bins.map((b) => (
            <Plate key={b} address={b} />
          ))}
          {lasting(here.since)}
        </span>
      ),
    },
    ...(order.kit
      ? [
          {
            name: 'Made',
            is: part(Number(order.kit.made), Number(order.kit.qty)),
            says: `${order.kit.made} of ${order.kit.qty} ${order.kit.code}`,
          },
        ]
      : []),
    { name: 'Packed', is: order.step === 'packed' || shipped >= ordered ? 'done' : 'toCome', says: null },
    {
      name: 'Shipped',
      is: part(shipped, ordered),
      says: shipped > 0 && `${shipped} of ${ordered} in ${counted(order.shipments.length, 'shipment', 'shipments')}`,
    },
  ];
  // Parts that become kits are neither packed nor shipped.
  const own = order.kit ? steps.filter((s) => s.name !== 'Packed' && s.name !== 'Shipped') : steps;
  return (
    <section aria-label="Its way" className="mt-4 border-l-4 border-ink pl-4">
      <h2 className="border-b-2 border-ink text-sm font-bold">Its way through the house</h2>
      <ol>
        {own.map(({ name, is, says }) => (
          <li key={name} className={`border-b border-line py-1.5 ${is === 'toCome' ? 'text-soft' : ''}`}>
            <span className="font-semibold">
              <span aria-hidden className="code mr-2">
                {MARK[is]}
              </span>
              {name}
              <span className="sr-only">, {WORD[is]}</span>
            </span>
            {says && <span className="block text-sm">{says}</span>}
          </li>
        ))}
      </ol>
    </section>
  );
}

const MARK = { done: '●', part: '◐', toCome: '○' } as const;
const WORD = { done: 'done', part: 'in part', toCome: 'to come' } as const;
const part = (is: number, of: number): 'done' | 'part' | 'toCome' => (is <= 0 ? 'toCome' : is >= of ? 'done' : 'part');
