import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Choice } from '#contract/desk';
import { Button, Empty, Field, siteToday, Trouble, Unsaved, useSend } from '#web/base';
import { ChoiceField, DateField } from '#web/forms';
import { purchaseLineFault, type PurchaseDraftLine } from './draft.ts';
import { PurchasingFrame } from './frame.tsx';
import { PurchaseLines } from './purchase-lines.tsx';

const DUE_IN_DAYS = 7;

/** A new purchase order; a draft until somebody approves it. */
export function NewPurchase() {
  const go = useNavigate();
  const [supplier, setSupplier] = useState<Choice | null>(null);
  const [due, setDue] = useState(() => siteToday(DUE_IN_DAYS));
  const [note, setNote] = useState('');
  const [lines, setLines] = useState<readonly PurchaseDraftLine[]>([]);
  const make = useSend('purchasing.make', { quiet: true, onDone: (made) => void go(`/purchasing/${made.id}`) });
  const missing =
    supplier === null
      ? 'Choose the supplier first.'
      : due === ''
        ? 'Key when it is due.'
        : lines.length === 0
          ? 'Add an item first.'
          : (lines.map(purchaseLineFault).find((f) => f !== null) ?? null);
  return (
    <PurchasingFrame>
      <Unsaved when={lines.length > 0 && !make.isPending && !make.isSuccess} what="the purchase order" />
      <div className="mb-4 flex flex-wrap items-end gap-3">
        <div className="w-72">
          <ChoiceField kind="supplier" label="Supplier" autoFocus value={supplier} onChange={setSupplier} />
        </div>
        <div className="w-44">
          <DateField label="Due" value={due} onChange={setDue} />
        </div>
        <div className="w-96">
          <Field label="Note to the supplier" value={note} maxLength={500} onChange={(e) => setNote(e.target.value)} />
        </div>
        <Button
          look="next"
          className="ml-auto"
          disabled={missing !== null || make.isPending}
          title={missing ?? ''}
          onClick={() =>
            make.mutate({
              body: {
                supplier: supplier?.id ?? 0,
                due,
                note,
                lines: lines.map((l) => ({ item: l.item, qty: l.qty.replace(',', '.'), ...(l.cost.trim() ? { cost: l.cost } : {}) })),
              },
            })
          }
        >
          Save as a draft
        </Button>
      </div>
      <Trouble error={make.error} />
      {lines.length === 0 && <Empty title="What is ordered?">Scan goods, or name an item below; each scan is one of its pack.</Empty>}
      <PurchaseLines lines={lines} supplier={supplier?.id ?? null} onChange={setLines} />
    </PurchasingFrame>
  );
}
