import { useDeferredValue } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { Tracking } from '#core/items';
import { Button, Field, ItemName, read, Trouble, Unsaved, useRead, useScanner } from '#web/base';
import { Select, SuggestField, useCommandForm } from '#web/forms';
import { TRACKING_OPTIONS } from './tracking-words.ts';

/** A new item: as few fields as the job needs. */
export function NewItem() {
  const go = useNavigate();
  const [search] = useSearchParams();
  const form = useCommandForm('items.make', {
    first: {
      code: '',
      description: '',
      group: '',
      unit: 'each',
      decimals: '0',
      tracking: 'none' as Tracking,
      price: '0',
      barcode: search.get('barcode') ?? '',
    },
    input: ({ barcode, ...values }) => ({ body: { ...values, decimals: Number(values.decimals), ...(barcode ? { barcode } : {}) } }),
    at: { 'items.codeTaken': 'code', 'items.codeIsBarcode': 'code', 'items.barcodeTaken': 'barcode', 'items.barcodeIsCode': 'barcode' },
    onDone: (item) => void go(`/items/${item.id}?act=opening`),
  });
  // What is scanned here is the barcode of the new item, wherever the focus is.
  useScanner((code) => form.set({ barcode: code }));
  const { data: known } = useRead('items.search', { query: { limit: 1 } });
  // A new item of a group is kept as the others of it are, until somebody says otherwise (B4).
  const followGroup = async (group: string): Promise<void> => {
    if (!known?.groups.includes(group)) return;
    const { items } = await read('items.search', { query: { group, limit: 1 } });
    const [like] = items;
    if (like) form.set({ tracking: like.tracking, unit: like.unit });
  };
  return (
    <div className="grid items-start grid-cols-1 gap-10 lg:grid-cols-2">
      <form className="space-y-3" noValidate onSubmit={form.submit}>
        <h1 className="code text-3xl">New item</h1>
        <Unsaved when={form.values.code + form.values.description !== '' && !form.isSending && !form.isSent} what="The new item" />
        <Field label="Code" code {...form.field('code')} autoFocus />
        <Field label="Description" {...form.field('description')} />
        <SuggestField
          label="Group"
          {...form.chosen('group')}
          onChange={(group) => {
            form.set({ group });
            void followGroup(group);
          }}
          known={known?.groups ?? []}
        />
        <div className="grid grid-cols-3 gap-3">
          <Field label="Base unit" {...form.field('unit')} />
          <Field label="Decimals (0 to 3)" {...form.field('decimals')} inputMode="numeric" />
          <Field label="Sell price" {...form.field('price')} inputMode="decimal" />
        </div>
        <Select label="Tracked" {...form.chosen('tracking')} options={TRACKING_OPTIONS} />
        <Field code label="Barcode of one (may follow later)" {...form.field('barcode')} />
        <Trouble error={form.trouble} />
        <Button look="next" type="submit" disabled={form.isSending}>
          Make the item
        </Button>
      </form>
      <Alike text={`${form.values.code} ${form.values.description}`.trim()} group={form.values.group} />
    </div>
  );
}

/** What is there already and may be the same: an item that is made twice is counted twice. */
function Alike({ text, group }: { text: string; group: string }) {
  const words = useDeferredValue(text);
  const { data } = useRead(
    'items.search',
    { query: words ? { q: words, limit: 8 } : { group, limit: 8 } },
    { enabled: words + group !== '', keep: true },
  );
  if (!data || data.items.length === 0 || words + group === '') return null;
  return (
    <section aria-label="Known already" className="border-l-4 border-ink pl-4">
      <h2 className="mb-1 border-b-2 border-ink font-bold">{words ? 'Is it one of these?' : `Others in ${group}`}</h2>
      <ul>
        {data.items.map((i) => (
          <li key={i.id} className="flex items-center gap-3 border-b border-line py-1">
            <span className="min-w-0 flex-1">
              <ItemName item={i.id} code={i.code} description={i.description} />
            </span>
            <span>
              <strong>{i.onHand}</strong> <span className="text-sm text-soft">{i.unit} on hand</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
