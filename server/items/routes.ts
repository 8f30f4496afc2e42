import { readScan } from '#core/items';
import { qtyText } from '#contract/base';
import type { Item } from '#contract/items';
import { announce, asQty, keysetOf, keysetText, query, refuse, valueOf, type Db, type RoomHandlers } from '#server/kernel';
import { findItem, refreshSearch, selectItems } from './store.ts';

export const itemsHandlers: RoomHandlers<'items'> = {
  'items.search': async (db, { me, query: asked }) => {
    const words = (asked.q ?? '').split(/\s+/).filter(Boolean).slice(0, 8);
    const rows = await selectItems(db, {
      site: me.site.id,
      words,
      exact: asked.q ?? '',
      group: asked.group,
      onlyFree: asked.free === 'yes',
      after: keysetOf(asked.after, 2),
      limit: asked.limit,
    });
    const last = rows.at(-1);
    const groups = await query<{ g: string }>(db, `SELECT DISTINCT item_group AS g FROM item ORDER BY 1`);
    return {
      items: rows.map((r) => ({
        id: r.id,
        code: r.code,
        description: r.description,
        group: r.group,
        unit: r.unit,
        tracking: r.tracking,
        onHand: qtyText(asQty(r.on_hand)),
        free: qtyText(asQty(r.free)),
        price: r.price,
      })),
      next: last && rows.length === asked.limit ? keysetText([last.rank, last.code]) : null,
      groups: groups.map((g) => g.g),
    };
  },
  'items.item': (db, { params }) => readItem(db, params.id),
  'items.make': async (trx, { body }) => {
    const code = body.code.toUpperCase();
    const [made] = await query<{ id: number }>(
      trx,
      `INSERT INTO item (code, description, item_group, base_unit, decimals, tracking, price) VALUES (?, ?, ?, ?, ?, ?, ?) ON CONFLICT (code) DO NOTHING RETURNING id`,
      [code, body.description, body.group, body.unit, body.decimals, body.tracking, body.price],
    );
    if (!made) return refuse({ code: 'items.codeTaken', text: code });
    const [pack] = await query<{ id: number }>(trx, `INSERT INTO pack (item_id, name, units) VALUES (?, ?, 1) RETURNING id`, [
      made.id,
      body.unit,
    ]);
    if (body.barcode && pack) await tieBarcode(trx, made.id, pack.id, body.barcode);
    await refreshSearch(trx, made.id);
    announce(trx, 'items');
    return readItem(trx, made.id);
  },
  'items.addBarcode': async (trx, { params, body }) => {
    await findItem(trx, params.id);
    const [pack] = await query(trx, `SELECT 1 FROM pack WHERE id = ? AND item_id = ?`, [body.pack, params.id]);
    if (!pack) refuse({ code: 'request.fields', fields: [{ field: 'pack', problem: 'is not a pack of this item.' }] });
    await tieBarcode(trx, params.id, body.pack, body.code);
    await refreshSearch(trx, params.id);
    announce(trx, 'items');
    return readItem(trx, params.id);
  },
};

async function tieBarcode(trx: Db, item: number, pack: number, raw: string): Promise<void> {
  const reading = valueOf(readScan(raw, new Date().getUTCFullYear()));
  const gtin = reading.kind === 'text' ? null : reading.gtin;
  const code = reading.kind === 'elements' && reading.gtin ? reading.gtin : reading.text;
  const [taken] = await query<{ code: string; item_id: number }>(
    trx,
    `SELECT i.code, c.item_id FROM barcode c JOIN item i ON i.id = c.item_id WHERE c.code = ? OR c.gtin = ?`,
    [code, gtin],
  );
  if (taken && taken.item_id !== item) refuse({ code: 'items.barcodeTaken', text: code, item: taken.code });
  if (!taken) await query(trx, `INSERT INTO barcode (code, gtin, item_id, pack_id) VALUES (?, ?, ?, ?)`, [code, gtin, item, pack]);
}

async function readItem(db: Db, id: number): Promise<Item> {
  const [row] = await query<Record<string, unknown>>(
    db,
    `SELECT i.id, i.code, i.description, i.item_group AS "group", i.base_unit AS unit, i.decimals, i.tracking, i.shelf_life_months AS "shelfLifeMonths", i.storage_class AS "storageClass", i.cost, i.price,
       i.weight_g AS "weightGrams", i.count_class AS "countClass",
       coalesce((SELECT json_agg(json_build_object('id', p.id, 'name', p.name, 'units', p.units::text, 'barcodes', coalesce((SELECT json_agg(code ORDER BY code) FROM barcode WHERE pack_id = p.id), '[]')) ORDER BY p.units) FROM pack p WHERE p.item_id = i.id), '[]') AS packs,
       coalesce((SELECT json_agg(json_build_object('code', s.code, 'name', s.name, 'partNo', x.part_no, 'cost', x.cost::text, 'leadDays', x.lead_days)) FROM item_supplier x JOIN supplier s ON s.id = x.supplier_id WHERE x.item_id = i.id), '[]') AS suppliers,
       coalesce((SELECT json_agg(json_build_object('bin', b.id, 'address', b.address) ORDER BY b.walk) FROM home_bin h JOIN bin b ON b.id = h.bin_id WHERE h.item_id = i.id), '[]') AS homes
     FROM item i WHERE i.id = ?`,
    [id],
  );
  if (!row) return refuse({ code: 'items.unknownItem', id });
  const item = row as unknown as Item;
  return { ...item, packs: item.packs.map((p) => ({ ...p, units: qtyText(asQty(p.units)) })) };
}
