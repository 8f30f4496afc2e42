import { useState } from 'react';
import type { Item, Pack } from '#contract/items';
import { Button, Field, Trouble, useSend } from '#web/base';
import { Select, useCommandForm } from '#web/forms';

/** Packs with their sizes and barcodes (B2, B3). Adding a barcode never replaces one. */
export function Packs({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const [editing, setEditing] = useState<Pack | 'new' | null>(null);
  const remove = useSend('items.removeBarcode');
  return (
    <>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Packs and barcodes</h2>
      <ul>
        {item.packs.map((p) => (
          <li key={p.id} className="border-b border-line py-1">
            <p className="flex items-baseline justify-between gap-2">
              <span>
                <strong>{p.name}</strong> of {p.units} {item.unit}
                <span className="text-sm text-soft">{sizeWords(p)}</span>
              </span>
              {mayChange && (
                <Button look="quiet" onClick={() => setEditing(p)}>
                  Change
                </Button>
              )}
            </p>
            {p.barcodes.length === 0 && <p className="text-sm text-soft">no barcode</p>}
            <ul>
              {p.barcodes.map((code) => (
                <li key={code} className="flex items-baseline justify-between">
                  <span className="code text-lg">{code}</span>
                  {mayChange && (
                    <button
                      type="button"
                      className="text-sm text-soft underline"
                      aria-label={`Remove barcode ${code}`}
                      onClick={() => remove.mutate({ params: { id: item.id }, body: { code } })}
                    >
                      remove
                    </button>
                  )}
                </li>
              ))}
            </ul>
          </li>
        ))}
      </ul>
      {mayChange && editing === null && (
        <Button look="quiet" onClick={() => setEditing('new')}>
          Another pack
        </Button>
      )}
      {editing !== null && (
        <PackForm
          key={editing === 'new' ? 'new' : editing.id}
          item={item.id}
          pack={editing === 'new' ? null : editing}
          onDone={() => setEditing(null)}
        />
      )}
      <TieBarcode item={item.id} packs={item.packs} />
    </>
  );
}

function sizeWords(p: Pack): string {
  const size = p.lengthMm && p.widthMm && p.heightMm ? `, ${p.lengthMm} × ${p.widthMm} × ${p.heightMm} mm` : '';
  return `${size}${p.weightG ? `, ${p.weightG} g` : ''}`;
}

const numberOf = (text: string): number | null => (text === '' ? null : Number(text));

function PackForm({ item, pack, onDone }: { item: number; pack: Pack | null; onDone: () => void }) {
  const form = useCommandForm('items.savePack', {
    first: {
      name: pack?.name ?? '',
      units: pack?.units ?? '',
      lengthMm: String(pack?.lengthMm ?? ''),
      widthMm: String(pack?.widthMm ?? ''),
      heightMm: String(pack?.heightMm ?? ''),
      weightG: String(pack?.weightG ?? ''),
    },
    input: ({ name, units, lengthMm, widthMm, heightMm, weightG }) => ({
      params: { id: item },
      body: {
        ...(pack ? { pack: pack.id } : {}),
        name,
        units,
        lengthMm: numberOf(lengthMm),
        widthMm: numberOf(widthMm),
        heightMm: numberOf(heightMm),
        weightG: numberOf(weightG),
      },
    }),
    at: { 'items.packTaken': 'name' },
    onDone,
  });
  const field = (name: keyof typeof form.values, label: string) => (
    <Field label={label} {...(name === 'name' ? {} : { inputMode: 'decimal' as const })} {...form.field(name)} />
  );
  return (
    <form className="mt-2 space-y-2 border-2 border-ink p-2" noValidate onSubmit={form.submit}>
      <div className="grid grid-cols-2 gap-2">
        {field('name', 'Name, such as case')}
        {field('units', 'Holds how many')}
        {field('lengthMm', 'Length mm')}
        {field('widthMm', 'Width mm')}
        {field('heightMm', 'Height mm')}
        {field('weightG', 'Weight g')}
      </div>
      <Trouble error={form.trouble} />
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={form.isSending}>
          Save the pack
        </Button>
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}

function TieBarcode({ item, packs }: { item: number; packs: readonly { id: number; name: string }[] }) {
  const [code, setCode] = useState('');
  const [pack, setPack] = useState(packs[0]?.id ?? 0);
  const tie = useSend('items.addBarcode', { quiet: true, onDone: () => setCode('') });
  return (
    <form
      className="mt-2 flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        tie.mutate({ params: { id: item }, body: { code, pack } });
      }}
    >
      <div className="flex-1">
        <Field code label="Tie another barcode" value={code} onChange={(e) => setCode(e.target.value)} problem={tie.error?.message} />
      </div>
      <Select label="Pack" hideLabel value={pack} onChange={setPack} options={packs.map((p) => [p.id, p.name])} />
      <Button type="submit" disabled={!code}>
        Tie
      </Button>
    </form>
  );
}
