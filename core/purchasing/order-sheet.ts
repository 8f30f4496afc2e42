import { isWholeStep, parseAmount, parseQty, readDay, type Amount, type ItemId, type Qty, type WantedColumn } from '#core/base';
import { packToBase, readAmount } from '#core/items';

/** The columns of a sheet of purchase orders. */
export const PURCHASE_COLUMNS: readonly WantedColumn[] = [
  { key: 'supplier', title: 'Supplier', required: true },
  { key: 'item', title: 'Item', required: true, names: ['Code', 'Barcode', 'Part number'] },
  { key: 'qty', title: 'Quantity', required: true, names: ['Qty'] },
  { key: 'reference', title: 'Order', required: false, names: ['Reference', 'Order number'] },
  { key: 'pack', title: 'Pack', required: false },
  { key: 'cost', title: 'Cost', required: false, names: ['Price'] },
  { key: 'due', title: 'Due', required: false, names: ['Date'] },
];

export type SheetItem = {
  readonly item: ItemId;
  readonly code: string;
  readonly decimals: number;
  readonly isRetired: boolean;
  readonly packs: ReadonlyMap<string, Qty>;
};
/** What is there before a sheet is judged: suppliers by code and by name, both in upper case; items by code, barcode, and “supplier|part
 *  number”; costs by “supplier|item”; orders that were imported before by “supplier|reference” in upper case. */
export type KnownForPurchases = {
  readonly suppliers: ReadonlyMap<string, { readonly id: number; readonly name: string }>;
  readonly items: ReadonlyMap<string, SheetItem>;
  readonly costs: ReadonlyMap<string, Amount>;
  readonly references: ReadonlyMap<string, string>;
  /** The day that a line without one is due, per supplier; and today, before which nothing is due. */
  readonly dueOf: (supplier: number) => string;
  readonly today: string;
};
export type SheetOrder = {
  readonly supplier: number;
  readonly reference: string;
  readonly due: string;
  readonly lines: readonly { readonly item: ItemId; readonly qty: Qty; readonly cost: Amount }[];
};
type Verdict = { readonly row: number; readonly verdict: 'new' | 'fault'; readonly name: string; readonly says: string };

/** Judges a sheet of purchase orders: which drafts it would make, and all that is wrong with each row.
 *  Shape:  rows of one supplier and one order reference are one order; without a reference, rows of one supplier are. A second row of
 *          an item in one order adds to the first.
 *  Errors: per row: a supplier, item, pack, quantity, cost or day that is none; a reference that was imported before, or has two due
 *          days. */
export function judgePurchaseSheet(
  columns: ReadonlyMap<string, number>,
  rows: readonly { readonly row: number; readonly cells: readonly string[] }[],
  known: KnownForPurchases,
): { verdicts: readonly Verdict[]; orders: readonly SheetOrder[] } {
  const verdicts: Verdict[] = [];
  const orders = new Map<string, { order: Omit<SheetOrder, 'lines'>; lines: Map<ItemId, { qty: number; cost: Amount }> }>();
  for (const { row, cells } of rows) {
    const cell = (key: string): string => (cells[columns.get(key) ?? -1] ?? '').trim();
    const supplier = known.suppliers.get(cell('supplier').toUpperCase());
    const text = cell('item').toUpperCase();
    const item = known.items.get(text) ?? (supplier && known.items.get(`${supplier.id}|${text}`));
    const units = item && readUnits(cell('pack'), item);
    const read = parseQty(cell('qty').replace(',', '.'));
    const amount = item && read.ok && typeof units === 'number' ? packToBase(read.value, { name: '', units }) : null;
    const cost = cell('cost') === '' ? null : readAmount(cell('cost'));
    const due = cell('due') === '' ? null : readDay(cell('due'), known.today);
    const reference = cell('reference');
    const taken = supplier && reference !== '' ? known.references.get(`${supplier.id}|${reference.toUpperCase()}`) : undefined;
    const key = `${supplier?.id}|${reference.toUpperCase()}`;
    const before = orders.get(key);
    const day = due ?? before?.order.due ?? (supplier ? known.dueOf(supplier.id) : known.today);
    const faults = [
      !supplier && `There is no supplier “${cell('supplier')}”.`,
      !item && `There is no item “${cell('item')}”${supplier ? `, and ${supplier.name} has no such part number` : ''}.`,
      item?.isRetired && `${item.code} is retired.`,
      item && units === null && `${item.code} does not come by “${cell('pack')}”.`,
      (!read.ok || read.value <= 0) && `“${cell('qty')}” is no quantity.`,
      item && read.ok && amount !== null && !isWholeStep(amount, item.decimals) && `${item.code} is not counted as fine as that.`,
      cell('cost') !== '' && cost === null && `“${cell('cost')}” under Cost is no amount, or can be read in two ways.`,
      cell('due') !== '' && due === null && `“${cell('due')}” under Due is no day.`,
      due !== null && due < known.today && `${due} is past.`,
      taken && `Order ${reference} was imported before, as ${taken}.`,
      before && due !== null && before.order.due !== due && `Order ${reference || 'of this supplier'} is due on ${before.order.due} above.`,
    ].filter((f) => typeof f === 'string');
    const name = `${item?.code ?? cell('item')} ${supplier ? `from ${supplier.name}` : ''}`.trim();
    if (faults.length > 0 || !supplier || !item || amount === null) {
      verdicts.push({ row, verdict: 'fault', name, says: faults.join(' ') || `“${cell('qty')}” is no quantity.` });
      continue;
    }
    const own = before ?? { order: { supplier: supplier.id, reference, due: day }, lines: new Map() };
    orders.set(key, own);
    const line = own.lines.get(item.item);
    const given = cost === null ? (line?.cost ?? known.costs.get(`${supplier.id}|${item.item}`) ?? parseAmount('0')) : parseAmount(cost);
    own.lines.set(item.item, { qty: (line?.qty ?? 0) + amount, cost: given });
    verdicts.push({ row, verdict: 'new', name, says: `Onto a draft for ${supplier.name}, due ${day}.` });
  }
  return {
    verdicts,
    orders: [...orders.values()].map(({ order, lines }) => ({
      ...order,
      lines: [...lines].map(([item, l]) => ({ item, qty: l.qty as Qty, cost: l.cost })),
    })),
  };
}

function readUnits(pack: string, item: SheetItem): Qty | null {
  if (pack === '') return 1000 as Qty;
  return item.packs.get(pack.toUpperCase()) ?? null;
}
