import { addQty, sumQty, ZERO, type BinId, type ItemId, type Qty } from '#core/base';
import type { AnnouncedGoods, Stamp } from '#core/floor';
import { compareDelivery, compareReturn, type LineStanding } from './compare.ts';
import type { FailedPart, Finding } from './inspect.ts';
import { entryKey } from './notice.ts';
import type { Tolerance } from './tolerance.ts';

/** How a device names a delivery: by its number in the house, or, where the device began it, by the key under which it did. */
export type DeliveryRef = number | string;

/** One thing scanned into a delivery. `item` is null where nobody knew the code; it waits to be tied. */
export type HandEntry = {
  readonly key: string;
  readonly item: ItemId | null;
  readonly code: string;
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serial: string | null;
  /** The logistic unit in which it came. */
  readonly sscc: string | null;
  readonly person: number;
  readonly at: string;
  /** Handed in: it is the lead's now. */
  readonly settled: boolean;
  /** What was found by whoever looked at the goods; null as long as nobody did. */
  readonly finding: Finding | null;
  /** Where they go at once; null where they are left at arrivals, to be put away. */
  readonly bin: BinId | null;
  /** How many pictures were taken of them. */
  readonly photos: number;
};

/** A purchase order as a device knows it: what of it is still to come. `waiting` is how many orders wait for the goods of a line. */
export type ExpectedOrder = {
  readonly id: number;
  readonly number: string;
  readonly supplier: number;
  readonly due: string;
  readonly lines: readonly { readonly item: ItemId; readonly expected: Qty; readonly waiting: number }[];
};

/** What left with a shipment, as a device knows it. `lines` is what of it may still come back. */
export type SentShipment = {
  readonly id: number;
  readonly number: string;
  readonly order: string;
  readonly customer: string;
  readonly at: string;
  readonly lines: readonly { readonly item: ItemId; readonly sent: Qty }[];
};

/** A delivery as a device holds it. `number` is null as long as the house has not heard of it; `orders` are the numbers of the purchase
 *  orders that it is of, `supplier` the name, null where nobody said yet. */
export type DeliveryJob = {
  readonly id: DeliveryRef;
  readonly number: string | null;
  readonly state: 'scanning' | 'review' | 'posted' | 'thrown';
  readonly supplier: string | null;
  /** What is agreed with that supplier; nothing where it is left out. */
  readonly agreed?: Tolerance;
  readonly orders: readonly string[];
  /** The supplier's own paper: its number, and its date as `YYYY-MM-DD`. */
  readonly paper: { readonly doc: string; readonly date: string | null };
  readonly lines: ExpectedOrder['lines'];
  /** Goods that a customer brings back, against a shipment or without; null where a supplier brings goods. */
  readonly back: { readonly shipment: string | null; readonly customer: string | null } | null;
  readonly entries: readonly HandEntry[];
};

/** What a hand does to a delivery. `entry` is the key of the act that made it. */
export type ReceiveDoes =
  | {
      kind: 'receive.begin';
      delivery: string;
      supplier: number | null;
      orders: readonly number[];
      /** Goods that a customer brings back, of this shipment or of none that is known. */
      back: { readonly shipment: number | null } | null;
    }
  | { kind: 'receive.paper'; delivery: DeliveryRef; doc: string; date: string | null }
  | {
      kind: 'receive.enter';
      delivery: DeliveryRef;
      item: ItemId;
      pack: number;
      qty: Qty;
      lot: string | null;
      expires: string | null;
      made: string | null;
      serial: string | null;
      /** The logistic unit in which they come; null where they come loose. */
      sscc: string | null;
      takeAnyway: boolean;
    }
  /** A whole logistic unit, with all that was announced in it. Each of the goods is an entry under `entryKey` of this act. */
  | { kind: 'receive.unit'; delivery: DeliveryRef; sscc: string; goods: readonly AnnouncedGoods[] }
  | { kind: 'receive.unknown'; delivery: DeliveryRef; code: string; qty: Qty }
  | { kind: 'receive.change'; delivery: DeliveryRef; entry: string; qty: Qty }
  | { kind: 'receive.takeOut'; delivery: DeliveryRef; entry: string }
  | { kind: 'receive.inspect'; delivery: DeliveryRef; entry: string; checked: Qty; failed: readonly FailedPart[]; note: string }
  /** So many of an entry go into a bin, or none: left to be put away. Where something `stays`, the part is an entry of its own from then
   *  on, under the key of this act. */
  | { kind: 'receive.where'; delivery: DeliveryRef; entry: string; bin: BinId | null; qty: Qty; stays: Qty }
  /** `jpeg` in base64, made small on the device. */
  | { kind: 'receive.photo'; delivery: DeliveryRef; entry: string; jpeg: string }
  | { kind: 'receive.finish'; delivery: DeliveryRef };

