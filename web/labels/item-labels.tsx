import { useState } from 'react';
import { needsLot, needsSerialOnArrival, type Tracking } from '#core/items';
import { Field } from '#web/base';
import { LabelPanel } from './label-panel.tsx';

/** Labels of an item, of one of its lots or of one of its serials. */
export function ItemLabels({ item, onDone }: { item: { id: number; code: string; tracking: Tracking }; onDone: () => void }) {
  const [which, setWhich] = useState({ lot: '', serial: '' });
  return (
    <LabelPanel of={item.code} wanted={{ kind: 'item', item: item.id, ...which }} copies onDone={onDone}>
      {needsLot(item.tracking) && (
        <Field label="Lot, if it is of one" value={which.lot} onChange={(e) => setWhich((was) => ({ ...was, lot: e.target.value }))} />
      )}
      {needsSerialOnArrival(item.tracking) && (
        <Field
          label="Serial, if it is of one"
          value={which.serial}
          onChange={(e) => setWhich((was) => ({ ...was, serial: e.target.value }))}
        />
      )}
    </LabelPanel>
  );
}
