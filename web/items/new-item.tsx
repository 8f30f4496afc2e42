import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { TRACKINGS, type Tracking } from '#core/items';
import { Button, Field, read, Trouble, Unsaved, useRead, useScanner, useSend } from '#web/base';

const WORDS: Readonly<Record<Tracking, string>> = {
  none: 'not at all',
  lot: 'by lot',
  lotExpiry: 'by lot with expiry',
  serial: 'by serial from arrival',
  serialOut: 'by serial, noted when it ships',
};

/** A new item: as few fields as the job needs. */
export function NewItem() {
  const go = useNavigate();
  const [search] = useSearchParams();
  const [form, setForm] = useState({
    code: '',
    description: '',
    group: '',
    unit: 'each',
    decimals: '0',
    tracking: 'none' as Tracking,
    price: '0',
    barcode: search.get('barcode') ?? '',
  });
  const make = useSend('items.make', { quiet: true, onDone: (item) => void go(`/items/${item.id}?act=opening`) });
  // What is scanned here is the barcode of the new item, wherever the focus is.
  useScanner((code) => setForm((was) => ({ ...was, barcode: code })));
  const { data: known } = useRead('items.search', { query: { limit: 1 } });
  // A new item of a group is kept as the others of it are, until somebody says otherwise (B4).
  const followGroup = async (): Promise<void> => {
    if (!known?.groups.includes(form.group)) return;
    const { items } = await read('items.search', { query: { group: form.group, limit: 1 } });
    const [like] = items;
    if (like) setForm((was) => ({ ...was, tracking: like.tracking, unit: like.unit }));
  };
  const set = (name: keyof typeof form) => (e: { target: { value: string } }) => setForm((was) => ({ ...was, [name]: e.target.value }));
  return (
    <form
      className="max-w-lg space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate({ body: { ...form, decimals: Number(form.decimals), barcode: form.barcode || undefined } });
      }}
    >
      <h1 className="code text-3xl">New item</h1>
      <Unsaved when={form.code + form.description !== '' && !make.isPending && !make.isSuccess} what="The new item" />
      <Field label="Code" code value={form.code} onChange={set('code')} autoFocus required />
      <Field label="Description" value={form.description} onChange={set('description')} required />
      <Field label="Group" value={form.group} onChange={set('group')} onBlur={() => void followGroup()} list="groups" required />
      <datalist id="groups">
        {known?.groups.map((g) => (
          <option key={g} value={g} />
        ))}
      </datalist>
      <div className="grid grid-cols-3 gap-3">
        <Field label="Base unit" value={form.unit} onChange={set('unit')} required />
        <Field label="Decimals (0 to 3)" type="number" min={0} max={3} value={form.decimals} onChange={set('decimals')} />
        <Field label="Sell price" value={form.price} onChange={set('price')} inputMode="decimal" />
      </div>
      <label className="block">
        <span className="block text-sm text-soft">Tracked</span>
        <select className="min-h-9 w-full rounded border-2 border-ink/60 bg-sheet" value={form.tracking} onChange={set('tracking')}>
          {TRACKINGS.map((t) => (
            <option key={t} value={t}>
              {WORDS[t]}
            </option>
          ))}
        </select>
      </label>
      <Field code label="Barcode of one (may follow later)" value={form.barcode} onChange={set('barcode')} />
      <Trouble error={make.error} />
      <Button look="next" type="submit" disabled={make.isPending}>
        Make the item
      </Button>
    </form>
  );
}
