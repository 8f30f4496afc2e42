import { formatQty, parseQty, addQty } from '#core/base';
import { keepAs, keptAs } from '#web/base';

/** A line of an order that is being entered. `qty` is what stands in the field, right or wrong. */
export type DraftLine = {
  readonly item: number;
  readonly code: string;
  readonly description: string;
  readonly unit: string;
  readonly decimals: number;
  readonly qty: string;
};
/** What is no stock and stands on the papers. */
export type DraftExtra = { readonly text: string; readonly qty: string };
export type OrderDraft = {
  readonly kind: 'customer' | 'job' | 'transfer';
  readonly customer: string;
  readonly job: string;
  readonly toSite: number | null;
  readonly due: string;
  readonly reference: string;
  readonly carrier: string;
  readonly note: string;
  readonly priority: number;
  readonly lines: readonly DraftLine[];
  readonly extras: readonly DraftExtra[];
};

/** An order of which nothing is said but when it is due. */
export const emptyDraft = (due: string): OrderDraft => ({
  kind: 'customer',
  customer: '',
  job: '',
  toSite: null,
  due,
  reference: '',
  carrier: '',
  note: '',
  priority: 5,
  lines: [],
  extras: [],
});

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
  if (draft.kind === 'customer' && draft.customer === '') return 'Choose the customer first.';
  if (draft.kind === 'job' && draft.job.trim() === '') return 'Say for which job it is.';
  if (draft.kind === 'transfer' && draft.toSite === null) return 'Choose the site to which it goes.';
  if (draft.due === '') return 'Key when it is due.';
  if (draft.lines.length === 0) return 'Add an item first.';
  const wrong = draft.lines.find((l) => qtyFault(l) !== null);
  return wrong ? `${wrong.code}: ${qtyFault(wrong)}` : null;
}

const nameOf = (person: number, site: number): string => `orderDraft.${person}.${site}`;

/** The draft that this person left at this site, or an empty one: leaving and reloading lose nothing. */
export function loadDraft(person: number, site: number, due: string): OrderDraft {
  const empty = emptyDraft(due);
  const kept = keptAs(nameOf(person, site)) as OrderDraft | null;
  return kept && Array.isArray(kept.lines) ? { ...empty, ...kept } : empty;
}

const isEmpty = (d: OrderDraft): boolean =>
  d.lines.length === 0 && d.extras.length === 0 && [d.customer, d.job, d.reference, d.carrier, d.note].every((t) => t === '');

export const keepDraft = (person: number, site: number, draft: OrderDraft | null): void =>
  keepAs(nameOf(person, site), draft === null || isEmpty(draft) ? null : draft);

/** The command that a draft becomes. Who it is for is what its kind asks for; the rest of what was keyed is left. */
export function orderOfDraft(draft: OrderDraft) {
  const { kind, due, reference, carrier, note, priority } = draft;
  return {
    kind,
    ...(kind === 'customer' ? { customer: Number(draft.customer) } : {}),
    ...(kind === 'job' ? { job: draft.job } : {}),
    ...(kind === 'transfer' && draft.toSite !== null ? { toSite: draft.toSite } : {}),
    ...{ due, reference, carrier, note, priority },
    lines: draft.lines.map((l) => ({ item: l.item, qty: l.qty.replace(',', '.') })),
    extras: draft.extras.map((e) => ({ text: e.text, qty: e.qty.replace(',', '.') })),
  };
}
