import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { isSamePaper, LABEL_SIZES, paperFault, labelsSentence, sayPaper, type LabelSize, type Paper, type Sheet } from '#core/labels';
import { Button, Field, Trouble, useRead, useSend } from '#web/base';

export type NamedPaper = Paper & { readonly key: string; readonly says: string; readonly sheet: Sheet | null };

const COMMON: readonly NamedPaper[] = (Object.keys(LABEL_SIZES) as LabelSize[]).map((key) => ({ key, ...LABEL_SIZES[key], sheet: null }));

/** The labels that the house has: those of common rolls, then those that somebody measured. */
export function usePapers(): readonly NamedPaper[] {
  const { data } = useRead('labels.papers', {});
  const own = data?.papers ?? [];
  return [...COMMON, ...own.map((p) => ({ ...p, says: `${p.name}, ${p.widthMm} × ${p.heightMm}${p.sheet ? ', sheets of A4' : ''}` }))];
}

/** The name under which a paper is asked for; undefined where the house has none of the size. */
export const keyOf = (papers: readonly NamedPaper[], paper: Paper): string | undefined =>
  papers.find((p) => p.sheet === null && isSamePaper(p, paper))?.key;

/** Labels to choose from, first those that are in the printer. */
export const paperOptions = (papers: readonly NamedPaper[]): (readonly [string, string])[] => [
  ['', 'what is in the printer'],
  ...papers.map((p) => [p.key, p.says] as const),
];

/** The same without sheets, which no label printer takes. */
export const rollOptions = (papers: readonly NamedPaper[]): (readonly [string, string])[] =>
  paperOptions(papers.filter((p) => p.sheet === null));

const SIDES = [
  ['columns', 'Labels across'],
  ['rows', 'Labels down'],
  ['leftMm', 'From the left edge, mm'],
  ['topMm', 'From the top edge, mm'],
  ['acrossMm', 'From one to the next across, mm'],
  ['downMm', 'From one to the next down, mm'],
] as const;
const A4 = { columns: '3', rows: '8', leftMm: '0', topMm: '0', acrossMm: '70', downMm: '37' };

/** Labels that somebody measured: on rolls, or on sheets of A4. */
export function OwnPapers() {
  const papers = usePapers().filter((p) => p.key.startsWith('own-'));
  const [isAdding, setIsAdding] = useState(false);
  const remove = useSend('labels.removePaper', { quiet: true });
  return (
    <section aria-label="Own labels" className="border-l-4 border-ink pl-4">
      <h2 className="border-b-2 border-ink font-bold">Labels of other sizes</h2>
      <ul>
        {papers.map((p) => (
          <li key={p.key} className="flex items-center gap-2 border-b border-line py-1">
            <span className="min-w-0 flex-1">{p.says}</span>
            <Button look="quiet" onClick={() => remove.mutate({ body: { key: p.key } })}>
              Out of use
            </Button>
          </li>
        ))}
      </ul>
      <Trouble error={remove.error} />
      {isAdding ? (
        <NewPaper onDone={() => setIsAdding(false)} />
      ) : (
        <Button className="mt-2" onClick={() => setIsAdding(true)}>
          Measure labels
        </Button>
      )}
    </section>
  );
}

function NewPaper({ onDone }: { onDone: () => void }) {
  const [name, setName] = useState('');
  const [size, setSize] = useState({ widthMm: '', heightMm: '' });
  const [isSheet, setIsSheet] = useState(false);
  const [sheet, setSheet] = useState(A4);
  const add = useSend('labels.addPaper', {
    quiet: true,
    onDone: () => {
      toast.success(`Labels ${name} are there to choose.`);
      onDone();
    },
  });
  const paper = { widthMm: numberOf(size.widthMm), heightMm: numberOf(size.heightMm) };
  const on: Sheet | null = isSheet
    ? {
        columns: numberOf(sheet.columns),
        rows: numberOf(sheet.rows),
        leftMm: numberOf(sheet.leftMm),
        topMm: numberOf(sheet.topMm),
        acrossMm: numberOf(sheet.acrossMm),
        downMm: numberOf(sheet.downMm),
      }
    : null;
  const isKeyed = size.widthMm !== '' && size.heightMm !== '';
  const fault = isKeyed ? paperFault(paper, on) : null;
  const send = (e: FormEvent): void => {
    e.preventDefault();
    add.mutate({ body: { name, ...paper, sheet: on } });
  };
  return (
    <form className="mt-2 space-y-2" onSubmit={send}>
      <Field label="What they are called" value={name} maxLength={40} onChange={(e) => setName(e.target.value)} />
      <div className="grid grid-cols-2 gap-2">
        <Field
          label="Width, mm"
          inputMode="decimal"
          value={size.widthMm}
          onChange={(e) => setSize((was) => ({ ...was, widthMm: e.target.value }))}
        />
        <Field
          label="Height, mm"
          inputMode="decimal"
          value={size.heightMm}
          onChange={(e) => setSize((was) => ({ ...was, heightMm: e.target.value }))}
        />
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" className="size-5 accent-ink" checked={isSheet} onChange={(e) => setIsSheet(e.target.checked)} />
        on sheets of A4, printed from a PDF
      </label>
      {isSheet && (
        <div className="grid grid-cols-2 items-end gap-2">
          {SIDES.map(([side, label]) => (
            <Field
              key={side}
              label={label}
              inputMode="decimal"
              value={sheet[side]}
              onChange={(e) => setSheet((was) => ({ ...was, [side]: e.target.value }))}
            />
          ))}
        </div>
      )}
      {isSheet && on && isKeyed && !fault && <SheetPicture paper={paper} sheet={on} />}
      {fault && <p className="font-semibold text-wrong">{labelsSentence(fault)}</p>}
      <Trouble error={add.error} />
      <div className="flex gap-2">
        <Button look="next" type="submit" disabled={add.isPending || name.trim() === '' || !isKeyed || fault !== null}>
          Keep {isKeyed && !fault ? sayPaper(paper) : ''}
        </Button>
        <Button look="quiet" onClick={onDone}>
          Leave it
        </Button>
      </div>
    </form>
  );
}

const numberOf = (keyed: string): number => Number(keyed.trim().replace(',', '.') || NaN);

/** Where labels stand on a sheet; with `onChoose`, the place of the first one is chosen on it. */
export function SheetPicture({
  paper,
  sheet,
  first,
  onChoose,
}: {
  paper: Paper;
  sheet: Sheet;
  first?: number;
  onChoose?: (place: number) => void;
}) {
  const places = Array.from({ length: sheet.columns * sheet.rows }, (_, n) => n);
  const corner = (n: number): { x: number; y: number } => ({
    x: sheet.leftMm + (n % sheet.columns) * sheet.acrossMm,
    y: sheet.topMm + Math.floor(n / sheet.columns) * sheet.downMm,
  });
  return (
    <svg viewBox="0 0 210 297" className="w-40 border border-ink bg-white" role="group" aria-label="A sheet of A4">
      {places.map((n) => (
        <rect
          key={n}
          {...corner(n)}
          width={paper.widthMm}
          height={paper.heightMm}
          className={`stroke-ink ${n < (first ?? 0) ? 'fill-line' : 'fill-white'} ${onChoose ? 'cursor-pointer' : ''}`}
          {...(onChoose && {
            role: 'button',
            tabIndex: 0,
            'aria-label': `Begin at label ${n + 1}`,
            'aria-pressed': n === first,
            onClick: () => onChoose(n),
            onKeyDown: (e: { key: string }) => (e.key === 'Enter' || e.key === ' ') && onChoose(n),
          })}
        />
      ))}
    </svg>
  );
}
