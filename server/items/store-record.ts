import type { Qty } from '#core/base';
import type { BodyOf, Routes } from '#contract';
import { dbQty, query, queryOne, type Db, type Trx } from '#server/kernel';

/** Writes an item with its base pack; undefined where another has the code. `code` in capitals. */
export async function insertItem(
  trx: Trx,
  item: { code: string; description: string; group: string; unit: string; decimals: number; tracking: string },
): Promise<{ id: number; pack: number } | undefined> {
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO item (code, description, item_group, base_unit, decimals, tracking)
     VALUES (?, ?, ?, ?, ?, ?)
     ON CONFLICT (code) DO NOTHING
     RETURNING id`,
    [item.code, item.description, item.group, item.unit, item.decimals, item.tracking],
  );
  if (!made) return undefined;
  const pack = await queryOne<{ id: number }>(trx, `INSERT INTO pack (item_id, name, units) VALUES (?, ?, 1) RETURNING id`, [
    made.id,
    item.unit,
  ]);
  return { id: made.id, pack: pack.id };
}

/** Says from which day a price or cost holds; a day of null is today at the site. A second one for the same day is a correction and
 *  counts. */
export async function insertAmount(
  trx: Trx,
  a: { item: number; kind: 'price' | 'cost'; amount: string; from: string | null; site: number; person: number; source: string },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source)
     VALUES (?, ?, ?, coalesce(?::date, today_at(?)), ?, ?)`,
    [a.item, a.kind, a.amount, a.from, a.site, a.person, a.source],
  );
}

/** Says what goods cost that have come, from today at the site on: the last of several costs of an item, and only where it is another than
 *  before. */
export async function insertCosts(
  trx: Trx,
  costs: readonly { item: number; cost: string }[],
  of: { site: number; person: number; source: string },
): Promise<number> {
  const last = new Map(costs.map((c) => [c.item, c.cost]));
  const rows = await query(
    trx,
    `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source)
     SELECT x.item, 'cost', x.cost, today_at(?), ?, ?
     FROM unnest(?::int[], ?::numeric[]) AS x(item, cost)
     WHERE amount_on(x.item, 'cost', today_at(?)) IS DISTINCT FROM x.cost
     ORDER BY x.item
     RETURNING id`,
    [of.site, of.person, of.source, [...last.keys()], [...last.values()], of.site],
  );
  return rows.length;
}

/** Writes the record of an item, one version on. `own` are the values of its own fields by their labels. */
export async function updateRecord(
  trx: Trx,
  item: number,
  change: BodyOf<Routes['items.change']>,
  own: Readonly<Record<string, string>>,
): Promise<void> {
  await query(
    trx,
    `UPDATE item
     SET description = ?, item_group = ?, decimals = ?, shelf_life_months = ?, storage_class = ?, weight_g = ?, volume_ml = ?,
       count_class = ?, note = ?, own = ?, version = version + 1
     WHERE id = ?`,
    [
      change.description,
      change.group,
      change.decimals,
      change.shelfLifeMonths,
      change.storageClass,
      change.weightGrams,
      change.volumeMl,
      change.countClass.toUpperCase(),
      change.note,
      JSON.stringify(own),
      item,
    ],
  );
}

/** Gives an item the facts, packs, suppliers and parts of another. Part numbers are of one item only. */
export async function copyRecord(trx: Trx, from: number, to: number): Promise<void> {
  await query(
    trx,
    `UPDATE item t
     SET shelf_life_months = s.shelf_life_months, storage_class = s.storage_class, weight_g = s.weight_g, volume_ml = s.volume_ml,
       count_class = s.count_class, note = s.note, own = s.own
     FROM item s
     WHERE s.id = ? AND t.id = ?`,
    [from, to],
  );
  await query(
    trx,
    `INSERT INTO pack (item_id, name, units, length_mm, width_mm, height_mm, weight_g)
     SELECT ?, name, units, length_mm, width_mm, height_mm, weight_g
     FROM pack
     WHERE item_id = ?
     ON CONFLICT (item_id, name) DO NOTHING`,
    [to, from],
  );
  await query(
    trx,
    `INSERT INTO item_supplier (item_id, supplier_id, part_no, cost, lead_days)
     SELECT ?, supplier_id, '', cost, lead_days
     FROM item_supplier
     WHERE item_id = ?`,
    [to, from],
  );
  await query(trx, `INSERT INTO kit_part (kit_id, part_id, qty) SELECT ?, part_id, qty FROM kit_part WHERE kit_id = ?`, [to, from]);
}

