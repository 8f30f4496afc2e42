import { query, type Db, type Trx } from '#server/kernel';

type MovementSelect = {
  item?: number | undefined;
  bin?: number | undefined;
  document?: number | undefined;
  lot?: string | undefined;
  serial?: string | undefined;
  /** The number of a logistic unit into, with or out of which they went. */
  sscc?: string | undefined;
  person?: number | undefined;
  reason?: string | undefined;
  /** Days of a site, both included. */
  days?: { readonly site: number; readonly from?: string | undefined; readonly to?: string | undefined } | undefined;
  before?: number | undefined;
  oldestFirst?: boolean;
  after?: number | undefined;
  /** null: all of them. */
  limit: number | null;
};

/** A line of the ledger as it is read for the screens. `paper` is the delivery, order, round or count behind its document. */
export type LedgerRow = {
  id: number;
  at: Date;
  document_id: number;
  kind: string;
  number: string;
  paper: number | null;
  person: string;
  reason: string;
  item_id: number;
  code: string;
  description: string;
  lot: string | null;
  serial: string | null;
  lot_id: number | null;
  serial_id: number | null;
  qty: string;
  from_bin: number;
  from_address: string;
  from_condition: string;
  from_unit: number | null;
  to_bin: number;
  to_address: string;
  to_condition: string;
  to_unit: number | null;
  reverses: number | null;
  undone_by: number | null;
};

const UNIT = '(SELECT u.id FROM logistic_unit u WHERE u.sscc = ?)';
const midnight = (day: string): string => `(SELECT (?::date + ${day})::timestamp AT TIME ZONE time_zone FROM site WHERE id = ?)`;

/** Reads the ledger, newest first, or from its beginning. */
export async function selectMovements(trx: Pick<Db, 'raw'>, where: MovementSelect): Promise<LedgerRow[]> {
  const clauses: string[] = [];
  const values: (string | number)[] = [];
  const add = (sql: string, ...args: (string | number)[]) => {
    clauses.push(sql);
    values.push(...args);
  };
  if (where.item) add('m.item_id = ?', where.item);
  if (where.bin) add('(m.from_bin = ? OR m.to_bin = ?)', where.bin, where.bin);
  if (where.document) add('m.document_id = ?', where.document);
  if (where.lot) add('l.code = ?', where.lot);
  if (where.serial) add('s.code = ?', where.serial);
  if (where.sscc) add(`(m.from_unit = ${UNIT} OR m.to_unit = ${UNIT})`, where.sscc, where.sscc);
  if (where.person) add('m.person_id = ?', where.person);
  for (const word of where.reason?.split(/\s+/).filter(Boolean) ?? [])
    add('m.reason ILIKE ?', `%${word.replace(/[\\%_]/g, (c) => `\\${c}`)}%`);
  if (where.days?.from) add(`m.at >= ${midnight('0')}`, where.days.from, where.days.site);
  if (where.days?.to) add(`m.at < ${midnight('1')}`, where.days.to, where.days.site);
  if (where.before) add('m.id < ?', where.before);
  if (where.after) add('m.id > ?', where.after);
  return query<LedgerRow>(
    trx,
    `SELECT m.id, m.at, m.document_id, d.kind, d.number, p.name AS person, m.reason, m.item_id, i.code, i.description,
       l.code AS lot, s.code AS serial, m.qty, m.lot_id, m.serial_id,
       m.from_bin, fb.address AS from_address, m.from_condition, m.from_unit,
       m.to_bin, tb.address AS to_address, m.to_condition, m.to_unit, m.reverses,
       CASE WHEN d.kind IN ('receipt', 'shipment', 'count') THEN d.subject_id
            WHEN d.kind = 'round' THEN (SELECT r.id FROM round r WHERE r.number = d.number) END AS paper,
       (SELECT r.id FROM movement r WHERE r.reverses = m.id) AS undone_by
     FROM movement m
     JOIN document d ON d.id = m.document_id
     JOIN person p ON p.id = m.person_id
     JOIN item i ON i.id = m.item_id
     JOIN bin fb ON fb.id = m.from_bin
     JOIN bin tb ON tb.id = m.to_bin
     LEFT JOIN lot l ON l.id = m.lot_id
     LEFT JOIN serial s ON s.id = m.serial_id
     ${clauses.length > 0 ? `WHERE ${clauses.join(' AND ')}` : ''}
     ORDER BY m.id ${where.oldestFirst ? 'ASC' : 'DESC'}
     LIMIT ?`,
    [...values, where.limit],
  );
}

/** A document, to be undone. */
export async function selectDocument(
  trx: Trx,
  id: number,
): Promise<{ id: number; kind: string; number: string; site_id: number; site: string; person_id: number; at: Date } | undefined> {
  return (
    await query<never>(
      trx,
      `SELECT d.id, d.kind, d.number, d.site_id, s.name AS site, d.person_id, d.at
       FROM document d
       JOIN site s ON s.id = d.site_id
       WHERE d.id = ?`,
      [id],
    )
  )[0];
}
