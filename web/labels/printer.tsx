import { useState } from 'react';
import { toast } from 'sonner';
import {
  Button,
  ButtonLink,
  counted,
  Field,
  sayNumber,
  useMe,
  sayMoment,
  Empty,
  Tag,
  Trouble,
  useRead,
  useSend,
  sayMoney,
} from '#web/base';

const STATE = { waiting: 'waiting', printed: 'printed', failed: 'failed, tried again by itself' } as const;

/** The printer's queue and the strip that came out. A job that failed is kept. */
export function Printer() {
  const { data, error } = useRead('labels.jobs', {});
  const again = useSend('labels.again');
  return (
    <div className="grid items-start grid-cols-1 gap-8 lg:grid-cols-[1fr_20rem]">
      <section>
        <h1 className="code text-3xl">Printer</h1>
        <Trouble error={error} />
        {data?.jobs.length === 0 && (
          <Empty title="Nothing was printed yet.">Labels are printed from items, bins, deliveries and orders.</Empty>
        )}
        <ul className="mt-3 grid gap-5 md:grid-cols-2 ">
          {data?.jobs.map((j) => (
            <li key={j.id} className="border-2 border-line p-2">
              {j.svg === null ? (
                <p className="bg-white p-6 text-center text-ink">{j.state === 'failed' ? 'cannot be drawn' : 'is being drawn'}</p>
              ) : (
                <img alt={`Label: ${j.title}`} src={`data:image/svg+xml;utf8,${encodeURIComponent(j.svg)}`} className="w-full bg-white" />
              )}
              <div className="mt-2 flex items-center gap-2">
                <span className="min-w-0 flex-1">
                  <strong className="block truncate">
                    {j.copies} × {j.title}
                  </strong>
                  <span className="text-sm text-soft">
                    {j.by}, {sayMoment(j.at)}
                  </span>
                </span>
                <Tag tone={j.state === 'failed' ? 'wrong' : j.state === 'printed' ? 'settled' : 'plain'}>
                  {j.svg === null && j.state === 'failed' ? 'not printed' : STATE[j.state]}
                </Tag>
                <Button onClick={() => again.mutate({ params: { id: j.id } })}>Again</Button>
              </div>
              {j.said && <p className="text-sm font-semibold text-wrong">{j.said}</p>}
            </li>
          ))}
        </ul>
      </section>
      <div className="space-y-8">
        <ToPrint />
        <UnitLabels />
      </div>
    </div>
  );
}

/** Labels for pallets and cartons that come without one (C15): printed ahead, they need no connection where they are stuck on. */
function UnitLabels() {
  const { me } = useMe();
  const { data: own } = useRead('labels.units', {});
  const [count, setCount] = useState('10');
  const [prefix, setPrefix] = useState<string | null>(null);
  const print = useSend('labels.print', {
    quiet: true,
    onDone: (r) => toast.success(`${counted(r.labels, 'label waits', 'labels wait')} at the printer.`),
  });
  const keep = useSend('labels.setUnitPrefix', { quiet: true, onDone: () => setPrefix(null) });
  if (!own) return null;
  const asksPrefix = prefix !== null || (own.prefix === null && me?.role === 'lead');
  return (
    <section aria-label="Labels for pallets" className="border-l-4 border-ink pl-4">
      <h2 className="border-b-2 border-ink font-bold">For pallets without a label</h2>
      <p className="py-2 text-sm text-soft">
        Stick one on and scan it in the delivery: what is scanned next is in it, and it is carried and counted as one.
      </p>
      {asksPrefix ? (
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            keep.mutate({ body: { prefix: prefix ?? '' } });
          }}
        >
          <Field
            label="The company’s prefix, 4 to 12 digits"
            value={prefix ?? ''}
            maxLength={12}
            inputMode="numeric"
            onChange={(e) => setPrefix(e.target.value)}
          />
          <Button look="next" type="submit" disabled={keep.isPending || (prefix ?? '') === ''}>
            Keep
          </Button>
          {own.prefix !== null && (
            <Button
              look="quiet"
              onClick={() => {
                keep.reset();
                setPrefix(null);
              }}
            >
              Leave it
            </Button>
          )}
        </form>
      ) : own.prefix === null ? (
        <p>A lead keys the company’s prefix here first.</p>
      ) : (
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            print.mutate({ body: { kind: 'unitsAhead', count: Number(count) } });
          }}
        >
          <Field label="How many" className="w-24" value={count} inputMode="numeric" onChange={(e) => setCount(e.target.value)} />
          <Button type="submit" disabled={print.isPending}>
            Print
          </Button>
        </form>
      )}
      {own.prefix !== null && prefix === null && (
        <p className="pt-1 text-sm text-soft">
          Numbered under {own.prefix}; {sayNumber(own.left)} are left.{' '}
          {me?.role === 'lead' && (
            <button type="button" className="underline" onClick={() => setPrefix(own.prefix)}>
              Change
            </button>
          )}
        </p>
      )}
      <Trouble error={keep.error ?? print.error} />
    </section>
  );
}

/** What should hang on the shelves and does not: the way to print it. */
function ToPrint() {
  const { data } = useRead('desk.home', {});
  const { data: bare } = useRead('places.bins', { query: { show: 'unlabelled', limit: 1 } });
  const wrong = data?.wrongLabels;
  return (
    <section aria-label="To be printed" className="border-l-4 border-ink pl-4">
      <h2 className="border-b-2 border-ink font-bold">To be printed</h2>
      {wrong && (
        <div className="border-b border-line py-3">
          <p>
            <strong className="code text-3xl">{wrong.total}</strong> {wrong.total === 1 ? 'shelf label is' : 'shelf labels are'} wrong
          </p>
          <ul className="my-1 text-sm text-soft">
            {wrong.rows.slice(0, 4).map((l) => (
              <li key={`${l.bin}-${l.item}`} className="truncate">
                {l.address}, {l.code}: {l.onLabel === null ? 'none hangs there' : `it says ${sayMoney(l.onLabel)}`}, it costs{' '}
                {sayMoney(l.now)}
              </li>
            ))}
          </ul>
          {wrong.total > 0 && (
            <ButtonLink look="next" to="/items/shelf-labels">
              Look and print
            </ButtonLink>
          )}
        </div>
      )}
      {bare && (
        <div className="py-3">
          <p>
            <strong className="code text-3xl">{bare.total}</strong> {bare.total === 1 ? 'bin was' : 'bins were'} never labelled
          </p>
          {bare.total > 0 && <ButtonLink to="/places?show=unlabelled">Choose bins to label</ButtonLink>}
        </div>
      )}
    </section>
  );
}