/** How a delivery is called before everybody knows its number: by what it is of. */
export function deliveryName(job: Pick<DeliveryJob, 'number' | 'orders' | 'supplier' | 'back'>): string {
  if (job.back) return job.back.shipment === null ? (job.number ?? 'goods that come back') : job.back.shipment;
  if (job.orders.length > 2) return `${job.orders.length} orders`;
  if (job.orders.length > 0) return job.orders.join(', ');
  return job.number ?? (job.supplier === null ? 'new delivery' : `from ${job.supplier}`);
}

/** The delivery with what this device did to it, whether or not the server has counted it in already. The acts are those of this delivery.
 *  Law:    folding an act twice is folding it once. */
export function foldDelivery(job: DeliveryJob, acts: readonly { does: ReceiveDoes; stamp: Stamp }[]): DeliveryJob {
  if (acts.length === 0) return job;
  // By key, in the order in which they came: a delivery may have thousands of entries, and this is asked at every scan.
  const entries = new Map(job.entries.map((e) => [e.key, e]));
  let { state, paper } = job;
  for (const { does, stamp } of acts) {
    switch (does.kind) {
      case 'receive.begin':
        break;
      case 'receive.paper':
        paper = { doc: does.doc, date: does.date };
        break;
      case 'receive.enter':
      case 'receive.unknown': {
        if (entries.has(stamp.key)) break;
        const base = {
          key: stamp.key,
          qty: does.qty,
          person: stamp.person,
          at: stamp.at,
          settled: false,
          finding: null,
          bin: null,
          photos: 0,
        };
        entries.set(
          stamp.key,
          does.kind === 'receive.enter'
            ? {
                ...base,
                item: does.item,
                code: '',
                lot: does.lot,
                expires: does.expires,
                made: does.made,
                serial: does.serial,
                sscc: does.sscc,
              }
            : { ...base, item: null, code: does.code, lot: null, expires: null, made: null, serial: null, sscc: null },
        );
        break;
      }
      case 'receive.unit':
        for (const [n, g] of does.goods.entries()) {
          const key = entryKey(stamp.key, n);
          if (entries.has(key)) continue;
          const { item, qty, lot, expires, made, serial } = g;
          const said = { item, code: '', qty, lot, expires, made, serial, sscc: does.sscc };
          entries.set(key, { ...said, key, person: stamp.person, at: stamp.at, settled: false, finding: null, bin: null, photos: 0 });
        }
        break;
      case 'receive.change': {
        const entry = entries.get(does.entry);
        if (entry) entries.set(does.entry, { ...entry, qty: does.qty });
        break;
      }
      case 'receive.inspect': {
        const entry = entries.get(does.entry);
        if (entry) entries.set(does.entry, { ...entry, finding: { checked: does.checked, failed: does.failed, note: does.note } });
        break;
      }
      case 'receive.where': {
        const entry = entries.get(does.entry);
        if (!entry) break;
        if (does.stays === ZERO) entries.set(does.entry, { ...entry, bin: does.bin });
        else {
          // What stays is said, not reckoned: folded once more it stays the same.
          entries.set(does.entry, { ...entry, qty: does.stays });
          if (!entries.has(stamp.key)) entries.set(stamp.key, { ...entry, key: stamp.key, qty: does.qty, bin: does.bin });
        }
        break;
      }
      case 'receive.photo':
        // That a picture was taken is told by the house; folding it twice would count it twice.
        break;
      case 'receive.takeOut':
        entries.delete(does.entry);
        break;
      case 'receive.finish':
        if (state === 'scanning') state = 'review';
        for (const [key, e] of entries) entries.set(key, { ...e, settled: true });
        break;
    }
  }
  return { ...job, state, paper, entries: [...entries.values()] };
}

