import { addQty, formatQty, isWholeStep, parseQty, readDay, type ItemId, type Qty, type WantedColumn } from '#core/base';
import { foldName } from '#core/floor';
import { labelText, packToBase, type Tracking } from '#core/items';
import { ordersSentence } from './errors.ts';
import { decideNames } from './named.ts';

/** The columns of a sheet of orders (F2): one row for each line, the rows of one order under one reference. */
export const ORDER_COLUMNS: readonly WantedColumn[] = [
  { key: 'reference', title: 'Reference', required: true, names: ['Order', 'Customer order', 'Order number'] },
  { key: 'customer', title: 'Customer', required: true, names: ['Customer code'] },
  { key: 'item', title: 'Item', required: true, names: ['Code', 'Barcode', 'SKU'] },
  { key: 'qty', title: 'Quantity', required: true, names: ['Qty'] },
  { key: 'pack', title: 'Pack', required: false },
  { key: 'lot', title: 'Lot', required: false, names: ['Batch'] },
  { key: 'serials', title: 'Serials', required: false, names: ['Serial', 'Serial numbers'] },
  { key: 'due', title: 'Due', required: false, names: ['Due date'] },
  { key: 'priority', title: 'Priority', required: false },
  { key: 'carrier', title: 'Carrier', required: false },
  { key: 'note', title: 'Note', required: false },
];

export type OrderedItem = {
  readonly item: ItemId;
  readonly code: string;
  readonly decimals: number;
  readonly isRetired: boolean;
  readonly tracking: Tracking;
  /** Its base unit, and how many of it the code stands for by which it was found: of a case the pieces in it. */
  readonly unit: string;
  readonly per: Qty;
  readonly packs: readonly { readonly name: string; readonly units: Qty }[];
};
/** What is there before orders are judged: items by code and barcode in upper case; customers by folded code and name, null where a name
 *  is that of several; what of a customer's references is known, by “customer|folded reference”, with the number of its order. */
export type KnownForOrders = {
  readonly items: ReadonlyMap<string, OrderedItem>;
  readonly customers: ReadonlyMap<string, number | null>;
  readonly references: ReadonlyMap<string, string>;
  /** Lots and serials that are on record, by “item|label”. */
  readonly lots: ReadonlySet<string>;
  readonly serials: ReadonlySet<string>;
  readonly today: string;
  /** When an order is due whose row says nothing. */
  readonly dueElse: string;
};
/** An order as somebody sent it. */
export type SentOrder = {
  readonly reference: string;
  readonly customer: number;
  readonly due: string;
  readonly priority: number;
  readonly carrier: string;
  readonly note: string;
  readonly lines: readonly SentLine[];
};
export type SentLine = { readonly item: ItemId; readonly qty: Qty; readonly lot?: string; readonly serials?: readonly string[] };
type Verdict = { readonly row: number; readonly verdict: 'new' | 'fault'; readonly name: string; readonly says: string };
type Row = { readonly row: number; readonly cells: readonly string[] };

/** Judges a sheet of orders (F2): the orders that it would make, and all that is wrong with each row.
 *  Shape:  rows with one reference of one customer are one order; an item that comes twice in it, with the same goods named, is one line.
 *          What a later row leaves
 *          empty of due, priority, carrier and note the first one says for it.
 *  Errors: per row: a customer or item that is none here or can be two, a quantity, pack, day or priority that is none, a row that
 *          contradicts the first of its order, a reference of that customer that is here already. */
