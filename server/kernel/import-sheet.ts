import { columnsSentence, findColumns, type WantedColumn } from '#core/base';
import { addressOf, type Db, type Trx } from './database.ts';
import { askHelper } from './helper.ts';
import { loadFile } from './files.ts';
import { startJob, type JobContext, type RowVerdict } from './jobs.ts';
import { refuse } from './refusal.ts';
import { query } from './query.ts';
import type { Sheet } from './sheet.ts';
import { SheetFault } from './sheet-fault.ts';

export type SheetRows = Sheet['rows'];
export type ImportPlan<Judged extends { readonly verdicts: readonly RowVerdict[] }> = {
  /** Which column is which; throws `SheetFault` where one is missing or unknown. */
  readonly locate: (sheet: Sheet) => ReadonlyMap<string, number>;
  /** Says of every row what it would do, from what there is now. Changes nothing. */
  readonly judge: (
    db: Pick<Db, 'raw'>,
    columns: ReadonlyMap<string, number>,
    rows: SheetRows,
    progress: (done: number) => Promise<void>,
  ) => Promise<Judged>;
  /** Does what was judged. What it returns is added to the result. */
  readonly write: (
    trx: Trx,
    judged: Judged,
    file: string,
    progress: (done: number) => Promise<void>,
  ) => Promise<Record<string, number> | void>;
  /** Keeps others out while it is judged for good and written. */
  readonly lock: (trx: Trx) => Promise<unknown>;
  /** Which verdicts are worth a line of their own; all if not said. */
  readonly keep?: (verdict: RowVerdict) => boolean;
};

/** Starts an import: the file is read by a job, nothing changes until a person lets it go ahead.
 *  Errors: `file.unknown`. */
export async function startImport(
  trx: Trx,
  kind: string,
  what: string,
  me: { id: number; site: { id: number } },
  input: { file: number },
): Promise<{ job: number }> {
  const file = await loadFile(trx, input.file);
  if (!file) return refuse({ code: 'file.unknown', id: input.file });
  const { id } = await startJob(trx, { kind, title: `${what} from ${file.name}`, person: me.id, site: me.site.id, input });
  return { job: id };
}

/** Finds columns by their titles, for `ImportPlan.locate`. */
export function byTitles(wanted: readonly WantedColumn[]): (sheet: Sheet) => ReadonlyMap<string, number> {
  return (sheet) => {
    const found = findColumns(sheet.header, wanted);
    if (found.ok) return found.value;
    throw new SheetFault(columnsSentence(found.error));
  };
}

/** Imports a sheet as a job: first a dry run with a verdict for every row; then, where a person said go ahead, all of it or nothing.
 *  The sheet is judged again inside the transaction that writes: what somebody changed meanwhile is seen, and one fault undoes all. */
export async function importSheet<Judged extends { readonly verdicts: readonly RowVerdict[] }>(
  context: JobContext<{ file: number; apply?: boolean }>,
  plan: ImportPlan<Judged>,
): Promise<{ state: 'checked' | 'done'; result: unknown }> {
  const { db, job } = context;
  const [file] = await query<{ name: string }>(db, `SELECT name FROM file WHERE id = ?`, [job.input.file]);
  if (!file) return refuse({ code: 'file.unknown', id: job.input.file });
  await context.progress(0, 0);
  const sheet = await askHelper<Sheet>(
    'sheet',
    { database: addressOf(db), file: job.input.file },
    { what: `Reading ${file.name}`, signal: context.signal },
  );
  const columns = plan.locate(sheet);
  const progress = (done: number): Promise<void> => context.progress(done, sheet.rows.length);
  if (!job.input.apply) {
    const { verdicts } = await plan.judge(db, columns, sheet.rows, progress);
    await context.keepVerdicts(plan.keep ? verdicts.filter(plan.keep) : verdicts);
    return { state: 'checked', result: tally(verdicts, file.name) };
  }
  const result = await context.apply(async (trx) => {
    await plan.lock(trx);
    const judged = await plan.judge(trx, columns, sheet.rows, progress);
    const fault = judged.verdicts.find((v) => v.verdict === 'fault');
    if (fault) throw new SheetFault(`Row ${fault.row}: ${fault.says} Nothing was imported.`);
    const more = await plan.write(trx, judged, file.name, progress);
    return { ...tally(judged.verdicts, file.name), ...more };
  });
  return { state: 'done', result };
}

function tally(verdicts: readonly RowVerdict[], file: string): Record<string, number | string> {
  const count = { new: 0, changed: 0, same: 0, gone: 0, fault: 0 };
  for (const v of verdicts) count[v.verdict] += 1;
  const { fault, ...rest } = count;
  return { file, rows: verdicts.length - count.gone, ...rest, faults: fault };
}
