import { findKitCircle, ownFault, readScan, type KitPart, type OwnField } from '#core/items';
import { formatQty, isWholeStep, qty, type ItemId } from '#core/base';
import type { Item } from '#contract/items';
import type { BodyOf, Routes } from '#contract';
import { qtyText } from '#contract/base';
import { asQty, query, refuse, valueOf, type Db, type Trx } from '#server/kernel';
import { findItem, lockItem, lockItemNames, selectBarcodeOwner, type FoundItem } from './store.ts';
import {
  copyRecord,
  insertAmount,
  insertBarcode,
  insertItem,
  insertPack,
  lockKits,
  replaceParts,
  updatePack,
  updateRecord,
  updateRetired,
  refreshSearch,
} from './store-record.ts';

/** An item with everything that is known of it; prices and costs as they hold today at the site. */
export async function readItem(db: Pick<Db, 'raw'>, id: number, site: number): Promise<Item> {
  const [row] = await query<Item>(
    db,
    `SELECT i.id, i.code, i.version, i.description, i.item_group AS "group", i.base_unit AS unit, i.decimals, i.tracking,
       i.shelf_life_months AS "shelfLifeMonths", i.storage_class AS "storageClass",
       trim_scale(amount_on(i.id, 'cost', d.day))::text AS cost, round(amount_on(i.id, 'price', d.day), 2)::text AS price,
       i.weight_g AS "weightGrams", i.volume_ml AS "volumeMl", i.count_class AS "countClass", i.note,
         i.retired_at IS NOT NULL AS retired, i.own,
       coalesce((SELECT json_agg(json_build_object('id', p.id, 'name', p.name, 'units', p.units::text, 'lengthMm', p.length_mm,
       'widthMm', p.width_mm, 'heightMm', p.height_mm, 'weightG', p.weight_g,
         'barcodes', coalesce(
           (SELECT json_agg(code ORDER BY code) FROM barcode WHERE pack_id = p.id), '[]'
         )) ORDER BY p.units, p.id) FROM pack p WHERE p.item_id = i.id), '[]') AS packs,
       coalesce(
         (
           SELECT json_agg(
             json_build_object('id', s.id, 'code', s.code, 'name', s.name, 'partNo', x.part_no, 'cost', trim_scale(x.cost)::text,
             'leadDays', x.lead_days)
             ORDER BY s.id
           )
           FROM item_supplier x
           JOIN supplier s ON s.id = x.supplier_id
           WHERE x.item_id = i.id
         ), '[]'
       ) AS suppliers,
       coalesce(
         (
           SELECT json_agg(
             json_build_object('bin', b.id, 'address', b.address, 'site', t.name, 'role', h.role, 'min', h.min_qty::text, 'max',
             h.max_qty::text)
             ORDER BY t.id, b.walk
           )
           FROM home_bin h
           JOIN bin b ON b.id = h.bin_id
           JOIN site t ON t.id = b.site_id
           WHERE h.item_id = i.id
         ), '[]'
       ) AS homes,
       coalesce(
         (
           SELECT json_agg(json_build_object('id', f.id, 'name', f.name, 'type', f.type, 'size', f.size) ORDER BY x.at, f.id)
           FROM item_file x
           JOIN file f ON f.id = x.file_id
           WHERE x.item_id = i.id
         ), '[]'
       ) AS files,
       coalesce(
         (
           SELECT json_agg(
             json_build_object('kind', a.kind, 'amount', trim_scale(a.amount)::text, 'from', a.holds_from, 'source', a.source,
             'begun', a.holds_from <= d.day)
             ORDER BY a.holds_from DESC, a.id DESC
           )
           FROM (SELECT * FROM item_amount WHERE item_id = i.id ORDER BY holds_from DESC, id DESC LIMIT 40) a
         ), '[]'
       ) AS amounts,
       coalesce(
         (
           SELECT json_agg(
             json_build_object('item', c.id, 'code', c.code, 'description', c.description, 'unit', c.base_unit, 'qty', k.qty::text)
             ORDER BY c.code
           )
           FROM kit_part k
           JOIN item c ON c.id = k.part_id
           WHERE k.kit_id = i.id
         ), '[]'
       ) AS parts,
       coalesce(
         (
           SELECT json_agg(json_build_object('item', c.id, 'code', c.code, 'description', c.description) ORDER BY c.code)
           FROM kit_part k
           JOIN item c ON c.id = k.kit_id
           WHERE k.part_id = i.id
         ), '[]'
       ) AS "partOf"
     FROM item i CROSS JOIN (SELECT today_at(?) AS day) d WHERE i.id = ?`,
    [site, id],
  );
  if (!row) return refuse({ code: 'items.unknownItem', id });
  const limit = (text: string | null): string | null => (text === null ? null : qtyText(asQty(text)));
  return {
    ...row,
    packs: row.packs.map((p) => ({ ...p, units: qtyText(asQty(p.units)) })),
    homes: row.homes.map((h) => ({ ...h, min: limit(h.min), max: limit(h.max) })),
    parts: row.parts.map((p) => ({ ...p, qty: qtyText(asQty(p.qty)) })),
  };
}

