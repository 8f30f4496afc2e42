import { addQty, formatQty, ONE, parseQty, ZERO, type ItemId, type Qty } from '#core/base';
import type { AnnouncedGoods } from '#core/floor';
import { isSscc, labelText, needsExpiry, needsLot, needsSerialOnArrival, packToBase, type Tracking } from '#core/items';
import { isUnitCode, unitCodeOf } from '#core/purchasing';
import { MOST_AT_ONCE } from './entry.ts';

/** What a supplier says beforehand that is on its way, as their file says it: texts, as they stand. Null where it says nothing. */
export type Advice = {
  /** The supplier's own number of it. */
  readonly reference: string;
  readonly issued: string | null;
  /** When the goods come. */
  readonly due: string | null;
  readonly supplier: { readonly ids: readonly string[]; readonly name: string };
  /** The purchase orders that it names as a whole. */
  readonly orders: readonly string[];
  readonly lines: readonly AdviceLine[];
};
export type AdviceLine = {
  readonly no: string;
  readonly order: string | null;
  /** The logistic unit in which they come; null where they come loose. */
  readonly sscc: string | null;
  readonly qty: string;
  readonly unitCode: string;
  /** Our code, theirs, and the retail code. */
  readonly buyer: string | null;
  readonly seller: string | null;
  readonly standard: string | null;
  readonly name: string;
  readonly lot: string | null;
  readonly made: string | null;
  readonly expires: string | null;
  readonly serials: readonly string[];
};

export type AdvisedItem = {
  readonly item: ItemId;
  readonly code: string;
  readonly unit: string;
  readonly decimals: number;
  readonly tracking: Tracking;
  /** The smallest first. */
  readonly packs: readonly { readonly id: number; readonly units: Qty }[];
};
/** What the house knows beforehand. Texts in upper case; lots and serials by “item|label”. */
export type KnownForAdvice = {
  /** Suppliers by code and by name. */
  readonly suppliers: ReadonlyMap<string, { readonly id: number; readonly name: string }>;
  readonly orders: ReadonlyMap<
    string,
    { readonly id: number; readonly supplier: number; readonly site: number; readonly expects: boolean }
  >;
  readonly byCode: ReadonlyMap<string, AdvisedItem>;
  /** By “supplier|part number”. */
  readonly byPart: ReadonlyMap<string, AdvisedItem>;
  /** By GTIN of 14 digits, with the pack whose code it is. */
  readonly byGtin: ReadonlyMap<string, { readonly item: AdvisedItem; readonly pack: number }>;
  readonly lots: ReadonlyMap<string, string | null>;
  readonly serials: ReadonlyMap<string, string>;
  /** Where units are already: standing here, or announced with another notice. */
  readonly units: ReadonlyMap<string, string>;
};

export type NoticeLine = AnnouncedGoods & {
  readonly sscc: string | null;
  readonly order: number | null;
  /** Whether a scan of its unit can take it without a question: that its lot, date or serial is told. */
  readonly isWhole: boolean;
};
export type JudgedNotice = {
  readonly supplier: number;
  readonly reference: string;
  readonly issued: string | null;
  readonly due: string | null;
  /** The site of its orders; null where it names none. */
  readonly site: number | null;
  readonly orders: readonly number[];
  readonly lines: readonly NoticeLine[];
};

const LONGEST_REFERENCE = 60;
const LONGEST_LABEL = 40;
const MOST_LINES = 20_000;
const DAY = /^\d{4}-\d{2}-\d{2}$/;

/** A day as the standard writes it; null where there is none such: 31 February, 29 February 2027. */
function dayOf(text: string): string | null {
  const day = text.slice(0, 10);
  if (!DAY.test(day)) return null;
  const read = new Date(`${day}T00:00:00Z`);
  return !Number.isNaN(read.getTime()) && read.toISOString().slice(0, 10) === day ? day : null;
}

/** Judges what a supplier announced (C1, C15): what it means here, or all that is wrong with it, a sentence each.
 *  Shape:  one line for each of the file's, or one for each serial of it. Goods are found by our code, the supplier's part number or the
 *          retail code; a retail code of a case counts cases. What an order of ours does not name is taken all the same: the review
 *          shows it.
 *  Errors: a supplier, order, item, unit of measure, day or quantity that is none; an SSCC whose check digit is wrong, or that is here or
 *          announced already; a lot with another date; a serial that is here or stands in the file twice; a file without lines.
 *  Source: OASIS, Universal Business Language 2.1, UBL-DespatchAdvice-2.1; UN/ECE Recommendation 20. */
