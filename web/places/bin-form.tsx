import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { BinPage } from '#contract/places';
import { Button, Field, Select, Tick, Trouble, useSend } from '#web/base';

/** The rules of a bin in words. */
export function ruleWords(bin: BinPage): string[] {
  const r = bin.rules;
  return [
    r.oneItem && 'one item only',
    r.oneLot && 'one lot only',
    r.storageClass && `${r.storageClass} goods only`,
    r.units && `room for ${r.units}`,
    r.litres && `${r.litres} litres`,
    r.kilograms && `bears ${r.kilograms} kg`,
    bin.arrow && `arrow ${bin.arrow}`,
  ].filter((w): w is string => Boolean(w));
}

/** Changes a bin: its name, its old name, its rules; or retires it, or brings it back. */
export function BinForm({ bin, onDone }: { bin: BinPage; onDone: () => void }) {
  const [form, setForm] = useState({
    address: bin.address,
    alias: bin.alias ?? '',
    oneItem: bin.rules.oneItem,
    oneLot: bin.rules.oneLot,
    storageClass: bin.rules.storageClass ?? '',
    units: bin.rules.units ?? '',
    litres: bin.rules.litres ?? '',
    kilograms: bin.rules.kilograms ?? '',
    arrow: bin.arrow ?? '',
  });
  const change = useSend('places.changeBin', {
    quiet: true,
    onDone: () => {
      toast.success('The bin is changed.');
      onDone();
    },
  });
  const retire = useSend('places.retireBins', { onDone });
  const restore = useSend('places.restoreBin', { onDone });
  const text = (name: 'address' | 'alias' | 'storageClass' | 'units' | 'litres' | 'kilograms', label: string) => (
    <Field label={label} value={form[name]} onChange={(e) => setForm({ ...form, [name]: e.target.value })} />
  );
  return (
    <form
      className="mb-4 space-y-3 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        change.mutate({
          params: { id: bin.id },
          body: {
            ...form,
            units: form.units || null,
            litres: form.litres || null,
            kilograms: form.kilograms || null,
            arrow: (form.arrow || null) as 'up' | 'down' | null,
          },
        });
      }}
    >
      <div className="grid grid-cols-3 gap-3">
        {text('address', 'Address')}
        {text('alias', 'Old name, which still scans')}
        <Select
          label="Arrow on the label"
          value={form.arrow}
          onChange={(e) => setForm({ ...form, arrow: e.target.value as 'up' })}
          options={[
            ['', 'none'],
            ['up', 'up: the shelf above the beam'],
            ['down', 'down: the shelf below it'],
          ]}
        />
        {text('units', 'Room in units')}
        {text('litres', 'Room in litres')}
        {text('kilograms', 'Bears in kg')}
        {text('storageClass', 'Storage class, such as dry')}
        <Tick label="one item only" checked={form.oneItem} onChange={(e) => setForm({ ...form, oneItem: e.target.checked })} />
        <Tick label="one lot only" checked={form.oneLot} onChange={(e) => setForm({ ...form, oneLot: e.target.checked })} />
      </div>
      {form.address !== bin.address && (
        <p className="text-soft">
          The label that hangs there goes on scanning: {bin.address} becomes the old name, unless you give another. Print a new one.
        </p>
      )}
      <Trouble error={change.error} />
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={change.isPending}>
          Change the bin
        </Button>
        {bin.retired ? (
          <Button onClick={() => restore.mutate({ params: { id: bin.id } })}>Bring it back</Button>
        ) : (
          <Button look="wrong" onClick={() => retire.mutate({ body: { bins: [bin.id] } })}>
            Retire the bin
          </Button>
        )}
      </div>
    </form>
  );
}

/** Who lives here, with limits; add one, take one away. */
export function Homes({ bin }: { bin: BinPage }) {
  const [form, setForm] = useState({ item: '', role: 'face' as 'face' | 'reserve', min: '', max: '' });
  const assign = useSend('items.assign', { quiet: true, onDone: () => setForm({ item: '', role: form.role, min: '', max: '' }) });
  const remove = useSend('items.unassign');
  return (
    <section className="mt-6">
      <h2 className="mb-1 border-b-2 border-ink font-bold">Lives here</h2>
      {bin.homeOf.length === 0 && <p className="py-1 text-soft">Nobody yet.</p>}
      <ul>
        {bin.homeOf.map((h) => (
          <li key={h.id} className="flex items-center gap-3 border-b border-line py-1">
            <Link to={`/items/${h.id}`} className="min-w-0 flex-1 truncate hover:underline">
              <span className="code text-lg">{h.code}</span> {h.description}
            </Link>
            <span className="text-soft">
              {h.role === 'face' ? 'pick face' : 'reserve'}
              {(h.min ?? h.max) && `, ${h.min ?? 0} to ${h.max ?? 'any'}`}
            </span>
            <Button look="quiet" onClick={() => remove.mutate({ body: { pairs: [{ bin: bin.id, item: h.id }] } })}>
              Unassign
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="mt-2 grid grid-cols-[1fr_8rem_5rem_5rem_auto] items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          assign.mutate({ body: { pairs: [{ bin: bin.address, item: form.item }], role: form.role, min: form.min, max: form.max } });
        }}
      >
        <Field
          label="Item code or barcode"
          value={form.item}
          onChange={(e) => setForm({ ...form, item: e.target.value })}
          problem={assign.error?.message}
        />
        <Select
          label="As"
          value={form.role}
          onChange={(e) => setForm({ ...form, role: e.target.value as 'face' })}
          options={[
            ['face', 'pick face'],
            ['reserve', 'reserve'],
          ]}
        />
        <Field label="Min" value={form.min} onChange={(e) => setForm({ ...form, min: e.target.value })} />
        <Field label="Max" value={form.max} onChange={(e) => setForm({ ...form, max: e.target.value })} />
        <Button type="submit" disabled={!form.item}>
          Assign
        </Button>
      </form>
    </section>
  );
}

/** Holds everything sound in a bin. */
export function HoldBin({ bin }: { bin: number }) {
  const [reason, setReason] = useState('');
  const hold = useSend('stock.hold', {
    quiet: true,
    onDone: (r) => {
      setReason('');
      toast.success(`${r.number}: ${r.qty} are held${r.promisesCut > 0 ? `; ${r.promisesCut} promises gave way` : ''}.`);
    },
  });
  return (
    <form
      className="mt-6 flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        hold.mutate({ body: { bin, reason } });
      }}
    >
      <div className="flex-1">
        <Field
          label="Hold everything in this bin, because"
          value={reason}
          onChange={(e) => setReason(e.target.value)}
          problem={hold.error?.message}
        />
      </div>
      <Button type="submit" disabled={!reason}>
        Hold
      </Button>
    </form>
  );
}
