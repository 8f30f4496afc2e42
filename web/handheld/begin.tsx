import { useState } from 'react';
import { useNavigate } from 'react-router';
import { meaningBy, meaningWords } from '#core/floor';
import type { BeginCommand, ExpectedOrder, SentShipment } from '#core/receiving';
import { Button, counted, Empty, Field, sayDay, sayMoment, Tag } from '#web/base';
import { theFloor, useFloor, type Answer } from '#web/hands';
import { beginDelivery, deliveryOf, returnOf, scanUnit } from './begin-delivery.ts';
import { useQueue } from './queue.ts';
import { Screen } from './screen.tsx';

/** A new delivery (C1): of one or several orders of a supplier, of a supplier alone, or of nobody yet. Works without a connection. */
export function BeginOnFloor() {
  const go = useNavigate();
  const floor = theFloor();
  useFloor();
  const [words, setWords] = useState('');
  const [supplier, setSupplier] = useState<number | null>(null);
  const [shipments, setShipments] = useState<readonly SentShipment[]>([]);
  const [picked, setPicked] = useState<ReadonlySet<number>>(new Set());
  const orders = floor.purchaseOrders().filter((o) => deliveryOf(o.number) === null);
  const tick = (order: ExpectedOrder): void => {
    setSupplier(order.supplier);
    setPicked((was) => {
      const mine = new Set([...was].filter((id) => orders.find((o) => o.id === id)?.supplier === order.supplier));
      if (!mine.delete(order.id)) mine.add(order.id);
      return mine;
    });
  };
  const begin = async (command: BeginCommand): Promise<Answer | null> => {
    const ref = await beginDelivery(command);
    void go(`/h/receive/${ref}`, { replace: true });
    return null;
  };
  const scanned = async (code: string): Promise<Answer | null> => {
    const meaning = meaningBy(floor.facts, code);
    const led = meaning.kind === 'unit' && !meaning.here ? await scanUnit(code, meaning) : null;
    if (led) {
      void go(led.path, { replace: true, state: { answer: led.answer } });
      return led.answer;
    }
    if (meaning.kind !== 'paper')
      return { tone: 'wrong', text: `${meaningWords(meaning)} Scan an order or an announced pallet, or choose the supplier.` };
    const number = meaning.text.trim().toUpperCase();
    const there = deliveryOf(number) ?? returnOf(number);
    if (there !== null) {
      void go(`/h/receive/${there}`, { replace: true });
      return { tone: 'right', text: number };
    }
    const sent = floor.shipments().filter((s) => s.number === number || s.order === number);
    if (sent[0] && sent.length === 1) return begin({ supplier: null, orders: [], back: { shipment: sent[0].id } });
    if (sent.length > 1) {
      setShipments(sent);
      return { tone: 'look', text: `${number} left with ${sent.length} shipments. Which one comes back?` };
    }
    const order = orders.find((o) => o.number === number);
    if (!order) return { tone: 'wrong', text: `${number} is not to come here: not approved, or all of it has come.` };
    if (!picked.has(order.id)) tick(order);
    return { tone: 'right', text: `${number} of ${floor.suppliers().find((s) => s.id === order.supplier)?.name ?? ''}` };
  };
  const { answer, busy, take, act } = useQueue(scanned);
  const open = supplier === null ? null : (floor.suppliers().find((s) => s.id === supplier) ?? null);
  const own = orders.filter((o) => o.supplier === supplier);
  return (
    <Screen
      title="New delivery"
      sub={open?.name ?? 'from whom?'}
      answer={answer}
      busy={busy}
      onScan={take}
      hint="Scan an order or a pallet"
    >
      {shipments.length > 0 && (
        <ul className="space-y-2" aria-label="Which shipment comes back">
          {shipments.map((s) => (
            <li key={s.id}>
              <Button tall className="w-full" onClick={() => act(() => begin({ supplier: null, orders: [], back: { shipment: s.id } }))}>
                {s.number}, {sayMoment(s.at)}
              </Button>
            </li>
          ))}
        </ul>
      )}
      {open ? (
        <>
          <ul className="space-y-2" aria-label="Orders">
            {own.map((o) => (
              <li key={o.id}>
                <button
                  type="button"
                  aria-pressed={picked.has(o.id)}
                  onClick={() => tick(o)}
                  className={`flex min-h-16 w-full items-center gap-3 rounded border-2 px-3 text-left ${
                    picked.has(o.id) ? 'border-ink bg-shade' : 'border-ink/60 bg-sheet'
                  }`}
                >
                  <span aria-hidden className="code text-3xl">
                    {picked.has(o.id) ? '☑' : '☐'}
                  </span>
                  <span className="min-w-0 flex-1">
                    <span className="code block text-2xl">{o.number}</span>
                    <span className="text-soft">
                      due {sayDay(o.due)} · {counted(o.lines.length, 'line', 'lines')} to come
                    </span>
                  </span>
                  {o.lines.some((l) => l.waiting > 0) && <Tag tone="strong">orders wait</Tag>}
                </button>
              </li>
            ))}
          </ul>
          <Button
            tall
            look={picked.size > 0 || own.length === 0 ? 'next' : 'plain'}
            className="w-full"
            disabled={busy}
            onClick={() => act(() => begin({ supplier: open.id, orders: [...picked] }))}
          >
            {picked.size === 0 ? 'Begin without an order' : `Begin with ${counted(picked.size, 'order', 'orders')}`}
          </Button>
          <Button
            tall
            className="w-full"
            onClick={() => {
              setSupplier(null);
              setPicked(new Set());
            }}
          >
            Another supplier
          </Button>
        </>
      ) : (
        <Suppliers words={words} setWords={setWords} orders={orders} onChoose={setSupplier}>
          <Button tall className="w-full" disabled={busy} onClick={() => act(() => begin({ supplier: null, orders: [] }))}>
            Nobody knows from whom
          </Button>
          <Button
            tall
            className="w-full"
            disabled={busy}
            onClick={() => act(() => begin({ supplier: null, orders: [], back: { shipment: null } }))}
          >
            A customer brings goods back
          </Button>
          <p className="text-soft">Where the customer has the paper, scan the shipment or its order instead.</p>
        </Suppliers>
      )}
    </Screen>
  );
}