export function judgeOrderSheet(
  columns: ReadonlyMap<string, number>,
  rows: readonly Row[],
  known: KnownForOrders,
): { verdicts: readonly Verdict[]; orders: readonly SentOrder[] } {
  const verdicts: Verdict[] = [];
  const orders = new Map<string, SentOrder & { row: number }>();
  for (const { row, cells } of rows) {
    const cell = (key: string): string => (cells[columns.get(key) ?? -1] ?? '').trim();
    const faults: string[] = [];
    const customer = known.customers.get(foldName(cell('customer')));
    if (customer === undefined) faults.push(`There is no customer “${cell('customer')}”.`);
    else if (customer === null) faults.push(`Several customers are called “${cell('customer')}”. Name this one by its code.`);
    const reference = cell('reference');
    if (reference === '') faults.push('It has no reference, so nobody can tell to which order it belongs.');
    if (reference.length > MOST_REFERENCE)
      faults.push(`A reference has at most ${MOST_REFERENCE} letters; this one has ${reference.length}.`);
    const key = `${customer ?? ''}|${foldName(reference)}`;
    const first = orders.get(key);
    const there = reference === '' ? undefined : known.references.get(key);
    if (there !== undefined) faults.push(`${reference} of this customer is here already, as ${there}.`);
    const item = known.items.get(cell('item').toUpperCase());
    if (!item) faults.push(`There is no item “${cell('item')}”.`);
    else if (item.isRetired) faults.push(`${item.code} is retired.`);
    const amount = item ? readAmount(cell('qty'), cell('pack'), item) : null;
    if (typeof amount === 'string') faults.push(amount);
    const named = namedIn(cell('lot'), cell('serials'));
    if (item && typeof amount === 'number') faults.push(...faultsOfNames(named, item, amount, known));
    const due = cell('due') === '' ? (first?.due ?? known.dueElse) : readDay(cell('due'), known.today);
    if (due === null) faults.push(`“${cell('due')}” under Due is no day.`);
    else if (first && cell('due') !== '' && due !== first.due)
      faults.push(`It is due on ${due}; row ${first.row} of the same order says ${first.due}.`);
    const priority = cell('priority') === '' ? (first?.priority ?? DEFAULT_PRIORITY) : Number(cell('priority'));
    if (!Number.isInteger(priority) || priority < 1 || priority > 9)
      faults.push(`“${cell('priority')}” under Priority is none from 1 to 9.`);
    if (cell('carrier').length > MOST_REFERENCE) faults.push(`A carrier has at most ${MOST_REFERENCE} letters.`);
    if (cell('note').length > MOST_NOTE) faults.push(`A note has at most ${MOST_NOTE} letters.`);
    const name = reference === '' ? cell('item') : reference;
    if ((first?.lines.length ?? 0) >= MOST_LINES && !isThere(first?.lines ?? [], item?.item, named))
      faults.push(`An order has at most ${MOST_LINES} lines; make two of ${reference}.`);
    if (faults.length > 0 || !item || !customer || due === null || amount === null || typeof amount === 'string') {
      verdicts.push({ row, verdict: 'fault', name, says: faults.join(' ') });
      continue;
    }
    const before = first?.lines.find((l) => isSame(l, item.item, named));
    const lines = before
      ? (first?.lines ?? []).map((l) => (l === before ? addedTo(l, amount, named) : l))
      : [...(first?.lines ?? []), { item: item.item, qty: amount, ...named }];
    orders.set(key, {
      row: first?.row ?? row,
      reference,
      customer,
      due,
      priority,
      carrier: first?.carrier || cell('carrier'),
      note: first?.note || cell('note'),
      lines,
    });
    verdicts.push({
      row,
      verdict: 'new',
      name,
      says: `${formatQty(amount)} of ${item.code}, due ${due}${before ? '; added to its row above' : ''}.`,
    });
  }
  return { verdicts, orders: [...orders.values()].map(({ row: _, ...order }) => order) };
}

/** Most lines of one order. */
export const MOST_LINES = 1000;
const MOST_REFERENCE = 60;
const MOST_NOTE = 500;
const DEFAULT_PRIORITY = 5;

type Named = Pick<SentLine, 'lot' | 'serials'>;
function namedIn(lot: string, serials: string): Named {
  const [label, all] = [labelText(lot), serials.split(/[\s,;]+/).flatMap((s) => labelText(s) || [])];
  return { ...(label ? { lot: label } : {}), ...(all.length > 0 ? { serials: all } : {}) };
}

// One item with the same goods named is one line.
const isSame = (line: SentLine, item: ItemId | undefined, named: Named): boolean =>
  line.item === item && line.lot === named.lot && !line.serials === !named.serials;
const isThere = (lines: readonly SentLine[], item: ItemId | undefined, named: Named): boolean => lines.some((l) => isSame(l, item, named));

const addedTo = (line: SentLine, more: Qty, { serials }: Named): SentLine => ({
  ...line,
  qty: addQty(line.qty, more),
  ...(serials ? { serials: [...(line.serials ?? []), ...serials] } : {}),
});

function faultsOfNames(named: Named, item: OrderedItem, qty: Qty, known: KnownForOrders): string[] {
  const { lot, serials = [] } = named;
  const decided = decideNames({ lot: lot ?? null, serials, bin: null }, { item: item.code, tracking: item.tracking, qty });
  return [
    ...(decided.ok ? [] : [ordersSentence(decided.error)]),
    ...(lot === undefined || known.lots.has(`${item.item}|${lot}`) ? [] : [`Lot ${lot} of ${item.code} is on no record.`]),
    ...serials
      .filter((s) => !known.serials.has(`${item.item}|${s}`))
      .map((serial) => ordersSentence({ code: 'orders.unknownSerial', item: item.code, serial })),
  ];
}

// The quantity in base units, or what is wrong with it.
function readAmount(text: string, packName: string, item: OrderedItem): Qty | string {
  const read = parseQty(text.replace(',', '.'));
  if (!read.ok || read.value <= 0) return `“${text}” is no quantity.`;
  const pack = packName === '' ? null : item.packs.find((p) => foldName(p.name) === foldName(packName));
  if (pack === undefined) return `${item.code} does not come by “${packName}”.`;
  // A code that stands for a case counts cases, as its scan does.
  const amount = packToBase(read.value, pack ?? { name: '', units: item.per });
  if (amount === null || !isWholeStep(amount, item.decimals))
    return item.decimals === 0 ? `${text} of ${item.code} is not possible: it is counted whole.` : `${text} of ${item.code} is too fine.`;
  return amount;
}
