import { useState } from 'react';
import { Button, Field } from '#web/base';
import { Select } from '#web/forms';
import { qtyFault, type OrderDraft } from './draft.ts';

export const PRIORITIES = [1, 2, 3, 4, 5, 6, 7, 8, 9].map(
  (p) => [p, p === 5 ? '5, as usual' : p < 5 ? `${p}, sooner` : `${p}, later`] as const,
);

/** What an order may say besides its goods: the customer's number, carrier, priority, a note, and lines that are no stock (F8, F10). Closed
 *  until somebody wants it, and open where something stands in it. */
export function MorePanel({ draft, change }: { draft: OrderDraft; change: (by: (was: OrderDraft) => OrderDraft) => void }) {
  const says = [draft.reference, draft.carrier, draft.note, ...draft.extras.map((e) => e.text)].filter(Boolean);
  return (
    <details className="mt-2" open={says.length > 0}>
      <summary className="cursor-pointer py-1 text-soft">Reference, carrier, priority, note, lines that are no stock</summary>
      <div className="grid grid-cols-2 gap-3 py-2">
        <Field
          label="Customer’s own reference"
          maxLength={60}
          value={draft.reference}
          onChange={(e) => change((was) => ({ ...was, reference: e.target.value }))}
        />
        <Field
          label="Carrier"
          maxLength={60}
          value={draft.carrier}
          onChange={(e) => change((was) => ({ ...was, carrier: e.target.value }))}
        />
        <Select
          label="Priority"
          value={draft.priority}
          options={PRIORITIES}
          onChange={(priority) => change((was) => ({ ...was, priority }))}
        />
        <Field label="Note" maxLength={500} value={draft.note} onChange={(e) => change((was) => ({ ...was, note: e.target.value }))} />
      </div>
      <Extras draft={draft} change={change} />
    </details>
  );
}

function Extras({ draft, change }: { draft: OrderDraft; change: (by: (was: OrderDraft) => OrderDraft) => void }) {
  const [text, setText] = useState('');
  const [qty, setQty] = useState('1');
  const fault = qtyFault({ decimals: 3, qty });
  return (
    <>
      <ul>
        {draft.extras.map((e, n) => (
          <li key={n} className="flex items-baseline gap-3 border-b border-line py-1">
            <span className="min-w-0 flex-1 truncate">{e.text}</span>
            <strong>{e.qty}</strong>
            <Button look="quiet" onClick={() => change((was) => ({ ...was, extras: was.extras.filter((_, i) => i !== n) }))}>
              Remove
            </Button>
          </li>
        ))}
      </ul>
      <form
        className="flex items-end gap-2"
        onSubmit={(e) => {
          e.preventDefault();
          if (text.trim() === '' || fault !== null) return;
          change((was) => ({ ...was, extras: [...was.extras, { text: text.trim(), qty }] }));
          setText('');
          setQty('1');
        }}
      >
        <div className="flex-1">
          <Field label="A line that is no stock" maxLength={120} value={text} onChange={(e) => setText(e.target.value)} />
        </div>
        <div className="w-20">
          <Field
            label="Of it"
            inputMode="decimal"
            value={qty}
            problem={text !== '' && fault !== null ? fault : undefined}
            onChange={(e) => setQty(e.target.value)}
          />
        </div>
        <Button type="submit" disabled={text.trim() === '' || fault !== null}>
          Add the line
        </Button>
      </form>
    </>
  );
}