const MOST_SHOWN = 12;

function Suppliers({
  words,
  setWords,
  orders,
  onChoose,
  children,
}: {
  words: string;
  setWords: (words: string) => void;
  orders: readonly ExpectedOrder[];
  onChoose: (supplier: number) => void;
  children: React.ReactNode;
}) {
  const all = theFloor()
    .suppliers()
    .filter((s) => s.name.toLowerCase().includes(words.trim().toLowerCase()));
  const dueOf = (supplier: number): string => orders.find((o) => o.supplier === supplier)?.due ?? '9999';
  const sorted = all.toSorted((a, b) => (dueOf(a.id) < dueOf(b.id) ? -1 : dueOf(a.id) > dueOf(b.id) ? 1 : a.name.localeCompare(b.name)));
  return (
    <>
      <Field tall label="Supplier" value={words} autoComplete="off" onChange={(e) => setWords(e.target.value)} />
      {all.length === 0 && <Empty title="No supplier of that name.">Begin without one; the lead says who it was.</Empty>}
      <ul className="space-y-2" aria-label="Suppliers">
        {sorted.slice(0, MOST_SHOWN).map((s) => {
          const own = orders.filter((o) => o.supplier === s.id);
          return (
            <li key={s.id}>
              <button
                type="button"
                onClick={() => onChoose(s.id)}
                className="flex min-h-16 w-full items-center gap-3 rounded border-2 border-ink bg-sheet px-3 text-left"
              >
                <span className="code w-12 text-right text-3xl">{own.length || '–'}</span>
                <span className="min-w-0 flex-1">
                  <span className="block truncate text-xl font-bold">{s.name}</span>
                  <span className="text-soft">
                    {own[0] ? `${counted(own.length, 'order', 'orders')} to come, the first due ${sayDay(own[0].due)}` : 'nothing to come'}
                  </span>
                </span>
              </button>
            </li>
          );
        })}
      </ul>
      {sorted.length > MOST_SHOWN && <p className="text-soft">and {sorted.length - MOST_SHOWN} more: key a part of the name</p>}
      {children}
    </>
  );
}
