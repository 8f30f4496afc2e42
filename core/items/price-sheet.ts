import { parseQty, type Qty } from '#core/base';
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
export type KnownPriceRow = Pick<PriceRow, 'description' | 'cost' | 'price' | 'barcode'> & { readonly gone: boolean };

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

/** An amount as lists write it: `1,234.50`, `1.234,50`, `£12.5`; null where it is none. The last separator before one, two or four digits is
 *  the decimal point; three digits after the only separator are thousands, unless the separator is a point and nothing stands before it. */
export function readAmount(text: string): string | null {
  const bare = text.replace(/[\s\u00a0£$€']/g, '');
  if (!/^\d[\d.,]*$/.test(bare)) return null;
  const last = Math.max(bare.lastIndexOf('.'), bare.lastIndexOf(','));
  if (last === -1) return bare.length <= 10 ? bare : null;
  const tail = bare.slice(last + 1);
  const both = bare.includes('.') && bare.includes(',');
  const repeated = bare.split(bare[last] as string).length > 2;
  const isThousands = tail.length === 3 && (repeated || (!both && bare[last] === ','));
  const whole = bare.slice(0, isThousands ? undefined : last).replace(/[.,]/g, '');
  if (!isThousands && (tail.length === 0 || tail.length > 4)) return null;
  return whole.length > 10 ? null : isThousands ? whole : `${whole}.${tail}`;
}

/** Reads one row of a list, or the sentence that says what is wrong with it. */
export function readPriceRow(cell: (field: PriceField) => string): PriceRow | string {
  const partNo = cell('partNo');
  if (partNo === '') return 'The part number is empty.';
  if (partNo.length > 60) return `The part number has ${partNo.length} characters; at most 60 are kept.`;
  const description = cell('description');
  if (description === '') return `${partNo} has no description.`;
  const cost = readAmount(cell('cost'));
  if (cost === null) return `“${cell('cost')}” is no cost.`;
  const price = cell('price') === '' ? null : readAmount(cell('price'));
  if (cell('price') !== '' && price === null) return `“${cell('price')}” is no price.`;
  const packUnits = parseQty(cell('packUnits') || '1');
  if (!packUnits.ok || packUnits.value <= 0) return `“${cell('packUnits')}” is no number of units in a pack.`;
  const barcode = cell('barcode') || null;
  const isGtin = barcode !== null && /^(\d{8}|\d{12,14})$/.test(barcode);
  if (isGtin && !hasValidCheckDigit(barcode)) return `Barcode ${barcode} has a wrong check digit.`;
  return {
    partNo,
    description: description.slice(0, 200),
    barcode,
    gtin: isGtin ? barcode.padStart(14, '0') : null,
    cost,
    price,
    packUnits: packUnits.value,
  };
}

const sameAmount = (a: string | null, b: string | null): boolean => (a === null || b === null ? a === b : Number(a) === Number(b));
const money = (text: string | null): string => (text === null ? 'none' : Number(text).toFixed(2));

/** How a row stands against what the list said before. */
export function judgePriceRow(row: number, now: PriceRow, before: KnownPriceRow | undefined): PriceVerdict {
  const name = now.partNo;
  if (!before || before.gone) return { row, verdict: 'new', name, says: before ? 'On the list again.' : 'New on the list.' };
  const changes: string[] = [];
  if (!sameAmount(before.cost, now.cost)) changes.push(`cost ${money(before.cost)} → ${money(now.cost)}`);
  if (!sameAmount(before.price, now.price)) changes.push(`price ${money(before.price)} → ${money(now.price)}`);
  if (before.description !== now.description) changes.push('other words');
  if (before.barcode !== now.barcode) changes.push(`barcode ${before.barcode ?? 'none'} → ${now.barcode ?? 'none'}`);
  return changes.length > 0
    ? { row, verdict: 'changed', name, says: `${changes.join(', ')}.` }
    : { row, verdict: 'same', name, says: 'As it was.' };
}
