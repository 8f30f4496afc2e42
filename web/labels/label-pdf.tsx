import { useState, type ReactNode } from 'react';
import type { BodyIn, Routes } from '#contract';
import { Button, useRead, useSend } from '#web/base';
import { unsaidWords } from './sent.ts';

/** Labels as a PDF to print elsewhere: drawn by a job, then opened from here. */
export function LabelPdf({ wanted, children }: { wanted: BodyIn<Routes['labels.pdf']>; children: ReactNode }) {
  const [id, setId] = useState<number | null>(null);
  const draw = useSend('labels.pdf', { onDone: (r) => setId(r.job) });
  const cancel = useSend('work.cancel');
  const { data: job } = useRead('work.job', { params: { id: id ?? 0 } }, { enabled: id !== null });
  if (id === null)
    return (
      <Button look="quiet" disabled={draw.isPending} onClick={() => draw.mutate({ body: wanted })}>
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
        <Button look="quiet" aria-label="Put the PDF away" onClick={() => setId(null)}>
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
      <Button look="quiet" onClick={() => (isOver ? setId(null) : cancel.mutate({ params: { id } }))}>
        {isOver ? 'Close' : 'Cancel'}
      </Button>
    </span>
  );
}
