import type { Dpi, LabelSize, Paper, PrinterAt, Sheet } from '#core/labels';
import { LABEL_SIZES } from '#core/labels';
import { announce, query, refuse, type Db, type Trx } from '#server/kernel';

type Reads = Pick<Db, 'raw'>;

export type PrinterRow = {
  id: number;
  name: string;
  address: string;
  dpi: Dpi;
  roll: Paper | null;
  paused: boolean;
  pausedBy: string | null;
  said: string | null;
  heard: Date | null;
  /** Labels that wait, and those of them that another roll is wanted for. */
  waiting: number;
  wantRoll: { widthMm: number; heightMm: number; labels: number }[];
  failed: number;
  zones: { id: number; code: string }[];
  handhelds: string[];
  run: { id: number; labels: number; cameOut: number; unsure: boolean; since: string; titles: { title: string; copies: number }[] } | null;
};

const ROLL = `CASE WHEN p.roll_width_mm IS NOT NULL
  THEN jsonb_build_object('widthMm', p.roll_width_mm, 'heightMm', p.roll_height_mm) END AS roll`;

/** The printers of a site: what each waits for, and what is on its way through it. */
export function selectPrinters(db: Reads, site: number): Promise<PrinterRow[]> {
  return query<PrinterRow>(
    db,
    `SELECT p.id, p.name, p.address, p.dpi, ${ROLL}, p.paused_at IS NOT NULL AS paused, w.name AS "pausedBy",
       p.said, p.heard_at AS heard, q.waiting, q.failed, q."wantRoll",
       coalesce((
         SELECT json_agg(json_build_object('id', z.id, 'code', z.code) ORDER BY z.code)
         FROM zone z
         WHERE z.printer_id = p.id), '[]') AS zones,
       coalesce((SELECT json_agg(d.name ORDER BY d.name) FROM device d WHERE d.printer_id = p.id), '[]') AS handhelds,
       (
         SELECT json_build_object('id', r.id, 'labels', r.labels, 'cameOut', r.came_out, 'unsure', r.unsure, 'since', r.sent_at, 'titles', (
           SELECT json_agg(json_build_object('title', j.title, 'copies', (x.part->>'copies')::int) ORDER BY x.n)
           FROM jsonb_array_elements(r.parts) WITH ORDINALITY AS x(part, n)
           JOIN print_job j ON j.id = (x.part->>'job')::int))
         FROM print_run r
         WHERE r.printer_id = p.id AND r.ended_at IS NULL
       ) AS run
     FROM printer p
     LEFT JOIN person w ON w.id = p.paused_by
     CROSS JOIN LATERAL (
       SELECT coalesce(sum(j.copies - j.done) FILTER (WHERE j.state = 'waiting'), 0)::int AS waiting,
         count(*) FILTER (WHERE j.state = 'failed')::int AS failed,
         coalesce((
           SELECT json_agg(json_build_object('widthMm', o.w, 'heightMm', o.h, 'labels', o.labels))
           FROM (
             SELECT (o.face->>'widthMm')::float8 AS w, (o.face->>'heightMm')::float8 AS h, sum(o.copies - o.done)::int AS labels
             FROM print_job o
             WHERE o.printer_id = p.id AND o.state = 'waiting' AND p.roll_width_mm IS NOT NULL
               AND ((o.face->>'widthMm')::numeric <> p.roll_width_mm OR (o.face->>'heightMm')::numeric <> p.roll_height_mm)
             GROUP BY 1, 2
             ORDER BY min(o.id)) o), '[]') AS "wantRoll"
       FROM print_job j
       WHERE j.printer_id = p.id AND j.state IN ('waiting', 'failed')) q
     WHERE p.site_id = ? AND p.retired_at IS NULL
     ORDER BY lower(p.name)`,
    [site],
  );
}

/** A printer as it matters to where a label goes. */
export type NamedPrinter = PrinterAt & { readonly name: string };

