import { useState } from 'react';
import type { Choice } from '#contract/desk';
import type { EntryOut } from '#contract/receiving';
import { Button, Field, Trouble, useSend } from '#web/base';
import { ChoiceField } from '#web/forms';

/** Says into which bin goods go that arrived (C10), all or so many of an entry; the rest stays as it is. */
export function PlaceEntry({ delivery, entry, onDone }: { delivery: number; entry: EntryOut; onDone: () => void }) {
  const [qty, setQty] = useState(entry.qty);
  const place = useSend('receiving.place', { quiet: true, onDone });
  const put = (bin: number | null): void =>
    place.mutate({ params: { id: delivery, entry: entry.id }, body: { bin, qty: qty.replace(',', '.') } });
  return (
    <div className="my-2 w-full space-y-2 border-2 border-ink p-3" role="group" aria-label={`Where ${entry.code} goes`}>
      <div className="flex flex-wrap items-end gap-2">
        {!entry.serial && (
          <div className="w-28">
            <Field label={`How many, of ${entry.qty}`} inputMode="decimal" value={qty} onChange={(e) => setQty(e.target.value)} />
          </div>
        )}
        <div className="w-56">
          <ChoiceField kind="bin" label="Into the bin" value={null} onChange={(bin: Choice | null) => bin && put(bin.id)} autoFocus />
        </div>
        {entry.goesTo && <Button onClick={() => put(null)}>Leave them at arrivals</Button>}
        <Button look="quiet" onClick={onDone}>
          Close
        </Button>
      </div>
      <Trouble error={place.error} />
    </div>
  );
}