export function judgeAdvice(
  advice: Advice,
  known: KnownForAdvice,
): { readonly notice: JudgedNotice | null; readonly faults: readonly string[] } {
  const faults: string[] = [];
  const { supplier: from } = advice;
  const supplier = [...from.ids, from.name].map((t) => known.suppliers.get(t.trim().toUpperCase())).find((s) => s !== undefined);
  if (!supplier) faults.push(`Nobody here is called “${from.name || (from.ids[0] ?? '')}”: name the supplier by their code or name.`);
  const reference = advice.reference.trim();
  if (reference === '' || reference.length > LONGEST_REFERENCE)
    faults.push(`Its number “${reference.slice(0, 30)}” must have 1 to ${LONGEST_REFERENCE} letters.`);
  if (advice.lines.length === 0) faults.push('It announces nothing.');
  if (advice.lines.length > MOST_LINES) return { notice: null, faults: [`It has more than ${MOST_LINES} lines.`] };
  const day = (what: string, text: string | null): string | null => {
    if (text === null || text.trim() === '') return null;
    const read = dayOf(text.trim());
    if (read === null) faults.push(`${what}: there is no day “${text.slice(0, 20)}”.`);
    return read;
  };
  const orderOf = (text: string | null): number | null => {
    if (text === null || text.trim() === '') return null;
    const order = known.orders.get(text.trim().toUpperCase());
    if (!order) faults.push(`There is no purchase order “${text.slice(0, 30)}”.`);
    else if (supplier && order.supplier !== supplier.id) faults.push(`${text} is not an order to ${supplier.name}.`);
    else if (!order.expects) faults.push(`${text} is not to come: not approved, or all of it has come.`);
    return order?.id ?? null;
  };
  const [issued, due] = [day('Issued', advice.issued), day('Due', advice.due)];
  const dates = new Map(known.lots);
  const serials = new Map<string, string>();
  const lines: NoticeLine[] = [];
  // Each is looked at once, or one wrong order would be a fault of every line.
  const told = new Map<string, number | null>();
  const orderNamed = (text: string): number | null => {
    const key = text.trim().toUpperCase();
    if (!told.has(key)) told.set(key, orderOf(text));
    return told.get(key) ?? null;
  };
  const headOrders = advice.orders.flatMap((o) => orderNamed(o) ?? []);
  const order = (text: string | null): number | null =>
    (text === null ? null : orderNamed(text)) ?? (headOrders.length === 1 ? (headOrders[0] ?? null) : null);
  for (const line of advice.lines) {
    const at = `Line ${line.no}`;
    const found = itemOf(line, supplier?.id ?? 0, known);
    if (!found) {
      faults.push(`${at}: nobody here knows “${(line.buyer ?? line.seller ?? line.standard ?? line.name).slice(0, 40)}”.`);
      continue;
    }
    const { item, pack } = found;
    const units = item.packs.find((p) => p.id === pack)?.units ?? ONE;
    if (!isUnitCode(line.unitCode, item.unit) && !(units !== ONE && isUnitCode(line.unitCode, '')))
      faults.push(
        `${at}: “${line.unitCode.slice(0, 10)}” is no unit in which ${item.code} is kept; that is ${unitCodeOf(item.unit)} (${item.unit}).`,
      );
    const read = parseQty(line.qty.trim(), units === ONE ? item.decimals : 0);
    const qty = (read.ok ? packToBase(read.value, { name: '', units }) : null) ?? ZERO;
    if (!read.ok || qty <= 0 || qty > MOST_AT_ONCE) faults.push(`${at}: “${line.qty.slice(0, 20)}” is no quantity of ${item.code}.`);
    const { sscc } = line;
    if (sscc !== null) {
      const here = known.units.get(sscc);
      if (!isSscc(sscc)) faults.push(`${at}: “${sscc.slice(0, 30)}” is no SSCC: it has 18 digits, of which the last checks the others.`);
      else if (here) faults.push(`${at}: unit ${sscc} is ${here}.`);
    }
    const lot = needsLot(item.tracking) ? labelText(line.lot ?? '') || null : null;
    if (lot !== null && lot.length > LONGEST_LABEL) faults.push(`${at}: a lot has at most ${LONGEST_LABEL} letters.`);
    const [made, keyed] = [day(`${at}, made`, line.made), day(`${at}, expires`, line.expires)];
    if (made !== null && keyed !== null && made > keyed) faults.push(`${at}: it expires on ${keyed}, before it was made on ${made}.`);
    const before = lot === null ? null : (dates.get(`${item.item}|${lot}`) ?? null);
    if (before !== null && keyed !== null && before !== keyed)
      faults.push(`${at}: lot ${lot} of ${item.code} expires on ${before}, not on ${keyed}. One lot has one date.`);
    const expires = lot === null ? null : (keyed ?? before);
    if (lot !== null && expires !== null) dates.set(`${item.item}|${lot}`, expires);
    const own = needsSerialOnArrival(item.tracking) ? line.serials.map(labelText).filter((s) => s !== '') : [];
    for (const serial of own) {
      const place = serials.get(`${item.item}|${serial}`) ?? known.serials.get(`${item.item}|${serial}`);
      if (place !== undefined) faults.push(`${at}: serial ${serial.slice(0, LONGEST_LABEL)} of ${item.code} is ${place}.`);
      if (serial.length > LONGEST_LABEL) faults.push(`${at}: a serial has at most ${LONGEST_LABEL} letters.`);
      serials.set(`${item.item}|${serial}`, `in line ${line.no} of this file already`);
    }
    if (own.length > 0 && read.ok && qty !== own.length * ONE)
      faults.push(`${at}: it says ${formatQty(qty)} of ${item.code} and names ${own.length} serials.`);
    const base = { sscc, order: order(line.order), item: item.item, pack, lot, expires, made: lot === null ? null : made };
    const isWhole =
      (!needsLot(item.tracking) || lot !== null) &&
      (!needsExpiry(item.tracking) || expires !== null) &&
      (!needsSerialOnArrival(item.tracking) || own.length > 0);
    if (own.length > 0) for (const serial of own) lines.push({ ...base, qty: ONE, serial, isWhole });
    else lines.push({ ...base, qty, serial: null, isWhole });
  }
  const orders = [...new Set([...headOrders, ...lines.flatMap((l) => l.order ?? [])])];
  const sites = [...new Set([...known.orders.values()].filter((o) => orders.includes(o.id)).map((o) => o.site))];
  if (sites.length > 1) faults.push('Its orders go to several sites; a delivery comes to one.');
  if (faults.length > 0 || !supplier) return { notice: null, faults };
  return { notice: { supplier: supplier.id, reference, issued, due, site: sites[0] ?? null, orders, lines: summed(lines) }, faults };
}

