import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import { canNow } from '#core/purchasing';
import type { Purchase } from '#contract/purchasing';
import { atSite, Button, Field, ItemName, sayDay, sayMoment, sayMoney, Tag, TallyBar, Trouble, Unsaved, useRead, useSend } from '#web/base';
import { DateField } from '#web/forms';
import { purchaseLineFault, type PurchaseDraftLine } from './draft.ts';
import { PurchasingFrame } from './frame.tsx';
import { PurchaseLines } from './purchase-lines.tsx';
import { PurchaseTag } from './state-tag.tsx';

type Editing = { readonly version: number; readonly due: string; readonly note: string; readonly lines: readonly PurchaseDraftLine[] };

const editingOf = (order: Purchase): Editing => ({
  version: order.version,
  due: order.due,
  note: order.note,
  lines: order.lineList.map((l) => ({ ...l, key: `line-${l.id}`, line: l.id })),
});

/** A purchase order: what is ordered and what of it has come; changed, approved, sent, closed. */
export function PurchasePage() {
  const id = Number(useParams()['id']);
  const { data: order, error } = useRead('purchasing.order', { params: { id } });
  const [editing, setEditing] = useState<Editing | null>(null);
  const [ending, setEnding] = useState<'cancel' | 'close' | null>(null);
  const change = useSend('purchasing.change', {
    quiet: true,
    onDone: (r) => {
      setEditing(null);
      toast.success(r.state === 'closed' ? 'Saved. All of it has come: it is closed.' : 'Saved.');
    },
  });
  const approve = useSend('purchasing.approve', { onDone: () => toast.success('Approved: it is expected now.') });
  const takeUp = useSend('purchasing.takeUp');
  if (!order)
    return (
      <PurchasingFrame>
        <Trouble error={error} />
      </PurchasingFrame>
    );
  const may = (act: Parameters<typeof canNow>[0]): boolean => canNow(act, order.state) && editing === null;
  const begin = (): void => {
    change.reset();
    setEditing(editingOf(order));
  };
  const fault = editing && (editing.lines.map(purchaseLineFault).find((f) => f !== null) ?? (editing.lines.length === 0 ? 'none' : null));
  return (
    <PurchasingFrame>
      <Unsaved when={editing !== null && JSON.stringify(editing) !== JSON.stringify(editingOf(order))} what="the purchase order" />
      <div className="mb-3 flex flex-wrap items-start gap-4">
        <div>
          <h2 className="flex items-baseline gap-3">
            <span className="code text-3xl">{order.number}</span>
            <span className="text-xl">{order.supplier}</span>
          </h2>
          <p className="text-soft">
            due {sayDay(order.due)} · {sayMoney(order.total)}
            {order.reference && ` · ${order.reference}`}
          </p>
        </div>
        <span className="flex gap-2">
          <PurchaseTag order={order} />
          {order.late && <Tag tone="wrong">late</Tag>}
        </span>
        <div className="ml-auto flex flex-wrap gap-2">
          {editing === null && <Papers order={order} />}
          {may('cancel') && !order.partly && <Button onClick={() => setEnding('cancel')}>Cancel the order</Button>}
          {may('close') && order.partly && <Button onClick={() => setEnding('close')}>Close it short</Button>}
          {may('takeUp') && order.openLines > 0 && <Button onClick={() => takeUp.mutate({ params: { id } })}>Take it up again</Button>}
          {may('change') && <Button onClick={begin}>Change</Button>}
          {may('approve') && (
            <Button
              look="next"
              disabled={approve.isPending}
              onClick={() => approve.mutate({ params: { id }, body: { version: order.version } })}
            >
              Approve
            </Button>
          )}
          {editing && (
            <>
              <Button look="quiet" onClick={() => setEditing(null)}>
                Cancel
              </Button>
              <Button
                look="next"
                disabled={fault !== null || change.isPending}
                onClick={() =>
                  change.mutate({
                    params: { id },
                    body: {
                      version: editing.version,
                      due: editing.due,
                      note: editing.note,
                      lines: editing.lines.map((l) => ({
                        line: l.line,
                        item: l.item,
                        qty: l.qty.replace(',', '.'),
                        ...(l.cost.trim() ? { cost: l.cost } : {}),
                      })),
                    },
                  })
                }
              >
                Save
              </Button>
            </>
          )}
        </div>
      </div>
      {ending && <Ending order={order} act={ending} onClose={() => setEnding(null)} />}
      <Trouble error={change.error} />
      {change.error && editing && editing.version !== order.version && (
        <p className="my-2">
          <Button onClick={begin}>Read it as it is now; what I changed goes</Button>
        </p>
      )}
      {editing ? (
        <>
          <div className="mb-3 flex flex-wrap items-end gap-3">
            <div className="w-44">
              <DateField label="Due" value={editing.due} onChange={(due) => setEditing({ ...editing, due })} />
            </div>
            <div className="w-96">
              <Field
                label="Note to the supplier"
                value={editing.note}
                maxLength={500}
                onChange={(e) => setEditing({ ...editing, note: e.target.value })}
              />
            </div>
          </div>
          <PurchaseLines
            lines={editing.lines}
            supplier={order.supplierId}
            onChange={(by) => setEditing((was) => was && { ...was, lines: by(was.lines) })}
          />
        </>
      ) : (
        <div className="grid grid-cols-1 items-start gap-10 lg:grid-cols-[1fr_16rem]">
          <Ordered order={order} />
          <History order={order} />
        </div>
      )}
    </PurchasingFrame>
  );
}

