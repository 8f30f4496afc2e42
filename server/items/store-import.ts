import type { ItemRecord } from '#core/items';
import { query, type Trx } from '#server/kernel';
import { refreshSearch } from './store-record.ts';

/** Locks all items: what an import compares with does not change under it. */
export async function lockItems(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE item IN SHARE ROW EXCLUSIVE MODE`);
}

const BATCH = 2000;

/** Writes items whole: new ones with their base pack, the others one version on; amounts that differ hold from today at the site. */
export async function upsertItems(
  trx: Trx,
  records: readonly ItemRecord[],
  by: { person: number; site: number; source: string },
): Promise<void> {
  for (let i = 0; i < records.length; i += BATCH) {
    const part = records.slice(i, i + BATCH);
    const ids = new Map((await upsertFacts(trx, part)).map((r) => [r.code, r.id]));
    const items = part.map((r) => ids.get(r.code) as number);
    await query(
      trx,
      `INSERT INTO pack (item_id, name, units)
       SELECT i, u, 1
       FROM unnest(?::int[], ?::text[]) AS x(i, u)
       WHERE NOT EXISTS (SELECT 1 FROM pack WHERE item_id = i)`,
      [items, part.map((r) => r.unit)],
    );
    for (const kind of ['price', 'cost'] as const)
      await query(
        trx,
        `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source)
         SELECT i, '${kind}', a, d.day, ?, ?
         FROM unnest(?::int[], ?::numeric[]) AS x(i, a), (SELECT today_at(?) AS day) d
         WHERE a <> amount_on(i, '${kind}', d.day)`,
        [by.person, by.source, items, part.map((r) => r[kind]), by.site],
      );
    await refreshSearch(trx, items);
  }
}

const upsertFacts = (trx: Trx, part: readonly ItemRecord[]): Promise<{ id: number; code: string }[]> =>
  query<{ id: number; code: string }>(
    trx,
    `INSERT INTO item (code, description, item_group, base_unit, decimals, tracking, storage_class, weight_g, volume_ml, count_class,
       note, own)
     SELECT *
     FROM unnest(?::text[], ?::text[], ?::text[], ?::text[], ?::int[], ?::text[], ?::text[], ?::int[], ?::bigint[], ?::text[],
       ?::text[], ?::jsonb[])
     ON CONFLICT (code) DO UPDATE SET description = excluded.description, item_group = excluded.item_group,
       decimals = excluded.decimals, storage_class = excluded.storage_class, weight_g = excluded.weight_g,
       volume_ml = excluded.volume_ml, count_class = excluded.count_class, note = excluded.note, own = excluded.own,
       version = item.version + 1
     RETURNING id, code`,
    [
      part.map((r) => r.code),
      part.map((r) => r.description),
      part.map((r) => r.group),
      part.map((r) => r.unit),
      part.map((r) => r.decimals),
      part.map((r) => r.tracking),
      part.map((r) => r.storageClass),
      part.map((r) => r.weightG),
      part.map((r) => r.volumeMl),
      part.map((r) => r.countClass),
      part.map((r) => r.note),
      part.map((r) => JSON.stringify(r.own)),
    ],
  );
