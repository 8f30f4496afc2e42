import type { Job } from '#contract/work';
import { cancelJob, keysetOf, keysetText, query, refuse, requeueJob, type Db, type RoomHandlers, approveJob } from '#server/kernel';

const SELECT = `SELECT j.id, j.site_id, s.name AS site, j.kind, j.title, j.state, j.progress, j.total, j.said, j.result, p.name AS by, j.at
  FROM job j
  JOIN person p ON p.id = j.person_id
  JOIN site s ON s.id = j.site_id`;
type Row = Omit<Job, 'at'> & { at: Date; site_id: number; site: string };
const out = ({ site_id: _, site: __, ...row }: Row): Job => ({ ...row, at: row.at.toISOString() });

async function findJob(db: Pick<Db, 'raw'>, id: number): Promise<Row> {
  const [row] = await query<Row>(db, `${SELECT} WHERE j.id = ?`, [id]);
  return row ?? refuse({ code: 'work.unknown', id });
}

type Asking = { readonly site: { readonly id: number }; readonly sites: readonly { readonly id: number }[] };

/** The same for whoever works at the job's site. Price lists are the house's, and what was found in one is opened from any of its sites. */
async function findReadableJob(db: Pick<Db, 'raw'>, id: number, me: Asking): Promise<Row> {
  const job = await findJob(db, id);
  if (!me.sites.some((s) => s.id === job.site_id)) refuse({ code: 'people.notAtSite', site: job.site });
  return job;
}

/** The same for whoever works there now: like a document, a job is of one site, and is changed there. */
async function findOwnJob(db: Pick<Db, 'raw'>, id: number, me: Asking): Promise<Row> {
  const job = await findJob(db, id);
  if (job.site_id !== me.site.id) refuse({ code: 'people.otherSite', what: `“${job.title}”`, site: job.site });
  return job;
}

export const workHandlers: RoomHandlers<'work'> = {
  'work.jobs': async (db, { me }) => {
    const rows = await query<Row>(db, `${SELECT} WHERE j.site_id = ? ORDER BY j.id DESC LIMIT 50`, [me.site.id]);
    return { jobs: rows.map(out) };
  },
  'work.job': async (db, { me, params }) => out(await findReadableJob(db, params.id, me)),
  'work.rows': async (db, { me, params, query: asked }) => {
    await findReadableJob(db, params.id, me);
    const after = keysetOf(asked.after, 'number')?.[0] ?? 0;
    const rows = await query<never>(
      db,
      `SELECT row_no AS row, verdict, name, says
       FROM job_row
       WHERE job_id = ? AND (?::text IS NULL OR verdict = ?) AND row_no > ?
       ORDER BY row_no
       LIMIT ?`,
      [params.id, asked.verdict ?? null, asked.verdict ?? null, after, asked.limit],
    );
    const last = rows.at(-1) as { row: number } | undefined;
    return { rows, next: last && rows.length === asked.limit ? keysetText([last.row]) : null };
  },
  'work.goAhead': async (trx, { me, params }) => {
    const job = await findOwnJob(trx, params.id, me);
    const going = await approveJob(trx, params.id);
    if (going === null)
      return refuse({ code: 'work.notChecked', title: job.title, state: job.state === 'checked' ? 'not without faults' : job.state });
    await requeueJob(trx, params.id, going);
    return { ok: true };
  },
  'work.cancel': async (trx, { me, params }) => {
    const job = await findOwnJob(trx, params.id, me);
    if (!(await cancelJob(trx, params.id))) refuse({ code: 'work.notChecked', title: job.title, state: job.state });
    return { ok: true };
  },
};
