import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { Problem } from '#contract';
import type { Delivery } from '#contract/receiving';
import {
  Button,
  counted,
  sayMoment,
  Field,
  MoreRows,
  Refused,
  Tag,
  Tick,
  TallyBar,
  Trouble,
  useBeginning,
  useMe,
  useRead,
  useSend,
  sayDay,
  ItemName,
} from '#web/base';
import { ChoiceField, DateField } from '#web/forms';
import { Clashes } from '#web/hands';
import { sayLabelsSent } from '#web/labels';
import { Entries } from './entries.tsx';
import { Invoice } from './invoice.tsx';

/** The review: what arrived against what was expected, entry by entry to mend, then posted. Until then stock has not changed. */
export function Review() {
  const id = Number(useParams()['id']);
  const { data: delivery, error } = useRead('receiving.delivery', { params: { id } });
  const me = useMe();
  const [doc, setDoc] = useState<string | null>(null);
  const name = useSend('receiving.paper', { onDone: () => setDoc(null) });
  const [closeShort, setCloseShort] = useState(false);
  const post = useSend('receiving.post', {
    onDone: (r) =>
      toast.success(
        `${r.receipt}: ${r.pieces} pieces are in stock${
          r.toQuarantine ? `, ${counted(r.toQuarantine, 'entry', 'entries')} went to quarantine` : ', at arrivals'
        }${r.failed === '0' ? '' : `; ${r.failed} that failed are in quarantine`}.`,
      ),
  });
  const differing = (delivery?.lines ?? []).filter((l) => l.standing !== 'full');
  const lines = useBeginning([...differing, ...(delivery?.lines ?? []).filter((l) => l.standing === 'full')]);
  const go = useNavigate();
  const finish = useSend('receiving.finish');
  const takeUp = useSend('receiving.takeUp', { onDone: () => toast.success('The delivery is taken up again.') });
  const away = useSend('receiving.throwAway', {
    onDone: () => {
      toast('The delivery is thrown away; stock is as it was.', {
        action: { label: 'Undo', onClick: () => takeUp.mutate({ params: { id } }) },
      });
      void go('/deliveries');
    },
  });
  const reopen = useSend('receiving.reopen');
  const print = useSend('labels.print', { onDone: (r) => sayLabelsSent(r) });
  if (!delivery) return <Trouble error={error} />;
  const date = delivery.supplierDocDate;
  const lead = me?.me?.role === 'lead';
  return (
    <article>
      <Clashes job={`delivery:${id}`} quiet />
      <div className="flex flex-wrap items-start gap-4">
        <div>
          <h1 className="flex items-baseline gap-3">
            <span className="code text-3xl">{delivery.number}</span>
            <span className="text-xl">
              {delivery.back
                ? `${delivery.back.customer ?? 'a customer'} brings goods back`
                : (delivery.supplier ?? 'supplier not said yet')}
            </span>
          </h1>
          <p className="text-soft">
            {onPaper(delivery)} · begun by {delivery.by}, last scan {sayMoment(delivery.touched)} ·{' '}
            {counted(delivery.entries, 'entry', 'entries')}
          </p>
        </div>
        <div className="ml-auto flex items-end gap-2">
          <Button onClick={() => print.mutate({ body: { kind: 'delivery', delivery: id } })} disabled={delivery.entries === 0}>
            Print labels for all
          </Button>
          {(delivery.state === 'scanning' || delivery.state === 'review') && (
            <Button look="wrong" onClick={() => away.mutate({ params: { id } })}>
              Throw it away
            </Button>
          )}
          {delivery.state === 'thrown' && <Button onClick={() => takeUp.mutate({ params: { id } })}>Take it up again</Button>}
          {delivery.state === 'scanning' && <Button onClick={() => finish.mutate({ params: { id } })}>Hand in for review</Button>}
          {delivery.state === 'review' && <Button onClick={() => reopen.mutate({ params: { id } })}>Scan on</Button>}
        </div>
      </div>
      {delivery.state === 'posted' ? (
        <p className="my-3 border-l-4 border-settled bg-settled-pale p-3 font-semibold text-settled">
          Posted. The goods are in stock;{' '}
          <Link className="underline" to={`/ledger?document=${delivery.receipt}`}>
            see the movements
          </Link>
          .
        </p>
      ) : (
        <section aria-label="Post" className="my-3 flex flex-wrap items-end gap-4 border-y-2 border-ink py-3">
          <p className="text-lg">
            <strong>
              {differing.length === 0
                ? asItShould(delivery)
                : `${differing.length} of ${counted(delivery.lines.length, 'line differs', 'lines differ')}.`}
            </strong>
            <span className="block text-sm text-soft">Stock does not change before it is posted.</span>
          </p>
          {delivery.back
            ? !delivery.back.customer && <WhichCustomer delivery={id} />
            : delivery.supplierId === null && <WhichSupplier delivery={id} />}
          <div className="w-48">
            <Field
              label={delivery.back ? 'The customer’s paper' : 'Supplier’s invoice or note'}
              value={doc ?? delivery.supplierDoc}
              onChange={(e) => setDoc(e.target.value)}
              onBlur={() => doc !== null && doc !== delivery.supplierDoc && name.mutate({ params: { id }, body: { doc, date } })}
            />
          </div>
          <div className="w-40">
            <DateField
              label="Its date"
              value={date ?? ''}
              onChange={(day) => name.mutate({ params: { id }, body: { doc: doc ?? delivery.supplierDoc, date: day || null } })}
            />
          </div>
          {!delivery.back && (
            <Tick
              label="close what is short; else the rest stays expected"
              checked={closeShort}
              onChange={(e) => setCloseShort(e.target.checked)}
            />
          )}
          {lead && (
            <Button
              look="next"
              className="ml-auto"
              disabled={post.isPending || delivery.entries === 0}
              onClick={() => post.mutate({ params: { id }, body: { supplierDoc: doc ?? delivery.supplierDoc, closeShort } })}
            >
              Post {delivery.entries} {delivery.entries === 1 ? 'entry' : 'entries'} to stock
            </Button>
          )}
        </section>
      )}
      {post.error instanceof Refused && post.error.problem.code === 'receiving.dateDiffers' && (
        <WhichDate delivery={delivery} problem={post.error.problem} onSettled={() => post.reset()} />
      )}
      {delivery.state === 'posted' && delivery.lines.some((l) => l.waitingOrders > 0) && <ToBench delivery={delivery} />}
      {delivery.state === 'posted' && !delivery.back && me?.me?.role !== 'hand' && <Invoice delivery={id} />}
      <div className="grid grid-cols-1 gap-8 lg:grid-cols-[3fr_2fr]">
        <section>
          <table className="w-full">
            <thead className="border-b-2 border-ink text-left text-sm text-soft">
              <tr>
                <th className="font-normal">Item</th>
                <th className="pl-3 text-right font-normal">{delivery.back ? 'Left' : 'Expected'}</th>
                <th className="pl-3 text-right font-normal">{delivery.back ? 'Came back' : 'Arrived'}</th>
                <th className="pl-3 text-right font-normal">Difference</th>
                <th className="pl-4 font-normal">State</th>
              </tr>
            </thead>
            <tbody>
              {lines.shown.map((l) => (
                <tr key={l.item} className="border-b border-line">
                  <td className="py-1.5">
                    <ItemName {...l} wraps />
                    {l.waitingOrders > 0 && (
                      <>
                        {' '}
                        <Tag tone="strong">
                          {l.waitingOrders} {l.waitingOrders === 1 ? 'order waits' : 'orders wait'} for this
                        </Tag>
                      </>
                    )}
                  </td>
                  <td className="text-right">{l.expected}</td>
                  <td className="text-right font-bold">{l.arrived}</td>
                  <td className="text-right">
                    {l.difference === '0' ? '' : Number(l.difference) > 0 ? `+${l.difference}` : l.difference.replace('-', '−')}
                    {l.difference !== '0' && l.standing === 'full' && <span className="block text-sm text-soft">as agreed</span>}
                  </td>
                  <td className="pl-4">
                    {delivery.back && l.standing === 'full' ? (
                      <span className="text-soft">left here</span>
                    ) : (
                      <TallyBar expected={l.expected} arrived={l.arrived} standing={l.standing} />
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <MoreRows of={lines} />
        </section>
        <Entries delivery={delivery} />
      </div>
    </article>
  );
}

/** Orders wait for what has just come: one press sends it from arrivals straight to the bench. */
function ToBench({ delivery }: { delivery: Delivery }) {
  const waiting = delivery.lines.filter((l) => l.waitingOrders > 0);
  const send = useSend('picking.fromDock', {
    onDone: (r) => {
      const short =
        r.missing.length === 0 ? '' : ` Not at arrivals: ${r.missing.map((m) => `${m.qty} ${m.code} for ${m.order}`).join(', ')}.`;
      toast.success(`${r.number} fetches it at arrivals for ${r.orders.join(', ')}.${short}`);
    },
  });
  return (
    <section aria-label="Orders wait" className="my-3 flex items-center gap-3 border-2 border-ink p-3">
      <p className="min-w-0 flex-1">
        <strong>Orders wait for {waiting.map((l) => l.code).join(', ')}.</strong> What lies at arrivals can go straight to the bench.
      </p>
      <Button look="next" disabled={send.isPending} onClick={() => send.mutate({ params: { id: delivery.id }, body: {} })}>
        Send it to the bench
      </Button>
    </section>
  );
}

/** That nothing differs, said of whatever it was compared with. */
function asItShould({ back, entries }: Delivery): string {
  if (!back) return 'Everything is as expected.';
  if (entries === 0) return 'Nothing came back yet.';
  return back.shipment ? `All of it left with ${back.shipment.number}.` : 'There is no shipment to compare it with.';
}

/** On what paper it came, in a word or two. */
function onPaper({ back, orders }: Delivery): string {
  if (back) return back.shipment ? `left with ${back.shipment.number}` : 'without a shipment';
  return orders.length === 0 ? 'without an order' : `on ${orders.map((o) => o.number).join(', ')}`;
}

/** Goods that came back without anybody knowing whose they were. */
function WhichCustomer({ delivery }: { delivery: number }) {
  const name = useSend('receiving.customer');
  return (
    <div className="w-56">
      <ChoiceField
        kind="customer"
        label="From which customer?"
        value={null}
        onChange={(choice) => choice && name.mutate({ params: { id: delivery }, body: { customer: choice.id } })}
      />
    </div>
  );
}

/** A delivery that was begun without anybody knowing from whom. */
function WhichSupplier({ delivery }: { delivery: number }) {
  const name = useSend('receiving.supplier');
  return (
    <div className="w-56">
      <ChoiceField
        kind="supplier"
        label="From which supplier?"
        value={null}
        onChange={(choice) => choice && name.mutate({ params: { id: delivery }, body: { supplier: choice.id } })}
      />
    </div>
  );
}

/** One lot has one date: where two were keyed, the lead says which is right, and every entry of the lot gets it. */
function WhichDate({ delivery, problem, onSettled }: { delivery: Delivery; problem: Problem; onSettled: () => void }) {
  const fact = (name: string): string => String((problem as Record<string, unknown>)[name] ?? '');
  const settle = useSend('receiving.lotDate', {
    onDone: (r) => {
      toast.success(`${r.entries} ${r.entries === 1 ? 'entry has' : 'entries have'} that date now. Post again.`);
      onSettled();
    },
  });
  const entry = delivery.entryList.find((e) => e.code === fact('item') && e.lot === fact('lot'));
  return (
    <section role="alert" className="mb-4 flex items-center gap-3 border-2 border-wrong bg-wrong-pale p-3">
      <span className="flex-1 font-semibold text-wrong">{problem.detail}</span>
      {entry &&
        [fact('known'), fact('given')].map((date) => (
          <Button key={date} onClick={() => settle.mutate({ body: { item: entry.item, lot: entry.lot ?? '', expires: date } })}>
            It is {sayDay(date)}
          </Button>
        ))}
    </section>
  );
}
