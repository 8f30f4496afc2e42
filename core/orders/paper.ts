import type { WantedColumn } from '#core/base';
import { foldName } from '#core/floor';
import { isUnitCode } from '#core/purchasing';
import { judgeOrderSheet, MOST_LINES, ORDER_COLUMNS, type KnownForOrders, type OrderedItem, type SentOrder } from './order-sheet.ts';

/** What another's program sends of an order (F2), as its file says it: texts, as they stand. Null where it says nothing. */
export type OrderPaper = {
  readonly kind: 'order' | 'change' | 'cancellation';
  /** The number that the order has with whoever ordered. */
  readonly reference: string;
  /** Our code for the customer, their own numbers, their name: whichever is known here is believed, in this order. */
  readonly customer: readonly string[];
  readonly due: string | null;
  readonly carrier: string;
  readonly note: string;
  readonly lines: readonly PaperLine[];
};
export type PaperLine = {
  readonly no: string;
  readonly qty: string;
  /** UN/ECE Recommendation 20. */
  readonly unitCode: string;
  /** Our code, and the retail code. */
  readonly seller: string | null;
  readonly standard: string | null;
  readonly name: string;
  readonly lot: string | null;
  readonly serials: readonly string[];
  /** In a change: the line is taken out. */
  readonly isOut: boolean;
};

/** The codes by which a paper may name an item, in upper case: ours, then the retail code as it stands and in 14 digits. */
export function codesOf(line: Pick<PaperLine, 'seller' | 'standard'>): string[] {
  const standard = line.standard?.trim() ?? '';
  return [line.seller?.trim() ?? '', standard, /^\d{8,14}$/.test(standard) ? standard.padStart(14, '0') : '']
    .filter((code) => code !== '')
    .map((code) => code.toUpperCase());
}

/** Why an order is held of which a change came while somebody is at it. */
export const PAPER_WAITS = {
  change: 'Its customer changes it: see what was sent',
  cancellation: 'Its customer cancels it: see what was sent',
} as const;

const COLUMNS = new Map(ORDER_COLUMNS.map((c: WantedColumn, n) => [c.key, n]));

/** Judges an order that another's program sent, by the rules of a sheet of orders: what it means here, or all that is wrong with it.
 *  Shape:  of a change, the lines as they are from now on; `out`: the items of those that are taken out. A cancellation has no lines.
 *  Errors: a customer, an item or a unit of measure that is none here; whatever `judgeOrderSheet` finds; a line each.
 *  Source: OASIS, Universal Business Language 2.1, UBL-Order-2.1, UBL-OrderChange-2.1, UBL-OrderCancellation-2.1. */
export function judgeOrderPaper(
  paper: OrderPaper,
  known: KnownForOrders,
): { readonly order: SentOrder | null; readonly out: readonly OrderedItem[]; readonly faults: readonly string[] } {
  const called = paper.customer.find((name) => typeof known.customers.get(foldName(name)) === 'number');
  const customer = called ?? paper.customer[0] ?? '';
  if (paper.lines.length > MOST_LINES)
    return { order: null, out: [], faults: [`It has ${paper.lines.length} lines; an order has at most ${MOST_LINES}.`] };
  // What is here already is what a change is about.
  const references = paper.kind === 'order' ? known.references : new Map<string, string>();
  const [gone, kept] = [paper.lines.filter((l) => l.isOut), paper.lines.filter((l) => !l.isOut)];
  const faults: string[] = [];
  const find = (line: PaperLine): OrderedItem | undefined => codesOf(line).flatMap((code) => known.items.get(code) ?? [])[0];
  const nameOf = (line: PaperLine): string => codesOf(line)[0] ?? line.name;
  for (const line of kept) {
    const item = find(line);
    if (item && !isUnitCode(line.unitCode, item.unit))
      faults.push(
        `Line ${line.no}: “${line.unitCode.slice(0, 10)}” is no unit in which ${item.code} is counted; that is by the ${item.unit}.`,
      );
  }
  const out = gone.flatMap((line) => {
    const item = find(line);
    if (!item) faults.push(`Line ${line.no}: There is no item “${nameOf(line).slice(0, 40)}”.`);
    return item ?? [];
  });
  const rows = kept.map((line, n) => {
    const cells = new Map([
      ['reference', paper.reference],
      ['customer', customer],
      ['item', codesOf(line).find((code) => known.items.has(code)) ?? nameOf(line)],
      ['qty', line.qty],
      ['lot', line.lot ?? ''],
      ['serials', line.serials.join(' ')],
      ['due', paper.due ?? ''],
      ['carrier', paper.carrier],
      ['note', paper.note],
    ]);
    return { row: n, cells: [...COLUMNS.keys()].map((key) => cells.get(key) ?? '') };
  });
  const judged = judgeOrderSheet(COLUMNS, rows, { ...known, references });
  const wrong = judged.verdicts.filter((v) => v.verdict === 'fault');
  faults.push(...wrong.map((v) => `Line ${kept[v.row]?.no ?? '?'}: ${v.says}`));
  if (kept.length === 0) faults.push(...faultsOfHead(paper, called));
  const [order = null] = judged.orders;
  return { order: faults.length === 0 ? order : null, out, faults };
}

// A paper without lines that are kept has no row that would say what is wrong with its head.
function faultsOfHead(paper: OrderPaper, customer: string | undefined): string[] {
  return [
    ...(paper.kind === 'order' ? ['It orders nothing.'] : []),
    ...(paper.kind === 'change' && paper.lines.length === 0 ? ['It changes no line.'] : []),
    ...(paper.reference.trim() === '' ? ['It does not say which order it is about.'] : []),
    ...(customer === undefined ? [`There is no customer “${paper.customer[0] ?? ''}”.`] : []),
  ];
}
