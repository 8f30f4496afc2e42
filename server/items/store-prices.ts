import type { PriceMapping, PriceRow } from '#core/items';
import { dbQty, query, queryOne, type Trx } from '#server/kernel';

/** Locks the price list of a supplier, which need not be there yet: of two imports of one list the second waits. */
export async function lockPriceList(trx: Trx, supplier: number): Promise<void> {
  await query(trx, `INSERT INTO price_list (supplier_id) VALUES (?) ON CONFLICT DO NOTHING`, [supplier]);
  await query(trx, `SELECT 1 FROM price_list WHERE supplier_id = ? FOR UPDATE`, [supplier]);
}

/** Notes what was imported as a supplier's list, and how its columns were read. */
export async function updatePriceList(
  trx: Trx,
  supplier: number,
  list: { mapping: PriceMapping; file: string; rows: number },
): Promise<void> {
  await query(trx, `UPDATE price_list SET columns = ?, imported_at = now_here(), file_name = ?, rows = ? WHERE supplier_id = ?`, [
    JSON.stringify(list.mapping),
    list.file,
    list.rows,
    supplier,
  ]);
}

const BATCH = 5000;

/** Writes the rows of a supplier's list, and of those that are on it no longer that they are gone. */
export async function upsertPriceRows(
  trx: Trx,
  input: { supplier: number; holdsFrom: string },
  judged: { rows: readonly PriceRow[]; gone: readonly string[] },
  progress: (done: number) => Promise<void>,
): Promise<void> {
  for (let i = 0; i < judged.rows.length; i += BATCH) {
    const part = judged.rows.slice(i, i + BATCH);
    await query(
      trx,
      // Rows that say what they said before are not written again; of 50,000 that is most of them.
      `INSERT INTO price_row AS r (supplier_id, part_no, description, barcode, gtin, pack_units, cost, price, holds_from, words)
       SELECT ?, p, d, b, g, u, c, s, ?, search_words(concat_ws(' ', p, bare_code(p), d, b))
       FROM unnest(?::text[], ?::text[], ?::text[], ?::text[], ?::numeric[], ?::numeric[], ?::numeric[]) AS x(p, d, b, g, u, c, s)
       ON CONFLICT (supplier_id, part_no) DO UPDATE SET description = excluded.description, barcode = excluded.barcode,
         gtin = excluded.gtin, pack_units = excluded.pack_units, cost = excluded.cost, price = excluded.price,
         holds_from = excluded.holds_from, words = excluded.words, gone_at = NULL
       WHERE r.gone_at IS NOT NULL
         OR (r.description, r.barcode, r.pack_units, r.cost, r.price)
           IS DISTINCT FROM (excluded.description, excluded.barcode, excluded.pack_units, excluded.cost, excluded.price)`,
      [
        input.supplier,
        input.holdsFrom,
        part.map((r) => r.partNo),
        part.map((r) => r.description),
        part.map((r) => r.barcode),
        part.map((r) => r.gtin),
        part.map((r) => dbQty(r.packUnits)),
        part.map((r) => r.cost),
        part.map((r) => r.price),
      ],
    );
    await progress(Math.min(judged.rows.length, i + BATCH));
  }
  await query(trx, `UPDATE price_row SET gone_at = now_here() WHERE supplier_id = ? AND part_no = ANY(?::text[])`, [
    input.supplier,
    judged.gone,
  ]);
  await query(trx, `SELECT settle_index('price_row_by_words')`);
  await query(trx, `INSERT INTO search_word SELECT DISTINCT w FROM unnest(?::text[]) d, spelled_words(d) w ON CONFLICT DO NOTHING`, [
    judged.rows.map((r) => r.description),
  ]);
}

/** Carries a list to the items that are stocked of it, found by this supplier's part number, else by barcode: costs, which are listed per
 *  pack and kept per base unit, and prices, each from the list's day; returns how many items, costs and prices that were. */