/** The printers of a site as it matters to where a label goes. */
export function selectPrintersAt(db: Reads, site: number): Promise<NamedPrinter[]> {
  return query<NamedPrinter>(
    db,
    `SELECT p.id, p.name, p.dpi, ${ROLL} FROM printer p WHERE p.site_id = ? AND p.retired_at IS NULL ORDER BY p.id`,
    [site],
  );
}

/** The printer that a handheld uses, null where it has none of its own. */
export async function selectOwnPrinter(db: Reads, device: string): Promise<number | null> {
  const [row] = await query<{ printer: number | null }>(db, `SELECT printer_id AS printer FROM device WHERE id = ?`, [device]);
  return row?.printer ?? null;
}

/** The printers of zones: of those that have one. */
export async function selectZonePrinters(db: Reads, site: number): Promise<Map<number, number>> {
  const rows = await query<{ zone: number; printer: number }>(
    db,
    `SELECT id AS zone, printer_id AS printer FROM zone WHERE site_id = ? AND printer_id IS NOT NULL`,
    [site],
  );
  return new Map(rows.map((r) => [r.zone, r.printer]));
}

/** Gives a printer to every site that never had one.
 *  Shape:  `address` of the device; each site's printer is asked under its own name there. */
export async function ensurePrinters(db: Db, address: string): Promise<void> {
  const bare = await query(db, `SELECT 1 FROM site s WHERE NOT EXISTS (SELECT 1 FROM printer p WHERE p.site_id = s.id) LIMIT 1`);
  if (bare.length === 0) return;
  await db.transaction(async (trx) => {
    await query(
      trx,
      `INSERT INTO printer (site_id, name, address, dpi)
       SELECT s.id, 'Label printer', ? || '/ipp/' || s.id, 203
       FROM site s
       WHERE NOT EXISTS (SELECT 1 FROM printer p WHERE p.site_id = s.id)
       ON CONFLICT DO NOTHING`,
      [address],
    );
    await adoptHomeless(trx);
    announce(trx, 'labels');
  });
}

// Labels that were asked for where there was no printer go to the first that comes.
async function adoptHomeless(trx: Trx): Promise<void> {
  await query(
    trx,
    `UPDATE print_job j
     SET printer_id = p.id, svg = CASE WHEN j.face IS NULL THEN j.svg END
     FROM (SELECT DISTINCT ON (site_id) id, site_id FROM printer WHERE retired_at IS NULL ORDER BY site_id, id) p
     WHERE j.site_id = p.site_id AND j.printer_id IS NULL AND j.state = 'waiting'`,
  );
}

export type PrinterFacts = { name: string; address: string; dpi: Dpi; roll: Paper | null; zones: readonly number[] };

