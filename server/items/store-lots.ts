import { query, type Db } from '#server/kernel';

/** Whether the house takes only lots that the code of a label can hold. */
export const ONLY_LOTS_THAT_READ = `EXISTS (SELECT 1 FROM setting WHERE name = 'only lots that read' AND value = 'true')`;

export async function selectOnlyLotsThatRead(db: Pick<Db, 'raw'>): Promise<boolean> {
  const [row] = await query<{ only: boolean }>(db, `SELECT ${ONLY_LOTS_THAT_READ} AS only`);
  return row?.only ?? false;
}

/** Those of these lots that no item has yet. */
export function selectUnknownLots(
  db: Pick<Db, 'raw'>,
  lots: readonly { item: number; lot: string }[],
): Promise<{ item: number; lot: string }[]> {
  return query(
    db,
    `SELECT x.item, x.lot
     FROM unnest(?::int[], ?::text[]) AS x(item, lot)
     WHERE NOT EXISTS (SELECT 1 FROM lot l WHERE l.item_id = x.item AND l.code = x.lot)`,
    [lots.map((l) => l.item), lots.map((l) => l.lot)],
  );
}