function Papers({ order }: { order: Purchase }) {
  const sent = useSend('purchasing.sent', { onDone: () => toast.success('Noted that it was sent.') });
  // What was opened last is what is sent, until somebody says that it is.
  const [as, setAs] = useState<'pdf' | 'ubl' | 'other'>('other');
  const link = 'rounded border-2 border-ink/70 bg-sheet px-3 py-1 hover:bg-shade';
  return (
    <>
      <a
        className={link}
        href={atSite(`/api/purchasing/orders/${order.id}/order.pdf`)}
        target="_blank"
        rel="noreferrer"
        onClick={() => setAs('pdf')}
      >
        PDF
      </a>
      <a className={link} href={atSite(`/api/purchasing/orders/${order.id}/order.xml`)} onClick={() => setAs('ubl')}>
        UBL
      </a>
      {order.state === 'open' && !order.sent && (
        <Button look="next" disabled={sent.isPending} onClick={() => sent.mutate({ params: { id: order.id }, body: { as } })}>
          It is sent
        </Button>
      )}
    </>
  );
}

function Ending({ order, act, onClose }: { order: Purchase; act: 'cancel' | 'close'; onClose: () => void }) {
  const [reason, setReason] = useState('');
  const cancel = useSend('purchasing.cancel', { onDone: onClose });
  const close = useSend('purchasing.close', { onDone: onClose });
  return (
    <form
      className="my-3 flex max-w-2xl items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        (act === 'cancel' ? cancel : close).mutate({ params: { id: order.id }, body: { reason } });
      }}
    >
      <div className="flex-1">
        <Field
          autoFocus
          label={act === 'cancel' ? 'Why is it cancelled?' : 'Why is it closed short? What has not come is expected no longer.'}
          value={reason}
          maxLength={200}
          onChange={(e) => setReason(e.target.value)}
        />
      </div>
      <Button type="submit" look="wrong" disabled={!reason.trim() || cancel.isPending || close.isPending}>
        {act === 'cancel' ? 'Cancel the order' : 'Close it short'}
      </Button>
      <Button look="quiet" onClick={onClose}>
        Let it stand
      </Button>
    </form>
  );
}

function Ordered({ order }: { order: Purchase }) {
  return (
    <div>
      {order.note && <p className="mb-2 border-l-4 border-line pl-3">{order.note}</p>}
      <table className="w-full">
        <thead className="border-b-2 border-ink text-left text-sm text-soft">
          <tr>
            <th className="font-normal">Item</th>
            <th className="font-normal">Their number</th>
            <th className="text-right font-normal">Ordered</th>
            <th className="pl-6 font-normal">Here</th>
            <th className="text-right font-normal">Cost of one</th>
            <th className="text-right font-normal">Amount</th>
          </tr>
        </thead>
        <tbody>
          {order.lineList.map((l) => {
            const [due, got] = [Number(l.qty), Number(l.received)];
            const standing = got === 0 ? 'waiting' : got < due ? 'short' : got > due ? 'over' : 'full';
            return (
              <tr key={l.id} className="border-b border-line">
                <td className="py-1.5">
                  <ItemName {...l} wraps />
                </td>
                <td>{l.partNo}</td>
                <td className="text-right text-lg font-bold whitespace-nowrap">
                  {l.qty} <span className="text-sm font-normal text-soft">{l.unit}</span>
                </td>
                <td className="pl-6">
                  {l.received} <TallyBar expected={l.qty} arrived={l.received} standing={standing} />{' '}
                  {l.closed && standing !== 'full' && standing !== 'over' && <Tag>closed short</Tag>}
                </td>
                <td className="text-right">{sayMoney(l.cost, 2)}</td>
                <td className="text-right">{sayMoney(l.total)}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

const SENT_AS = { pdf: 'as PDF', ubl: 'as UBL', other: '' } as const;

function History({ order }: { order: Purchase }) {
  const steps: readonly (readonly [what: string, at: string, by: string])[] = [
    ['made', order.made, order.madeBy ?? ''],
    ...(order.approved ? [['approved', order.approved.at, order.approved.by] as const] : []),
    ...(order.sentStamp ? [[`sent ${SENT_AS[order.sentAs ?? 'other']}`.trim(), order.sentStamp.at, order.sentStamp.by] as const] : []),
    ...(order.ended ? [[`${order.state}${order.ended.why ? `: ${order.ended.why}` : ''}`, order.ended.at, order.ended.by] as const] : []),
  ];
  return (
    <aside aria-label="What became of it">
      <h3 className="border-b-2 border-ink font-bold">What became of it</h3>
      <ol>
        {steps.map(([what, at, by]) => (
          <li key={what} className="border-b border-line py-1">
            <strong>{what}</strong>
            <span className="block text-sm text-soft">
              {sayMoment(at)}
              {by && `, ${by}`}
            </span>
          </li>
        ))}
        {order.deliveries.map((d) => (
          <li key={d.id} className="border-b border-line py-1">
            <Link className="font-semibold underline" to={`/deliveries/${d.id}`}>
              {d.number}
            </Link>{' '}
            {{ scanning: 'is being scanned', review: 'waits for review', posted: 'was posted', thrown: 'was thrown away' }[d.state]}
            <span className="block text-sm text-soft">{sayMoment(d.touched)}</span>
          </li>
        ))}
      </ol>
      {order.state === 'open' && order.deliveries.every((d) => d.state === 'posted' || d.state === 'thrown') && (
        <p className="pt-2 text-sm text-soft">It is received on the handheld, by scanning {order.number} or choosing the supplier.</p>
      )}
    </aside>
  );
}