/** Writes a printer of a site. */
export async function insertPrinter(trx: Trx, site: number, facts: PrinterFacts): Promise<number> {
  await refuseTakenName(trx, site, facts.name, 0);
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO printer (site_id, name, address, dpi, roll_width_mm, roll_height_mm) VALUES (?, ?, ?, ?, ?, ?) RETURNING id`,
    [site, facts.name, facts.address, facts.dpi, facts.roll?.widthMm ?? null, facts.roll?.heightMm ?? null],
  );
  const id = made?.id ?? 0;
  await setZones(trx, site, id, facts.zones);
  await adoptHomeless(trx);
  announce(trx, 'labels');
  return id;
}

/** Writes how a printer is now. What waits for it is drawn again where its head is another. */
export async function updatePrinter(trx: Trx, site: number, id: number, facts: PrinterFacts): Promise<void> {
  await refuseTakenName(trx, site, facts.name, id);
  const was = await findPrinter(trx, site, id);
  await query(
    trx,
    `UPDATE printer
     SET name = ?, address = ?, dpi = ?, roll_width_mm = ?, roll_height_mm = ?, said = NULL, tries = 0, next_try = now()
     WHERE id = ?`,
    [facts.name, facts.address, facts.dpi, facts.roll?.widthMm ?? null, facts.roll?.heightMm ?? null, id],
  );
  // What stands behind the new address knows nothing of what the old one was sent: only who looks at the strip does.
  if (was.address !== facts.address) await query(trx, `UPDATE print_run SET unsure = true WHERE printer_id = ? AND ended_at IS NULL`, [id]);
  if (was.dpi !== facts.dpi)
    await query(trx, `UPDATE print_job SET svg = NULL WHERE printer_id = ? AND state = 'waiting' AND face IS NOT NULL`, [id]);
  await setZones(trx, site, id, facts.zones);
  announce(trx, 'labels');
}

async function setZones(trx: Trx, site: number, printer: number, zones: readonly number[]): Promise<void> {
  await query(
    trx,
    `UPDATE zone
     SET printer_id = CASE WHEN id = ANY(?::int[]) THEN ?::int END
     WHERE site_id = ? AND (id = ANY(?::int[]) OR printer_id = ?)
       AND printer_id IS DISTINCT FROM CASE WHEN id = ANY(?::int[]) THEN ?::int END`,
    [zones, printer, site, zones, printer, zones, printer],
  );
}

async function refuseTakenName(trx: Trx, site: number, name: string, self: number): Promise<void> {
  const taken = await query(trx, `SELECT 1 FROM printer WHERE site_id = ? AND lower(name) = lower(?) AND retired_at IS NULL AND id <> ?`, [
    site,
    name,
    self,
  ]);
  if (taken.length > 0) refuse({ code: 'labels.printerTaken', name });
}

type FoundPrinter = { id: number; name: string; dpi: Dpi; address: string; paused: boolean; said: string | null };

/** A printer of a site, locked against whoever changes it or sends to it.
 *  Errors: none of that number at this site. */
export async function findPrinter(trx: Trx, site: number, id: number): Promise<FoundPrinter> {
  const [printer] = await query<FoundPrinter>(
    trx,
    `SELECT id, name, dpi, address, paused_at IS NOT NULL AS paused, said
     FROM printer
     WHERE id = ? AND site_id = ? AND retired_at IS NULL
     FOR NO KEY UPDATE`,
    [id, site],
  );
  return printer ?? refuse({ code: 'labels.unknownPrinter', id });
}

/** Takes a printer away. What waits for it goes to another one of the site, or waits for one.
 *  Errors: `labels.runOpen` while labels are on their way through it. */
export async function retirePrinter(trx: Trx, site: number, { id, name }: { id: number; name: string }): Promise<void> {
  const open = await query(trx, `SELECT 1 FROM print_run WHERE printer_id = ? AND ended_at IS NULL`, [id]);
  if (open.length > 0) refuse({ code: 'labels.runOpen', name });
  await query(trx, `UPDATE printer SET retired_at = now() WHERE id = ?`, [id]);
  await query(trx, `UPDATE zone SET printer_id = NULL WHERE printer_id = ?`, [id]);
  await query(trx, `UPDATE device SET printer_id = NULL WHERE printer_id = ?`, [id]);
  await query(trx, `UPDATE print_job SET printer_id = NULL, site_id = ? WHERE printer_id = ? AND state IN ('waiting', 'failed')`, [
    site,
    id,
  ]);
  await adoptHomeless(trx);
  announce(trx, 'labels');
}

/** Stops a printer before its next run, or lets it go on, at once whatever it waited for. */
export async function updatePaused(trx: Trx, id: number, by: number | null): Promise<void> {
  await query(
    trx,
    `UPDATE printer
     SET paused_at = CASE WHEN ?::int IS NULL THEN NULL ELSE coalesce(paused_at, now()) END, paused_by = ?, tries = 0, next_try = now(),
       said = CASE WHEN ?::int IS NULL THEN NULL ELSE said END
     WHERE id = ?`,
    [by, by, by, id],
  );
  announce(trx, 'labels');
}

/** Says which labels are in a printer now. */
export async function updateRoll(trx: Trx, id: number, roll: Paper | null): Promise<void> {
  await query(trx, `UPDATE printer SET roll_width_mm = ?, roll_height_mm = ?, next_try = now() WHERE id = ?`, [
    ...[roll?.widthMm ?? null, roll?.heightMm ?? null],
    id,
  ]);
  announce(trx, 'labels');
}

/** Lets another printer print what waits for this one. */
export async function handOver(trx: Trx, from: number, to: number): Promise<number> {
  const moved = await query(
    trx,
    `UPDATE print_job j
     SET printer_id = t.id, svg = CASE WHEN j.face IS NULL OR t.dpi = f.dpi THEN j.svg END
     FROM printer f, printer t
     WHERE f.id = ? AND t.id = ? AND j.printer_id = f.id AND j.state = 'waiting'
     RETURNING 1`,
    [from, to],
  );
  announce(trx, 'labels');
  return moved.length;
}

/** Says which printer a handheld uses, null for none of its own.
 *  Errors: none of that number at this site. */
export async function updateOwnPrinter(trx: Trx, of: { site: number; device: string; printer: number | null }): Promise<void> {
  if (of.printer !== null) await findPrinter(trx, of.site, of.printer);
  await query(trx, `UPDATE device SET printer_id = ? WHERE id = ?`, [of.printer, of.device]);
  announce(trx, 'labels');
}

/** The printers of a site by name. */
export async function selectPrinterNames(db: Reads, site: number): Promise<{ id: number; name: string }[]> {
  return query<{ id: number; name: string }>(
    db,
    `SELECT id, name FROM printer WHERE site_id = ? AND retired_at IS NULL ORDER BY lower(name)`,
    [site],
  );
}

/** Labels that somebody measured. `key` names them where labels are asked for, as the names of the common rolls do. */
export type OwnPaper = Paper & { key: string; name: string; sheet: Sheet | null };

/** All own papers, by name. */
export async function selectPapers(db: Reads): Promise<OwnPaper[]> {
  return query<OwnPaper>(
    db,
    `SELECT 'own-' || id AS key, name, width_mm::float8 AS "widthMm", height_mm::float8 AS "heightMm", sheet
     FROM label_paper
     WHERE retired_at IS NULL
     ORDER BY lower(name)`,
  );
}

/** The paper of a name: a common roll, or an own one.
 *  Errors: `labels.unknownPaper`. */
export async function findPaper(db: Reads, key: string): Promise<Paper & { sheet: Sheet | null }> {
  if (Object.hasOwn(LABEL_SIZES, key)) {
    const { widthMm, heightMm } = LABEL_SIZES[key as LabelSize];
    return { widthMm, heightMm, sheet: null };
  }
  const own = (await selectPapers(db)).find((p) => p.key === key);
  return own ?? refuse({ code: 'labels.unknownPaper', name: key });
}

/** Writes labels that somebody measured. */
export async function insertPaper(trx: Trx, paper: Paper & { name: string; sheet: Sheet | null }): Promise<string> {
  const taken = (await selectPapers(trx)).some((p) => p.name.toLowerCase() === paper.name.toLowerCase());
  if (taken) refuse({ code: 'labels.paperTaken', name: paper.name });
  const [made] = await query<{ key: string }>(
    trx,
    `INSERT INTO label_paper (name, width_mm, height_mm, sheet) VALUES (?, ?, ?, ?::jsonb) RETURNING 'own-' || id AS key`,
    [paper.name, paper.widthMm, paper.heightMm, paper.sheet ? JSON.stringify(paper.sheet) : null],
  );
  announce(trx, 'labels');
  return made?.key ?? '';
}

/** Takes labels that somebody measured out of use.
 *  Errors: none of that name; they are in a printer. */
export async function retirePaper(trx: Trx, key: string): Promise<void> {
  const paper = (await selectPapers(trx)).find((p) => p.key === key);
  if (!paper) return refuse({ code: 'labels.unknownPaper', name: key });
  const [printer] = await query<{ name: string }>(
    trx,
    `SELECT name FROM printer WHERE roll_width_mm = ? AND roll_height_mm = ? AND retired_at IS NULL LIMIT 1`,
    [paper.widthMm, paper.heightMm],
  );
  if (printer) refuse({ code: 'labels.paperInUse', name: paper.name, printer: printer.name });
  await query(trx, `UPDATE label_paper SET retired_at = now() WHERE 'own-' || id = ?`, [key]);
  announce(trx, 'labels');
}
