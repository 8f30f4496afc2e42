import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { Choice } from '#contract/desk';
import {
  atSite,
  Button,
  counted,
  Field,
  ItemPicture,
  read,
  ScanLine,
  sound,
  Trouble,
  Unsaved,
  useMe,
  useScanner,
  useSend,
} from '#web/base';
import { ChoiceField, Select } from '#web/forms';
import { addScanned, counterFault, handOverLines, sourceFor, type CounterLine, type CounterSource } from './counter-draft.ts';

/** Over the counter (F3): goods are scanned from the shelf in front and handed over at once; bin, lot and serials go on record. */
export function Counter() {
  const { me } = useMe();
  const [at, setAt] = useState<string | null>(null);
  const [lines, setLines] = useState<readonly CounterLine[]>([]);
  const [sources, setSources] = useState<ReadonlyMap<number, readonly CounterSource[]>>(new Map());
  const [customer, setCustomer] = useState<Choice | null>(null);
  const [last, setLast] = useState<{ order: number; number: string; shipment: string; pieces: string } | null>(null);
  const nextKey = useRef(1);
  // Several scans may wait for their answers at once: each is added to what is there then.
  const taken = useRef<readonly CounterLine[]>([]);
  const put = (by: (was: readonly CounterLine[]) => readonly CounterLine[]): void => {
    taken.current = by(taken.current);
    setLines(taken.current);
  };
  const handOver = useSend('shipping.handOver', {
    quiet: true,
    onDone: (r) => {
      sound('right');
      toast.success(`${r.pieces} pieces are handed over, on ${r.number}.`);
      put(() => []);
      setCustomer(null);
      setLast(r);
    },
  });
  const scan = async (code: string): Promise<void> => {
    try {
      const scanned = await read('desk.scan', { query: { code } });
      if (scanned.kind === 'bin') {
        setAt(scanned.address);
        return sound('right');
      }
      // A label that names a lot or a serial alone means the goods that bear it.
      const named = scanned.kind === 'lot' || scanned.kind === 'serial' ? scanned : null;
      const meant = named ? await read('desk.scan', { query: { code: named.code } }) : scanned;
      if (meant.kind !== 'item') {
        sound('look');
        toast(meant.kind === 'unknown' ? `Nothing here is known by “${meant.text}”.` : 'That is no goods. Scan what is handed over.');
        return;
      }
      const lot = named?.kind === 'lot' ? named.lot : meant.lot;
      const serial = named?.kind === 'serial' ? named.serial : meant.serial;
      const { bins } = await read('stock.equation', { params: { id: meant.item } });
      const here = bins.filter((b) => b.part === 'free' && b.site === me?.site.name);
      const free = here.map(({ address, lot, serial, qty }) => ({ bin: address, lot, serial, qty }));
      setSources((was) => new Map([...was, [meant.item, free]]));
      const goods = { ...meant, lot, serial, qty: meant.packUnits };
      const serials = taken.current.flatMap((l) => (l.item === meant.item && l.from?.serial ? [l.from.serial] : []));
      const from = sourceFor(goods, free, at, serials);
      sound(from ? 'right' : 'look');
      const key = (nextKey.current += 1);
      setLast(null);
      const { item, description, unit, tracking } = meant;
      put((was) =>
        addScanned(
          was,
          { item, code: meant.code, description, unit, tracking, qty: goods.qty, lot: goods.lot, serial: goods.serial },
          from,
          key,
        ),
      );
    } catch (error) {
      sound('wrong');
      toast.error((error as Error).message);
    }
  };
  useScanner((code) => void scan(code));
  const change = (key: number, part: Partial<CounterLine>): void => put((was) => was.map((l) => (l.key === key ? { ...l, ...part } : l)));
  const send = (anyway: boolean): void =>
    handOver.mutate({ body: { lines: handOverLines(lines), anyway, ...(customer ? { customer: customer.id } : {}) } });
  const isPromised = (handOver.error as { problem?: { code?: string } } | null)?.problem?.code === 'shipping.promisedToOthers';
  const isReady = lines.length > 0 && lines.every((l) => counterFault(l) === null);
  return (
    <section className="max-w-5xl">
      <Unsaved when={lines.length > 0} what="What is on the counter" />
      <h1 className="code mb-2 text-3xl">Over the counter</h1>
      <div className="mb-4 flex flex-wrap items-end gap-4">
        <div className="w-96">
          <ScanLine onScan={(code) => void scan(code)} hint="Scan goods, or the bin they come from" />
        </div>
        <p className="text-soft">
          {at ? (
            <>
              From bin <strong className="code text-lg">{at}</strong>, where it lies there.
            </>
          ) : (
            'Each scan is one more.'
          )}
        </p>
        <div className="ml-auto w-72">
          <ChoiceField kind="customer" label="Customer, if you know" placeholder="Nobody named" value={customer} onChange={setCustomer} />
        </div>
      </div>
      {last && (
        <p className="mb-3 border-l-4 border-ink bg-shade p-3 text-lg">
          {last.pieces} pieces left on{' '}
          <Link className="code underline" to={`/orders/${last.order}`}>
            {last.number}
          </Link>
          .{' '}
          <a className="underline" href={atSite(`/api/shipments/${last.shipment}/note.pdf`)} target="_blank" rel="noreferrer">
            Delivery note
          </a>
        </p>
      )}
      <ul aria-label="On the counter" className="border-t-2 border-ink">
        {lines.map((l) => {
          const wrong = counterFault(l);
          const from = sources.get(l.item) ?? [];
          return (
            <li key={l.key} className="flex flex-wrap items-center gap-3 border-b border-line py-2">
              <ItemPicture item={l.item} size="bench" />
              <span className="min-w-0 flex-1">
                <span className="code block text-xl">{l.code}</span>
                <span className="block truncate">{l.description}</span>
                {wrong && <span className="block font-semibold text-wrong">{wrong}</span>}
              </span>
              {from.length > 0 && (
                <Select
                  hideLabel
                  label={`Where ${l.code} comes from`}
                  className="w-64"
                  value={l.from ? from.indexOf(from.find((s) => isSame(s, l.from)) ?? (from[0] as CounterSource)) : undefined}
                  options={from.map((s, n) => [n, sourceText(s)] as const)}
                  onChange={(n) => change(l.key, { from: from[n] ?? null })}
                />
              )}
              {l.tracking === 'serialOut' && (
                <div className="w-40">
                  <Field
                    hideLabel
                    code
                    label={`Serial of ${l.code}`}
                    placeholder="Serial"
                    value={l.serialOut}
                    onChange={(e) => change(l.key, { serialOut: e.target.value })}
                  />
                </div>
              )}
              <input
                aria-label={`How many ${l.code}`}
                aria-invalid={wrong !== null}
                inputMode="decimal"
                disabled={l.tracking === 'serial' || l.tracking === 'serialOut'}
                className="w-24 rounded border-2 border-ink bg-sheet px-2 text-right text-2xl font-bold disabled:border-line"
                value={l.qty}
                onChange={(e) => change(l.key, { qty: e.target.value })}
              />
              <Button look="quiet" onClick={() => put((was) => was.filter((x) => x.key !== l.key))}>
                Remove
              </Button>
            </li>
          );
        })}
      </ul>
      {lines.length === 0 && !last && <p className="py-4 text-soft">Nothing is on the counter yet. Scan what the customer takes.</p>}
      <div className="mt-4 space-y-3">
        <Trouble error={handOver.error} />
        {isPromised && me?.role === 'lead' && (
          <Button look="wrong" disabled={handOver.isPending} onClick={() => send(true)}>
            Hand it over anyway: the least urgent orders lose it
          </Button>
        )}
        <Button look="next" tall className="w-full" disabled={!isReady || handOver.isPending} onClick={() => send(false)}>
          {lines.length === 0 ? 'Hand over' : `Hand over ${counted(lines.length, 'line', 'lines')}`}
        </Button>
      </div>
    </section>
  );
}

const isSame = (a: CounterSource, b: CounterSource | null): boolean => a.bin === b?.bin && a.lot === b.lot && a.serial === b.serial;
const sourceText = (s: CounterSource): string =>
  [s.bin, s.lot && `lot ${s.lot}`, s.serial ? `serial ${s.serial}` : `${s.qty} there`].filter(Boolean).join(', ');
