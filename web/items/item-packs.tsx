import { useState } from 'react';
import type { Item, Pack } from '#contract/items';
import { Button, Field, Select, useSend } from '#web/base';

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
                      aria-label={`Take barcode ${code} away`}
                      onClick={() => remove.mutate({ params: { id: item.id }, body: { code } })}
                    >
                      take away
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
  const [form, setForm] = useState({
    name: pack?.name ?? '',
    units: pack?.units ?? '',
    lengthMm: String(pack?.lengthMm ?? ''),
    widthMm: String(pack?.widthMm ?? ''),
    heightMm: String(pack?.heightMm ?? ''),
    weightG: String(pack?.weightG ?? ''),
  });
  const save = useSend('items.savePack', { quiet: true, onDone });
  const field = (name: keyof typeof form, label: string) => (
    <Field label={label} value={form[name]} inputMode="decimal" onChange={(e) => setForm({ ...form, [name]: e.target.value })} />
  );
  return (
    <form
      className="mt-2 space-y-2 border-2 border-ink p-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({
          params: { id: item },
          body: {
            ...(pack ? { pack: pack.id } : {}),
            name: form.name,
            units: form.units,
            lengthMm: numberOf(form.lengthMm),
            widthMm: numberOf(form.widthMm),
            heightMm: numberOf(form.heightMm),
            weightG: numberOf(form.weightG),
          },
        });
      }}
    >
      <div className="grid grid-cols-2 gap-2">
        {field('name', 'Name, such as case')}
        {field('units', 'Holds how many')}
        {field('lengthMm', 'Length mm')}
        {field('widthMm', 'Width mm')}
        {field('heightMm', 'Height mm')}
        {field('weightG', 'Weight g')}
      </div>
      {save.error && <p className="text-sm font-semibold text-wrong">{save.error.message}</p>}
      <div className="flex gap-2">
        <Button look="next" type="submit">
          Keep the pack
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
      <Select
        label="Pack"
        hideLabel
        value={pack}
        onChange={(e) => setPack(Number(e.target.value))}
        options={packs.map((p) => [p.id, p.name])}
      />
      <Button type="submit" disabled={!code}>
        Tie
      </Button>
    </form>
  );
}