/** The last things that this person scanned in and may still take out, newest first. */
export function ownEntries(job: DeliveryJob, person: number): readonly HandEntry[] {
  return job.entries
    .filter((e) => e.person === person && !e.settled)
    .toReversed()
    .sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
}

/** What came with an entry by one scan and goes with it: all of the logistic unit that was scanned then, or the entry alone. */
export function entriesTogether(job: DeliveryJob, entry: HandEntry): readonly HandEntry[] {
  if (entry.sscc === null) return [entry];
  return job.entries.filter((e) => e.sscc === entry.sscc && e.at === entry.at && e.person === entry.person);
}

/** The serials that a person scanned one after the other up to their last entry, and that go to the same place; the last entry alone
 *  where it is
 *  no serial. A bin after five serials is for all five. */
export function serialRun(job: DeliveryJob, person: number): readonly HandEntry[] {
  const own = ownEntries(job, person);
  const [last] = own;
  if (!last || last.serial === null) return last ? [last] : [];
  const end = own.findIndex((e) => e.item !== last.item || e.serial === null || e.bin !== last.bin || e.sscc !== last.sscc);
  return end < 0 ? own : own.slice(0, end);
}

/** What a hand does at it, as a title says it. */
export const deliveryTitle = (job: DeliveryJob): string => `${job.back ? 'Take back' : 'Receive'} ${deliveryName(job)}`;

/** Who brings the goods, as far as anybody knows. */
export function fromWhom({ back, supplier }: Pick<DeliveryJob, 'back' | 'supplier'>): string {
  return back ? `${back.customer ?? 'a customer'} brings them back` : (supplier ?? 'nobody knows from whom');
}

/** What of a delivery can be looked at, those first that nobody looked at yet, newest first. */
export function entriesToInspect(job: DeliveryJob): readonly HandEntry[] {
  return job.entries
    .filter((e) => e.item !== null)
    .toReversed()
    .sort((a, b) => Number(a.finding !== null) - Number(b.finding !== null));
}

/** How every line of a delivery stands, ordered ones first. One pass, however many entries there are. */
export function linesOf(job: DeliveryJob): readonly { item: ItemId; arrived: Qty; expected: Qty; standing: LineStanding }[] {
  return comparing(job)(
    job.lines.map((l) => ({ item: l.item, qty: l.expected })),
    job.entries.filter((e): e is HandEntry & { item: ItemId } => e.item !== null),
  );
}

/** How the line of an item stands in a delivery. Thousandths of the base unit. */
export function lineOf(job: DeliveryJob, item: number): { arrived: Qty; expected: Qty; standing: LineStanding } {
  const own = job.entries.filter((e) => e.item === item) as (HandEntry & { item: ItemId })[];
  const [line] = comparing(job)(
    job.lines.filter((l) => l.item === item).map((l) => ({ item: l.item, qty: l.expected })),
    own,
  );
  if (line) return line;
  const expected = sumQty(job.lines.filter((l) => l.item === item).map((l) => l.expected));
  return { arrived: ZERO, expected, standing: expected > 0 ? 'waiting' : 'notOrdered' };
}

const comparing =
  (job: Pick<DeliveryJob, 'back' | 'agreed'>): typeof compareReturn =>
  (expected, entries) =>
    job.back ? compareReturn(expected, entries) : compareDelivery(expected, entries, job.agreed);

/** Whether what is scanned in should be on a paper: a delivery of orders, goods that come back of a shipment. */
export const isOfPaper = (job: Pick<DeliveryJob, 'orders' | 'back'>): boolean =>
  job.orders.length > 0 || (job.back?.shipment ?? null) !== null;

/** What is still to come of several purchase orders together: one line for each item, in the order of the orders. */
export function linesOfOrders(orders: readonly ExpectedOrder[]): ExpectedOrder['lines'] {
  const lines = new Map<ItemId, { item: ItemId; expected: Qty; waiting: number }>();
  for (const line of orders.flatMap((o) => o.lines)) {
    const there = lines.get(line.item);
    if (there) there.expected = addQty(there.expected, line.expected);
    else lines.set(line.item, { ...line });
  }
  return [...lines.values()];
}
