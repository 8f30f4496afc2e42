import { formatAmount, isWholeStep, ONE, parseAmount, shareOf, type Qty } from '#core/base';
import { asQty, refuse, type Trx } from '#server/kernel';
import { makeItem, tieBarcode } from './record.ts';
import { lockListRow, selectFreeCode, updateListRowItem } from './store-prices.ts';
import { insertPack, upsertItemSupplier } from './store-record.ts';

/** Makes an item of a row of a supplier's price list, with its words, barcode, cost and price from there.
 *  Shape:  `qty` that is going to be stocked of it, in thousandths: by it and the pack is judged whether it is counted in whole units.
 *  Errors: `items.unknownListRow`, `items.alreadyStocked`; a barcode that another item has.
 *  Locks:  the row, so that of two who stock it the second finds the first's item. */
export async function makeListedItem(
  trx: Trx,
  wanted: { row: number; group?: string | undefined; qty: Qty; person: number; site: number },
): Promise<{ id: number; code: string; description: string; supplier: string }> {
  const row = await lockListRow(trx, wanted.row);
  if (!row) return refuse({ code: 'items.unknownListRow', id: wanted.row });
  if (row.item) refuse({ code: 'items.alreadyStocked', partNo: row.part_no, item: row.item });
  const units = asQty(row.pack_units);
  const cost = formatAmount(shareOf(parseAmount(row.cost), units), 4);
  const made = await makeItem(trx, {
    code: await selectFreeCode(trx, row.part_no.toUpperCase().slice(0, 36)),
    description: row.description,
    group: wanted.group || 'New',
    unit: 'each',
    decimals: isWholeStep(wanted.qty, 0) && isWholeStep(units, 0) ? 0 : 3,
    tracking: 'none',
    price: row.price ?? '0',
    cost,
    // A barcode of a list stands on what the list sells: a pack of several is not the piece.
    ...(row.barcode && units === ONE ? { barcode: row.barcode } : {}),
    person: wanted.person,
    site: wanted.site,
  });
  if (units !== ONE) {
    const pack = await insertPack(trx, made.id, { name: 'pack', units, lengthMm: null, widthMm: null, heightMm: null, weightG: null });
    if (row.barcode) await tieBarcode(trx, made.id, pack, row.barcode);
  }
  await upsertItemSupplier(trx, made.id, { supplier: row.supplier_id, partNo: row.part_no, cost, leadDays: 7 });
  await updateListRowItem(trx, row.id, made.id);
  return { id: made.id, code: made.code, description: row.description, supplier: row.supplier };
}
