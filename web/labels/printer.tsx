import { useState } from 'react';
import { toast } from 'sonner';
import type { ReplyOf, Routes } from '#contract';
import { PRINT_SHOWS } from '#contract/labels';
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
  useReadPages,
  useRead,
  useSend,
  sayMoney,
} from '#web/base';
import { OwnPapers } from './papers.tsx';
import { Printers } from './printers.tsx';

type Job = ReplyOf<Routes['labels.jobs']>['jobs'][number];
type Show = (typeof PRINT_SHOWS)[number];
const SHOWS: Readonly<Record<Show, { says: string; none: string }>> = {
  waiting: { says: 'Waiting', none: 'No label waits.' },
  failed: { says: 'Cannot be printed', none: 'Every label could be drawn.' },
  printed: { says: 'Came out', none: 'Nothing was printed yet.' },
};
const STATES = { waiting: 'waits', sent: 'is being printed', printed: 'came out', failed: 'not printed', dropped: 'taken out' } as const;

/** The printers by their place, what waits for them in order, and the strip that came out. */
export function Printer() {
  const [show, setShow] = useState<Show>('waiting');
  const { me } = useMe();
  return (
    <div className="grid grid-cols-1 items-start gap-8 lg:grid-cols-[22rem_1fr_18rem]">
      <div>
        <h1 className="code mb-3 text-3xl">Printers</h1>
        <Printers />
      </div>
      <section aria-label="Labels">
        <div role="tablist" aria-label="Which labels" className="flex gap-1 border-b-2 border-ink">
          {PRINT_SHOWS.map((s) => (
            <button
              key={s}
              type="button"
              role="tab"
              aria-selected={show === s}
              onClick={() => setShow(s)}
              className={`min-h-10 px-3 ${show === s ? 'bg-ink font-bold text-sheet' : 'underline decoration-line underline-offset-4'}`}
            >
              {SHOWS[s].says}
            </button>
          ))}
        </div>
        <Queue key={show} show={show} />
      </section>
      <div className="space-y-8">
        <ToPrint />
        <UnitLabels />
        <section aria-label="What stands on labels" className="border-l-4 border-ink pl-4">
          <h2 className="border-b-2 border-ink font-bold">What stands on labels</h2>
          <p className="my-2">Company, logo, dates, own fields and words, and where each of them stands.</p>
          <ButtonLink to="/printer/labels">{me?.role === 'lead' ? 'See and arrange' : 'See'}</ButtonLink>
        </section>
        {me?.role === 'lead' && <OwnPapers />}
      </div>
    </div>
  );
}

function Queue({ show }: { show: Show }) {
  const { pages, error, more } = useReadPages('labels.jobs', { query: { show, limit: 40 } });
  const again = useSend('labels.again', { onDone: () => toast.success('It waits at the printer once more.') });
  const drop = useSend('labels.drop');
  const jobs = pages.flatMap((page) => page.jobs);
  return (
    <>
      <Trouble error={error} />
      {pages.length > 0 && jobs.length === 0 && (
        <Empty title={SHOWS[show].none}>Labels are printed from items, bins, deliveries and orders.</Empty>
      )}
      <ul className="mt-3 space-y-4">
        {jobs.map((j) => (
          <li key={j.id} className="flex flex-wrap items-start gap-3 border-b border-line pb-3">
            <LabelPicture job={j} isSmall={show === 'waiting'} />
            <div className="min-w-40 flex-1">
              <strong className="block">
                {j.copies} × {j.title}
              </strong>
              <span className="block text-sm text-soft">
                {[j.by, sayMoment(j.at), j.printer?.name ?? 'no printer', j.widthMm && `${j.widthMm} × ${j.heightMm ?? ''} mm`]
                  .filter(Boolean)
                  .join(', ')}
              </span>
              <Tag tone={j.state === 'failed' ? 'wrong' : j.state === 'printed' ? 'settled' : 'plain'}>
                {j.done > 0 && j.done < j.copies ? `${j.done} of ${j.copies} came out` : STATES[j.state]}
              </Tag>
              {j.said && <p className="font-semibold text-wrong">{j.said}</p>}
            </div>
            {j.state === 'waiting' || j.state === 'failed' ? (
              <Button look="quiet" disabled={drop.isPending} onClick={() => drop.mutate({ body: { jobs: [j.id] } })}>
                Take out
              </Button>
            ) : null}
            {j.state !== 'waiting' && j.state !== 'sent' && (
              <Button disabled={again.isPending} onClick={() => again.mutate({ params: { id: j.id } })}>
                Again
              </Button>
            )}
          </li>
        ))}
      </ul>
      {more && (
        <Button className="mt-3" onClick={more}>
          More
        </Button>
      )}
    </>
  );
}

// As it came out, at its own size; what waits is only to be told apart.
function LabelPicture({ job, isSmall }: { job: Job; isSmall: boolean }) {
  const { me } = useMe();
  if (job.svg === null)
    return (
      <p className="w-32 border border-line bg-white p-3 text-center text-ink">
        {job.state === 'failed' ? 'cannot be drawn' : job.forLeads && me?.role !== 'lead' ? 'for leads only' : 'is being drawn'}
      </p>
    );
  return (
    <img
      alt={`Label: ${job.title}`}
      src={`data:image/svg+xml;utf8,${encodeURIComponent(job.svg)}`}
      style={isSmall ? {} : { width: `${job.widthMm ?? 76}mm` }}
      className={`max-w-full border border-line bg-white ${isSmall ? 'w-32' : ''}`}
    />
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
