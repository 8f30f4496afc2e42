import { useState } from 'react';
import { toast } from 'sonner';
import { needsExpiry, needsLot, needsSerialOnArrival } from '#core/items';
import type { Choice } from '#contract/desk';
import type { Item } from '#contract/items';
import { Button, Field, Trouble, useSend } from '#web/base';
import { ChoiceField, DateField, Select } from '#web/forms';

const serialsOf = (text: string): string[] => text.split(/[\s,;]+/).filter(Boolean);

/** Adds to stock or takes from it by saying so (K1): how many, where, why; a lot made on the spot, serials named. */
export function AdjustStock({ item, onDone }: { item: Item; onDone: () => void }) {
  const [way, setWay] = useState<'plus' | 'minus'>('minus');
  const [condition, setCondition] = useState<'sound' | 'failed'>('sound');
  const [bin, setBin] = useState<Choice | null>(null);
  const [form, setForm] = useState({ qty: '', lot: '', expires: '', serials: '', reason: '', reference: '', job: '', day: '', cost: '' });
  const set = (part: Partial<typeof form>): void => setForm((was) => ({ ...was, ...part }));
  const undo = useSend('stock.undo', { onDone: (r) => toast.success(`Undone by ${r.document}.`) });
  const adjust = useSend('stock.adjust', {
    quiet: true,
    onDone: (r) => {
      toast.success(`${r.number}: ${r.qty} ${item.unit} ${way === 'plus' ? 'more' : 'fewer'}.`, {
        action: { label: 'Undo', onClick: () => undo.mutate({ params: { id: r.document }, body: { reason: 'Adjusted by mistake' } }) },
      });
      onDone();
    },
  });
  const serial = needsSerialOnArrival(item.tracking);
  const serials = serial ? serialsOf(form.serials) : [];
  const given = (text: string, name: string): object => (text.trim() === '' ? {} : { [name]: text.trim() });
  return (
    <form
      aria-label="Adjust"
      className="mt-3 space-y-2 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        adjust.mutate({
          params: { id: item.id },
          body: {
            bin: bin?.code ?? '',
            way,
            condition,
            qty: serial ? String(serials.length) : form.qty.replace(',', '.'),
            serials,
            reason: form.reason,
            ...given(form.lot, 'lot'),
            ...given(form.expires, 'expires'),
            ...given(form.reference, 'reference'),
            ...given(form.job, 'job'),
            ...given(form.day, 'day'),
            ...(way === 'plus' ? given(form.cost, 'cost') : {}),
          },
        });
      }}
    >
      <div className="flex flex-wrap items-end gap-2">
        <Select
          label="More or fewer"
          value={way}
          onChange={setWay}
          options={[
            ['minus', 'fewer'],
            ['plus', 'more'],
          ]}
        />
        <div className="w-56">
          <ChoiceField kind="bin" label="Bin" value={bin} onChange={setBin} />
        </div>
        {way === 'minus' && (
          <Select
            label="Of those that"
            value={condition}
            onChange={setCondition}
            options={[
              ['sound', 'are sound'],
              ['failed', 'failed'],
            ]}
          />
        )}
        {serial ? (
          <div className="w-80">
            <Field label="Serials, with spaces between" value={form.serials} onChange={(e) => set({ serials: e.target.value })} />
          </div>
        ) : (
          <div className="w-28">
            <Field label={`How many ${item.unit}`} inputMode="decimal" value={form.qty} onChange={(e) => set({ qty: e.target.value })} />
          </div>
        )}
        {needsLot(item.tracking) && (
          <div className="w-36">
            <Field code label="Lot" value={form.lot} maxLength={40} onChange={(e) => set({ lot: e.target.value })} />
          </div>
        )}
        {needsExpiry(item.tracking) && way === 'plus' && (
          <div className="w-44">
            <DateField label="Expires, of a new lot" value={form.expires} onChange={(expires) => set({ expires })} />
          </div>
        )}
      </div>
      <div className="flex flex-wrap items-end gap-2">
        <div className="w-72">
          <Field label="Why" value={form.reason} maxLength={200} onChange={(e) => set({ reason: e.target.value })} />
        </div>
        <div className="w-40">
          <Field label="Reference" value={form.reference} maxLength={60} onChange={(e) => set({ reference: e.target.value })} />
        </div>
        <div className="w-40">
          <Field label="For the job" value={form.job} maxLength={60} onChange={(e) => set({ job: e.target.value })} />
        </div>
        <div className="w-44">
          <DateField label="Belongs to the day (today)" value={form.day} onChange={(day) => set({ day })} />
        </div>
        {way === 'plus' && (
          <div className="w-32">
            <Field label="Cost of one" inputMode="decimal" value={form.cost} onChange={(e) => set({ cost: e.target.value })} />
          </div>
        )}
      </div>
      <Trouble error={adjust.error} />
      <Button
        look="next"
        type="submit"
        disabled={adjust.isPending || !bin || !form.reason.trim() || (serial ? serials.length === 0 : !form.qty)}
      >
        {way === 'plus' ? 'Add to stock' : 'Take from stock'}
      </Button>
    </form>
  );
}
