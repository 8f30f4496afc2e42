import { roundAmount } from '#core/base';
import { isItemColumn, readSearch } from '#core/items';
import { mayReadCosts, type Role } from '#core/people';
import { qtyText } from '#contract/base';
import type { Item, ItemRow, ListRow } from '#contract/items';
import { announce, asQty, keysetOf, keysetText, loadFile, query, refuse, startImport, type Db, type RoomHandlers } from '#server/kernel';
import { upsertSetting } from '#server/people';
import { assignHomes, unassignHomes } from './homes.ts';
import { findSupplier, readColumns } from './price-lists.ts';
import { changeItem, copyItem, makeItem, readItem, retireItem, savePack, selectOwnFields, setParts, tieBarcode } from './record.ts';
import { browseItems, browseItemsSorted, findItems, findListRows, mendSpelling, selectGroups, type ItemListRow } from './search.ts';
import { findItem } from './store.ts';
import {
  deleteBarcode,
  deleteItemSupplier,
  insertAmount,
  insertOwnField,
  insertSupplier,
  lockOwnField,
  updateItemFile,
  updateOwnField,
  upsertItemSupplier,
  refreshSearch,
} from './store-record.ts';
import { setOnlyLotsThatRead } from './lots-that-read.ts';
import { selectOnlyLotsThatRead } from './store-lots.ts';

const LIST_ROWS = 40;
const FEW = 8;

type Reading = { readonly role: Role; readonly site: { readonly id: number } };

function rowOut(r: ItemListRow, me: Reading): ItemRow {
  const { on_hand, free, storage_class, supplier, cost, price, rank: _, ...rest } = r;
  return {
    ...rest,
    storageClass: storage_class,
    supplier: supplier ?? '',
    onHand: qtyText(asQty(on_hand)),
    free: qtyText(asQty(free)),
    cost: mayReadCosts(me.role) ? roundAmount(cost) : null,
    price: roundAmount(price),
  };
}

const listRowOut = (row: ListRow, me: Reading): ListRow => (mayReadCosts(me.role) ? row : { ...row, cost: null });

/** An item as the person who asks may see it. */
async function showItem(db: Pick<Db, 'raw'>, id: number, me: Reading): Promise<Item> {
  const item = await readItem(db, id, me.site.id);
  if (mayReadCosts(me.role)) return item;
  return {
    ...item,
    cost: null,
    suppliers: item.suppliers.map((s) => ({ ...s, cost: null })),
    amounts: item.amounts.filter((a) => a.kind !== 'cost'),
  };
}

