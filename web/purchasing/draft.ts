import { addQty, formatQty, moneyText, parseAmount, parseQty, sumAmounts, worthOf, formatAmount } from '#core/base';
import { readAmount } from '#core/items';

/** A line of a purchase order that is being entered. `qty` and `cost` are what stands in the fields, right or wrong. */
export type PurchaseDraftLine = {
  readonly key: string;
  readonly line: number | null;
  readonly item: number;
  readonly code: string;
  readonly description: string;
  readonly unit: string;
  readonly partNo: string;
  readonly received: string;
  readonly packs: readonly { readonly name: string; readonly units: string }[];
  readonly qty: string;
  readonly cost: string;
};

const readQty = (text: string) => parseQty(text.replace(',', '.'));

/** What is wrong with a line, in words, or null. */
export function purchaseLineFault(line: Pick<PurchaseDraftLine, 'qty' | 'cost' | 'received'>): string | null {
  const qty = readQty(line.qty);
  if (!qty.ok) return 'Key how many, such as 12.';
  if (qty.value <= 0) return 'It must be more than 0.';
  const received = readQty(line.received);
  if (received.ok && qty.value < received.value) return `${line.received} have come already.`;
  if (line.cost.trim() !== '' && readAmount(line.cost) === null) return 'Key the cost of one, such as 12.50.';
  return null;
}

/** Puts goods on the draft; of those that are there already it gets so much more, because twice is two. */
export function addPurchaseLine(lines: readonly PurchaseDraftLine[], line: PurchaseDraftLine): readonly PurchaseDraftLine[] {
  const there = lines.find((l) => l.item === line.item);
  if (!there) return [...lines, line];
  const [was, more] = [readQty(there.qty), readQty(line.qty)];
  const qty = was.ok && more.ok ? formatQty(addQty(was.value, more.value)) : line.qty;
  return lines.map((l) => (l === there ? { ...l, qty } : l));
}

/** What the lines come to that can be read, in a currency. */
export function purchaseTotal(lines: readonly PurchaseDraftLine[], currency: string): string {
  const worths = lines.flatMap((l) => {
    const [qty, cost] = [readQty(l.qty), readAmount(l.cost)];
    return qty.ok && cost !== null ? [worthOf(parseAmount(cost), qty.value)] : [];
  });
  return moneyText(formatAmount(sumAmounts(worths)), currency);
}