/** Makes an item with its base pack, its first price and, where one is given, its barcode. */
export async function makeItem(
  trx: Trx,
  item: BodyOf<Routes['items.make']> & { person: number; site: number; cost?: string },
): Promise<{ id: number; code: string; pack: number }> {
  const code = item.code.toUpperCase();
  await lockItemNames(trx);
  const owner = await selectBarcodeOwner(trx, code, gtinOf(code));
  if (owner) refuse({ code: 'items.codeIsBarcode', text: code, item: owner.code });
  const made = await insertItem(trx, { ...item, code });
  if (!made) return refuse({ code: 'items.codeTaken', text: code });
  await insertAmount(trx, {
    item: made.id,
    kind: 'price',
    amount: item.price,
    from: null,
    site: item.site,
    person: item.person,
    source: 'by hand',
  });
  if (item.cost !== undefined)
    await insertAmount(trx, {
      item: made.id,
      kind: 'cost',
      amount: item.cost,
      from: null,
      site: item.site,
      person: item.person,
      source: 'price list',
    });
  if (item.barcode) await tieBarcode(trx, made.id, made.pack, item.barcode);
  await refreshSearch(trx, [made.id]);
  return { id: made.id, code, pack: made.pack };
}

/** Changes the record. Finer counting is always possible; coarser only where no stock is finer.
 *  Errors: `items.changedMeanwhile` where `version` is not that of the record; `items.decimalsTooFew`; packs or parts of kits that would
 *          be finer than the item is counted; an own field that does not exist or whose value does not fit. */
export async function changeItem(trx: Trx, id: number, change: BodyOf<Routes['items.change']>): Promise<void> {
  const item = await lockItem(trx, id);
  if (item.version !== change.version) refuse({ code: 'items.changedMeanwhile', item: item.code });
  if (change.decimals < item.decimals) {
    await refuseFinerParts(trx, item, change.decimals);
    const [finer] = await query(trx, `SELECT 1 FROM balance WHERE item_id = ? AND qty <> round(qty, ?) LIMIT 1`, [id, change.decimals]);
    if (finer) refuse({ code: 'items.decimalsTooFew', item: item.code, decimals: change.decimals });
  }
  const own = await checkOwn(trx, change.own);
  await updateRecord(trx, id, change, own);
  await refreshSearch(trx, [id]);
}

async function refuseFinerParts(trx: Trx, item: FoundItem, decimals: number): Promise<void> {
  const [finer] = await query<{ what: string; qty: string }>(
    trx,
    `SELECT 'A pack “' || name || '”' AS what, units AS qty FROM pack WHERE item_id = ? AND units <> round(units, ?)
     UNION ALL SELECT 'A part of kit ' || k.code, p.qty
     FROM kit_part p
     JOIN item k ON k.id = p.kit_id
     WHERE p.part_id = ? AND p.qty <> round(p.qty, ?)
     LIMIT 1`,
    [item.id, decimals, item.id, decimals],
  );
  if (finer) refuse({ code: 'items.partTooFine', what: finer.what, qty: qtyText(asQty(finer.qty)), item: item.code, decimals });
}

