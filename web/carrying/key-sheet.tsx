import { useState } from 'react';
import { toast } from 'sonner';
import { formatQty, parseQty, subQty, ZERO, type Qty } from '#core/base';
import { shortSscc } from '#core/floor';
import type { Carry, CarryTaskOut } from '#contract/carrying';
import { Button, counted, Field, Plate, Trouble, useKeptSheet, useSend } from '#web/base';
import { Select, useNextField } from '#web/forms';
import { serialsOf, WHY_FEWER, type WhyFewer } from '#web/picking';

type Keyed = { readonly put: string; readonly to: string; readonly serials: string; readonly why: WhyFewer };
const openOf = (t: CarryTaskOut): Qty => {
  const [wanted, put] = [parseQty(t.qty), parseQty(t.put)];
  return wanted.ok && put.ok ? subQty(wanted.value, put.value) : ZERO;
};
const asksSerials = (t: CarryTaskOut): boolean => t.tracking === 'serial' && t.serial === null && t.sscc === null;

/** Keys what somebody wrote on the sheet of a put-away or refill round (I2): all went where it was planned, until one says otherwise. */
export function KeyCarrySheet({ carry, isLead, onDone }: { carry: Carry; isLead: boolean; onDone: () => void }) {
  const tasks = carry.tasks.filter((t) => openOf(t) > 0);
  const [keyed, keep, forget] = useKeptSheet<Keyed>(`sheet.carry.${carry.id}`);
  const [override, setOverride] = useState('');
  const fields = useNextField();
  const of = (t: CarryTaskOut): Keyed => keyed[t.id] ?? { put: formatQty(openOf(t)), to: t.to, serials: '', why: 'short' };
  const set = (t: CarryTaskOut, part: Partial<Keyed>): void => keep(t.id, { ...of(t), ...part });
  const post = useSend('carrying.keySheet', {
    quiet: true,
    onDone: (r) => {
      const short = r.short > 0 ? ` ${counted(r.short, 'line was', 'lines were')} short; their bins are to be counted.` : '';
      toast.success(`${carry.number}: ${r.pieces} pieces have their place.${short}`);
      forget();
      onDone();
    },
  });
  const faultOf = (t: CarryTaskOut): string | null => {
    const { put, to, serials } = of(t);
    const read = parseQty(put.replace(',', '.'), t.decimals);
    if (!read.ok || read.value < 0) return 'Key how many were put there, 0 for none.';
    if (read.value > openOf(t)) return `At most ${formatQty(openOf(t))}.`;
    if (to.trim() === '') return 'Key the bin where it lies.';
    const many = serialsOf(serials).length;
    return asksSerials(t) && String(many) !== formatQty(read.value) ? `${many} of ${formatQty(read.value)} serials.` : null;
  };
  const wrong = tasks.find((t) => faultOf(t) !== null);
  return (
    <form
      {...fields}
      aria-label="The sheet"
      className="my-3 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        const lines = tasks.map((t) => {
          const { put, to, serials, why } = of(t);
          return { task: t.id, put: put.replace(',', '.'), to, serials: asksSerials(t) ? serialsOf(serials) : [], why };
        });
        post.mutate({ params: { id: carry.id }, body: { lines, override } });
      }}
    >
      <p className="mb-2 text-soft">As on the sheet, from top to bottom: how many, and where they really lie. Enter goes to the next.</p>
      <ol>
        {tasks.map((t) => {
          const { put, to, serials, why } = of(t);
          const fault = faultOf(t);
          const fewer = fault === null && put !== formatQty(openOf(t));
          return (
            <li key={t.id} className="flex flex-wrap items-center gap-3 border-b border-line py-1.5">
              <span className="w-28">
                <Plate address={t.to} />
              </span>
              <span className="min-w-0 flex-1">
                <span className="code text-lg">{t.sscc === null ? t.code : `Unit ${shortSscc(t.sscc)}`}</span> {t.description}
                <span className="block text-sm text-soft">
                  {[t.lot && `lot ${t.lot}`, t.serial && `serial ${t.serial}`, `from ${t.from}`].filter(Boolean).join(', ')}
                </span>
              </span>
              {asksSerials(t) && (
                <div className="w-48">
                  <Field
                    hideLabel
                    label={`Serials of ${t.code}`}
                    placeholder="serials"
                    value={serials}
                    onChange={(e) => set(t, { serials: e.target.value })}
                  />
                </div>
              )}
              {fewer && (
                <Select
                  hideLabel
                  label={`Why fewer ${t.code}`}
                  className="w-40"
                  value={why}
                  options={WHY_FEWER}
                  onChange={(w) => set(t, { why: w })}
                />
              )}
              <span className="flex items-baseline gap-1">
                <input
                  aria-label={`Put of ${t.code} into ${t.to}`}
                  aria-invalid={fault !== null}
                  inputMode="decimal"
                  className={`w-20 rounded border-2 bg-sheet px-1 text-right text-lg font-bold ${fault ? 'border-wrong' : 'border-line'}`}
                  value={put}
                  onFocus={(e) => e.target.select()}
                  onChange={(e) => set(t, { put: e.target.value })}
                />
                <span className="w-20 text-sm text-soft">
                  of {formatQty(openOf(t))} {t.unit}
                </span>
              </span>
              <div className="w-32">
                <Field code hideLabel label={`Where ${t.code} lies`} value={to} onChange={(e) => set(t, { to: e.target.value })} />
              </div>
              {fault && <span className="w-full text-right text-sm font-semibold text-wrong">{fault}</span>}
            </li>
          );
        })}
      </ol>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        {isLead && (
          <div className="w-72">
            <Field label="Where a bin’s rule is broken: why" value={override} onChange={(e) => setOverride(e.target.value)} />
          </div>
        )}
        <Button type="submit" look="next" disabled={wrong !== undefined || tasks.length === 0 || post.isPending}>
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
