import type { Trx } from './database.ts';
import { query } from './query.ts';

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
  inspection: 'IN',
  return: 'RE',
  carry: 'CR',
  assembly: 'AS',
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
  const [made] = await query<{ id: number; number: string; at: Date }>(
    trx,
    `INSERT INTO document (kind, number, site_id, person_id, subject_id, at)
     VALUES (?, ? || nextval('number_${prefix.toLowerCase()}'), ?, ?, ?, coalesce(?::timestamptz, now_here()))
     RETURNING id, number, at`,
    [kind, `${prefix}-`, stamp.site, stamp.person, stamp.subject ?? null, stamp.at ?? null],
  );
  if (!made) throw new Error('An insert answers its row.');
  return { ...made, at: made.at.toISOString() };
}
