import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Item } from '#contract/items';
import { Button, Field, Select, Trouble, useRead, useSend } from '#web/base';

/** Changes the record of an item, own fields included. */
export function RecordForm({ item, onDone }: { item: Item; onDone: () => void }) {
  const { data: own } = useRead('items.ownFields', {});
  const [form, setForm] = useState({
    description: item.description,
    group: item.group,
    decimals: String(item.decimals),
    shelfLifeMonths: String(item.shelfLifeMonths ?? ''),
    storageClass: item.storageClass,
    weightGrams: String(item.weightGrams),
    litres: String(item.volumeMl / 1000),
    countClass: item.countClass,
    note: item.note,
  });
  const [fields, setFields] = useState<Record<string, string>>(item.own);
  const save = useSend('items.change', {
    quiet: true,
    onDone: () => {
      toast.success('The record is changed.');
      onDone();
    },
  });
  const field = (name: keyof typeof form, label: string) => (
    <Field label={label} value={form[name]} onChange={(e) => setForm({ ...form, [name]: e.target.value })} />
  );
  return (
    <form
      className="mt-3 space-y-3 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({
          params: { id: item.id },
          body: {
            description: form.description,
            group: form.group,
            decimals: Number(form.decimals),
            shelfLifeMonths: form.shelfLifeMonths === '' ? null : Number(form.shelfLifeMonths),
            storageClass: form.storageClass,
            weightGrams: Number(form.weightGrams),
            volumeMl: Math.round(Number(form.litres) * 1000),
            countClass: form.countClass,
            note: form.note,
            own: Object.fromEntries(Object.entries(fields).filter(([, v]) => v !== '')),
          },
        });
      }}
    >
      <div className="grid grid-cols-4 gap-3">
        <div className="col-span-2">{field('description', 'Description')}</div>
        {field('group', 'Group')}
        {field('storageClass', 'Storage class')}
        {field('decimals', 'Decimals (0 to 3)')}
        {field('weightGrams', 'Weight of one in g')}
        {field('litres', 'Room of one in litres')}
        {field('shelfLifeMonths', 'Shelf life in months')}
        {field('countClass', 'Count class')}
        <div className="col-span-3">{field('note', 'Note')}</div>
        {own?.fields
          .filter((f) => !f.retired)
          .map((f) =>
            f.kind === 'choice' ? (
              <Select
                key={f.id}
                label={f.label}
                value={fields[f.label] ?? ''}
                onChange={(e) => setFields({ ...fields, [f.label]: e.target.value })}
                options={[['', ''], ...f.choices.map((c) => [c, c] as const)]}
              />
            ) : (
              <Field
                key={f.id}
                label={f.label}
                type={f.kind === 'date' ? 'date' : 'text'}
                inputMode={f.kind === 'number' ? 'decimal' : 'text'}
                value={fields[f.label] ?? ''}
                onChange={(e) => setFields({ ...fields, [f.label]: e.target.value })}
              />
            ),
          )}
      </div>
      <Trouble error={save.error} />
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={save.isPending}>
          Keep the record
        </Button>
        <Button onClick={onDone}>Leave it</Button>
      </div>
    </form>
  );
}

/** A new item like this one. */
export function CopyItem({ item }: { item: Item }) {
  const go = useNavigate();
  const [form, setForm] = useState({ code: `${item.code}-2`, description: item.description });
  const copy = useSend('items.copy', { quiet: true, onDone: (made) => void go(`/items/${made.id}`) });
  return (
    <form
      className="mt-3 flex items-end gap-3 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        copy.mutate({ params: { id: item.id }, body: form });
      }}
    >
      <div className="w-40">
        <Field
          label="Code of the new item"
          value={form.code}
          onChange={(e) => setForm({ ...form, code: e.target.value })}
          problem={copy.error?.message}
        />
      </div>
      <div className="flex-1">
        <Field label="Description" value={form.description} onChange={(e) => setForm({ ...form, description: e.target.value })} />
      </div>
      <Button look="next" type="submit" disabled={copy.isPending}>
        Make the copy
      </Button>
      <p className="max-w-60 pb-1 text-sm text-soft">
        Packs, suppliers, parts and facts are copied; barcodes, stock, homes and files are not.
      </p>
    </form>
  );
}
