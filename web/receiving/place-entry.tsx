import { useState } from 'react';
import type { Choice } from '#contract/desk';
import type { EntryOut } from '#contract/receiving';
import { PUT_AWAY_WHY } from '#core/moves';
import { Button, Field, Plate, Trouble, useRead, useSend } from '#web/base';
import { ChoiceField } from '#web/forms';

/** Says into which bin goods go that arrived (C10), all or so many of an entry; the rest stays as it is. */
export function PlaceEntry({ delivery, entry, onDone }: { delivery: number; entry: EntryOut; onDone: () => void }) {
  const [qty, setQty] = useState(entry.qty);
  const place = useSend('receiving.place', { quiet: true, onDone });
  const put = (bin: number | null): void =>
    place.mutate({ params: { id: delivery, entry: entry.id }, body: { bin, qty: qty.replace(',', '.') } });
  // A part may fit where the whole does not.
  const asked = /^\d{1,9}([.,]\d{1,3})?$/.test(qty) && Number(qty.replace(',', '.')) > 0 ? qty.replace(',', '.') : entry.qty;
  const { data: best } = useRead('moves.suggest', { query: { item: entry.item, lot: entry.lot ?? '', qty: asked } });
  const suggestion = best?.suggestion ?? null;
  return (
    <div className="my-2 w-full space-y-2 border-2 border-ink p-3" role="group" aria-label={`Where ${entry.code} goes`}>
      {suggestion && suggestion.bin !== entry.goesTo?.bin && (
        <p className="flex flex-wrap items-center gap-2">
          Best into <Plate address={suggestion.address} /> {PUT_AWAY_WHY[suggestion.why]}
          <Button look="next" autoFocus disabled={place.isPending} onClick={() => put(suggestion.bin)}>
            Put {entry.sscc ? 'the whole unit' : 'them'} there
          </Button>
        </p>
      )}
      {best && suggestion === null && <p className="text-soft">No bin has room for all of it: part it over several.</p>}
      <div className="flex flex-wrap items-end gap-2">
        {!entry.serial && !entry.sscc && (
          <div className="w-28">
            <Field label={`How many, of ${entry.qty}`} inputMode="decimal" value={qty} onChange={(e) => setQty(e.target.value)} />
          </div>
        )}
        <div className="w-56">
          <ChoiceField kind="bin" label="Into the bin" value={null} onChange={(bin: Choice | null) => bin && put(bin.id)} />
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
