import { ssccOf, ssccRoom } from '#core/items';
import { query, queryOne, refuse, type Db, type Trx } from '#server/kernel';

/** Under which company prefix the house numbers pallets and cartons, null where nobody has said; and how many numbers are left. */
export async function selectUnitNumbers(db: Pick<Db, 'raw'>): Promise<{ prefix: string | null; left: number }> {
  const [kept] = await query<{ value: string }>(db, `SELECT value FROM setting WHERE name = 'unit prefix'`);
  const prefix = kept?.value ?? null;
  const { given } = await queryOne<{ given: number }>(
    db,
    `SELECT (CASE WHEN is_called THEN last_value + 1 ELSE last_value END)::float8 AS given FROM number_unit`,
  );
  return { prefix, left: prefix === null ? 0 : Math.max(0, ssccRoom(prefix) - given) };
}

/** Takes so many numbers that no pallet or carton has (SSCC), each given once and never again.
 *  Errors: no prefix; a prefix whose numbers are used up. */
export async function takeUnitNumbers(trx: Trx, count: number): Promise<string[]> {
  const { prefix, left } = await selectUnitNumbers(trx);
  if (prefix === null) return refuse({ code: 'labels.noPrefix' });
  const free: string[] = [];
  // A house that numbered pallets before has some of these numbers in its stock, or on notices: those are passed over.
  while (free.length < count) {
    const drawn = await query<{ n: number }>(trx, `SELECT nextval('number_unit')::float8 AS n FROM generate_series(1, ?::int)`, [
      count - free.length,
    ]);
    const numbers = drawn.flatMap(({ n }) => ssccOf(prefix, n) ?? []);
    if (numbers.length < drawn.length) return refuse({ code: 'labels.prefixUsedUp', prefix, left });
    const taken = await query<{ sscc: string }>(
      trx,
      `SELECT x.sscc FROM unnest(?::text[]) AS x(sscc)
       WHERE EXISTS (SELECT 1 FROM logistic_unit u WHERE u.sscc = x.sscc)
         OR EXISTS (SELECT 1 FROM notice_line n WHERE n.sscc = x.sscc)
         OR EXISTS (SELECT 1 FROM delivery_entry e WHERE e.sscc = x.sscc)`,
      [numbers],
    );
    const known = new Set(taken.map((t) => t.sscc));
    free.push(...numbers.filter((sscc) => !known.has(sscc)));
  }
  return free;
}
