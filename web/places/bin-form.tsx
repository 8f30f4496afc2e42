import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { Choice } from '#contract/desk';
import type { BinPage } from '#contract/places';
import { Button, Field, read, Tick, Trouble, Unsaved, useRead, useSend } from '#web/base';
import { ChoiceField, Select, ticked, useCommandForm, useSharedForm } from '#web/forms';

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

type BinFields = {
  address: string;
  oldNames: string;
  zone: number;
  walk: string;
  oneItem: boolean;
  oneLot: boolean;
  storageClass: string;
  units: string;
  litres: string;
  kilograms: string;
  arrow: string;
};
const LABELS: Readonly<Record<keyof BinFields, string>> = {
  address: 'Address',
  oldNames: 'Old names, which still scan',
  zone: 'Zone',
  walk: 'Place on the walk',
  oneItem: 'One item only',
  oneLot: 'One lot only',
  storageClass: 'Storage class, such as dry',
  units: 'Room in units',
  litres: 'Room in litres',
  kilograms: 'Bears in kg',
  arrow: 'Arrow on the label',
};

const fieldsOf = (bin: BinPage): BinFields => ({
  address: bin.address,
  oldNames: bin.oldNames.join('; '),
  zone: bin.zoneId,
  walk: String(bin.walk),
  oneItem: bin.rules.oneItem,
  oneLot: bin.rules.oneLot,
  storageClass: bin.rules.storageClass ?? '',
  units: bin.rules.units ?? '',
  litres: bin.rules.litres ?? '',
  kilograms: bin.rules.kilograms ?? '',
  arrow: bin.arrow ?? '',
});

/** Changes a bin: its names, its zone and place on the walk, its rules; or retires it, or brings it back. */
export function BinForm({ bin, onDone }: { bin: BinPage; onDone: () => void }) {
  const { data: sites } = useRead('places.sites', {});
  const form = useSharedForm<'places.changeBin', BinFields>('places.changeBin', {
    first: fieldsOf(bin),
    version: bin.version,
    labels: LABELS,
    input: ({ oldNames, walk, units, litres, kilograms, arrow, ...values }, version) => ({
      params: { id: bin.id },
      body: {
        ...values,
        oldNames: oldNames
          .split(';')
          .map((n) => n.trim())
          .filter(Boolean),
        walk: Number(walk),
        units: units || null,
        litres: litres || null,
        kilograms: kilograms || null,
        arrow: (arrow || null) as 'up' | 'down' | null,
        version,
      },
    }),
    at: { 'places.notABin': 'address', 'places.binTaken': 'address' },
    meanwhile: 'places.changedMeanwhile',
    readAgain: async () => {
      const theirs = await read('places.bin', { params: { id: bin.id } });
      return { values: fieldsOf(theirs), version: theirs.version };
    },
    onDone: ({ broken }) => {
      if (broken.length === 0) toast.success('The bin is changed.');
      else toast.warning(`The bin is changed. What lies there breaks it already: ${broken.map((b) => b.says).join(' ')}`);
    },
  });
  const { isSent } = form;
  useEffect(() => {
    if (isSent) onDone();
  }, [isSent, onDone]);
  const retire = useSend('places.retireBins', { onDone });
  const restore = useSend('places.restoreBin', { onDone });
  const text = (name: 'address' | 'oldNames' | 'storageClass' | 'units' | 'litres' | 'kilograms' | 'walk') => (
    <Field label={LABELS[name]} code={name === 'address' || name === 'oldNames'} {...form.field(name)} />
  );
  const zones = sites?.sites.find((s) => s.zones.some((z) => z.id === bin.zoneId))?.zones ?? [];
  return (
    <form className="mb-4 space-y-3 border-2 border-ink p-3" noValidate onSubmit={form.submit}>
      <Unsaved when={form.isChanged && !isSent} what={`Bin ${bin.address}`} />
      <div className="grid grid-cols-3 gap-3">
        {text('address')}
        {text('oldNames')}
        <Select
          label={LABELS.arrow}
          {...form.chosen('arrow')}
          options={[
            ['', 'none'],
            ['up', 'up: the shelf above the beam'],
            ['down', 'down: the shelf below it'],
          ]}
        />
        <Select label={LABELS.zone} {...form.chosen('zone')} options={zones.map((z) => [z.id, z.name])} />
        {text('walk')}
        {text('storageClass')}
        {text('units')}
        {text('litres')}
        {text('kilograms')}
        <Tick label="one item only" {...ticked(form.field('oneItem'))} />
        <Tick label="one lot only" {...ticked(form.field('oneLot'))} />
      </div>
      {form.values.address !== bin.address && (
        <p className="text-soft">The label that hangs there goes on scanning: {bin.address} becomes an old name. Print a new one.</p>
      )}
      {form.panel ?? <Trouble error={form.trouble} />}
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={form.isSending || form.isUndecided}>
          Save
        </Button>
        <Button onClick={onDone}>Cancel</Button>
        <span className="flex-1" />
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
  const form = useCommandForm('items.assign', {
    first: { item: null as Choice | null, role: 'face' as 'face' | 'reserve', min: '', max: '' },
    input: ({ item, role, min, max }) => ({ body: { pairs: [{ bin: bin.address, item: item?.code ?? '' }], role, min, max } }),
    at: { pairs: 'item', 'places.minOverMax': 'max', 'places.notAHome': 'item', 'items.unknownCode': 'item', 'items.retired': 'item' },
    onDone: (_, { role }) => form.reset({ role }),
  });
  const remove = useSend('items.unassign');
  return (
    <section className="mt-6">
      <h2 className="mb-1 border-b-2 border-ink font-bold">Lives here</h2>
      {bin.homeOf.length === 0 && <p className="py-1 text-soft">Nothing yet.</p>}
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
      <Trouble error={form.trouble} />
      <form className="mt-2 grid grid-cols-[1fr_8rem_5rem_5rem_auto] items-end gap-2" noValidate onSubmit={form.submit}>
        <ChoiceField kind="item" label="Item" {...form.chosen('item')} />
        <Select
          label="As"
          {...form.chosen('role')}
          options={[
            ['face', 'pick face'],
            ['reserve', 'reserve'],
          ]}
        />
        <Field label="Min" inputMode="decimal" {...form.field('min')} />
        <Field label="Max" inputMode="decimal" {...form.field('max')} />
        <Button type="submit" disabled={!form.values.item || form.isSending}>
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
