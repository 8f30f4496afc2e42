import { useState } from 'react';
import { Link } from 'react-router';
import type { Item } from '#contract/items';
import { Button, Field, read, useRead, useSend } from '#web/base';

/** What a kit is made of, and how many could be made now (B12). */
export function Kit({ item, mayChange }: { item: Item; mayChange: boolean }) {
  const { data: kit } = useRead('stock.kit', { params: { id: item.id } }, { enabled: item.parts.length > 0 });
  const [form, setForm] = useState({ code: '', qty: '1' });
  const [problem, setProblem] = useState<string>();
  const save = useSend('items.setParts', { quiet: true, onDone: () => setForm({ code: '', qty: '1' }) });
  const parts = item.parts.map((p) => ({ item: p.item, qty: p.qty }));
  const add = async (): Promise<void> => {
    setProblem(undefined);
    try {
      const found = await read('desk.scan', { query: { code: form.code } });
      if (found.kind !== 'item') return setProblem(`“${form.code}” is no item.`);
      save.mutate({
        params: { id: item.id },
        body: { parts: [...parts.filter((p) => p.item !== found.item), { item: found.item, qty: form.qty }] },
      });
    } catch (error) {
      setProblem((error as Error).message);
    }
  };
  if (item.parts.length === 0 && item.partOf.length === 0 && !mayChange) return null;
  return (
    <div>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Made of</h2>
      {item.parts.length === 0 && <p className="py-1 text-soft">It is no kit.</p>}
      <ul>
        {item.parts.map((p) => (
          <li key={p.item} className="flex items-baseline gap-2 border-b border-line py-1">
            <span className="code w-12 text-right text-lg">{p.qty}</span>
            <Link to={`/items/${p.item}`} className="min-w-0 flex-1 truncate hover:underline">
              <span className="code">{p.code}</span> {p.description}
            </Link>
            {mayChange && (
              <button
                type="button"
                className="text-sm text-soft underline"
                aria-label={`Take ${p.code} out`}
                onClick={() => save.mutate({ params: { id: item.id }, body: { parts: parts.filter((x) => x.item !== p.item) } })}
              >
                take out
              </button>
            )}
          </li>
        ))}
      </ul>
      {kit?.sites.map((s) => (
        <p key={s.site} className="py-1">
          <strong className="code text-2xl">{s.kits}</strong> could be made at {s.site}
          {s.scarcest && <span className="text-soft">; the scarcest part is {s.scarcest}</span>}
        </p>
      ))}
      {item.partOf.length > 0 && (
        <p className="py-1 text-soft">
          Part of{' '}
          {item.partOf.map((k) => (
            <Link key={k.item} to={`/items/${k.item}`} className="mr-2 underline">
              {k.code}
            </Link>
          ))}
        </p>
      )}
      {mayChange && (
        <form
          className="mt-1 flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            void add();
          }}
        >
          <div className="w-20">
            <Field label="How many" value={form.qty} onChange={(e) => setForm({ ...form, qty: e.target.value })} />
          </div>
          <div className="flex-1">
            <Field
              label="Part: code or barcode"
              value={form.code}
              onChange={(e) => setForm({ ...form, code: e.target.value })}
              problem={problem ?? save.error?.message}
            />
          </div>
          <Button type="submit" disabled={!form.code}>
            Add
          </Button>
        </form>
      )}
    </div>
  );
}
