import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { PAPER_WAITS } from '#core/orders';
import { toast } from 'sonner';
import {
  atSite,
  Button,
  ButtonLink,
  counted,
  sayMoment,
  Field,
  TallyBar,
  Tag,
  Trouble,
  useMayReadCosts,
  useRead,
  useSend,
  sayDay,
  ItemName,
} from '#web/base';
import { Clashes } from '#web/hands';
import { OrderLabels } from '#web/labels';
import { ChangeOrder } from './change-order.tsx';
import { KitsOfLine, KitsOfOrder } from './kits.tsx';
import { LineQty } from './line-qty.tsx';
import { AskedGoods, NamePanel } from './name-goods.tsx';
import { OrderWay } from './order-way.tsx';
import { READY, STEP } from './orders.tsx';

/** An order: each line with what is promised, picked and shipped of it; promise, hold, round, papers. */
export function OrderPage() {
  const id = Number(useParams()['id']);
  const go = useNavigate();
  const { data: order, error } = useRead('orders.order', { params: { id } });
  const [reason, setReason] = useState('');
  const promise = useSend('orders.promise', {
    onDone: (r) =>
      r.missing.length === 0
        ? toast.success('All of it is promised.')
        : toast.warning(`Missing: ${r.missing.map((m) => `${m.qty} ${m.code}`).join(', ')}.`),
  });
  const hold = useSend('orders.hold', { onDone: () => setAsking(null) });
  const release = useSend('orders.release');
  const [changing, setChanging] = useState(false);
  const [isLabelling, setIsLabelling] = useState(false);
  const [naming, setNaming] = useState<number | null>(null);
  const mayEnter = useMayReadCosts();
  const [asking, setAsking] = useState<'hold' | 'cancel' | null>(null);
  const said = (back: { pieces: string; bin: string | null }): string =>
    back.bin === null ? 'Nothing was in hand for it.' : `${back.pieces} pieces went back to ${back.bin}, to be put away.`;
  const putBack = useSend('picking.putBack', { onDone: (r) => toast.success(said(r)) });
  const cancel = useSend('picking.cancelOrder', {
    onDone: (r) => {
      setAsking(null);
      const also = r.also.length === 0 ? '' : `, and ${r.also.join(', ')} with it`;
      toast.success(`The order is cancelled${also}. ${said(r)}`);
    },
  });
  const unpack = useSend('shipping.unpack', { onDone: (r) => toast.success(`${r.number} is to be packed again.`) });
  const round = useSend('picking.make', { onDone: (r) => void go(`/rounds/${r.id}`) });
  if (!order) return <Trouble error={error} />;
  const open = order.state === 'open';
  const isPaperWaiting = Object.values(PAPER_WAITS).some((why) => why === order.heldFor);
  const named = order.lineList.find((l) => l.id === naming);
  const canPromise = open && !order.heldFor && (order.ready === 'part' || order.ready === 'nothing');
  const inHand = open && order.lineList.some((l) => Number(l.picked) > 0);
  const isMaking = order.round === null && order.lineList.some((l) => l.making.length > 0);
  const canPick = open && !order.heldFor && (order.step === 'promised' || isMaking);
  return (
    <article>
      <Clashes job={`order:${id}`} quiet />
      <div className="flex flex-wrap items-start gap-4">
        <div>
          <h1 className="flex items-baseline gap-3">
            <span className="code text-3xl">{order.number}</span>
            <span className="text-xl">{order.customer}</span>
          </h1>
          <p className="text-soft">
            {order.reference && `their ${order.reference} · `}
            {order.carrier && `by ${order.carrier} · `}due {sayDay(order.due)} · priority {order.priority} · entered {sayMoment(order.at)} ·
            can be picked: {READY[order.ready]}
          </p>
        </div>
        {order.wholeOnly && open && <Tag>whole or not at all</Tag>}
        <Tag tone={order.heldFor ? 'wrong' : 'strong'}>
          {order.heldFor ? `held: ${order.heldFor}` : order.kit && order.step === 'shipped' ? 'made' : STEP[order.step]}
          {order.round ? ` on ${order.round}` : ''}
        </Tag>
        <div className="ml-auto flex flex-wrap gap-2">
          <a
            className="rounded border-2 border-ink/70 bg-sheet px-3 py-1"
            href={atSite(`/api/orders/${id}/slip.pdf`)}
            target="_blank"
            rel="noreferrer"
          >
            Packing slip
          </a>
          <Button aria-expanded={isLabelling} onClick={() => setIsLabelling(!isLabelling)}>
            Labels
          </Button>
          {open && mayEnter && <Button onClick={() => setChanging(true)}>Change</Button>}
          {open && !order.heldFor && <Button onClick={() => (setReason(''), setAsking('hold'))}>Hold</Button>}
          {inHand && (
            <Button onClick={() => putBack.mutate({ params: { id } })} title="What is on a cart or at the bench for it goes to arrivals">
              Put its goods back
            </Button>
          )}
          {order.step === 'packed' && <Button onClick={() => unpack.mutate({ params: { id } })}>Undo the packing</Button>}
          {open && <Button onClick={() => (setReason(''), setAsking('cancel'))}>Cancel the order</Button>}
          {isPaperWaiting && (
            <ButtonLink look="next" to="/orders/sent">
              See what was sent
            </ButtonLink>
          )}
          {order.heldFor && (
            <Button look={isPaperWaiting ? 'plain' : 'next'} onClick={() => release.mutate({ params: { id } })}>
              Release
            </Button>
          )}
          {canPromise && (
            <Button look={canPick ? 'plain' : 'next'} onClick={() => promise.mutate({ body: { orders: [id], mode: 'free' } })}>
              Promise what is free
            </Button>
          )}
          {canPick && (
            <Button look="next" onClick={() => round.mutate({ body: { orders: [id] } })}>
              Make a round
            </Button>
          )}
          {!order.kit && (order.step === 'atBench' || order.step === 'packed') && (
            <ButtonLink look="next" to={`/bench/${id}`}>
              To the bench
            </ButtonLink>
          )}
        </div>
      </div>
      {isLabelling && (
        <OrderLabels
          order={id}
          number={order.number}
          begins={order.step === 'packed' ? 'parcels' : 'order'}
          onDone={() => setIsLabelling(false)}
        />
      )}
      {asking !== null && (
        <form
          className="my-3 flex max-w-2xl items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (asking === 'hold') hold.mutate({ params: { id }, body: { reason } });
            else cancel.mutate({ params: { id }, body: { reason } });
          }}
        >
          <div className="flex-1">
            <Field
              autoFocus
              label={
                asking === 'hold' ? 'Why is it held?' : 'Why is it cancelled? What is picked goes back; what has left stays on record.'
              }
              value={reason}
              onChange={(e) => setReason(e.target.value)}
            />
          </div>
          <Button type="submit" look={asking === 'cancel' ? 'wrong' : 'plain'} disabled={!reason || hold.isPending || cancel.isPending}>
            {asking === 'hold' ? 'Hold it' : 'Cancel the order'}
          </Button>
          <Button look="quiet" onClick={() => setAsking(null)}>
            {asking === 'hold' ? 'Cancel' : 'Let it stand'}
          </Button>
        </form>
      )}
      {order.note && <p className="my-2 border-l-4 border-ink pl-3">{order.note}</p>}
      {changing && <ChangeOrder order={order} onClose={() => setChanging(false)} />}
      {order.cancelledFor !== null && (
        <p className="my-3 border-l-4 border-wrong bg-wrong-pale p-3 font-semibold text-wrong">Cancelled: {order.cancelledFor}</p>
      )}
      {order.kit && <KitsOfOrder order={order} kit={order.kit} />}
      <div className={`grid grid-cols-1 items-start gap-10 ${named ? 'lg:grid-cols-[1fr_24rem]' : 'lg:grid-cols-[1fr_18rem]'}`}>
        <table className="mt-4 w-full">
          <thead className="border-b-2 border-ink text-left text-sm text-soft">
            <tr>
              <th className="font-normal">Item</th>
              <th className="text-right font-normal">Ordered</th>
              <th className="text-right font-normal">Picked</th>
              <th className="text-right font-normal">{order.kit ? 'In kits' : 'Shipped'}</th>
              <th className="pl-6 font-normal">Promised</th>
              <th className="text-right font-normal">Still free</th>
              <th className="text-right font-normal">On order</th>
            </tr>
          </thead>
          <tbody>
            {order.lineList.map((l) => {
              // What was looked for in vain is promised on paper only: nobody can pick it.
              const kept = String(Math.round((Number(l.promised) - Number(l.notFound) + Number(l.shipped)) * 1000) / 1000);
              const standing = Number(kept) >= Number(l.qty) ? 'full' : Number(kept) > 0 ? 'short' : 'waiting';
              return (
                <tr key={l.id} className="border-b border-line">
                  <td className="py-1.5">
                    <span className="flex items-center gap-3 pr-3">
                      <span className="min-w-0 flex-1">
                        <ItemName {...l} wraps />
                      </span>
                      <AskedGoods line={l} onChange={open && mayEnter ? () => setNaming(l.id) : null} />
                    </span>
                  </td>
                  <td className="text-right text-lg font-bold">
                    {open && mayEnter && !order.kit ? (
                      <LineQty key={l.qty} order={id} line={l} />
                    ) : (
                      <>
                        {l.qty} <span className="text-sm font-normal text-soft">{l.unit}</span>
                      </>
                    )}
                  </td>
                  <td className="text-right">{l.picked}</td>
                  <td className="text-right">{l.shipped}</td>
                  <td className="pl-6">
                    <TallyBar expected={l.qty} arrived={kept} standing={standing} />{' '}
                    {l.notFound !== '0' && <Tag tone="wrong">{l.notFound} not found</Tag>}
                    {open && <KitsOfLine line={l} mayEnter={mayEnter} />}
                    {l.why.length > 0 && <span className="block text-sm text-soft">{l.why.join('; ')}</span>}
                  </td>
                  <td className="text-right">{l.free}</td>
                  <td className="text-right">{l.onOrder}</td>
                </tr>
              );
            })}
            {order.extras.map((e) => (
              <tr key={`extra ${e.id}`} className="border-b border-line">
                <td className="py-1.5 pl-10">{e.text}</td>
                <td className="text-right text-lg font-bold">{e.qty}</td>
                <td colSpan={5} className="pl-6 text-sm text-soft">
                  no stock; stands on the papers
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {named ? <NamePanel key={named.id} order={order} line={named} onClose={() => setNaming(null)} /> : <OrderWay order={order} />}
      </div>
      {order.shipments.length > 0 && (
        <section className="mt-6">
          <h2 className="border-b-2 border-ink font-bold">Shipments</h2>
          {order.shipments.map((s) => (
            <p key={s.number} className="border-b border-line py-1">
              <span className="code text-lg">{s.number}</span> {sayMoment(s.at)}, {counted(s.parcels, 'parcel', 'parcels')} ·{' '}
              <Link className="underline" to={`/ledger?document=${s.document}`}>
                what left
              </Link>
              {' · '}
              <a className="underline" href={atSite(`/api/shipments/${s.number}/note.pdf`)} target="_blank" rel="noreferrer">
                delivery note
              </a>
              {' · '}
              <Link className="underline" to={`/deliveries/return?shipment=${s.number}`}>
                take back
              </Link>
            </p>
          ))}
        </section>
      )}
    </article>
  );
}
