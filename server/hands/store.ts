import type { DomainError } from '#server/kernel';
import { KEEP_PLANS, query, queryOne, type Db, type Trx } from '#server/kernel';
import type { Role } from '#core/people';
import type { Does, Unreadable } from '#core/hands';
import { entryNumber, type ReceiveDoes } from '#core/receiving';

type Reads = Pick<Db, 'raw'>;

/** Claims the key of an act by keeping the act; false where it is kept already. Waits for whoever keeps it at the same moment. */
export async function insertAct(
  trx: Trx,
  act: {
    key: string;
    device: string;
    seq: number;
    person: number;
    site: number;
    job: string;
    does: Does | Unreadable;
    at: Date;
    carrier: number;
  },
): Promise<boolean> {
  const rows = await query(
    trx,
    `INSERT INTO hand_act (key, device_id, seq, person_id, site_id, kind, job, does, at, carried_by, outcome)
     VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, 'done') ON CONFLICT (key) DO NOTHING RETURNING ${KEEP_PLANS}`,
    [act.key, act.device, act.seq, act.person, act.site, act.does.kind, act.job, JSON.stringify(act.does), act.at, act.carrier],
  );
  return rows.length > 0;
}

export type KeptAct = { outcome: 'done' | 'clash'; refusal: DomainError | null };

/** What became of an act that was told before. */
export async function selectAct(db: Reads, key: string): Promise<KeptAct | undefined> {
  return (
    await query<KeptAct>(
      db,
      `SELECT a.outcome, CASE WHEN c.settled_at IS NULL THEN c.refusal END AS refusal
       FROM hand_act a
       LEFT JOIN hand_clash c USING (key)
       WHERE a.key = ?`,
      [key],
    )
  )[0];
}

/** Which of these acts were told, by their keys in small letters, and what time it is in the house. */
export async function selectTold(db: Reads, keys: readonly string[]): Promise<{ now: Date; told: ReadonlySet<string> }> {
  const { now, told } = await queryOne<{ now: Date; told: string[] }>(
    db,
    `SELECT now_here() AS now, coalesce((SELECT json_agg(key) FROM hand_act WHERE key = ANY(?::uuid[])), '[]') AS told`,
    [keys],
  );
  return { now, told: new Set(told) };
}

/** Keeps that an act could not be done, with what stood against it. */
export async function insertClash(trx: Trx, key: string, site: number, refusal: DomainError): Promise<void> {
  await query(
    trx,
    `WITH act AS (UPDATE hand_act SET outcome = 'clash' WHERE key = ?) INSERT INTO hand_clash (key, site_id, refusal) VALUES (?, ?, ?)`,
    [key, key, site, JSON.stringify(refusal)],
  );
}

/** Keeps by which documents an act was done. */
export async function updateDocuments(trx: Trx, key: string, documents: readonly number[]): Promise<void> {
  if (documents.length > 0) await query(trx, `UPDATE hand_act SET documents = ?::int[] WHERE key = ?`, [documents, key]);
}

/** Takes the bytes of a picture out of the act that told it: it is kept among the files. */
export async function forgetPicture(trx: Trx, key: string): Promise<void> {
  await query(trx, `UPDATE hand_act SET does = does - 'jpeg' WHERE key = ?`, [key]);
}

/** The documents by which an act was done. */
export async function selectDocumentsOf(db: Reads, key: string): Promise<readonly number[]> {
  return (await query<{ documents: number[] }>(db, `SELECT documents FROM hand_act WHERE key = ?`, [key]))[0]?.documents ?? [];
}

/** Settles a clash that is open; false where there is none. */
export async function settleClash(trx: Trx, key: string, by: { person: number; how: string }): Promise<boolean> {
  const rows = await query(
    trx,
    `UPDATE hand_clash SET settled_at = now_here(), settled_by = ?, settled_how = ? WHERE key = ? AND settled_at IS NULL RETURNING 1`,
    [by.person, by.how, key],
  );
  return rows.length > 0;
}

/** Changes how many an act was that waits as a clash; false where it does not. */
export async function changeClashed(trx: Trx, key: string, qty: number): Promise<boolean> {
  const rows = await query(
    trx,
    `UPDATE hand_act a SET does = jsonb_set(a.does, '{qty}', to_jsonb(?::bigint)) FROM hand_clash c WHERE a.key = ?
      AND c.key = a.key AND c.settled_at IS NULL RETURNING 1`,
    [qty, key],
  );
  return rows.length > 0;
}

export type ClashedUnit = { readonly key: string; readonly does: Extract<ReceiveDoes, { kind: 'receive.unit' }>; readonly n: number };
/** The scan of a pallet or carton that never got further than a clash, of which this is the n-th entry. Undefined where there is none, or
 *  where it was entered after all. */
