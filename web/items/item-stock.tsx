import { useState } from 'react';
import { toast } from 'sonner';
import { formatQty, parseQty, subQty, sumQty, ZERO, type Qty } from '#core/base';
import { needsExpiry, needsLot, needsSerialOnArrival, TRACKINGS, type Tracking } from '#core/items';
import type { Item } from '#contract/items';
import { Button, Field, Plate, Select, Trouble, useRead, useSend } from '#web/base';

type Line = { bin: string; qty: string; lot: string; expires: string; serials: string };
const EMPTY: Line = { bin: '', qty: '', lot: '', expires: '', serials: '' };
const serialsOf = (text: string): string[] => text.split(/[\s,;]+/).filter(Boolean);

/** Opening stock, bin by bin, at once (B1); of an item with history, an adjustment. */
export function OpeningStock({ item, onDone }: { item: Item; onDone: () => void }) {
  const [lines, setLines] = useState<readonly Line[]>([{ ...EMPTY }]);
  const [reason, setReason] = useState('');
  const { data: moved } = useRead('stock.movements', { query: { item: item.id, limit: 1 } });
  const hasHistory = (moved?.movements.length ?? 0) > 0;
  const enter = useSend('stock.opening', {
    quiet: true,
    onDone: (r) => {
      toast.success(`${r.document}: ${r.qty} ${item.unit} ${r.isAdjustment ? 'more are in stock, as an adjustment' : 'are in stock'}.`);
      onDone();
    },
  });
  const change = (i: number, part: Partial<Line>): void => setLines((was) => was.map((l, j) => (j === i ? { ...l, ...part } : l)));
  const serial = needsSerialOnArrival(item.tracking);
  return (
    <form
      className="mt-3 space-y-2 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        enter.mutate({
          params: { id: item.id },
          body: {
            lines: lines
              .filter((l) => l.bin)
              .map((l) => ({
                bin: l.bin,
                qty: serial ? String(serialsOf(l.serials).length) : l.qty,
                ...(l.lot ? { lot: l.lot } : {}),
                ...(l.expires ? { expires: l.expires } : {}),
                serials: serial ? serialsOf(l.serials) : [],
              })),
            ...(reason ? { reason } : {}),
          },
        });
      }}
    >
      {lines.map((line, i) => (
        <div key={i} className="flex items-end gap-2">
          <div className="w-36">
            <Field label="Bin (or UNPLACED)" code className="code" value={line.bin} onChange={(e) => change(i, { bin: e.target.value })} />
          </div>
          {!serial && (
            <div className="w-28">
              <Field
                label={`How many ${item.unit}`}
                inputMode="decimal"
                value={line.qty}
                onChange={(e) => change(i, { qty: e.target.value })}
              />
            </div>
          )}
          {needsLot(item.tracking) && <Field label="Lot" value={line.lot} onChange={(e) => change(i, { lot: e.target.value })} />}
          {needsExpiry(item.tracking) && (
            <Field label="Expires" type="date" value={line.expires} onChange={(e) => change(i, { expires: e.target.value })} />
          )}
          {serial && (
            <div className="flex-1">
              <Field label="Serials, with spaces between" value={line.serials} onChange={(e) => change(i, { serials: e.target.value })} />
            </div>
          )}
          {i === lines.length - 1 && (
            <Button onClick={() => setLines([...lines, { ...EMPTY, lot: line.lot, expires: line.expires }])}>Another bin</Button>
          )}
        </div>
      ))}
      {hasHistory && (
        <div className="border-l-4 border-next bg-shade p-2">
          <p className="font-semibold">{item.code} has moved before: what is entered now is an adjustment, not an opening balance.</p>
          <Field label="Why is it made?" value={reason} onChange={(e) => setReason(e.target.value)} />
        </div>
      )}
      <Trouble error={enter.error} />
      <Button look="next" type="submit" disabled={enter.isPending || !lines[0]?.bin || (hasHistory && !reason)}>
        {hasHistory ? 'Adjust the stock' : 'Enter opening stock'}
      </Button>
    </form>
  );
}

