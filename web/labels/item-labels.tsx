import { useDeferredValue, useState } from 'react';
import { needsLot, needsSerialOnArrival, type Tracking } from '#core/items';
import type { LabelForm } from '#core/labels';
import { Button, counted, Field, Trouble, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';
import { rollOptions, usePapers } from './papers.tsx';
import { sayLabelsSent } from './sent.ts';

const FORMS = [
  ['rule', 'as the rule chooses'],
  ['bars', 'bars'],
  ['square', 'a square'],
] as const;
const MOST = 999;

/** Labels of an item, seen before they are printed (D1): the roll, the form of the code, how many, and what they will not say. */
export function ItemLabels({ item, onDone }: { item: { id: number; code: string; tracking: Tracking }; onDone: () => void }) {
  const papers = usePapers();
  const [size, setSize] = useState('');
  const [printer, setPrinter] = useState('');
  const { data: printers } = useRead('labels.printers', {});
  const [form, setForm] = useState<LabelForm | 'rule'>('rule');
  const [which, setWhich] = useState({ lot: '', serial: '' });
  const [copies, setCopies] = useState('1');
  const chosen = {
    ...which,
    ...(size === '' ? {} : { size }),
    ...(printer === '' ? {} : { printer: Number(printer) }),
    ...(form === 'rule' ? {} : { form }),
  };
  const asked = useDeferredValue(chosen);
  const { data: label, error } = useRead('labels.preview', { query: { item: item.id, ...asked } }, { keep: true });
  const print = useSend('labels.print', {
    quiet: true,
    onDone: (r) => {
      sayLabelsSent(r);
      onDone();
    },
  });
  const many = Number(copies);
  const fault = Number.isInteger(many) && many >= 1 && many <= MOST ? null : `Key a number from 1 to ${MOST}.`;
  return (
    <form
      aria-label="Labels"
      className="mt-3 flex flex-wrap gap-8 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        print.mutate({ body: { kind: 'item', item: item.id, copies: many, ...chosen } });
      }}
    >
      <figure className="max-w-full">
        {label?.svg ? (
          <img
            alt={`The label of ${item.code} as it will be printed`}
            src={`data:image/svg+xml;utf8,${encodeURIComponent(label.svg)}`}
            style={{ width: `${label.widthMm}mm` }}
            className="max-w-full border border-line bg-white"
          />
        ) : (
          <p className="border border-line bg-white p-6 text-center text-ink">{label ? 'This label cannot be.' : 'is being drawn'}</p>
        )}
        {label && (
          <figcaption className="mt-1 text-sm text-soft">
            {label.widthMm} × {label.heightMm} mm, at its own size{label.printer ? `, from ${label.printer}` : ''}.{' '}
            {label.moduleMm !== null && `The finest ${label.form === 'bars' ? 'bar' : 'square'} is ${label.moduleMm.toFixed(2)} mm.`}
          </figcaption>
        )}
        <ul aria-label="What it does not say">
          {label?.unsaid.map((says) => (
            <li key={says} className="font-semibold text-wrong">
              {says}
            </li>
          ))}
        </ul>
        <Trouble error={error} />
      </figure>
      <div className="w-88 max-w-full space-y-2">
        <Select label="Roll" value={size} options={rollOptions(papers)} onChange={setSize} />
        {(printers?.printers.length ?? 0) > 1 && (
          <Select
            label="Printer"
            value={printer}
            options={[['', 'the one for it'], ...(printers?.printers ?? []).map((p) => [String(p.id), p.name] as const)]}
            onChange={setPrinter}
          />
        )}
        {(label?.forms.length ?? 0) > 1 && <Select label="Code" value={form} options={FORMS} onChange={setForm} />}
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
        {label?.onHand === 0 && which.lot !== '' && <p className="font-semibold text-wrong">None of lot {which.lot} lies here.</p>}
        <div className="flex items-end gap-2">
          <Field
            label="How many"
            className="w-24"
            inputMode="numeric"
            value={copies}
            problem={fault ?? undefined}
            onChange={(e) => setCopies(e.target.value)}
          />
          {label !== undefined && label.onHand >= 1 && label.onHand <= MOST && (
            <Button onClick={() => setCopies(String(label.onHand))}>As many as lie here: {label.onHand}</Button>
          )}
        </div>
        <Trouble error={print.error} />
        <div className="flex gap-2 pt-2">
          <Button look="next" type="submit" disabled={print.isPending || fault !== null || label?.svg === null}>
            Print {fault === null ? counted(many, 'label', 'labels') : ''}
          </Button>
          <Button look="quiet" onClick={onDone}>
            Close
          </Button>
        </div>
      </div>
    </form>
  );
}