async function checkOwn(trx: Trx, own: Readonly<Record<string, string>>): Promise<Record<string, string>> {
  const fields = new Map((await selectOwnFields(trx)).map((f) => [f.label, f]));
  const kept: Record<string, string> = {};
  for (const [label, raw] of Object.entries(own)) {
    const field = fields.get(label) ?? refuse({ code: 'items.unknownField', label });
    const text = raw.trim();
    const fault = ownFault(field, text);
    if (fault) refuse(fault);
    if (text !== '') kept[label] = text;
  }
  return kept;
}

/** The company's own fields. */
export function selectOwnFields(db: Pick<Db, 'raw'>): Promise<(OwnField & { id: number; retired: boolean })[]> {
  return query(db, `SELECT id, label, kind, choices, retired_at IS NOT NULL AS retired FROM own_field ORDER BY retired_at IS NOT NULL, id`);
}

/** A new item like another: everything but its code, barcodes, stock, homes and files, which are of one item only. */
export async function copyItem(
  trx: Trx,
  from: number,
  to: { code: string; description: string; person: number; site: number },
): Promise<number> {
  const source = await readItem(trx, from, to.site);
  const made = await makeItem(trx, {
    code: to.code,
    description: to.description,
    group: source.group,
    unit: source.unit,
    decimals: source.decimals,
    tracking: source.tracking,
    price: source.price,
    ...(source.cost === null ? {} : { cost: source.cost }),
    person: to.person,
    site: to.site,
  });
  await copyRecord(trx, from, made.id);
  await refreshSearch(trx, [made.id]);
  return made.id;
}

/** Retires an item or brings it back. One with stock, or on an open order, stays. */
export async function retireItem(trx: Trx, id: number, retired: boolean): Promise<void> {
  const item = await lockItem(trx, id);
  if (retired) {
    const [held] = await query<{ qty: string }>(
      trx,
      `SELECT sum(qty) AS qty FROM balance WHERE item_id = ? AND qty > 0 HAVING sum(qty) > 0`,
      [id],
    );
    if (held) refuse({ code: 'items.hasStock', item: item.code, onHand: formatQty(asQty(held.qty)), act: 'retiring it' });
    const where = await openWork(trx, id);
    if (where) refuse({ code: 'items.trackingOpen', item: item.code, where });
  }
  await updateRetired(trx, id, retired);
}

/** Where an item is in work just now, in words, or null: orders, deliveries and counts that are open. */
export async function openWork(trx: Trx, id: number): Promise<string | null> {
  const [open] = await query<{ what: string }>(
    trx,
    `SELECT 'order ' || o.number AS what
     FROM order_line l
     JOIN customer_order o ON o.id = l.order_id
     WHERE l.item_id = ? AND o.state = 'open'
     UNION ALL SELECT 'purchase order ' || x.number FROM expected_line x WHERE x.item_id = ?
     UNION ALL SELECT 'delivery ' || d.number
     FROM delivery_entry e
     JOIN delivery d ON d.id = e.delivery_id
     WHERE e.item_id = ? AND d.state IN ('scanning', 'review') AND e.taken_out_at IS NULL
     UNION ALL SELECT 'hold ' || d.number FROM hold h JOIN document d ON d.id = h.document_id WHERE h.released_at IS NULL
       AND (h.item_id = ? OR EXISTS (SELECT 1 FROM hold_line x WHERE x.hold_id = h.id AND x.item_id = ?))
     UNION ALL SELECT 'count ' || c.number
     FROM count_expected e
     JOIN stock_count c ON c.id = e.count_id
     WHERE e.item_id = ? AND c.state = 'open'
     LIMIT 1`,
    [id, id, id, id, id, id],
  );
  return open?.what ?? null;
}