/** Holds a quantity, a lot, a serial or all of an item (B10). */
export function HoldItem({ item, onDone }: { item: Item; onDone: () => void }) {
  const { data: equation } = useRead('stock.equation', { params: { id: item.id } });
  const [form, setForm] = useState({ bin: '', lot: '', serial: '', qty: '', reason: '', until: '' });
  const hold = useSend('stock.hold', {
    quiet: true,
    onDone: (r) => {
      toast.success(`${r.number}: ${r.qty} are held${r.promisesCut > 0 ? `; ${r.promisesCut} promises gave way` : ''}.`);
      onDone();
    },
  });
  const free = equation?.bins.filter((b) => b.condition === 'sound') ?? [];
  const unique = (of: (b: (typeof free)[number]) => string | null): string[] => [
    ...new Set(free.map(of).filter((v): v is string => v !== null)),
  ];
  const bins = new Map(free.map((b) => [b.bin, b.address]));
  return (
    <form
      className="mt-3 space-y-2 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        hold.mutate({
          body: {
            item: item.id,
            ...(form.bin ? { bin: Number(form.bin) } : {}),
            ...(form.lot ? { lot: form.lot } : {}),
            ...(form.serial ? { serial: form.serial } : {}),
            ...(form.qty ? { qty: form.qty } : {}),
            ...(form.until ? { until: form.until } : {}),
            reason: form.reason,
          },
        });
      }}
    >
      <div className="flex flex-wrap items-end gap-2">
        <Select
          label="Where"
          value={form.bin}
          onChange={(e) => setForm({ ...form, bin: e.target.value })}
          options={[['', 'everywhere at this site'], ...[...bins].map(([id, a]) => [id, a] as const)]}
        />
        {needsLot(item.tracking) && (
          <Select
            label="Lot"
            value={form.lot}
            onChange={(e) => setForm({ ...form, lot: e.target.value })}
            options={[['', 'every lot'], ...unique((b) => b.lot).map((l) => [l, l] as const)]}
          />
        )}
        {needsSerialOnArrival(item.tracking) ? (
          <Select
            label="Serial"
            value={form.serial}
            onChange={(e) => setForm({ ...form, serial: e.target.value })}
            options={[['', 'every serial'], ...unique((b) => b.serial).map((s) => [s, s] as const)]}
          />
        ) : (
          <div className="w-28">
            <Field
              label="How many (empty: all)"
              inputMode="decimal"
              value={form.qty}
              onChange={(e) => setForm({ ...form, qty: e.target.value })}
            />
          </div>
        )}
        <div className="min-w-60 flex-1">
          <Field label="Because" required value={form.reason} onChange={(e) => setForm({ ...form, reason: e.target.value })} />
        </div>
        <Field label="Until (may stay open)" type="date" value={form.until} onChange={(e) => setForm({ ...form, until: e.target.value })} />
        <Button look="next" type="submit" disabled={!form.reason || hold.isPending}>
          Hold
        </Button>
      </div>
      <p className="text-sm text-soft">What is held is neither promised nor picked. What arrives later is not held.</p>
      <Trouble error={hold.error} />
    </form>
  );
}

const WORDS: Readonly<Record<Tracking, string>> = {
  none: 'not at all',
  lot: 'by lot',
  lotExpiry: 'by lot with expiry',
  serial: 'by serial from arrival',
  serialOut: 'by serial, noted when it ships',
};
type NamedLine = { bin: number; condition: string; qty: string; lot?: string; expires?: string; serial?: string };
type Named = { lot: string; expires: string; qty: string; serial: string };

