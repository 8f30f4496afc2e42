import { useState } from 'react';
import { toast } from 'sonner';
import type { Round } from '#contract/picking';
import { formatQty, parseQty, subQty, ZERO, type Qty } from '#core/base';
import { Button, counted, Field, Plate, Trouble, useKeptSheet, useSend } from '#web/base';
import { Select, useNextField } from '#web/forms';

type Pick = Round['stopList'][number]['picks'][number];
export type WhyFewer = 'short' | 'damaged' | 'notFound';
type Keyed = { readonly taken: string; readonly serials: string; readonly why: WhyFewer };
/** Why fewer came than the sheet says. */
export const WHY_FEWER = [
  ['short', 'fewer lay there'],
  ['damaged', 'damaged'],
  ['notFound', 'not found'],
] as const;

const openOf = (p: Pick): Qty => {
  const [wanted, picked] = [parseQty(p.qty), parseQty(p.picked)];
  return wanted.ok && picked.ok ? subQty(wanted.value, picked.value) : ZERO;
};
/** Serials as they are keyed, one after the other. */
export const serialsOf = (text: string): string[] => text.split(/[\s,;]+/).filter((s) => s !== '');
const needsSerials = (p: Pick): boolean => p.tracking.startsWith('serial');

/** Keys what somebody wrote on a pick sheet, in the order of the sheet (G12): all was taken, until one says otherwise. */
export function KeySheet({ round, onDone }: { round: Round; onDone: () => void }) {
  const stops = round.stopList.map((s) => ({ ...s, picks: s.picks.filter((p) => openOf(p) > 0) })).filter((s) => s.picks.length > 0);
  const picks = stops.flatMap((s) => s.picks);
  const [keyed, keep, forget] = useKeptSheet<Keyed>(`sheet.round.${round.id}`);
  const [bench, setBench] = useState(round.packingBin ?? '');
  const fields = useNextField();
  const of = (p: Pick): Keyed => keyed[p.id] ?? { taken: formatQty(openOf(p)), serials: '', why: 'short' };
  const set = (p: Pick, part: Partial<Keyed>): void => keep(p.id, { ...of(p), ...part });
  const post = useSend('picking.keySheet', {
    quiet: true,
    onDone: (r) => {
      const short = r.short > 0 ? ` ${counted(r.short, 'pick was', 'picks were')} short; their bins are to be counted.` : '';
      toast.success(`${round.number}: ${r.pieces} pieces lie at ${r.bin}.${short}`);
      forget();
      onDone();
    },
  });
  const faultOf = (p: Pick): string | null => {
    const { taken, serials } = of(p);
    const read = parseQty(taken.replace(',', '.'), p.decimals);
    if (!read.ok || read.value < 0) return 'Key how many were taken, 0 for none.';
    if (read.value > openOf(p)) return `At most ${formatQty(openOf(p))}.`;
    const many = serialsOf(serials).length;
    return needsSerials(p) && String(many) !== formatQty(read.value) ? `${many} of ${formatQty(read.value)} serials.` : null;
  };
  const wrong = picks.find((p) => faultOf(p) !== null);
  return (
    <form
      {...fields}
      aria-label="The sheet"
      className="my-3 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        const lines = picks.map((p) => {
          const { taken, serials, why } = of(p);
          return { pick: p.id, taken: taken.replace(',', '.'), serials: needsSerials(p) ? serialsOf(serials) : [], why };
        });
        post.mutate({ params: { id: round.id }, body: { bench, lines } });
      }}
    >
      <p className="mb-2 text-soft">As on the sheet, from top to bottom. Enter goes to the next.</p>
      <ol>
        {stops.map((s) =>
          s.picks.map((p, n) => {
            const { taken, serials, why } = of(p);
            const fault = faultOf(p);
            const fewer = fault === null && taken !== formatQty(openOf(p));
            return (
              <li key={p.id} className="flex flex-wrap items-center gap-3 border-b border-line py-1.5">
                <span className="w-28">{n === 0 && <Plate address={s.address} />}</span>
                <span className="min-w-0 flex-1">
                  <span className="code text-lg">{p.code}</span> {p.description}
                  <span className="block text-sm text-soft">
                    {p.lot && `lot ${p.lot} · `}
                    {p.order}, slot {p.slot}
                  </span>
                </span>
                {needsSerials(p) && (
                  <div className="w-56">
                    <Field
                      hideLabel
                      label={`Serials of ${p.code}`}
                      placeholder="serials"
                      value={serials}
                      onChange={(e) => set(p, { serials: e.target.value })}
                    />
                  </div>
                )}
                {fewer && (
                  <Select
                    hideLabel
                    label={`Why fewer ${p.code}`}
                    className="w-40"
                    value={why}
                    options={WHY_FEWER}
                    onChange={(w) => set(p, { why: w })}
                  />
                )}
                <span className="flex items-baseline gap-1">
                  <input
                    aria-label={`Taken of ${p.code} for ${p.order}`}
                    aria-invalid={fault !== null}
                    inputMode="decimal"
                    className={`w-20 rounded border-2 bg-sheet px-1 text-right text-lg font-bold ${fault ? 'border-wrong' : 'border-line'}`}
                    value={taken}
                    onFocus={(e) => e.target.select()}
                    onChange={(e) => set(p, { taken: e.target.value })}
                  />
                  <span className="w-24 text-sm text-soft">
                    of {formatQty(openOf(p))} {p.unit}
                  </span>
                </span>
                {fault && <span className="w-full text-right text-sm font-semibold text-wrong">{fault}</span>}
              </li>
            );
          }),
        )}
      </ol>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        <div className="w-44">
          <Field code label="It lies at the bench" value={bench} onChange={(e) => setBench(e.target.value)} />
        </div>
        <Button type="submit" look="next" disabled={wrong !== undefined || bench.trim() === '' || post.isPending}>
          Post the sheet
        </Button>
        <Button look="quiet" onClick={onDone}>
          Not now
        </Button>
      </div>
      <Trouble error={post.error} />
    </form>
  );
}
