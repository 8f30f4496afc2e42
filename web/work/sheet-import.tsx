import { useState, type ReactNode } from 'react';
import type { Job, JobRow } from '#contract/work';
import { Button, sayNumber, Tag, Trouble, uploadFile, useRead, useReadPages, useSend } from '#web/base';
import { DataTable, rowsOf, type Column } from '#web/table';

const WORDS = { new: 'new', changed: 'changed', same: 'as it is', gone: 'gone', fault: 'wrong' } as const;
const COLUMNS: readonly Column<JobRow>[] = [
  { id: 'row', title: 'Row', value: (r) => r.row, number: true, width: 60 },
  {
    id: 'verdict',
    title: 'Verdict',
    value: (r) => WORDS[r.verdict],
    show: (r) => <Tag tone={r.verdict === 'fault' ? 'wrong' : r.verdict === 'same' ? 'plain' : 'settled'}>{WORDS[r.verdict]}</Tag>,
    width: 90,
  },
  { id: 'name', title: 'What', value: (r) => r.name, show: (r) => <span className="code text-lg">{r.name}</span>, width: 160 },
  { id: 'says', title: 'What it does', value: (r) => r.says, show: (r) => <span title={r.says}>{r.says}</span>, width: 480 },
];

/** A place to drop a file or choose one. */
export function FileDrop({ label, accept, busy, onFile }: { label: string; accept: string; busy: boolean; onFile: (file: File) => void }) {
  const [over, setOver] = useState(false);
  return (
    <label
      onDragOver={(e) => {
        e.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(e) => {
        e.preventDefault();
        setOver(false);
        const [file] = e.dataTransfer.files;
        if (file) onFile(file);
      }}
      className={`block cursor-pointer rounded border-2 border-dashed p-5 text-center ${
        over ? 'border-ink bg-shade' : 'border-ink/60 hover:bg-shade'
      }`}
    >
      <input
        type="file"
        className="sr-only"
        accept={accept}
        disabled={busy}
        onChange={(e) => {
          const [file] = e.target.files ?? [];
          e.target.value = '';
          if (file) onFile(file);
        }}
      />
      <span className="text-lg font-semibold">{busy ? 'Sending …' : label}</span>
    </label>
  );
}

const STATES: Readonly<Record<Job['state'], string>> = {
  waiting: 'waits its turn',
  running: 'works',
  checked: 'is checked; nothing has changed yet',
  done: 'is done',
  failed: 'did not go through',
  cancelled: 'was cancelled',
};

/** How far a job is, with the way to stop it; it goes on when nobody looks. */
export function JobProgress({ job }: { job: Job }) {
  const cancel = useSend('work.cancel');
  const running = job.state === 'running' || job.state === 'waiting';
  return (
    <div role="status" className="border-2 border-line p-3">
      <p className="flex items-center gap-3">
        <strong>{job.title}</strong> {STATES[job.state]}
        {running && job.total > 0 && (
          <span className="code text-lg">
            {job.progress} of {job.total}
          </span>
        )}
        {running && (
          <Button className="ml-auto" onClick={() => cancel.mutate({ params: { id: job.id } })}>
            Cancel
          </Button>
        )}
      </p>
      {running && (
        <progress
          className="mt-2 h-3 w-full accent-[var(--color-ink)]"
          value={job.total > 0 ? job.progress : undefined}
          max={Math.max(1, job.total)}
        />
      )}
      {job.said && <p className={`mt-1 font-semibold ${job.state === 'failed' ? 'text-wrong' : ''}`}>{job.said}</p>}
    </div>
  );
}

const count = (job: Job, name: string): number => Number(job.result?.[name] ?? 0);
const said = (job: Job, name: string): string => sayNumber(count(job, name));

/** An import from a sheet: the file, a dry run with a verdict for every row, then all of it or nothing. */
export function SheetImport({
  job: id,
  onStart,
  onAgain,
  label,
  noun,
  children,
  whenDone,
}: {
  job: number | null;
  onStart: (file: number) => void;
  onAgain: () => void;
  label: string;
  noun: string;
  children?: ReactNode;
  /** What comes next once it is done. */
  whenDone?: (job: Job) => ReactNode;
}) {
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  const { data: job } = useRead('work.job', { params: { id: id ?? 0 } }, { enabled: id !== null });
  const send = (file: File): void => {
    setBusy(true);
    setProblem(null);
    uploadFile(file)
      .then(({ id: sent }) => onStart(sent), setProblem)
      .finally(() => setBusy(false));
  };
  if (id === null || !job)
    return (
      <div className="space-y-3">
        {children}
        <FileDrop label={label} accept=".csv,.xlsx,.txt,.tsv" busy={busy} onFile={send} />
        <Trouble error={problem} />
      </div>
    );
  return (
    <div className="space-y-3">
      <JobProgress job={job} />
      {job.state === 'checked' && <Checked job={job} noun={noun} />}
      {job.state === 'done' && (
        <p className="text-lg">
          <strong>{count(job, 'new')}</strong> new, <strong>{count(job, 'changed')}</strong> changed, {count(job, 'same')} as they were
          {count(job, 'gone') > 0 && `, ${said(job, 'gone')} gone`}.
        </p>
      )}
      {job.state === 'done' && whenDone?.(job)}
      {job.state === 'done' && <Verdicts job={job} first="" />}
      {job.state !== 'running' && job.state !== 'waiting' && (
        <Button onClick={onAgain}>{job.state === 'done' ? 'Import another file' : 'Choose another file'}</Button>
      )}
    </div>
  );
}

function Checked({ job, noun }: { job: Job; noun: string }) {
  const go = useSend('work.goAhead');
  const faults = count(job, 'faults');
  const changes = count(job, 'new') + count(job, 'changed') + count(job, 'gone');
  return (
    <>
      {faults > 0 ? (
        <p className="text-lg font-bold text-wrong">
          {sayNumber(faults)} of {said(job, 'rows')} rows {faults === 1 ? 'is' : 'are'} wrong. Mend them in the sheet and send it again;
          nothing is imported until all are right.
        </p>
      ) : changes === 0 ? (
        <p className="text-lg font-bold">All {said(job, 'rows')} rows say what is there already. There is nothing to import.</p>
      ) : (
        <Button look="next" disabled={go.isPending} onClick={() => go.mutate({ params: { id: job.id } })}>
          Import: {said(job, 'new')} new, {said(job, 'changed')} changed {noun}
          {count(job, 'gone') > 0 && `, ${said(job, 'gone')} gone`}
        </Button>
      )}
      <Verdicts job={job} first={faults > 0 ? 'fault' : ''} />
    </>
  );
}

/** What a job says of every row; kept, so that it can be opened again afterwards. */
function Verdicts({ job, first }: { job: Job; first: JobRow['verdict'] | '' }) {
  const [verdict, setVerdict] = useState<JobRow['verdict'] | ''>(first);
  const { pages, more, readAll } = useReadPages('work.rows', {
    params: { id: job.id },
    query: { limit: 500, ...(verdict ? { verdict } : {}) },
  });
  const rows = pages.flatMap((p) => p.rows);
  return (
    <>
      <div className="flex justify-end gap-1" role="group" aria-label="Which rows">
        {(['', 'fault', 'new', 'changed', 'gone'] as const).map((v) => (
          <Button key={v} look={verdict === v ? 'plain' : 'quiet'} aria-pressed={verdict === v} onClick={() => setVerdict(v)}>
            {v === '' ? 'all' : WORDS[v]}
          </Button>
        ))}
      </div>
      {rows.length > 0 && (
        <DataTable
          name="Verdicts"
          rows={rows}
          columns={COLUMNS}
          keyOf={(r) => r.row}
          more={more}
          readAll={rowsOf(readAll, (page) => page.rows)}
          height="calc(100dvh - 420px)"
        />
      )}
    </>
  );
}