export async function carryToItems(
  trx: Trx,
  input: { supplier: number; holdsFrom: string; person: number; source: string },
): Promise<{ stocked: number; costs: number; prices: number }> {
  // Only rows that found their item are written: writing the others again would cost as much as the whole import.
  await query(
    trx,
    `UPDATE price_row r SET item_id = found.item_id FROM (
       SELECT p.id, coalesce(x.item_id, c.item_id) AS item_id
       FROM price_row p
       LEFT JOIN item_supplier x ON x.supplier_id = p.supplier_id AND upper(x.part_no) = upper(p.part_no)
       LEFT JOIN barcode c ON c.gtin = p.gtin
       WHERE p.supplier_id = ? AND p.gone_at IS NULL AND p.item_id IS NULL
         AND coalesce(x.item_id, c.item_id) IS NOT NULL) found WHERE found.id = r.id`,
    [input.supplier],
  );
  const amounts = (kind: 'cost' | 'price', amount: string): Promise<unknown[]> =>
    query(
      trx,
      `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source)
       SELECT r.item_id, '${kind}', max(${amount}), ?, ?, ?
       FROM price_row r
       WHERE r.supplier_id = ? AND r.item_id IS NOT NULL AND r.gone_at IS NULL AND ${amount} IS NOT NULL
       GROUP BY r.item_id HAVING max(${amount}) <> amount_on(r.item_id, '${kind}', ?::date) RETURNING 1`,
      [input.holdsFrom, input.person, input.source, input.supplier, input.holdsFrom],
    );
  const costs = await amounts('cost', 'round(r.cost / r.pack_units, 4)');
  const prices = await amounts('price', 'r.price');
  await query(
    trx,
    `UPDATE item_supplier x
     SET cost = round(r.cost / r.pack_units, 4)
     FROM price_row r
     WHERE r.supplier_id = ? AND x.supplier_id = r.supplier_id AND x.item_id = r.item_id AND r.gone_at IS NULL`,
    [input.supplier],
  );
  const { n: stocked } = await queryOne<{ n: number }>(
    trx,
    `SELECT count(*) AS n FROM price_row WHERE supplier_id = ? AND item_id IS NOT NULL AND gone_at IS NULL`,
    [input.supplier],
  );
  return { stocked, costs: costs.length, prices: prices.length };
}

export type ListedRow = {
  id: number;
  supplier_id: number;
  supplier: string;
  part_no: string;
  description: string;
  barcode: string | null;
  pack_units: string;
  cost: string;
  price: string | null;
  item: string | null;
};

/** A row of a price list, locked, with the item that it is stocked as; undefined where there is none of that number. */
export async function lockListRow(trx: Trx, id: number): Promise<ListedRow | undefined> {
  const rows = await query<ListedRow>(
    trx,
    `SELECT r.id, r.supplier_id, r.part_no, r.description, r.barcode, r.pack_units, r.cost, r.price, i.code AS item,
       s.name AS supplier
     FROM price_row r
     JOIN supplier s ON s.id = r.supplier_id
     LEFT JOIN item i ON i.id = r.item_id
     WHERE r.id = ?
     FOR UPDATE OF r`,
    [id],
  );
  return rows[0];
}

/** Says as which item a row of a list is stocked. */
export async function updateListRowItem(trx: Trx, row: number, item: number): Promise<void> {
  await query(trx, `UPDATE price_row SET item_id = ? WHERE id = ?`, [item, row]);
}

/** A code that no item has: this one, or it with the first number behind it that is free. */
export async function selectFreeCode(trx: Trx, base: string): Promise<string> {
  const [row] = await query<{ code: string }>(
    trx,
    `SELECT c.code
     FROM (SELECT CASE WHEN n = 1 THEN ?::text ELSE ? || '-' || n END AS code, n FROM generate_series(1, 99) n) c
     WHERE NOT EXISTS (SELECT 1 FROM item i WHERE i.code = c.code)
     ORDER BY c.n
     LIMIT 1`,
    [base, base],
  );
  return row?.code ?? base;
}