/** Says that an item is retired since now, or is not any more. */
export async function updateRetired(trx: Trx, item: number, retired: boolean): Promise<void> {
  await query(trx, `UPDATE item SET retired_at = CASE WHEN ? THEN coalesce(retired_at, now_here()) END WHERE id = ?`, [retired, item]);
}

/** Ties a code to a pack. `gtin`: the code as a retail code of 14 digits, where it is one. */
export async function insertBarcode(trx: Trx, tied: { code: string; gtin: string | null; item: number; pack: number }): Promise<void> {
  await query(trx, `INSERT INTO barcode (code, gtin, item_id, pack_id) VALUES (?, ?, ?, ?)`, [tied.code, tied.gtin, tied.item, tied.pack]);
}

const packValues = (pack: BodyOf<Routes['items.savePack']>): (string | number | null)[] => [
  pack.name,
  dbQty(pack.units),
  pack.lengthMm || null,
  pack.widthMm || null,
  pack.heightMm || null,
  pack.weightG || null,
];

/** Writes a pack of an item; sizes in millimetres, weight in grams. Returns its number. */
export async function insertPack(trx: Trx, item: number, pack: BodyOf<Routes['items.savePack']>): Promise<number> {
  const made = await queryOne<{ id: number }>(
    trx,
    `INSERT INTO pack (item_id, name, units, length_mm, width_mm, height_mm, weight_g)
     VALUES (?, ?, ?, ?, ?, ?, ?)
     RETURNING id`,
    [item, ...packValues(pack)],
  );
  return made.id;
}

/** Changes a pack of an item; false where the item has no such pack. */
export async function updatePack(trx: Trx, item: number, id: number, pack: BodyOf<Routes['items.savePack']>): Promise<boolean> {
  const done = await query(
    trx,
    `UPDATE pack SET name = ?, units = ?, length_mm = ?, width_mm = ?, height_mm = ?, weight_g = ? WHERE id = ? AND item_id = ?
      RETURNING 1`,
    [...packValues(pack), id, item],
  );
  return done.length > 0;
}

/** Locks what all kits are made of: two changes at once cannot close a circle that neither sees. */
export async function lockKits(trx: Trx): Promise<void> {
  await query(trx, `LOCK TABLE kit_part IN SHARE ROW EXCLUSIVE MODE`);
}

/** Writes what a kit is made of, instead of what it was; a part that is named twice counts twice. */
export async function replaceParts(trx: Trx, kit: number, parts: readonly { item: number; qty: Qty }[]): Promise<void> {
  await query(trx, `DELETE FROM kit_part WHERE kit_id = ?`, [kit]);
  await query(
    trx,
    `INSERT INTO kit_part (kit_id, part_id, qty) SELECT ?, p, sum(q) FROM unnest(?::int[], ?::numeric[]) AS x(p, q) GROUP BY p`,
    [kit, parts.map((p) => p.item), parts.map((p) => dbQty(p.qty))],
  );
}

/** Takes a code from an item; false where the item has no such code. */
export async function deleteBarcode(trx: Trx, item: number, code: string): Promise<boolean> {
  return (await query(trx, `DELETE FROM barcode WHERE item_id = ? AND code = ? RETURNING 1`, [item, code])).length > 0;
}

/** Says that a supplier no longer has an item. */
export async function deleteItemSupplier(trx: Trx, item: number, supplier: number): Promise<void> {
  await query(trx, `DELETE FROM item_supplier WHERE item_id = ? AND supplier_id = ?`, [item, supplier]);
}