export async function selectClashedUnit(db: Reads, entry: string): Promise<ClashedUnit | undefined> {
  const head = entry.slice(0, -12);
  const acts = await query<Omit<ClashedUnit, 'n'>>(
    db,
    `SELECT a.key, a.does
     FROM hand_act a
     JOIN hand_clash c USING (key)
     WHERE a.key BETWEEN ?::uuid AND ?::uuid AND a.kind = 'receive.unit'
       AND (c.settled_at IS NULL OR c.settled_how IN ('takenBack', 'drop'))`,
    [`${head}000000000000`, `${head}ffffffffffff`],
  );
  for (const act of acts) {
    const n = entryNumber(act.key, entry, act.does.goods.length);
    if (n !== null) return { ...act, n };
  }
  return undefined;
}

/** Every name that a paper has among the jobs of hands: a delivery has its number, and the keys under which devices began it. */
export async function jobsOf(db: Reads, job: string): Promise<string[]> {
  const [, id] = /^delivery:(\d+)$/.exec(job) ?? [];
  if (id === undefined) return [job];
  const keys = await query<{ key: string }>(db, `SELECT key FROM delivery_key WHERE delivery_id = ?`, [Number(id)]);
  return [job, ...keys.map((k) => `delivery:${k.key}`)];
}

export type Author = { id: number; role: Role; works: boolean; known: boolean; active: boolean; siteKnown: boolean };

/** Who an act is said to be of: whether they may work at the site, and whether they ever signed in on the device. */
export async function selectAuthor(db: Reads, who: { person: number; site: number; device: string }): Promise<Author | undefined> {
  return (
    await query<Author>(
      db,
      `SELECT p.id, p.role, p.active, EXISTS (SELECT 1 FROM person_site x WHERE x.person_id = p.id AND x.site_id = ?) AS works,
         EXISTS (SELECT 1 FROM device_person d WHERE d.person_id = p.id AND d.device_id = ?::uuid) AS known,
         EXISTS (SELECT 1 FROM site WHERE id = ?) AS "siteKnown"
       FROM person p WHERE p.id = ?`,
      [who.site, who.device, who.site, who.person],
    )
  )[0];
}

export type ClashRow = {
  key: string;
  kind: string;
  job: string;
  does: Does | Unreadable;
  refusal: DomainError;
  site_id: number;
  person_id: number;
  by: string;
  device: string;
  at: Date;
  told: Date;
  settled_at: Date | null;
  settled_by: string | null;
  settled_how: string | null;
};
const CLASH = `SELECT c.key, a.kind, a.job, a.does, c.refusal, c.site_id, a.person_id, p.name AS by, d.name AS device, a.at, a.told,
    c.settled_at, w.name AS settled_by, c.settled_how
  FROM hand_clash c
  JOIN hand_act a USING (key)
  JOIN person p ON p.id = a.person_id
  JOIN device d ON d.id = a.device_id
  LEFT JOIN person w ON w.id = c.settled_by`;

/** What clashed at a site: open ones first the oldest, or all of the last weeks. */
export async function selectClashes(db: Reads, where: { site: number; open: boolean; job: string | null }): Promise<ClashRow[]> {
  const jobs = where.job === null ? null : await jobsOf(db, where.job);
  return query<ClashRow>(
    db,
    `${CLASH} WHERE c.site_id = ? AND (NOT ? OR c.settled_at IS NULL) AND (?::text[] IS NULL OR a.job = ANY(?::text[]))
     ORDER BY c.settled_at IS NOT NULL, CASE WHEN c.settled_at IS NULL THEN a.at END, c.settled_at DESC LIMIT 500`,
    [where.site, where.open, jobs, jobs],
  );
}

/** A clash, held while it is settled. */
export async function lockClash(trx: Trx, key: string): Promise<ClashRow | undefined> {
  await query(trx, `SELECT 1 FROM hand_clash WHERE key = ? FOR UPDATE`, [key]);
  return (await query<ClashRow>(trx, `${CLASH} WHERE c.key = ?`, [key]))[0];
}

/** Says whether the bench of a site trusts the pick. */
export async function updateBenchTrusts(trx: Trx, site: number, trusts: boolean): Promise<void> {
  await query(trx, `UPDATE site SET bench_trusts = ? WHERE id = ?`, [trusts, site]);
}

/** Forgets what changed so long ago that a device which does not know it yet begins anew. */
export async function forgetOldChanges(db: Db): Promise<void> {
  await query(
    db,
    `WITH gone AS (DELETE FROM fact_change WHERE at < now() - ?::interval RETURNING changed)
     UPDATE fact_floor
     SET changed = (SELECT max(changed::text::bigint) + 1 FROM gone)::text::xid8
     WHERE EXISTS (SELECT 1 FROM gone)`,
    ['3 days'],
  );
}
