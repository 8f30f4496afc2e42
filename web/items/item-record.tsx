import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Item } from '#contract/items';
import type { ReplyOf, Routes } from '#contract';
import { Button, Field, read, Trouble, Unsaved, useRead, useSend } from '#web/base';
import { DateField, Select, useSharedForm } from '#web/forms';

type OwnField = ReplyOf<Routes['items.ownFields']>['fields'][number];
type RecordFields = Readonly<Record<string, string>>;

const LABELS: RecordFields = {
  description: 'Description',
  group: 'Group',
  storageClass: 'Storage class',
  decimals: 'Decimals (0 to 3)',
  weightGrams: 'Weight of one in g',
  litres: 'Room of one in litres',
  shelfLifeMonths: 'Shelf life in months',
  countClass: 'Count class',
  note: 'Note',
};
// Named by number: the words of a field may hold anything, a dot too.
const ownKey = (field: OwnField): string => `own${field.id}`;

function fieldsOf(item: Item, own: readonly OwnField[]): RecordFields {
  return {
    description: item.description,
    group: item.group,
    decimals: String(item.decimals),
    shelfLifeMonths: String(item.shelfLifeMonths ?? ''),
    storageClass: item.storageClass,
    weightGrams: String(item.weightGrams),
    litres: String(item.volumeMl / 1000),
    countClass: item.countClass,
    note: item.note,
    ...Object.fromEntries(own.map((f) => [ownKey(f), item.own[f.label] ?? ''])),
  };
}

/** Changes the record of an item, own fields included. */
export function RecordForm({ item, onDone }: { item: Item; onDone: () => void }) {
  const { data: own } = useRead('items.ownFields', {});
  return own ? <RecordFieldsForm item={item} own={own.fields.filter((f) => !f.retired)} onDone={onDone} /> : null;
}

function RecordFieldsForm({ item, own, onDone }: { item: Item; own: readonly OwnField[]; onDone: () => void }) {
  const labels = { ...LABELS, ...Object.fromEntries(own.map((f) => [ownKey(f), f.label])) };
  const form = useSharedForm<'items.change', RecordFields>('items.change', {
    first: fieldsOf(item, own),
    version: item.version,
    labels,
    input: (values, version) => {
      const text = (name: string): string => values[name] ?? '';
      return {
        params: { id: item.id },
        body: {
          description: text('description'),
          group: text('group'),
          decimals: Number(text('decimals')),
          shelfLifeMonths: text('shelfLifeMonths') === '' ? null : Number(text('shelfLifeMonths')),
          storageClass: text('storageClass'),
          weightGrams: Number(text('weightGrams')),
          volumeMl: Math.round(Number(text('litres')) * 1000),
          countClass: text('countClass'),
          note: text('note'),
          own: Object.fromEntries(own.map((f) => [f.label, text(ownKey(f))]).filter(([, v]) => v !== '')),
          version,
        },
      };
    },
    at: { volumeMl: 'litres', 'items.decimalsTooFew': 'decimals', ...Object.fromEntries(own.map((f) => [`own.${f.label}`, ownKey(f)])) },
    meanwhile: 'items.changedMeanwhile',
    readAgain: async () => {
      const theirs = await read('items.item', { params: { id: item.id } });
      return { values: fieldsOf(theirs, own), version: theirs.version };
    },
    onDone: () => toast.success('The record is changed.'),
  });
  const { isSent } = form;
  useEffect(() => {
    if (isSent) onDone();
  }, [isSent, onDone]);
  const field = (name: string) => <Field label={labels[name] ?? name} {...form.field(name)} />;
  return (
    <form className="mt-3 space-y-3 border-2 border-ink p-3" noValidate onSubmit={form.submit}>
      <Unsaved when={form.isChanged && !isSent} what="The record" />
      <div className="grid grid-cols-4 gap-3">
        <div className="col-span-2">{field('description')}</div>
        {field('group')}
        {field('storageClass')}
        {field('decimals')}
        {field('weightGrams')}
        {field('litres')}
        {field('shelfLifeMonths')}
        {field('countClass')}
        <div className="col-span-3">{field('note')}</div>
        {own.map((f) => {
          const key = ownKey(f);
          if (f.kind === 'choice')
            return (
              <Select key={f.id} label={f.label} {...form.chosen(key)} options={[['', ''], ...f.choices.map((c) => [c, c] as const)]} />
            );
          if (f.kind === 'date') return <DateField key={f.id} label={f.label} {...form.chosen(key)} value={form.values[key] ?? ''} />;
          return <Field key={f.id} label={f.label} inputMode={f.kind === 'number' ? 'decimal' : 'text'} {...form.field(key)} />;
        })}
      </div>
      {form.panel ?? <Trouble error={form.trouble} />}
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={form.isSending || form.isUndecided}>
          Save
        </Button>
        <Button onClick={onDone}>Cancel</Button>
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