function itemOf(line: AdviceLine, supplier: number, known: KnownForAdvice): { item: AdvisedItem; pack: number } | null {
  const upper = (text: string | null): string => (text ?? '').trim().toUpperCase();
  const gtin = /^\d{8,14}$/.test(upper(line.standard)) ? upper(line.standard).padStart(14, '0') : '';
  const byGtin = known.byGtin.get(gtin);
  const named = known.byCode.get(upper(line.buyer)) ?? known.byPart.get(`${supplier}|${upper(line.seller)}`) ?? byGtin?.item;
  if (!named) return null;
  // The retail code says which pack is counted; where it is another item's, our own code is believed.
  if (byGtin && byGtin.item.item === named.item) return { item: named, pack: byGtin.pack };
  const [smallest] = named.packs;
  return smallest ? { item: named, pack: smallest.id } : null;
}

// Two lines of the same goods in one unit are one of both together.
function summed(lines: readonly NoticeLine[]): readonly NoticeLine[] {
  const sums = new Map<string, NoticeLine>();
  for (const line of lines) {
    const { qty, ...rest } = line;
    const key = JSON.stringify(rest);
    const seen = sums.get(key);
    sums.set(key, seen ? { ...seen, qty: addQty(seen.qty, qty) } : line);
  }
  return [...sums.values()];
}