/** What a text is as a retail code, 14 digits; null where it is none. */
function gtinOf(text: string): string | null {
  const reading = readScan(text, new Date().getUTCFullYear());
  return reading.ok && reading.value.kind !== 'text' ? reading.value.gtin : null;
}

/** Ties a code to a pack of an item. A code that another item has, as a barcode or as its own code, stays there: a scan means one thing. */
export async function tieBarcode(trx: Trx, item: number, pack: number, raw: string): Promise<void> {
  await lockItemNames(trx);
  const reading = valueOf(readScan(raw, new Date().getUTCFullYear()));
  const gtin = reading.kind === 'text' ? null : reading.gtin;
  const code = reading.kind === 'elements' && reading.gtin ? reading.gtin : reading.text;
  const taken = await selectBarcodeOwner(trx, code, gtin);
  if (taken && taken.item !== item) refuse({ code: 'items.barcodeTaken', text: code, item: taken.code });
  const [named] = await query<{ code: string }>(trx, `SELECT code FROM item WHERE code = upper(?) AND id <> ?`, [code, item]);
  if (named) refuse({ code: 'items.barcodeIsCode', text: code, item: named.code });
  if (!taken) await insertBarcode(trx, { code, gtin, item, pack });
}

/** Makes or changes a pack. How many units a pack holds can change only while nothing was scanned by it into an open delivery. */
export async function savePack(trx: Trx, item: number, pack: BodyOf<Routes['items.savePack']>): Promise<void> {
  const { code, decimals } = await lockItem(trx, item);
  if (!isWholeStep(pack.units, decimals))
    refuse({ code: 'items.partTooFine', what: `A pack “${pack.name}”`, qty: qtyText(pack.units), item: code, decimals });
  const [same] = await query(trx, `SELECT 1 FROM pack WHERE item_id = ? AND lower(name) = lower(?) AND id <> ?`, [
    item,
    pack.name,
    pack.pack ?? 0,
  ]);
  if (same) refuse({ code: 'items.packTaken', pack: pack.name, item: code });
  if (pack.pack === undefined) {
    await insertPack(trx, item, pack);
    return;
  }
  if (!(await updatePack(trx, item, pack.pack, pack))) refuse({ code: 'items.unknownPack', id: pack.pack });
}

/** Says what a kit is made of (B12).
 *  Errors: a kit that would contain itself, with the way round.
 *  Locks:  all kits, so that two changes at once cannot close a circle that neither sees. */
export async function setParts(trx: Trx, kit: number, parts: BodyOf<Routes['items.setParts']>['parts']): Promise<void> {
  await lockKits(trx);
  const item = await findItem(trx, kit);
  if (parts.some((p) => p.item === kit)) refuse({ code: 'items.kitSelf', item: item.code });
  for (const part of parts) {
    const { code, decimals } = await findItem(trx, part.item);
    if (!isWholeStep(part.qty, decimals))
      refuse({ code: 'items.partTooFine', what: 'A part', qty: qtyText(part.qty), item: code, decimals });
  }
  const others = await query<{ kit: ItemId; part: ItemId }>(trx, `SELECT kit_id AS kit, part_id AS part FROM kit_part WHERE kit_id <> ?`, [
    kit,
  ]);
  const all: KitPart[] = [
    ...others.map((o) => ({ ...o, qty: qty(1000) })),
    ...parts.map((p) => ({ kit: kit as ItemId, part: p.item as ItemId, qty: p.qty })),
  ];
  const circle = findKitCircle(kit as ItemId, all);
  if (circle) {
    const names = new Map(
      (await query<{ id: number; code: string }>(trx, `SELECT id, code FROM item WHERE id = ANY(?::int[])`, [circle])).map((r) => [
        r.id,
        r.code,
      ]),
    );
    refuse({ code: 'items.kitCircle', way: circle.map((id) => names.get(id) ?? '').join(' → ') });
  }
  await replaceParts(trx, kit, parts);
}
