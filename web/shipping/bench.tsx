import { useCallback, useState } from 'react';
import { Link, Navigate, useParams } from 'react-router';
import { formatQty, sumQty } from '#core/base';
import {
  benchDoubt,
  isComplete,
  PACK_BEGINS,
  shippingSaid,
  shippingSentence,
  stepPack,
  type BenchOrder,
  type PackAt,
  type PackChoice,
  type PackDoes,
  type ShippingSaid,
} from '#core/shipping';
import type { Me } from '#contract/people';
import { atSite, Button, Empty, Plate, Progress, sayDay, Tag, useRead, useSend, ItemPicture, lasting } from '#web/base';
import { sayLabelsSent } from '#web/labels';
import { Clashes, TakingAlong, theFloor, useCourier, useFloor, useHand, type Answer } from '#web/hands';

/** The bench: scan an order's sheet, its goods, its sheet again. Large type; the scanner alone does all of it. */
export function Bench({ me }: { me: Me }) {
  useCourier(me);
  const { ready } = useFloor();
  return ready ? <AtBench /> : <TakingAlong />;
}

function AtBench() {
  const { id: given } = useParams();
  const floor = theFloor();
  const { waiting, fault } = useFloor();
  const { at, answer, choose } = useHand<PackAt, PackChoice, ShippingSaid, PackDoes>({
    // An address names an order: who comes by it begins at that one, and a reload finds what was seen of it.
    job: given ? `bench/${given}` : 'bench',
    begin: given ? { ...PACK_BEGINS, order: Number(given) } : PACK_BEGINS,
    step: useCallback((where, event, facts) => stepPack(where, event, { orders: floor.orders(), trust: floor.trust, facts }), [floor]),
    sentence: shippingSaid,
  });
  const orders = floor.orders();
  const order = orders.find((o) => o.id === at.order);
  const { data } = useRead('shipping.bench', {});
  // Parts of kits are made into them at the page of their order; nobody packs them.
  if (given && data?.orders.some((o) => o.makesKits && o.id === Number(given))) return <Navigate to={`/orders/${given}`} replace />;
  return (
    <div className="grid grid-cols-1 gap-8 lg:grid-cols-[2fr_3fr]">
      <section>
        <h1 className="code mb-2 flex items-baseline gap-4 text-3xl">
          At the bench
          {waiting > 0 && (
            <span className="font-sans text-base font-normal text-soft">
              {waiting} to send{fault?.kind === 'away' ? ', no connection' : ''}
            </span>
          )}
        </h1>
        <OrderList orders={orders} chosen={at.order} onOpen={(id) => choose({ what: 'open', order: id })} />
      </section>
      <section>
        <Said answer={answer} />
        {order ? (
          <OpenOrder key={order.id} order={order} at={at} choose={choose} />
        ) : (
          <NextToPack orders={orders} onOpen={(id) => choose({ what: 'open', order: id })} />
        )}
      </section>
    </div>
  );
}

const TONE = {
  right: 'border-settled bg-settled-pale text-settled',
  wrong: 'border-wrong bg-wrong text-paper',
  look: 'border-ink bg-sheet text-ink',
} as const;
const MARK = { right: '✓', wrong: '✕', look: '!' } as const;

function Said({ answer }: { answer: Answer | null }) {
  if (!answer) return null;
  return (
    <p role="status" data-tone={answer.tone} className={`mb-3 rounded border-2 px-4 py-2 text-2xl font-semibold ${TONE[answer.tone]}`}>
      <span aria-hidden>{MARK[answer.tone]} </span>
      {answer.text}
    </p>
  );
}

const piecesOf = (order: BenchOrder): string => formatQty(sumQty(order.pieces.map((p) => p.qty)));

