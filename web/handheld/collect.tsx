import { useState } from 'react';
import { useLocation, useNavigate, useSearchParams } from 'react-router';
import { meaningBy, meaningWords } from '#core/floor';
import type { OrderRow } from '#contract/orders';
import { Button, counted, Empty, read, sayDay, send, Tag, useRead } from '#web/base';
import { theFloor, type Answer } from '#web/hands';
import { useQueue } from './queue.ts';
import { Screen } from './screen.tsx';

/** A round of the orders whose sheets are scanned one after the other (G1); the last one scanned again makes it. What is collected stands
 *  in the address: a reload or a step back loses none of it. */
export function CollectSheets() {
  const go = useNavigate();
  const [params, setParams] = useSearchParams();
  const numbers = (params.get('orders') ?? '').split(',').filter(Boolean);
  const set = (next: readonly string[]): void => setParams(next.length === 0 ? {} : { orders: next.join(',') }, { replace: true });
  const make = async (): Promise<Answer | null> => {
    const { id, number, missing } = await send('picking.make', { body: { orders: [...numbers] } });
    await theFloor().take();
    const lacks = missing.length === 0 ? '' : ` Not all of it can be fetched: ${missing.map((m) => `${m.qty} ${m.code}`).join(', ')}.`;
    void go(`/h/round/${id}`, { replace: true, state: { answer: { tone: 'right', text: `${number}.${lacks}` } } });
    return null;
  };
  const scanned = async (code: string): Promise<Answer | null> => {
    const meaning = meaningBy(theFloor().facts, code);
    if (meaning.kind !== 'paper' || meaning.paper !== 'order')
      return { tone: 'wrong', text: `${meaningWords(meaning)} Scan the sheets of orders, the last one twice.` };
    const number = meaning.text.trim().toUpperCase();
    if (numbers.at(-1) === number) return make();
    if (numbers.includes(number)) return { tone: 'look', text: `${number} is on the list already. Scan the last one again to begin.` };
    const refused = whyNoRound(number, await findOrder(number));
    if (refused !== null) return { tone: 'wrong', text: refused };
    set([...numbers, number]);
    return { tone: 'right', text: `${number}. Scan it again to begin, or another sheet.` };
  };
  const { answer, busy, take, act } = useQueue(scanned);
  // What the scan that led here came to; a scan here says its own.
  const [brought] = useState((useLocation().state as { answer?: Answer } | null)?.answer ?? null);
  return (
    <Screen
      title="A round"
      sub={numbers.length === 0 ? 'of which orders?' : `of ${counted(numbers.length, 'order', 'orders')}`}
      answer={answer ?? brought}
      busy={busy}
      onScan={take}
      hint="Scan a sheet; the last one twice"
    >
      {numbers.length === 0 && <Empty title="No sheet is scanned yet.">Scan the sheets of all orders that one walk should bring.</Empty>}
      <ul>
        {numbers.map((number) => (
          <Sheet key={number} number={number} onDrop={() => set(numbers.filter((n) => n !== number))} />
        ))}
      </ul>
      {numbers.length > 0 && (
        <Button tall look="next" className="w-full" disabled={busy} onClick={() => act(make)}>
          Make the round
        </Button>
      )}
    </Screen>
  );
}

/** An order of this site by its number. */
export async function findOrder(number: string): Promise<OrderRow | undefined> {
  const { orders } = await read('orders.list', { query: { q: number, state: 'all', limit: 5 } });
  return orders.find((o) => o.number === number);
}

/** Why an order can be on no round now; null where it can. */
export function whyNoRound(number: string, order: OrderRow | undefined): string | null {
  if (!order) return `${number} is not an order of this site.`;
  if (order.state !== 'open') return `${number} is ${order.state}.`;
  if (order.heldFor !== null) return `${number} is held: ${order.heldFor}`;
  if (order.round !== null) return `${number} is on round ${order.round} already.`;
  return order.ready === 'nothing' ? `Nothing of ${number} can be picked: nothing is promised to it.` : null;
}

function Sheet({ number, onDrop }: { number: string; onDrop: () => void }) {
  const { data } = useRead('orders.list', { query: { q: number, state: 'all', limit: 5 } });
  const order = data?.orders.find((o) => o.number === number);
  return (
    <li className="flex items-center gap-3 border-b border-line py-2">
      <span className="min-w-0 flex-1">
        <span className="code text-2xl">{number}</span> <span className="text-lg">{order?.customer}</span>
        {order && (
          <span className="block text-soft">
            {counted(order.lines, 'line', 'lines')}, due {sayDay(order.due)} {order.ready === 'part' && <Tag>only part of it</Tag>}
          </span>
        )}
      </span>
      <Button look="quiet" tall onClick={onDrop} aria-label={`Take ${number} off the list`}>
        Off
      </Button>
    </li>
  );
}
