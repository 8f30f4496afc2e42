import type { Trx } from './database.ts';

const PREFIX = {
  receipt: 'RC',
  putAway: 'PA',
  move: 'MV',
  round: 'RD',
  shipment: 'SH',
  count: 'CT',
  adjustment: 'AJ',
  opening: 'OB',
  hold: 'HD',
  release: 'HR',
  tracking: 'TR',
  reversal: 'RV',
  putBack: 'PB',
  transfer: 'TF',
} as const;
export type DocumentKind = keyof typeof PREFIX;

/** Makes the document that movements will point to.
 *  `subject` is the row that the document is about (a delivery, a count …), where there is one. */
export async function makeDocument(
  trx: Trx,
  kind: DocumentKind,
  stamp: { site: number; person: number; subject?: number; at?: Date },
): Promise<{ id: number; number: string; at: string }> {
  const prefix = PREFIX[kind];
  const { rows } = await trx.raw(
    `INSERT INTO document (kind, number, site_id, person_id, subject_id, at) VALUES (?, ? || nextval('number_${prefix.toLowerCase()}'), ?, ?, ?, coalesce(?::timestamptz, now_here())) RETURNING id, number, at`,
    [kind, `${prefix}-`, stamp.site, stamp.person, stamp.subject ?? null, stamp.at ?? null],
  );
  return { id: rows[0].id, number: rows[0].number, at: rows[0].at.toISOString() };
}
