import type { Dpi, LabelFace } from '#core/labels';
import type { Part } from '#core/printing';
import { announce, query, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

/** A printer as the queue sees it. */
export type QueuePrinter = { id: number; address: string; dpi: Dpi; paused: boolean; tries: number };
/** A run on its way through a printer. `remote`: the number that the printer gave it; null while it is not known whether it took it.
 *  `age` in seconds. */
export type Run = {
  id: number;
  token: string;
  remote: number | null;
  parts: Part[];
  labels: number;
  cameOut: number;
  unsure: boolean;
  age: number;
};

const RUN = `id, token, remote, parts, labels, came_out AS "cameOut", unsure,
  extract(epoch FROM now() - sent_at)::float8 AS age`;
// The labels of a job are those that are in the printer, or it cuts to length.
const FITS = `(p.roll_width_mm IS NULL OR j.svg IS NULL OR (
  (j.face->>'widthMm')::numeric = p.roll_width_mm AND (j.face->>'heightMm')::numeric = p.roll_height_mm))`;

/** Queues labels, each with the words and codes that stand on it. */
export async function insertPrintJobs(
  trx: Trx,
  who: { person: number; site: number },
  labels: readonly { title: string; face: LabelFace; copies: number; printer: number | null; forLeads: boolean }[],
): Promise<void> {
  await query(
    trx,
    `INSERT INTO print_job (title, face, copies, printer_id, for_leads, person_id, site_id)
     SELECT t, f::jsonb, c, p, s, ?, ?
     FROM unnest(?::text[], ?::text[], ?::int[], ?::int[], ?::boolean[]) AS x(t, f, c, p, s)`,
    [
      ...[who.person, who.site],
      ...[labels.map((l) => l.title), labels.map((l) => JSON.stringify(l.face)), labels.map((l) => l.copies), labels.map((l) => l.printer)],
      labels.map((l) => l.forLeads),
    ],
  );
}

/** Labels that nobody has drawn yet, the oldest first, each for the head of its printer. */
export function selectUndrawn(db: Reads, limit: number): Promise<{ id: number; face: LabelFace; dpi: Dpi | null }[]> {
  return query<{ id: number; face: LabelFace; dpi: Dpi | null }>(
    db,
    `SELECT j.id, j.face, p.dpi
     FROM print_job j
     LEFT JOIN printer p ON p.id = j.printer_id
     WHERE j.svg IS NULL AND j.state = 'waiting'
     ORDER BY j.id
     LIMIT ?`,
    [limit],
  );
}

/** Says of labels that were drawn why they cannot be printed. */
export async function updateUnprintable(trx: Trx, ids: readonly number[], why: string): Promise<void> {
  await query(trx, `UPDATE print_job SET state = 'failed', said = ? WHERE id = ANY(?::int[]) AND state = 'waiting'`, [why, ids]);
  announce(trx, 'labels');
}

/** Keeps labels as they were drawn, or why they cannot be. What another drew meanwhile stays. */
export async function updateDrawn(trx: Trx, drawn: readonly { id: number; svg: string | null; why: string | null }[]): Promise<void> {
  await query(
    trx,
    `UPDATE print_job
     SET svg = x.svg, state = CASE WHEN x.svg IS NULL THEN 'failed' ELSE state END, said = x.why
     FROM unnest(?::int[], ?::text[], ?::text[]) AS x(id, svg, why)
     WHERE print_job.id = x.id AND print_job.svg IS NULL AND print_job.state = 'waiting'`,
    [drawn.map((d) => d.id), drawn.map((d) => d.svg), drawn.map((d) => d.why)],
  );
}

/** Printers with something to do now: labels wait that fit, or a run is under way. */
export function selectBusyPrinters(db: Reads): Promise<QueuePrinter[]> {
  return query<QueuePrinter>(
    db,
    `SELECT p.id, p.address, p.dpi, p.paused_at IS NOT NULL AS paused, p.tries
     FROM printer p
     WHERE p.next_try <= now() AND CASE
       WHEN EXISTS (SELECT 1 FROM print_run r WHERE r.printer_id = p.id AND r.ended_at IS NULL)
         THEN EXISTS (SELECT 1 FROM print_run r WHERE r.printer_id = p.id AND r.ended_at IS NULL AND NOT r.unsure)
       ELSE p.paused_at IS NULL AND p.retired_at IS NULL
         AND EXISTS (SELECT 1 FROM print_job j WHERE j.printer_id = p.id AND j.state = 'waiting' AND j.svg IS NOT NULL AND ${FITS}) END
     ORDER BY p.id`,
  );
}

/** The run that is under way at a printer. */
export async function selectOpenRun(db: Reads, printer: number): Promise<Run | undefined> {
  return (await query<Run>(db, `SELECT ${RUN} FROM print_run WHERE printer_id = ? AND ended_at IS NULL`, [printer]))[0];
}

/** Locks a printer, so that nobody else begins or ends a run of it; false where it is paused or gone. */
export async function lockPrinter(trx: Trx, printer: number): Promise<boolean> {
  const rows = await query(trx, `SELECT 1 FROM printer WHERE id = ? AND paused_at IS NULL AND retired_at IS NULL FOR NO KEY UPDATE`, [
    printer,
  ]);
  return rows.length > 0;
}

/** Labels that wait for a printer and fit its roll, in the order in which they were asked for. */
export function selectWaiting(db: Reads, printer: number, limit: number): Promise<{ id: number; left: number; svg: string }[]> {
  return query<{ id: number; left: number; svg: string }>(
    db,
    `SELECT j.id, j.copies - j.done AS left, j.svg
     FROM print_job j
     JOIN printer p ON p.id = j.printer_id
     WHERE j.printer_id = ? AND j.state = 'waiting' AND j.svg IS NOT NULL AND ${FITS}
     ORDER BY j.id
     LIMIT ?`,
    [printer, limit],
  );
}

/** Writes that a run is on its way, before it is. */
export async function insertRun(
  trx: Trx,
  run: { printer: number; token: string; parts: readonly Part[]; labels: number },
): Promise<number> {
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO print_run (printer_id, token, parts, labels) VALUES (?, ?, ?::jsonb, ?) RETURNING id`,
    [run.printer, run.token, JSON.stringify(run.parts), run.labels],
  );
  await query(trx, `UPDATE print_job SET state = 'sent' WHERE id = ANY(?::int[])`, [run.parts.map((p) => p.job)]);
  announce(trx, 'labels');
  return made?.id ?? 0;
}

/** Notes how far a run is, and under which number the printer knows it. */
export async function updateRun(trx: Trx, id: number, now: { remote?: number; cameOut?: number; unsure?: boolean }): Promise<void> {
  await query(
    trx,
    `UPDATE print_run
     SET remote = coalesce(?, remote), came_out = greatest(came_out, least(labels, coalesce(?, came_out))), unsure = coalesce(?, unsure)
     WHERE id = ? AND ended_at IS NULL`,
    [now.remote ?? null, now.cameOut ?? null, now.unsure ?? null, id],
  );
}

/** Ends a run: the labels that came out are done, the others wait again. Returns false where it was ended before. */
export async function endRun(trx: Trx, id: number, out: readonly Part[]): Promise<boolean> {
  const labels = out.reduce((sum, p) => sum + p.copies, 0);
  const ended = await query(
    trx,
    `UPDATE print_run SET ended_at = now(), unsure = false, came_out = ? WHERE id = ? AND ended_at IS NULL RETURNING 1`,
    [labels, id],
  );
  if (ended.length === 0) return false;
  await query(
    trx,
    `UPDATE print_job j
     SET done = j.done + x.out, state = CASE WHEN j.done + x.out >= j.copies THEN 'printed' ELSE 'waiting' END, said = NULL
     FROM unnest(?::int[], ?::int[]) AS x(id, out)
     WHERE j.id = x.id`,
    [out.map((p) => p.job), out.map((p) => p.copies)],
  );
  announce(trx, 'labels');
  return true;
}

/** Notes what a printer said, and when it is asked again: at once, or in so many seconds. */
export async function updatePrinterSaid(
  trx: Trx,
  id: number,
  { said, waitSeconds, pauses }: { said: string | null; waitSeconds: number; pauses?: boolean },
): Promise<void> {
  const [row] = await query<{ isNew: boolean }>(
    trx,
    `UPDATE printer p
     SET said = ?, heard_at = now(), tries = CASE WHEN ? = 0 THEN 0 ELSE tries + 1 END, next_try = now() + make_interval(secs => ?),
       paused_at = CASE WHEN ? THEN coalesce(paused_at, now()) ELSE paused_at END
     FROM (SELECT id, said FROM printer WHERE id = ?) was
     WHERE p.id = was.id
     RETURNING was.said IS DISTINCT FROM p.said AS "isNew"`,
    [said, waitSeconds, waitSeconds, pauses ?? false, id],
  );
  if (row?.isNew) announce(trx, 'labels');
}

type JobRow = {
  id: number;
  title: string;
  copies: number;
  done: number;
  state: 'waiting' | 'sent' | 'printed' | 'failed' | 'dropped';
  said: string | null;
  by: string;
  at: Date;
  printer: { id: number; name: string } | null;
  widthMm: number | null;
  heightMm: number | null;
  svg: string | null;
  forLeads: boolean;
};

/** The labels of a site that wait, in the order in which they come out; those that failed or came out, the newest first. What is for leads
 *  is drawn for them only. */
export function selectJobs(
  db: Reads,
  { site, isLead }: { site: number; isLead: boolean },
  show: 'waiting' | 'failed' | 'printed',
  after: (string | number)[] | null,
  limit: number,
): Promise<JobRow[]> {
  const isWaiting = show === 'waiting';
  const states = isWaiting ? ['waiting', 'sent'] : show === 'failed' ? ['failed'] : ['printed', 'dropped'];
  return query<JobRow>(
    db,
    `SELECT j.id, j.title, j.copies, j.done, j.state, j.said, w.name AS by, j.at,
       j.for_leads AS "forLeads", CASE WHEN ? OR NOT j.for_leads THEN j.svg END AS svg,
       CASE WHEN p.id IS NOT NULL THEN json_build_object('id', p.id, 'name', p.name) END AS printer,
       (j.face->>'widthMm')::float8 AS "widthMm", (j.face->>'heightMm')::float8 AS "heightMm"
     FROM print_job j
     JOIN person w ON w.id = j.person_id
     LEFT JOIN printer p ON p.id = j.printer_id
     WHERE j.site_id = ? AND j.state = ANY(?::text[]) AND ${isWaiting ? 'j.id > ?' : 'j.id < ?'}
     ORDER BY j.id ${isWaiting ? '' : 'DESC'}
     LIMIT ?`,
    [isLead, site, states, after?.[0] ?? (isWaiting ? 0 : 2_147_483_647), limit],
  );
}

/** A job of a site, locked. */
export async function lockJob(trx: Trx, site: number, id: number): Promise<{ state: string; forLeads: boolean } | undefined> {
  const [job] = await query<{ state: string; forLeads: boolean }>(
    trx,
    `SELECT state, for_leads AS "forLeads" FROM print_job WHERE id = ? AND site_id = ? FOR UPDATE`,
    [id, site],
  );
  return job;
}

/** Lets labels be printed once more, all of them; one that could not be drawn is tried anew. */
export async function printAgain(trx: Trx, id: number): Promise<void> {
  await query(
    trx,
    `UPDATE print_job j
     SET state = 'waiting', done = 0, said = NULL,
       printer_id = coalesce(
         (SELECT p.id FROM printer p WHERE p.id = j.printer_id AND p.retired_at IS NULL),
         (SELECT min(p.id) FROM printer p WHERE p.site_id = j.site_id AND p.retired_at IS NULL)),
       svg = CASE WHEN j.face IS NULL THEN j.svg END
     WHERE id = ?`,
    [id],
  );
}

/** Takes labels out of the queue: these, or all that wait or failed at a printer; returns how many jobs. What is on its way comes out. */
export async function dropJobs(trx: Trx, site: number, of: { jobs: readonly number[] | null; printer: number | null }): Promise<number> {
  const dropped = await query(
    trx,
    `UPDATE print_job
     SET state = 'dropped'
     WHERE site_id = ? AND state IN ('waiting', 'failed') AND (id = ANY(?::int[]) OR printer_id = ?)
     RETURNING 1`,
    [site, of.jobs ?? [], of.printer],
  );
  return dropped.length;
}