function OrderList({ orders, chosen, onOpen }: { orders: readonly BenchOrder[]; chosen: number | null; onOpen: (id: number) => void }) {
  // Where they lie and since when: known with a connection, and only looked at.
  const { data } = useRead('shipping.bench', {});
  const more = new Map(data?.orders.map((o) => [o.id, o]));
  const here = orders.filter((o) => o.pieces.some((p) => p.putDown));
  const parts = (data?.orders ?? []).filter((o) => o.makesKits);
  if (here.length === 0 && parts.length === 0) return <Empty title="The bench is clear.">Orders come here when a round is put down.</Empty>;
  return (
    <ul>
      {parts.map((o) => (
        <li key={o.id} className="border-b border-line p-2">
          <Link to={`/orders/${o.id}`} className="block hover:bg-shade">
            <span className="flex items-baseline gap-3">
              <span className="code text-2xl">{o.number}</span>
              <span className="min-w-0 flex-1 truncate text-lg">{o.customer}</span>
              <Tag>to be made</Tag>
            </span>
            <span className="flex gap-2 text-soft">
              {o.pieces} parts
              {o.bins.map((b) => (
                <Plate key={b} address={b} />
              ))}
            </span>
          </Link>
        </li>
      ))}
      {here.map((o) => (
        <li key={o.id}>
          <button
            type="button"
            onClick={() => onOpen(o.id)}
            aria-pressed={o.id === chosen}
            className={`w-full border-b border-line p-2 text-left ${o.id === chosen ? 'bg-shade' : 'hover:bg-shade'}`}
          >
            <span className="flex items-baseline gap-3">
              <span className="code text-2xl">{o.number}</span>
              <span className="min-w-0 flex-1 truncate text-lg">{o.customer}</span>
              {o.heldFor ? <Tag tone="wrong">held</Tag> : o.packed ? <Tag tone="settled">packed</Tag> : null}
            </span>
            <span className="flex gap-2 text-soft">
              {piecesOf(o)} {piecesOf(o) === '1' ? 'piece' : 'pieces'}
              {more.get(o.id)?.bins.map((b) => (
                <Plate key={b} address={b} />
              ))}{' '}
              {more.has(o.id) && `here ${lasting(more.get(o.id)?.since ?? null)}`}
              {!isComplete(o) && ', not the whole order'}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}

/** Nothing is open: what lies here longest, or is due first, with its goods; and what is still on its way. */
function NextToPack({ orders, onOpen }: { orders: readonly BenchOrder[]; onOpen: (id: number) => void }) {
  const { facts } = theFloor();
  const { data } = useRead('shipping.bench', {});
  const { data: rounds } = useRead('picking.rounds', { query: { state: 'open' } });
  const since = new Map(data?.orders.map((o) => [o.id, o]));
  const when = (o: BenchOrder): string => `${since.get(o.id)?.due ?? '9999'} ${since.get(o.id)?.since ?? ''}`;
  const [next] = orders
    .filter((o) => !o.packed && o.heldFor === null && o.pieces.some((p) => p.putDown))
    .sort((a, b) => (when(a) < when(b) ? -1 : 1));
  return (
    <>
      {next ? (
        <>
          <h2 className="flex items-baseline gap-3">
            <span className="text-lg text-soft">Next</span>
            <span className="code text-4xl">{next.number}</span>
            <span className="text-xl">{next.customer}</span>
            {since.has(next.id) && <span className="ml-auto text-soft">due {sayDay(since.get(next.id)?.due ?? '')}</span>}
          </h2>
          <ul className="my-3 grid grid-cols-2 gap-x-6 border-t-2 border-ink">
            {[...new Set(next.pieces.map((p) => p.item))].slice(0, MOST_SHOWN).map((item) => (
              <li key={item} className="flex items-center gap-3 border-b border-line py-1.5">
                <ItemPicture item={item} />
                <strong className="code w-12 text-right text-2xl">
                  {formatQty(sumQty(next.pieces.filter((p) => p.item === item).map((p) => p.qty)))}
                </strong>
                <span className="min-w-0 flex-1 truncate">
                  <span className="code">{facts.item(item)?.code}</span> {facts.item(item)?.description}
                </span>
              </li>
            ))}
          </ul>
          <Button look="next" tall className="w-full" onClick={() => onOpen(next.id)}>
            Open {next.number}
          </Button>
          <p className="mt-2 text-center text-lg text-soft">or scan the sheet of any order</p>
        </>
      ) : (
        <p className="pt-16 text-center text-2xl text-soft">Scan the sheet of an order, or choose one.</p>
      )}
      {rounds && rounds.rounds.length > 0 && (
        <section className="mt-8">
          <h2 className="border-b-2 border-ink font-bold">On their way here</h2>
          <ul>
            {rounds.rounds.map((r) => (
              <li key={r.id}>
                <Link to={`/rounds/${r.id}`} className="flex items-center gap-4 border-b border-line py-2 hover:bg-shade">
                  <span className="code text-lg">{r.number}</span>
                  <span className="min-w-0 flex-1 truncate">
                    {r.person ?? 'nobody yet'}, {r.orders.join(', ')}
                  </span>
                  <span className="w-56">
                    <Progress done={r.done} of={r.picks} what="picks" />
                  </span>
                </Link>
              </li>
            ))}
          </ul>
        </section>
      )}
    </>
  );
}

const MOST_SHOWN = 12;
const PARCELS = /^[1-9]\d?$/;

function OpenOrder({ order, at, choose }: { order: BenchOrder; at: PackAt; choose: (c: PackChoice) => void }) {
  const { facts } = theFloor();
  const doubt = benchDoubt(order, facts);
  const complete = isComplete(order);
  const items = [...new Set([...order.lines.map((l) => l.item), ...order.pieces.map((p) => p.item)])];
  const pieces = piecesOf(order);
  const [parcels, setParcels] = useState(String(at.parcels));
  const labels = useSend('labels.print', { onDone: (r) => sayLabelsSent(r, 'parcel') });
  const parcelsFault = PARCELS.test(parcels) ? null : 'Key 1 to 99.';
  return (
    <>
      <h2 className="flex items-baseline gap-3">
        <span className="code text-5xl">{order.number}</span>
        <span className="text-2xl">{order.customer}</span>
      </h2>
      <Clashes job={`order:${order.id}`} quiet />
      {doubt && <p className="my-2 border-2 border-wrong bg-wrong-pale p-2 text-lg font-semibold text-wrong">{shippingSentence(doubt)}</p>}
      <ul className="my-3 border-t-2 border-ink">
        {items.map((item) => {
          const own = order.pieces.filter((p) => p.item === item);
          const picked = sumQty(own.map((p) => p.qty));
          const wanted = sumQty(order.lines.filter((l) => l.item === item).map((l) => l.open));
          const seen = at.seen[item] ?? 0;
          const labels = own
            .map((p) => [p.lot && `lot ${p.lot}`, p.serial && `serial ${p.serial}`].filter(Boolean).join(' '))
            .filter(Boolean);
          return (
            <li key={item} className="flex items-center gap-4 border-b border-line py-2">
              <ItemPicture item={item} size="bench" />
              <span className="code w-20 text-right text-4xl">{formatQty(picked)}</span>
              <span className="min-w-0 flex-1">
                <span className="block text-xl">
                  <span className="code">{facts.item(item)?.code}</span> {facts.item(item)?.description}
                </span>
                <span className="block text-soft">{[...new Set(labels)].join(', ')}</span>
              </span>
              {!order.packed && seen > 0 && (
                <Tag tone={seen >= picked ? 'settled' : 'plain'}>
                  {seen >= picked ? '✓ seen' : `${formatQty(seen as typeof picked)} seen`}
                </Tag>
              )}
              {picked < wanted && <Tag tone="wrong">◐ short: {formatQty(wanted)} ordered</Tag>}
              {own.some((p) => !p.putDown) && <Tag tone="wrong">still on a cart</Tag>}
            </li>
          );
        })}
      </ul>
      <div className="flex items-center gap-3">
        <a
          className="rounded border-2 border-ink/70 bg-sheet px-3 py-3 text-lg"
          href={atSite(`/api/orders/${order.id}/slip.pdf`)}
          target="_blank"
          rel="noreferrer"
        >
          Packing slip
        </a>
        {order.packed ? (
          <>
            <Button tall disabled={labels.isPending} onClick={() => labels.mutate({ body: { kind: 'parcels', order: order.id } })}>
              {labels.isSuccess ? 'Parcel labels again' : 'Parcel labels'}
            </Button>
            <Button tall onClick={() => choose({ what: 'undo' })}>
              Undo the packing
            </Button>
            <Button look="next" tall className="flex-1" disabled={doubt !== null} onClick={() => choose({ what: 'ship' })}>
              Ship {order.number}
            </Button>
          </>
        ) : (
          <>
            <label className="flex items-center gap-2 text-lg">
              Parcels{' '}
              <input
                aria-label="Parcels"
                className="min-h-12 w-16 rounded border-2 border-ink bg-sheet px-2 text-2xl font-bold"
                inputMode="numeric"
                value={parcels}
                aria-invalid={parcelsFault !== null}
                onChange={(e) => {
                  setParcels(e.target.value);
                  if (PARCELS.test(e.target.value)) choose({ what: 'parcels', text: e.target.value });
                }}
              />
              {parcelsFault && <span className="text-sm font-semibold text-wrong">{parcelsFault}</span>}
            </label>
            <Button
              look="next"
              tall
              className="flex-1"
              disabled={doubt !== null || parcelsFault !== null}
              onClick={() => choose({ what: 'pack' })}
            >
              {complete
                ? 'It is all there: packed'
                : `Pack what is here: ${pieces} ${pieces === '1' ? 'piece' : 'pieces'}; the rest stays open`}
            </Button>
          </>
        )}
      </div>
      <p className="pt-2 text-soft">
        {order.packed
          ? 'Scan the sheet once more: it has left.'
          : 'By scanner: each piece, or one and its number; then the sheet once more, and it is packed.'}
      </p>
    </>
  );
}
