import { useMemo, useState } from 'react';
import { toast } from 'sonner';
import type { Order } from '#contract/orders';
import { addQty, formatQty, parseQty, ZERO, type Qty } from '#core/base';
import { Button, Field, sayDay, SidePanel, sound, Tick, Trouble, useRead, useScanner, useSend } from '#web/base';
import { Select } from '#web/forms';

type Line = Order['lineList'][number];
const ANY = '';
const MOST_SHOWN = 60;

/** What a line asks of its goods; with `onChange`, a press on it changes that. */
export function AskedGoods({ line, onChange }: { line: Line; onChange: (() => void) | null }) {
  const words = line.asks === null ? anyOf(line.tracking) : `only ${line.asks}`;
  if (!onChange) return line.asks === null ? null : <span className="text-sm font-semibold">{words}</span>;
  return (
    <button
      type="button"
      className={`text-right text-sm underline decoration-line underline-offset-4 hover:decoration-ink
        ${line.asks === null ? 'text-soft' : 'font-semibold'}`}
      title={`Name the lot, the serials or the bin for ${line.code}`}
      onClick={onChange}
    >
      {words}
    </button>
  );
}

const anyOf = (tracking: string): string => (tracking === 'serial' ? 'any serial' : tracking.startsWith('lot') ? 'any lot' : 'any bin');

/** Names the lot, the serials or the bin from which a line is served (F3). */
export function NamePanel({ order, line, onClose }: { order: Order; line: Line; onClose: () => void }) {
  const { data, error } = useRead('stock.equation', { params: { id: line.item } });
  const [lot, setLot] = useState(line.named.lot ?? ANY);
  const [bin, setBin] = useState(line.named.bin ?? ANY);
  const [serials, setSerials] = useState<readonly string[]>(line.named.serials);
  const [words, setWords] = useState('');
  const here = useMemo(() => (data?.bins ?? []).filter((b) => b.site === order.site && b.part === 'free'), [data, order.site]);
  const lots = summed(here, (b) => b.lot);
  const bins = summed(here, (b) => b.address);
  const codes = useMemo(() => [...new Set([...serials, ...here.flatMap((b) => b.serial ?? [])])].toSorted(), [here, serials]);
  const expiryOf = (of: string): string => {
    const day = here.find((b) => b.lot === of)?.expires;
    return day ? `, expires ${sayDay(day)}` : '';
  };
  const name = useSend('orders.nameLine', {
    onDone: ({ promised, was }) => {
      toast.success(
        promised === was
          ? `${line.code}: named. ${promised} of it stay promised.`
          : `${line.code}: named. ${promised} of it are promised now, ${was} were before.`,
      );
      onClose();
    },
  });
  const isNamed = line.named.lot !== null || line.named.bin !== null || line.named.serials.length > 0;
  const hasSerials = line.tracking === 'serial';
  const toggle = (code: string): void => setSerials((was) => (was.includes(code) ? was.filter((s) => s !== code) : [...was, code]));
  useScanner((text) => {
    const code = codes.find((c) => c.toLowerCase() === text.toLowerCase());
    if (!hasSerials || !code) {
      sound('wrong');
      toast.error(
        hasSerials ? `Serial ${text} of ${line.code} does not lie here.` : `${text} cannot be named by a scan. Choose it in the list.`,
      );
      return;
    }
    sound('right');
    if (!serials.includes(code)) toggle(code);
  });
  const isWhole = serials.length === 0 || String(serials.length) === line.qty;
  const shown = codes.filter((c) => c.toLowerCase().includes(words.trim().toLowerCase()));
  const send = (named: { lot?: string; bin?: string; serials?: string[] }): void =>
    name.mutate({ params: { id: order.id }, body: { line: line.id, ...named } });
  return (
    <SidePanel title={`Goods for ${line.qty} ${line.code}`} onClose={onClose}>
      <form
        className="space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          send({
            ...(lot === ANY ? {} : { lot }),
            ...(bin === ANY ? {} : { bin }),
            ...(serials.length === 0 ? {} : { serials: [...serials] }),
          });
        }}
      >
        <p className="text-soft">
          What is named here is kept for {order.number}: nobody else is promised it, and no other round fetches it.
        </p>
        <Trouble error={error ?? name.error} />
        {line.tracking.startsWith('lot') && (
          <Select
            label="Lot"
            value={lot}
            onChange={setLot}
            options={[
              [ANY, 'any lot'],
              ...withChosen(lots, lot).map(([code, qty]) => [code, `${code}: ${formatQty(qty)}${expiryOf(code)}`] as const),
            ]}
          />
        )}
        {hasSerials && (
          <fieldset className="space-y-1">
            <legend className="font-semibold">
              Serials: {serials.length} of {line.qty} named
            </legend>
            {codes.length > 12 && <Field label="Find a serial" value={words} onChange={(e) => setWords(e.target.value)} />}
            <div className="max-h-72 overflow-y-auto border border-line p-2">
              {shown.slice(0, MOST_SHOWN).map((code) => (
                <Tick key={code} label={code} checked={serials.includes(code)} onChange={() => toggle(code)} />
              ))}
              {shown.length === 0 && <p className="text-soft">No serial of it lies here.</p>}
              {shown.length > MOST_SHOWN && (
                <p className="text-soft">{shown.length - MOST_SHOWN} more; find them by a part of the serial.</p>
              )}
            </div>
          </fieldset>
        )}
        <Select
          label="Bin"
          value={bin}
          onChange={setBin}
          options={[
            [ANY, 'any bin'],
            ...withChosen(bins, bin).map(([address, qty]) => [address, `${address}: ${formatQty(qty)}`] as const),
          ]}
        />
        {!isWhole && <p className="font-semibold text-wrong">Name each of the {line.qty} pieces, or none.</p>}
        <div className="flex gap-2">
          <Button type="submit" look="next" disabled={!isWhole || name.isPending}>
            Keep these for it
          </Button>
          {isNamed && (
            <Button disabled={name.isPending} onClick={() => send({})}>
              Take whatever there is
            </Button>
          )}
        </div>
      </form>
    </SidePanel>
  );
}

type Lying = { readonly qty: string };
function summed<B extends Lying>(all: readonly B[], key: (b: B) => string | null): [string, Qty][] {
  const sums = new Map<string, Qty>();
  for (const b of all) {
    const of = key(b);
    const qty = parseQty(b.qty);
    if (of !== null && qty.ok) sums.set(of, addQty(sums.get(of) ?? ZERO, qty.value));
  }
  return [...sums].toSorted(([a], [b]) => a.localeCompare(b));
}

// What is named already is among what can be chosen, also when none of it lies here any more.
const withChosen = (all: [string, Qty][], chosen: string): [string, Qty][] =>
  chosen === ANY || all.some(([code]) => code === chosen) ? all : [[chosen, ZERO], ...all];
