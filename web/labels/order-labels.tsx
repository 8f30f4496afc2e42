import { useState } from 'react';
import { Select } from '#web/forms';
import { LabelPanel } from './label-panel.tsx';

const OF_WHAT = [
  ['order', 'the order'],
  ['parcels', 'its parcels'],
  ['goods', 'the goods that were picked for it'],
] as const;
type OfWhat = (typeof OF_WHAT)[number][0];

/** Labels of an order, of its parcels, or of each piece in it: what goes to another site arrives labelled. */
export function OrderLabels({ order, number, begins, onDone }: { order: number; number: string; begins: OfWhat; onDone: () => void }) {
  const [what, setWhat] = useState(begins);
  return (
    <LabelPanel of={number} wanted={{ kind: what, order }} onDone={onDone}>
      <Select label="Of what" value={what} options={OF_WHAT} onChange={(of) => setWhat(of as OfWhat)} />
    </LabelPanel>
  );
}