/** Changes how an item is tracked (B4): where there is stock, everything that lies there is named first, bin by bin. */
export function TrackingChange({ item, onDone }: { item: Item; onDone: () => void }) {
  const { data: equation } = useRead('stock.equation', { params: { id: item.id } });
  const [tracking, setTracking] = useState<Tracking>(item.tracking);
  const [named, setNamed] = useState<Readonly<Record<string, readonly Named[]>>>({});
  const change = useSend('stock.changeTracking', {
    quiet: true,
    onDone: (r) => {
      toast.success(
        r.document ? `${r.document}: ${r.lines} lines; tracked ${WORDS[tracking]} from now on.` : `Tracked ${WORDS[tracking]} from now on.`,
      );
      onDone();
    },
  });
  const wantsNames = needsLot(tracking) || needsSerialOnArrival(tracking);
  const places = new Map<string, { bin: number; address: string; site: string; condition: string; qty: Qty }>();
  for (const b of equation?.bins ?? []) {
    const key = `${b.bin}|${b.condition}`;
    const read = parseQty(b.qty);
    const before = places.get(key)?.qty ?? ZERO;
    places.set(key, {
      bin: b.bin,
      address: b.address,
      site: b.site,
      condition: b.condition,
      qty: sumQty([before, read.ok ? read.value : ZERO]),
    });
  }
  const serial = needsSerialOnArrival(tracking);
  const linesOf = (key: string, there: Qty): readonly Named[] =>
    named[key] ?? [{ lot: '', expires: '', qty: formatQty(there), serial: '' }];
  const set = (key: string, there: Qty, i: number, part: Partial<Named>): void =>
    setNamed({ ...named, [key]: linesOf(key, there).map((l, j) => (j === i ? { ...l, ...part } : l)) });
  return (
    <form
      className="mt-3 space-y-3 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        const lines = [...places].flatMap(([key, p]): NamedLine[] =>
          serial
            ? serialsOf(linesOf(key, p.qty)[0]?.serial ?? '').map((s) => ({ bin: p.bin, condition: p.condition, qty: '1', serial: s }))
            : linesOf(key, p.qty).map((l) => ({
                bin: p.bin,
                condition: p.condition,
                qty: l.qty,
                lot: l.lot,
                ...(l.expires ? { expires: l.expires } : {}),
              })),
        );
        change.mutate({ params: { id: item.id }, body: { tracking, lines: wantsNames ? lines : [] } });
      }}
    >
      <div className="w-72">
        <Select
          label="Tracked"
          value={tracking}
          onChange={(e) => setTracking(e.target.value as Tracking)}
          options={TRACKINGS.map((t) => [t, WORDS[t]])}
        />
      </div>
      {wantsNames && tracking !== item.tracking && places.size > 0 && (
        <>
          <p className="text-soft">Name what lies in each bin. Nothing changes until every piece has its name.</p>
          {[...places].map(([key, p]) => {
            const lines = linesOf(key, p.qty);
            const given = sumQty(
              lines.map((l) => {
                const read = parseQty(l.qty || '0');
                return read.ok ? read.value : ZERO;
              }),
            );
            const rest = serial ? 0 : subQty(p.qty, given);
            return (
              <fieldset key={key} className="flex flex-wrap items-end gap-2 border-t border-line pt-2">
                <legend className="sr-only">{p.address}</legend>
                <span className="w-44">
                  <Plate address={p.address} /> <strong>{formatQty(p.qty)}</strong>
                  <span className="block text-sm text-soft">
                    {p.site}
                    {p.condition !== 'sound' && `, ${p.condition}`}
                  </span>
                </span>
                {serial ? (
                  <div className="flex-1">
                    <Field
                      label={`${serialsOf(lines[0]?.serial ?? '').length} of ${formatQty(p.qty)} serials`}
                      value={lines[0]?.serial ?? ''}
                      onChange={(e) => set(key, p.qty, 0, { serial: e.target.value })}
                    />
                  </div>
                ) : (
                  <div className="space-y-1">
                    {lines.map((l, i) => (
                      <div key={i} className="flex gap-2">
                        <Field label="Lot" value={l.lot} onChange={(e) => set(key, p.qty, i, { lot: e.target.value })} />
                        {needsExpiry(tracking) && (
                          <Field
                            label="Expires"
                            type="date"
                            value={l.expires}
                            onChange={(e) => set(key, p.qty, i, { expires: e.target.value })}
                          />
                        )}
                        <Field label="How many" value={l.qty} onChange={(e) => set(key, p.qty, i, { qty: e.target.value })} />
                      </div>
                    ))}
                  </div>
                )}
                {!serial && (
                  <Button
                    onClick={() =>
                      setNamed({
                        ...named,
                        [key]: [...lines, { lot: '', expires: '', qty: rest > 0 ? formatQty(rest as Qty) : '', serial: '' }],
                      })
                    }
                  >
                    Another lot
                  </Button>
                )}
                {rest !== 0 && (
                  <span className="font-semibold text-wrong">
                    {rest > 0 ? `${formatQty(rest as Qty)} have no name yet` : `${formatQty(Math.abs(rest) as Qty)} too many`}
                  </span>
                )}
              </fieldset>
            );
          })}
        </>
      )}
      {!wantsNames && tracking !== item.tracking && equation?.bins.some((b) => b.lot ?? b.serial) && (
        <p className="font-semibold">The lots or serials of what is there are no longer told apart. The ledger keeps what they were.</p>
      )}
      <Trouble error={change.error} />
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={tracking === item.tracking || change.isPending}>
          Track it {WORDS[tracking]}
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
