import { useState } from 'react';
import { toast } from 'sonner';
import { formatQty, parseQty, subQty, sumQty, ZERO, type Qty } from '#core/base';
import { needsExpiry, needsLot, needsSerialOnArrival, type Tracking } from '#core/items';
import type { Choice } from '#contract/desk';
import type { Item } from '#contract/items';
import { Button, Field, Plate, Trouble, useRead, useSend } from '#web/base';
import { ChoiceField, DateField, Select, useCommandForm } from '#web/forms';
import { TRACKING_OPTIONS, TRACKING_WORDS } from './tracking-words.ts';

type Line = { bin: Choice | null; qty: string; lot: string; expires: string; serials: string };
const EMPTY: Line = { bin: null, qty: '', lot: '', expires: '', serials: '' };
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
              .filter((l) => l.bin !== null)
              .map((l) => ({
                bin: l.bin?.code ?? '',
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
          <div className="w-56">
            <ChoiceField kind="bin" label="Bin (or UNPLACED)" value={line.bin} onChange={(bin) => change(i, { bin })} />
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
          {needsExpiry(item.tracking) && <DateField label="Expires" value={line.expires} onChange={(expires) => change(i, { expires })} />}
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
  const form = useCommandForm('stock.hold', {
    first: { bin: '' as number | '', lot: '', serial: '', qty: '', reason: '', until: '' },
    input: ({ bin, lot, serial, qty, reason, until }) => ({
      body: {
        item: item.id,
        ...(bin ? { bin } : {}),
        ...(lot ? { lot } : {}),
        ...(serial ? { serial } : {}),
        ...(qty ? { qty } : {}),
        ...(until ? { until } : {}),
        reason,
      },
    }),
    onDone: (r) => {
      toast.success(`${r.number}: ${r.qty} are held${r.promisesCut > 0 ? `; ${r.promisesCut} promises gave way` : ''}.`);
      onDone();
    },
  });
  const sound = equation?.bins.filter((b) => b.condition === 'sound') ?? [];
  const unique = (of: (b: (typeof sound)[number]) => string | null): (readonly [string, string])[] =>
    [...new Set(sound.map(of).filter((v): v is string => v !== null))].map((v) => [v, v] as const);
  const bins = new Map(sound.map((b) => [b.bin, b.address]));
  return (
    <form className="mt-3 space-y-2 border-2 border-ink p-3" noValidate onSubmit={form.submit}>
      <div className="flex flex-wrap items-end gap-2">
        <Select
          label="Where"
          {...form.chosen('bin')}
          options={[['', 'everywhere at this site'], ...[...bins].map(([id, a]) => [id, a] as const)]}
        />
        {needsLot(item.tracking) && <Select label="Lot" {...form.chosen('lot')} options={[['', 'every lot'], ...unique((b) => b.lot)]} />}
        {needsSerialOnArrival(item.tracking) ? (
          <Select label="Serial" {...form.chosen('serial')} options={[['', 'every serial'], ...unique((b) => b.serial)]} />
        ) : (
          <div className="w-28">
            <Field label="How many (empty: all)" inputMode="decimal" {...form.field('qty')} />
          </div>
        )}
        <div className="min-w-60 flex-1">
          <Field label="Because" {...form.field('reason')} />
        </div>
        <DateField label="Until (may stay open)" {...form.chosen('until')} />
        <Button look="next" type="submit" disabled={!form.values.reason || form.isSending}>
          Hold
        </Button>
      </div>
      <p className="text-sm text-soft">What is held is neither promised nor picked. What arrives later is not held.</p>
      <Trouble error={form.trouble} />
    </form>
  );
}

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
        r.document
          ? `${r.document}: ${r.lines} lines; tracked ${TRACKING_WORDS[tracking]} from now on.`
          : `Tracked ${TRACKING_WORDS[tracking]} from now on.`,
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
        <Select label="Tracked" value={tracking} onChange={setTracking} options={TRACKING_OPTIONS} />
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
                          <DateField label="Expires" value={l.expires} onChange={(expires) => set(key, p.qty, i, { expires })} />
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
          Track it {TRACKING_WORDS[tracking]}
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}
