import { formatQty, parseAmount, parseQty, roundAmount, type Qty } from '#core/base';
import { readAmount, type DecimalMark } from './amounts.ts';
import { hasValidCheckDigit } from './check-digit.ts';

/** What a supplier's list may say of an article. The columns of each supplier are mapped to these once and remembered (B7). */
export const PRICE_FIELDS = [
  { key: 'partNo', title: 'Part number', required: true },
  { key: 'description', title: 'Description', required: true },
  { key: 'barcode', title: 'Barcode', required: false },
  { key: 'cost', title: 'Cost', required: true },
  { key: 'price', title: 'Sell price', required: false },
  { key: 'packUnits', title: 'Units in a pack', required: false },
] as const;
export type PriceField = (typeof PRICE_FIELDS)[number]['key'];
export type PriceMapping = Partial<Record<PriceField, string>>;

/** A row of a price list. Amounts are decimal texts as PostgreSQL's numeric takes them; cost is per pack as listed. */
export type PriceRow = {
  readonly partNo: string;
  readonly description: string;
  readonly barcode: string | null;
  readonly gtin: string | null;
  readonly cost: string;
  readonly price: string | null;
  readonly packUnits: Qty;
};
export type PriceVerdict = {
  readonly row: number;
  readonly verdict: 'new' | 'changed' | 'same' | 'gone' | 'fault';
  readonly name: string;
  readonly says: string;
};
export type KnownPriceRow = Pick<PriceRow, 'description' | 'cost' | 'price' | 'barcode' | 'packUnits'> & { readonly gone: boolean };

// Titles under which suppliers commonly send a field; only a first proposal, a person confirms the mapping.
const LIKELY: Readonly<Record<PriceField, RegExp>> = {
  partNo: /part|article|order\s*no|item\s*(no|code)|^sku$|^code$|catalog/i,
  description: /desc|name|text|title/i,
  barcode: /ean|gtin|barcode|upc/i,
  cost: /cost|net|trade|purchase|your price/i,
  price: /retail|sell|rrp|list price|gross/i,
  packUnits: /pack|units|qty|quantity/i,
};

/** Proposes which column is which by the titles. */
export function proposeMapping(header: readonly string[]): PriceMapping {
  const mapping: PriceMapping = {};
  const used = new Set<string>();
  for (const { key } of PRICE_FIELDS) {
    const title = header.find((h) => !used.has(h) && LIKELY[key].test(h));
    if (title === undefined) continue;
    mapping[key] = title;
    used.add(title);
  }
  return mapping;
}

/** How the amounts of a list are written, per column. */
export type PriceAmounts = { readonly cost: DecimalMark | null; readonly price: DecimalMark | null };

/** Reads one row of a list, or the sentences that say all that is wrong with it. */
export function readPriceRow(cell: (field: PriceField) => string, marks: PriceAmounts = { cost: null, price: null }): PriceRow | string {
  const faults: string[] = [];
  const partNo = cell('partNo');
  const description = cell('description');
  if (partNo === '') faults.push('The part number is empty.');
  else if (partNo.length > 60) faults.push(`The part number has ${partNo.length} characters; at most 60 are kept.`);
  if (description === '') faults.push(`${partNo || 'The row'} has no description.`);
  const amount = (field: 'cost' | 'price'): string | null => {
    const read = readAmount(cell(field), marks[field]);
    if (read === null)
      faults.push(
        `“${cell(field)}” is no ${field}${
          marks[field] === null ? '' : `: this column writes decimals behind a ${markWord(marks[field])}`
        }.`,
      );
    return read;
  };
  const cost = amount('cost');
  const price = cell('price') === '' ? null : amount('price');
  const packUnits = parseQty((cell('packUnits') || '1').replace(',', '.'));
  if (!packUnits.ok || packUnits.value <= 0) faults.push(`“${cell('packUnits')}” is no number of units in a pack.`);
  const barcode = readBarcode(cell('barcode'));
  if (typeof barcode === 'string') faults.push(barcode);
  if (faults.length > 0 || cost === null || !packUnits.ok || typeof barcode === 'string') return faults.join(' ');
  return { partNo, description: description.slice(0, 200), ...barcode, cost, price, packUnits: packUnits.value };
}

const markWord = (mark: DecimalMark): string => (mark === '.' ? 'point' : 'comma');

// Spreadsheets take barcodes for numbers: zeros in front go, and long ones are written as 5.01E+12, of which nothing can be won back.
function readBarcode(text: string): { barcode: string | null; gtin: string | null } | string {
  const barcode = text.trim();
  if (barcode === '') return { barcode: null, gtin: null };
  if (/^\d([.,]\d+)?E\+?\d+$/i.test(barcode))
    return `“${barcode}” is no barcode: the spreadsheet has shortened it. Format the column as text and send it again.`;
  const isRetail = /^(\d{8}|\d{12,14})$/.test(barcode);
  if (isRetail && !hasValidCheckDigit(barcode)) return `Barcode ${barcode} has a wrong check digit.`;
  // Leading zeros do not change the check digit: what lost them is told by it.
  const lostZeros = /^(\d{7}|\d{9,11})$/.test(barcode) && hasValidCheckDigit(barcode);
  return { barcode, gtin: isRetail || lostZeros ? barcode.padStart(14, '0') : null };
}

const sameAmount = (a: string | null, b: string | null): boolean =>
  a === null || b === null ? a === b : parseAmount(a) === parseAmount(b);
const money = (text: string | null): string => (text === null ? 'none' : roundAmount(text));

/** How a row stands against what the list said before. */
export function judgePriceRow(row: number, now: PriceRow, before: KnownPriceRow | undefined): PriceVerdict {
  const name = now.partNo;
  if (!before || before.gone) return { row, verdict: 'new', name, says: before ? 'On the list again.' : 'New on the list.' };
  const changes: string[] = [];
  if (!sameAmount(before.cost, now.cost)) changes.push(`cost ${money(before.cost)} → ${money(now.cost)}`);
  if (!sameAmount(before.price, now.price)) changes.push(`price ${money(before.price)} → ${money(now.price)}`);
  if (before.packUnits !== now.packUnits) changes.push(`units in a pack ${formatQty(before.packUnits)} → ${formatQty(now.packUnits)}`);
  if (before.description !== now.description) changes.push('other words');
  if (before.barcode !== now.barcode) changes.push(`barcode ${before.barcode ?? 'none'} → ${now.barcode ?? 'none'}`);
  return changes.length > 0
    ? { row, verdict: 'changed', name, says: `${changes.join(', ')}.` }
    : { row, verdict: 'same', name, says: 'As it was.' };
}
