import { formatQty, parseQty, addQty } from '#core/base';

/** A line of an order that is being entered. `qty` is what stands in the field, right or wrong. */
export type DraftLine = {
  readonly item: number;
  readonly code: string;
  readonly description: string;
  readonly unit: string;
  readonly decimals: number;
  readonly qty: string;
};
export type OrderDraft = { readonly customer: string; readonly due: string; readonly lines: readonly DraftLine[] };

/** What is wrong with a quantity, in words, or null. */
export function qtyFault(line: Pick<DraftLine, 'decimals' | 'qty'>): string | null {
  const read = parseQty(line.qty.replace(',', '.'), line.decimals);
  if (!read.ok) {
    if (read.error.code !== 'stock.tooFine') return 'Key how many, such as 12.';
    return line.decimals === 0 ? 'It is counted whole.' : `It is counted to ${line.decimals} decimals.`;
  }
  return read.value > 0 ? null : 'It must be more than 0.';
}

/** Puts an item on the draft; what is there already gets so much more, because twice is two. A quantity that cannot be read is replaced. */
export function addToDraft(draft: OrderDraft, line: DraftLine): OrderDraft {
  const there = draft.lines.find((l) => l.item === line.item);
  if (!there) return { ...draft, lines: [...draft.lines, line] };
  const [was, more] = [parseQty(there.qty.replace(',', '.')), parseQty(line.qty.replace(',', '.'))];
  const qty = was.ok && more.ok ? formatQty(addQty(was.value, more.value)) : line.qty;
  return setDraftQty(draft, line.item, qty);
}

export function setDraftQty(draft: OrderDraft, item: number, qty: string): OrderDraft {
  return { ...draft, lines: draft.lines.map((l) => (l.item === item ? { ...l, qty } : l)) };
}

export function takeFromDraft(draft: OrderDraft, item: number): OrderDraft {
  return { ...draft, lines: draft.lines.filter((l) => l.item !== item) };
}

/** Whether a draft can be saved as an order; the reason why not, or null. */
export function draftFault(draft: OrderDraft): string | null {
  if (draft.customer === '') return 'Choose the customer first.';
  if (draft.due === '') return 'Key when it is due.';
  if (draft.lines.length === 0) return 'Add an item first.';
  const wrong = draft.lines.find((l) => qtyFault(l) !== null);
  return wrong ? `${wrong.code}: ${qtyFault(wrong)}` : null;
}

const KEPT = 'dockrow.orderDraft';
const nameOf = (person: number, site: number): string => `${KEPT}.${person}.${site}`;

/** The draft that this person left at this site, or an empty one: leaving and reloading lose nothing. */
export function loadDraft(person: number, site: number, due: string): OrderDraft {
  const empty: OrderDraft = { customer: '', due, lines: [] };
  try {
    const kept = JSON.parse(localStorage.getItem(nameOf(person, site)) ?? 'null') as OrderDraft | null;
    return kept && Array.isArray(kept.lines) ? { ...empty, ...kept } : empty;
  } catch {
    return empty;
  }
}

export function keepDraft(person: number, site: number, draft: OrderDraft | null): void {
  try {
    if (draft === null || (draft.lines.length === 0 && draft.customer === '')) localStorage.removeItem(nameOf(person, site));
    else localStorage.setItem(nameOf(person, site), JSON.stringify(draft));
  } catch {
    // Private browsing without storage: the draft lasts as long as the page.
  }
}
