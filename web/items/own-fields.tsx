import { useState } from 'react';
import type { ReplyOf, Routes } from '#contract';
import { Button, Empty, Field, Tag, Trouble, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';
import { ItemsFrame } from './frame.tsx';

type OwnField = ReplyOf<Routes['items.ownFields']>['fields'][number];
const KINDS = [
  ['text', 'text'],
  ['number', 'number'],
  ['date', 'date'],
  ['choice', 'one of a list'],
] as const;
const choicesOf = (text: string): string[] =>
  text
    .split(',')
    .map((c) => c.trim())
    .filter(Boolean);

/** The company's own fields of items, under its own names. */
export function OwnFields() {
  const { data, error } = useRead('items.ownFields', {});
  const [form, setForm] = useState({ label: '', kind: 'text' as OwnField['kind'], choices: '' });
  const make = useSend('items.makeOwnField', { quiet: true, onDone: () => setForm({ label: '', kind: 'text', choices: '' }) });
  return (
    <ItemsFrame>
      <div className="max-w-3xl space-y-5">
        <Trouble error={error} />
        {data?.fields.length === 0 && (
          <Empty title="No own fields yet.">What only your company notes of an item: a hazard, a customs number, who tested it.</Empty>
        )}
        <ul>
          {data?.fields.map((f) => (
            <FieldRow key={f.id} field={f} />
          ))}
        </ul>
        <form
          className="flex items-end gap-2 border-2 border-line p-3"
          onSubmit={(e) => {
            e.preventDefault();
            make.mutate({ body: { label: form.label, kind: form.kind, choices: choicesOf(form.choices) } });
          }}
        >
          <div className="flex-1">
            <Field
              label="Name of a new field"
              required
              value={form.label}
              onChange={(e) => setForm({ ...form, label: e.target.value })}
              problem={make.error?.message}
            />
          </div>
          <Select label="Takes" value={form.kind} onChange={(v) => setForm({ ...form, kind: v })} options={KINDS} />
          {form.kind === 'choice' && (
            <div className="flex-1">
              <Field
                label="The list, with commas"
                required
                value={form.choices}
                onChange={(e) => setForm({ ...form, choices: e.target.value })}
              />
            </div>
          )}
          <Button type="submit">Make the field</Button>
        </form>
      </div>
    </ItemsFrame>
  );
}

function FieldRow({ field }: { field: OwnField }) {
  const [label, setLabel] = useState(field.label);
  const [choices, setChoices] = useState(field.choices.join(', '));
  const change = useSend('items.changeOwnField');
  const save = (retired: boolean): void =>
    change.mutate({ params: { id: field.id }, body: { label, choices: choicesOf(choices), retired } });
  const touched = label !== field.label || choices !== field.choices.join(', ');
  return (
    <li className="flex items-end gap-3 border-b border-line py-2">
      <div className="w-56">
        <Field label={KINDS.find(([k]) => k === field.kind)?.[1] ?? ''} value={label} onChange={(e) => setLabel(e.target.value)} />
      </div>
      {field.kind === 'choice' && (
        <div className="flex-1">
          <Field label="The list" value={choices} onChange={(e) => setChoices(e.target.value)} />
        </div>
      )}
      {field.retired && <Tag tone="strong">retired</Tag>}
      <span className="ml-auto flex gap-2">
        {touched && <Button onClick={() => save(field.retired)}>Change</Button>}
        <Button look="quiet" onClick={() => save(!field.retired)}>
          {field.retired ? 'Bring back' : 'Retire'}
        </Button>
      </span>
    </li>
  );
}
