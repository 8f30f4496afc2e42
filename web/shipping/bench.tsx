import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import { atSite, ago, Button, Empty, Plate, read, sound, Tag, Trouble, useRead, useScanner, useSend } from '#web/base';

/** The bench: scan an order's sheet, look, confirm, ship. Large type; the scanner alone can choose the order. */
export function Bench() {
  const { id: given } = useParams();
  const id = given ? Number(given) : undefined;
  const go = useNavigate();
  const { data, error } = useRead('shipping.bench', {});
  const { data: order, error: missing } = useRead('shipping.look', { params: { id: id ?? 0 } }, { enabled: id !== undefined });
  const [keyed, setKeyed] = useState<{ order: number; parcels: string } | null>(null);
  // A number keyed for one order is not the next one's.
  const parcels = keyed !== null && keyed.order === id ? keyed.parcels : '1';
  const parcelsFault = /^[1-9]\d?$/.test(parcels) ? null : 'Key 1 to 99.';
  const pack = useSend('shipping.pack', {
    onDone: (r) => {
      sound('right');
      toast.success(`${r.number} is packed.`);
    },
  });
  const unpack = useSend('shipping.unpack', { onDone: (r) => toast(`${r.number} is to be packed again.`) });
  const onCart = order?.lines.some((l) => l.parts.some((p) => !p.putDown)) ?? false;
  const ship = useSend('shipping.ship', {
    onDone: (r) => {
      sound('right');
      toast.success(`${r.shipment}: ${r.pieces} pieces have left${r.left === '0' ? '.' : `; ${r.left} stay open.`}`);
      void go('/bench');
    },
  });
  useScanner((code) => {
    void read('desk.scan', { query: { code } }).then(
      (found) => {
        if (found.kind === 'order') void go(`/bench/${found.order}`);
        else {
          sound('look');
          toast('Scan the sheet of an order here.');
        }
      },
      (e: Error) => {
        sound('wrong');
        toast.error(e.message);
      },
    );
  });
  return (
    <div className="grid gap-8 lg:grid-cols-[2fr_3fr]">
      <section>
        <h1 className="code mb-2 text-3xl">At the bench</h1>
        <Trouble error={error} />
        {data?.orders.length === 0 && <Empty title="The bench is clear.">Orders come here when a round is put down.</Empty>}
        <ul>
          {data?.orders.map((o) => (
            <li key={o.id}>
              <button
                type="button"
                onClick={() => void go(`/bench/${o.id}`)}
                aria-pressed={o.id === id}
                className={`w-full border-b border-line p-2 text-left ${o.id === id ? 'bg-shade' : 'hover:bg-shade'}`}
              >
                <span className="flex items-baseline gap-3">
                  <span className="code text-2xl">{o.number}</span>
                  <span className="min-w-0 flex-1 truncate text-lg">{o.customer}</span>
                  {o.heldFor ? <Tag tone="wrong">held</Tag> : o.packed ? <Tag tone="settled">packed</Tag> : null}
                </span>
                <span className="flex gap-2 text-soft">
                  {o.pieces} pieces in{' '}
                  {o.bins.map((b) => (
                    <Plate key={b} address={b} />
                  ))}{' '}
                  waiting {ago(o.since)}
                  {!o.complete && ', not the whole order'}
                </span>
              </button>
            </li>
          ))}
        </ul>
      </section>
      <section>
        {id !== undefined && <Trouble error={missing} />}
        {!order && !missing && <p className="pt-16 text-center text-2xl text-soft">Scan the sheet of an order, or choose one.</p>}
        {order && (
          <>
            <h2 className="flex items-baseline gap-3">
              <span className="code text-5xl">{order.number}</span>
              <span className="text-2xl">{order.customer}</span>
            </h2>
            {order.heldFor && (
              <p className="my-2 border-2 border-wrong bg-wrong-pale p-2 text-lg font-semibold text-wrong">
                Held: {order.heldFor}. It cannot leave.
              </p>
            )}
            <ul className="my-3 border-t-2 border-ink">
              {order.lines.map((l) => (
                <li key={l.line} className="flex items-baseline gap-4 border-b border-line py-2">
                  <span className="code w-24 text-right text-4xl">{l.picked}</span>
                  <span className="min-w-0 flex-1">
                    <span className="block text-xl">
                      <span className="code">{l.code}</span> {l.description}
                    </span>
                    <span className="block text-soft">
                      {l.parts
                        .map((p) => [p.lot && `lot ${p.lot}`, p.serial && `serial ${p.serial}`].filter(Boolean).join(' '))
                        .filter(Boolean)
                        .join(', ')}
                    </span>
                  </span>
                  {Number(l.picked) + Number(l.shipped) < Number(l.ordered) && <Tag tone="wrong">◐ short: {l.ordered} ordered</Tag>}
                  {l.parts.some((p) => !p.putDown) && <Tag tone="wrong">still on a cart</Tag>}
                </li>
              ))}
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
              {!order.packed && (
                <label className="flex items-center gap-2 text-lg">
                  Parcels{' '}
                  <input
                    aria-label="Parcels"
                    className="min-h-12 w-16 rounded border-2 border-ink bg-sheet px-2 text-2xl font-bold"
                    inputMode="numeric"
                    value={parcels}
                    aria-invalid={parcelsFault !== null}
                    onChange={(e) => setKeyed({ order: order.id, parcels: e.target.value })}
                  />
                  {parcelsFault && <span className="text-sm font-semibold text-wrong">{parcelsFault}</span>}
                </label>
              )}
              {order.packed && (
                <Button tall onClick={() => unpack.mutate({ params: { id: order.id } })}>
                  Undo the packing
                </Button>
              )}
              {order.packed ? (
                <Button
                  look="next"
                  tall
                  className="flex-1"
                  disabled={ship.isPending}
                  onClick={() => ship.mutate({ params: { id: order.id } })}
                >
                  Ship {order.number}
                </Button>
              ) : (
                <Button
                  look="next"
                  tall
                  className="flex-1"
                  disabled={pack.isPending || order.heldFor !== null || parcelsFault !== null || onCart}
                  onClick={() => pack.mutate({ params: { id: order.id }, body: { parcels: Number(parcels) } })}
                >
                  {order.complete
                    ? 'It is all there: packed'
                    : `Pack what is here: ${order.pieces} ${order.pieces === '1' ? 'piece' : 'pieces'}; the rest stays open`}
                </Button>
              )}
            </div>
          </>
        )}
      </section>
    </div>
  );
}