export const itemsHandlers: RoomHandlers<'items'> = {
  'items.search': async (db, { me, query: asked }) => {
    const filter = {
      site: me.site.id,
      group: asked.group,
      supplier: asked.supplier,
      onlyFree: asked.free === 'yes',
      retired: asked.retired === 'yes',
    };
    const groups = await selectGroups(db);
    if (!asked.q) {
      const { sort: by, after, limit } = asked;
      // An order tells what it is by.
      if (by?.endsWith('cost') && !mayReadCosts(me.role)) refuse({ code: 'people.noRight', role: me.role, act: 'See costs' });
      if (by !== undefined && asked.over !== 'lists') {
        const { rows, next } = await browseItemsSorted(db, filter, { by, after, limit });
        return { items: rows.map((r) => rowOut(r, me)), listRows: [], next, groups, insteadOf: null };
      }
      const rows = asked.over === 'lists' ? [] : await browseItems(db, filter, keysetOf(after, 'text')?.[0] ?? '', limit);
      const last = rows.at(-1);
      return {
        items: rows.map((r) => rowOut(r, me)),
        listRows: [],
        next: last && rows.length === limit ? keysetText([last.code]) : null,
        groups,
        insteadOf: null,
      };
    }
    const text = readSearch(asked.q);
    const look = async (words: readonly (readonly string[])[]) => {
      // Side by side: the two lists know nothing of each other.
      const [items, listRows] = await Promise.all([
        asked.over === 'lists' ? [] : findItems(db, filter, { text, words }, asked.limit),
        asked.over === 'items' ? [] : findListRows(db, { text, words }, asked.supplier, LIST_ROWS),
      ]);
      return { items, listRows };
    };
    const found = await look(text.words.map((w) => [w]));
    // Whoever typed the beginning of a long word finds plenty; few hits may be a slip, and what was meant is shown behind them.
    const few = found.items.length + found.listRows.length < FEW;
    const better = few ? await mendSpelling(db, text) : null;
    const meant = better ? await look(better) : { items: [], listRows: [] };
    const [items, listRows] = [
      [...found.items, ...meant.items.filter((m) => !found.items.some((f) => f.id === m.id))],
      [...found.listRows, ...meant.listRows.filter((m) => !found.listRows.some((f) => f.id === m.id))],
    ];
    const helped = items.length + listRows.length > found.items.length + found.listRows.length;
    const insteadOf = better && helped ? better.map((w) => w.join(' or ')).join(' ') : null;
    return { items: items.map((r) => rowOut(r, me)), listRows: listRows.map((r) => listRowOut(r, me)), next: null, groups, insteadOf };
  },
  'items.item': (db, { me, params }) => showItem(db, params.id, me),
  'items.make': async (trx, { me, body }) => {
    const made = await makeItem(trx, { ...body, person: me.id, site: me.site.id });
    announce(trx, 'items');
    return showItem(trx, made.id, me);
  },
  'items.change': async (trx, { me, params, body }) => {
    await changeItem(trx, params.id, body);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.copy': async (trx, { me, params, body }) => {
    const id = await copyItem(trx, params.id, { ...body, person: me.id, site: me.site.id });
    announce(trx, 'items');
    return showItem(trx, id, me);
  },
  'items.retire': async (trx, { me, params, body }) => {
    await retireItem(trx, params.id, body.retired);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.addBarcode': async (trx, { me, params, body }) => {
    await findItem(trx, params.id);
    const [pack] = await query(trx, `SELECT 1 FROM pack WHERE id = ? AND item_id = ?`, [body.pack, params.id]);
    if (!pack) refuse({ code: 'items.unknownPack', id: body.pack });
    await tieBarcode(trx, params.id, body.pack, body.code);
    await refreshSearch(trx, [params.id]);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.removeBarcode': async (trx, { me, params, body }) => {
    if (!(await deleteBarcode(trx, params.id, body.code))) refuse({ code: 'items.unknownCode', text: body.code });
    await refreshSearch(trx, [params.id]);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.savePack': async (trx, { me, params, body }) => {
    await savePack(trx, params.id, body);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.setSupplier': async (trx, { me, params, body }) => {
    await findItem(trx, params.id);
    await findSupplier(trx, body.supplier);
    if (body.remove) await deleteItemSupplier(trx, params.id, body.supplier);
    else await upsertItemSupplier(trx, params.id, body);
    await refreshSearch(trx, [params.id]);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.setAmount': async (trx, { me, params, body }) => {
    await findItem(trx, params.id);
    await insertAmount(trx, { item: params.id, ...body, site: me.site.id, person: me.id, source: 'by hand' });
    announce(trx, 'items');
    announce(trx, 'labels');
    return showItem(trx, params.id, me);
  },
  'items.setParts': async (trx, { me, params, body }) => {
    await setParts(trx, params.id, body.parts);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.attach': async (trx, { me, params, body }) => {
    await findItem(trx, params.id);
    if (!body.remove) {
      const file = await loadFile(trx, body.file);
      if (!file) return refuse({ code: 'file.unknown', id: body.file });
      if (!/^(image\/|application\/pdf)/.test(file.type))
        refuse({ code: 'file.wrongKind', name: file.name, wanted: 'an item takes pictures and PDF' });
    }
    await updateItemFile(trx, params.id, body.file, !body.remove);
    announce(trx, 'items');
    return showItem(trx, params.id, me);
  },
  'items.suppliers': async (db) => ({
    suppliers: await query(
      db,
      `SELECT s.id, s.code, s.name, (SELECT count(*) FROM item_supplier x WHERE x.supplier_id = s.id) AS items
       FROM supplier s
       ORDER BY s.name`,
    ),
  }),
  'items.setCurrency': async (trx, { body }) => {
    await upsertSetting(trx, 'currency', body.currency);
    announce(trx, 'people');
    return { ok: true };
  },
  'items.lotRule': async (db) => ({ onlyThatRead: await selectOnlyLotsThatRead(db) }),
  'items.setLotRule': async (trx, { body }) => {
    await setOnlyLotsThatRead(trx, body.onlyThatRead);
    return { ok: true };
  },
  'items.makeSupplier': async (trx, { body }) => {
    const made = await insertSupplier(trx, body);
    if (!made) return refuse({ code: 'items.supplierTaken', text: body.code });
    announce(trx, 'items');
    return made;
  },
  'items.priceLists': async (db) => {
    const rows = await query<{
      supplier: number;
      code: string;
      name: string;
      rows: number;
      stocked: number;
      file: string | null;
      imported: Date | null;
      imports: { job: number; title: string; at: string; state: string }[];
    }>(
      db,
      `SELECT s.id AS supplier, s.code, s.name, count(r.id) AS rows, count(r.item_id) AS stocked, l.file_name AS file,
         l.imported_at AS imported,
         coalesce((SELECT json_agg(json_build_object('job', j.id, 'title', j.title, 'at', j.at, 'state', j.state) ORDER BY j.id DESC) FROM (
           SELECT id, title, at, state
           FROM job
           WHERE kind = 'items.importPrices' AND (input->>'supplier')::int = s.id AND state IN ('done', 'checked')
           ORDER BY id DESC
           LIMIT 5) j), '[]') AS imports
       FROM supplier s
       LEFT JOIN price_list l ON l.supplier_id = s.id
       LEFT JOIN price_row r ON r.supplier_id = s.id AND r.gone_at IS NULL
       GROUP BY s.id, l.supplier_id
       ORDER BY s.name`,
    );
    return { lists: rows.map((r) => ({ ...r, imported: r.imported?.toISOString() ?? null })) };
  },
  'items.priceColumns': (db, { params, query: asked }) => readColumns(db, params.id, asked.file),
  'items.importPrices': async (trx, { me, params, body }) => {
    const supplier = await findSupplier(trx, params.id);
    return startImport(trx, 'items.importPrices', `Prices of ${supplier.name}`, me, { ...body, supplier: supplier.id } as never);
  },
  'items.listRow': async (db, { params }) => {
    const [row] = await query<{ part_no: string; supplier_id: number }>(db, `SELECT part_no, supplier_id FROM price_row WHERE id = ?`, [
      params.id,
    ]);
    const rows = row
      ? await findListRows(db, { text: { ...readSearch(''), code: row.part_no.toUpperCase() }, words: [] }, row.supplier_id, 50)
      : [];
    return rows.find((r) => r.id === params.id) ?? refuse({ code: 'items.unknownListRow', id: params.id });
  },
  'items.importItems': (trx, { me, body }) => startImport(trx, 'items.importItems', 'Items', me, body),
  'items.importHomes': (trx, { me, body }) => startImport(trx, 'items.importHomes', 'Home bins', me, body),
  'items.ownFields': async (db) => ({ fields: await selectOwnFields(db) }),
  'items.makeOwnField': async (trx, { body }) => {
    if (isItemColumn(body.label)) refuse({ code: 'items.fieldIsColumn', label: body.label });
    const made = await insertOwnField(trx, body);
    if (!made) return refuse({ code: 'items.fieldTaken', label: body.label });
    announce(trx, 'items');
    return made;
  },
  'items.changeOwnField': async (trx, { params, body }) => {
    const before = await lockOwnField(trx, params.id);
    if (!before) return refuse({ code: 'items.unknownField', label: String(params.id) });
    if (isItemColumn(body.label)) refuse({ code: 'items.fieldIsColumn', label: body.label });
    const [same] = await query(trx, `SELECT 1 FROM own_field WHERE label = ? AND id <> ?`, [body.label, params.id]);
    if (same) refuse({ code: 'items.fieldTaken', label: body.label });
    await updateOwnField(trx, params.id, before.label, body);
    announce(trx, 'items');
    return { ok: true };
  },
  'items.assign': (trx, { me, body }) => assignHomes(trx, { site: me.site.id, ...body }),
  'items.unassign': async (trx, { me, body }) => ({ removed: await unassignHomes(trx, me.site.id, body.pairs) }),
};
