import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { ItemRow } from '#contract/items';
import { Button, SearchBox, sound, Trouble, useMe, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';

/** A code that nobody knows: tie it to an item and pack, or look for it in words. Whatever stands on the screen below stays as it is. */
export function UnknownCode({ code, onClose }: { code: string; onClose: () => void }) {
  const go = useNavigate();
  const me = useMe();
  const [q, setQ] = useState('');
  const [item, setItem] = useState<ItemRow | null>(null);
  const words = useDeferredValue(q);
  const { data } = useRead('items.search', { query: { q: words, limit: 8 } }, { enabled: words.length > 1, keep: true });
  return (
    <Dialog open onClose={onClose} className="relative z-50">
      <div className="fixed inset-0 grid place-items-center bg-ink/50 p-4">
        <DialogPanel className="w-[36rem] space-y-3 rounded border-4 border-ink bg-sheet p-4">
          <DialogTitle className="text-lg font-bold">
            Nothing here is known by <span className="code text-xl">{code}</span>.
          </DialogTitle>
          {item ? (
            <TieTo code={code} item={item} onBack={() => setItem(null)} onDone={onClose} />
          ) : (
            <>
              <p>Tie it to an item: it scans as that from now on, beside the codes that the item has.</p>
              <SearchBox
                autoFocus
                label="Item to tie it to"
                className="w-full"
                placeholder="Code or words"
                value={q}
                onChange={(e) => setQ(e.target.value)}
              />
              <ul className="max-h-72 overflow-auto">
                {data?.items.map((i) => (
                  <li key={i.id}>
                    <button
                      type="button"
                      className="w-full border-b border-line py-1.5 text-left hover:bg-shade"
                      onClick={() => setItem(i)}
                    >
                      <span className="code text-lg">{i.code}</span> {i.description}
                    </button>
                  </li>
                ))}
                {words.length > 1 && data?.items.length === 0 && <li className="py-2 text-soft">Nothing is known by “{words}”.</li>}
              </ul>
            </>
          )}
          <div className="flex justify-end gap-2">
            <Button look="quiet" onClick={() => (onClose(), void go(`/items?over=both&q=${encodeURIComponent(code)}`))}>
              Look for it in words
            </Button>
            {me?.me?.role !== 'hand' && (
              <Button look="quiet" onClick={() => (onClose(), void go(`/items/new?barcode=${encodeURIComponent(code)}`))}>
                Make an item of it
              </Button>
            )}
            <Button onClick={onClose}>Cancel</Button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}

function TieTo({ code, item, onBack, onDone }: { code: string; item: ItemRow; onBack: () => void; onDone: () => void }) {
  const { data: record } = useRead('items.item', { params: { id: item.id } });
  const [chosen, setChosen] = useState<number | null>(null);
  const tie = useSend('items.addBarcode', {
    quiet: true,
    onDone: () => {
      sound('right');
      toast.success(`${code} is ${item.code} from now on.`);
      onDone();
    },
  });
  const pack = chosen ?? record?.packs[0]?.id ?? 0;
  return (
    <form
      className="space-y-3"
      onSubmit={(e) => {
        e.preventDefault();
        tie.mutate({ params: { id: item.id }, body: { code, pack } });
      }}
    >
      <p>
        <span className="code text-2xl">{item.code}</span> {item.description}
      </p>
      <Select
        label="The code stands on"
        value={pack}
        onChange={setChosen}
        options={(record?.packs ?? []).map((p) => [p.id, p.units === '1' ? p.name : `${p.name} of ${p.units}`] as const)}
      />
      <Trouble error={tie.error} />
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={tie.isPending || pack === 0}>
          Tie {code} to {item.code}
        </Button>
        <Button onClick={onBack}>Another item</Button>
      </div>
    </form>
  );
}
