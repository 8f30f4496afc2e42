import { useDeferredValue, useState, type ReactNode } from 'react';
import type { LabelForm } from '#core/labels';
import type { BodyIn, Routes } from '#contract';
import { Button, counted, Field, Trouble, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';
import { paperOptions, usePapers } from './papers.tsx';
import { LabelPdf } from './label-pdf.tsx';
import { useIsSheet } from './paper-choice.tsx';
import { sayLabelsSent } from './sent.ts';

/** What is asked to be printed. */
export type WantedLabels = BodyIn<Routes['labels.print']>;
type PdfLabels = BodyIn<Routes['labels.pdf']>['wanted'];
type Chosen = { readonly size: string; readonly printer: string; readonly form: LabelForm | 'rule' };

const FORMS = [
  ['rule', 'as the rule chooses'],
  ['bars', 'bars'],
  ['square', 'a square'],
] as const;
const MOST = 999;

// Only the first is looked at, and so many stand in no address.
const asOne = (wanted: WantedLabels): WantedLabels => (wanted.kind === 'shelf' ? { ...wanted, pairs: wanted.pairs.slice(0, 1) } : wanted);

/** Labels, seen before they are printed (D1): the roll, the printer, the form of the code, how many, and what they will not say.
 *  Shape:  `wanted` says what; the first of its labels is shown. `of`: what the labels are of, in words. `copies`: asked where the labels
 *          are of one thing. `children`: more to choose. */
export function LabelPanel({
  of,
  wanted,
  copies: asksCopies = false,
  kind = '',
  onDone,
  children,
}: {
  of: string;
  wanted: WantedLabels;
  copies?: boolean;
  kind?: string;
  onDone: () => void;
  children?: ReactNode;
}) {
  const papers = usePapers();
  const { data: printers } = useRead('labels.printers', {});
  const [chosen, setChosen] = useState<Chosen>({ size: '', printer: '', form: 'rule' });
  const [copies, setCopies] = useState('1');
  const isSheet = useIsSheet(chosen.size);
  // What a PDF has is not printed a second time by somebody in a hurry.
  const [isDrawn, setIsDrawn] = useState(false);
  const choose = (over: Partial<Chosen>): void => setChosen((was) => ({ ...was, ...over }));
  const asked = {
    ...wanted,
    ...(chosen.size === '' ? {} : { size: chosen.size }),
    ...(chosen.printer === '' ? {} : { printer: Number(chosen.printer) }),
    ...(chosen.form === 'rule' ? {} : { form: chosen.form }),
  } as WantedLabels;
  const shown = useDeferredValue(JSON.stringify(asOne(asked)));
  const { data: label, error } = useRead('labels.preview', { query: { wanted: shown } }, { keep: true });
  const print = useSend('labels.print', {
    quiet: true,
    onDone: (r) => {
      sayLabelsSent(r, kind);
      onDone();
    },
  });
  const many = asksCopies ? Number(copies) : wanted.kind === 'shelf' ? wanted.pairs.length : (label?.labels ?? 0);
  const fault = !asksCopies || (Number.isInteger(many) && many >= 1 && many <= MOST) ? null : `Key a number from 1 to ${MOST}.`;
  const onHand = label?.onHand ?? 0;
  return (
    <form
      aria-label="Labels"
      className="my-3 flex flex-wrap gap-8 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        print.mutate({ body: (asksCopies ? { ...asked, copies: many } : asked) as WantedLabels });
      }}
    >
      <figure className="max-w-full">
        {label?.svg ? (
          <img
            alt={`The label of ${of} as it will be printed`}
            src={`data:image/svg+xml;utf8,${encodeURIComponent(label.svg)}`}
            style={{ width: `${label.widthMm}mm` }}
            className="max-w-full border border-line bg-white"
          />
        ) : (
          <p className="border border-line bg-white p-6 text-center text-ink">
            {label || error ? 'This label cannot be.' : 'is being drawn'}
          </p>
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
        <Select label="On which labels" value={chosen.size} options={paperOptions(papers)} onChange={(size) => choose({ size })} />
        {(printers?.printers.length ?? 0) > 1 && (
          <Select
            label="Printer"
            value={chosen.printer}
            options={[['', 'the one for it'], ...(printers?.printers ?? []).map((p) => [String(p.id), p.name] as const)]}
            onChange={(printer) => choose({ printer })}
          />
        )}
        {(label?.forms.length ?? 0) > 1 && (
          <Select label="Code" value={chosen.form} options={FORMS} onChange={(form) => choose({ form })} />
        )}
        {children}
        {wanted.kind === 'item' && label?.onHand === 0 && (wanted.lot ?? '') !== '' && (
          <p className="font-semibold text-wrong">None of lot {wanted.lot} lies here.</p>
        )}
        {asksCopies && (
          <div className="flex items-end gap-2">
            <Field
              label="How many"
              className="w-24"
              inputMode="numeric"
              value={copies}
              problem={fault ?? undefined}
              onChange={(e) => setCopies(e.target.value)}
            />
            {onHand >= 1 && onHand <= MOST && <Button onClick={() => setCopies(String(onHand))}>As many as lie here: {onHand}</Button>}
          </div>
        )}
        <Trouble error={print.error} />
        <div className="flex flex-wrap items-center gap-2 pt-2">
          {!isSheet && (
            <Button
              {...(isDrawn ? {} : { look: 'next' as const })}
              type="submit"
              disabled={print.isPending || fault !== null || label?.svg === null || error !== null}
            >
              Print {fault === null && many > 0 ? counted(many, 'label', 'labels') : ''}
            </Button>
          )}
          {wanted.kind !== 'unitsAhead' && fault === null && label?.svg && (
            <LabelPdf
              wanted={(asksCopies ? { ...asked, copies: many } : asked) as PdfLabels}
              size={chosen.size}
              isNext={isSheet}
              onDrawn={setIsDrawn}
            >
              as PDF
            </LabelPdf>
          )}
          <Button look="quiet" onClick={onDone}>
            Close
          </Button>
        </div>
      </div>
    </form>
  );
}
