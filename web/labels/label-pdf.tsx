import { useState, type ReactNode } from 'react';
import type { BodyIn, Routes } from '#contract';
import { Button, useRead, useSend } from '#web/base';
import { sizeOf } from './paper-choice.tsx';
import { SheetPicture, usePapers } from './papers.tsx';
import { unsaidWords } from './sent.ts';

/** Labels as a PDF to print elsewhere: drawn by a job, then opened from here. On sheets it is asked first where the first label stands: a
 *  sheet that was begun is used up. */
export function LabelPdf({
  wanted,
  size,
  isNext = false,
  onDrawn,
  children,
}: {
  wanted: BodyIn<Routes['labels.pdf']>['wanted'];
  size: string;
  /** Where it is what one came for. */
  isNext?: boolean;
  /** Told whether there is a PDF to open. */
  onDrawn?: (isDrawn: boolean) => void;
  children: ReactNode;
}) {
  const paper = usePapers().find((p) => p.key === size);
  const [id, setId] = useState<number | null>(null);
  const [isPlacing, setIsPlacing] = useState(false);
  const [first, setFirst] = useState(0);
  const draw = useSend('labels.pdf', { onDone: (r) => (setIsPlacing(false), setId(r.job), onDrawn?.(true)) });
  const putAway = (): void => (setId(null), onDrawn?.(false));
  const cancel = useSend('work.cancel');
  const { data: job } = useRead('work.job', { params: { id: id ?? 0 } }, { enabled: id !== null });
  const start = (): void => draw.mutate({ body: { wanted: { ...wanted, ...sizeOf(size) }, ...(paper?.sheet ? { first } : {}) } });
  if (id === null && isPlacing && paper?.sheet)
    return (
      <span className="inline-flex items-end gap-2">
        <SheetPicture paper={paper} sheet={paper.sheet} first={first} onChoose={setFirst} />
        <span className="grid gap-2">
          <span>Begin at label {first + 1} of the first sheet.</span>
          <Button look="next" disabled={draw.isPending} onClick={start}>
            Draw the PDF
          </Button>
          <Button look="quiet" onClick={() => setIsPlacing(false)}>
            Leave it
          </Button>
        </span>
      </span>
    );
  if (id === null)
    return (
      <Button look={isNext ? 'next' : 'quiet'} disabled={draw.isPending} onClick={() => (paper?.sheet ? setIsPlacing(true) : start())}>
        {children}
      </Button>
    );
  const unsaid = unsaidWords((job?.result?.['unsaid'] as string[] | undefined) ?? []);
  if (job?.state === 'done')
    return (
      <span role="status" className="inline-flex items-center gap-2">
        <a
          className="font-semibold underline underline-offset-4"
          href={`/api/files/${Number(job.result?.['file'])}`}
          target="_blank"
          rel="noreferrer"
        >
          Open the PDF with {Number(job.result?.['labels'])} {job.result?.['labels'] === 1 ? 'label' : 'labels'}
        </a>
        {unsaid && <span className="font-semibold text-wrong">{unsaid}</span>}
        <Button look="quiet" aria-label="Put the PDF away" onClick={putAway}>
          ×
        </Button>
      </span>
    );
  const isOver = job?.state === 'failed' || job?.state === 'cancelled';
  return (
    <span role="status" className="inline-flex items-center gap-2">
      <span className={job?.state === 'failed' ? 'font-semibold text-wrong' : ''}>
        {isOver ? job.said : job && job.total > 0 ? `drawing ${job.progress} of ${job.total}` : 'drawing …'}
      </span>
      <Button look="quiet" onClick={() => (isOver ? putAway() : cancel.mutate({ params: { id } }))}>
        {isOver ? 'Close' : 'Cancel'}
      </Button>
    </span>
  );
}