/** Says under which number, for how much and how fast a supplier has an item. `cost` as a decimal text. */
export async function upsertItemSupplier(
  trx: Trx,
  item: number,
  of: { supplier: number; partNo?: string | undefined; cost: string; leadDays: number },
): Promise<void> {
  await query(
    trx,
    `INSERT INTO item_supplier (item_id, supplier_id, part_no, cost, lead_days)
     VALUES (?, ?, ?, ?, ?)
     ON CONFLICT (item_id, supplier_id) DO UPDATE SET part_no = excluded.part_no, cost = excluded.cost, lead_days = excluded.lead_days`,
    [item, of.supplier, of.partNo ?? '', of.cost, of.leadDays],
  );
}

/** Hangs a file on an item, or takes it off. The file itself stays. */
export async function updateItemFile(trx: Trx, item: number, file: number, hangs: boolean): Promise<void> {
  if (hangs) await query(trx, `INSERT INTO item_file (item_id, file_id) VALUES (?, ?) ON CONFLICT DO NOTHING`, [item, file]);
  else await query(trx, `DELETE FROM item_file WHERE item_id = ? AND file_id = ?`, [item, file]);
}

/** Writes a supplier; undefined where another has the code. */
export async function insertSupplier(trx: Trx, supplier: { code: string; name: string }): Promise<{ id: number } | undefined> {
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO supplier (code, name) VALUES (?, ?) ON CONFLICT (code) DO NOTHING RETURNING id`,
    [supplier.code, supplier.name],
  );
  return made;
}

/** Writes an own field; undefined where another is called so. */
export async function insertOwnField(
  trx: Trx,
  field: { label: string; kind: string; choices: readonly string[] },
): Promise<{ id: number } | undefined> {
  const [made] = await query<{ id: number }>(
    trx,
    `INSERT INTO own_field (label, kind, choices) VALUES (?, ?, ?) ON CONFLICT (label) DO NOTHING RETURNING id`,
    [field.label, field.kind, field.choices],
  );
  return made;
}

/** Locks an own field; undefined where there is none of this number. */
export async function lockOwnField(trx: Trx, id: number): Promise<{ label: string } | undefined> {
  return (await query<{ label: string }>(trx, `SELECT label FROM own_field WHERE id = ? FOR UPDATE`, [id]))[0];
}

/** Changes an own field; the values that items have of it go on under its new label. */
export async function updateOwnField(
  trx: Trx,
  id: number,
  before: string,
  to: { label: string; choices: readonly string[]; retired: boolean },
): Promise<void> {
  await query(
    trx,
    `UPDATE own_field SET label = ?, choices = ?, retired_at = CASE WHEN ? THEN coalesce(retired_at, now_here()) END WHERE id = ?`,
    [to.label, to.choices, to.retired, id],
  );
  if (before === to.label) return;
  await query(trx, `UPDATE item SET own = own - ?::text || jsonb_build_object(?::text, own->>?::text) WHERE own->>?::text IS NOT NULL`, [
    before,
    to.label,
    before,
    before,
  ]);
}

/** Writes again what search looks in: code, words, group, own fields, suppliers' part numbers and barcodes, and the words of it all.
 *  Shape:  of these items, or of all. */
export async function refreshSearch(db: Pick<Db, 'raw'>, items: readonly number[] | null): Promise<void> {
  await query(
    db,
    `WITH fresh AS (
       SELECT i.id,
         fold_text(concat_ws(' ', i.code, i.description, i.item_group, (SELECT string_agg(value, ' ') FROM jsonb_each_text(i.own)),
         (SELECT string_agg(part_no, ' ') FROM item_supplier s WHERE s.item_id = i.id),
           (SELECT string_agg(code, ' ') FROM barcode c WHERE c.item_id = i.id))) AS search,
         bare_code(i.code) || ' ' || coalesce(
           (SELECT string_agg(bare_code(part_no), ' ') FROM item_supplier s WHERE s.item_id = i.id), ''
         ) AS bare
       FROM item i WHERE ?::int[] IS NULL OR i.id = ANY(?::int[])),
     told AS (
       INSERT INTO search_word
       SELECT DISTINCT w
       FROM item i
       JOIN fresh f ON f.id = i.id, spelled_words(i.description || ' ' || i.item_group) w
       ON CONFLICT DO NOTHING
     )
     UPDATE item i SET search = f.search, words = search_words(f.search || ' ' || f.bare) FROM fresh f WHERE f.id = i.id`,
    [items, items],
  );
}
