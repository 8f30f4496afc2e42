import { addQty, formatQty, ONE, parseQty, subQty, sumQty, ZERO, type ItemId, type Qty } from '#core/base';
import { meaningWords, type Facts, type HandEvent, type Meaning, type Stamp, type Stepped } from '#core/floor';
import { packToBase } from '#core/items';
import { shippingSentence, type ShippingError } from './errors.ts';

/** A thing that was picked for an order, under the key of the act that picked it. */
export type BenchPiece = {
  readonly key: string;
  readonly item: ItemId;
  readonly lot: string | null;
  readonly serial: string | null;
  readonly qty: Qty;
  readonly putDown: boolean;
};
/** An order at the bench as a device holds it. `ordered`: what its lines still want, with what is at hand. */
export type BenchOrder = {
  readonly id: number;
  readonly number: string;
  readonly customer: string;
  readonly heldFor: string | null;
  readonly packed: boolean;
  readonly lines: readonly { readonly item: ItemId; readonly open: Qty }[];
  readonly pieces: readonly BenchPiece[];
};

/** What is done at the bench. `pieces` are those that were looked at: what nobody saw is never packed. */
export type PackDoes =
  | { kind: 'pack.order'; order: number; pieces: readonly string[]; parcels: number }
  | { kind: 'pack.undo'; order: number }
  | { kind: 'pack.ship'; order: number; pieces: readonly string[] };

/** `seen`: how much of each item was scanned in front of the bench; `last`: the item that was scanned last. */
export type PackAt = {
  readonly order: number | null;
  readonly seen: Readonly<Record<number, Qty>>;
  readonly last: ItemId | null;
  readonly parcels: number;
};
export const PACK_BEGINS: PackAt = { order: null, seen: {}, last: null, parcels: 1 };

export type PackChoice =
  { what: 'open'; order: number } | { what: 'parcels'; text: string } | { what: 'pack' } | { what: 'ship' } | { what: 'undo' };

export type ShippingSaid =
  | { said: 'shipping.open'; number: string; pieces: Qty; packed: boolean; complete: boolean }
  | { said: 'shipping.unknownOrder'; text: string }
  | { said: 'shipping.isNot'; meaning: Meaning; wanted: 'order' | 'goods' }
  | { said: 'shipping.saw'; code: string; seen: Qty; of: Qty; all: boolean }
  | { said: 'shipping.notOfOrder'; code: string; number: string }
  | { said: 'shipping.tooMuch'; code: string; of: Qty }
  | { said: 'shipping.notSeen'; code: string; missing: Qty }
  | { said: 'shipping.refused'; error: ShippingError }
  | { said: 'shipping.packed'; number: string; parcels: number; short: boolean }
  | { said: 'shipping.shipped'; number: string; pieces: Qty }
  | { said: 'shipping.unpacked'; number: string }
  | { said: 'shipping.parcels'; parcels: number }
  | { said: 'shipping.badNumber'; text: string }
  | { said: 'shipping.chooseFirst' };

/** The orders at the bench with what this device did, whether or not the server has counted it in already. What was shipped is gone. */
export function foldBench(orders: readonly BenchOrder[], acts: readonly { does: PackDoes; stamp: Stamp }[]): readonly BenchOrder[] {
  let now = orders;
  for (const { does } of acts) {
    if (does.kind === 'pack.ship') now = now.filter((o) => o.id !== does.order);
    else now = now.map((o) => (o.id === does.order ? { ...o, packed: does.kind === 'pack.order' } : o));
  }
  return now;
}

/** Whether everything that the order still wants was picked. */
export function isComplete(order: BenchOrder): boolean {
  const wanted = new Map<number, Qty>();
  for (const l of order.lines) wanted.set(l.item, addQty(wanted.get(l.item) ?? ZERO, l.open));
  return [...wanted].every(([item, open]) => pickedOf(order, item) >= open);
}

const pickedOf = (order: BenchOrder, item: number): Qty => sumQty(order.pieces.filter((p) => p.item === item).map((p) => p.qty));
const itemsOf = (order: BenchOrder): readonly ItemId[] => [...new Set(order.pieces.map((p) => p.item))];

/** Why an order cannot be packed or leave, as far as the device knows; null where it can. */
export function benchDoubt(order: BenchOrder, facts: Facts): ShippingError | null {
  if (order.heldFor !== null) return { code: 'shipping.held', number: order.number, reason: order.heldFor };
  if (order.pieces.length === 0) return { code: 'shipping.nothingPicked', number: order.number };
  const onCart = order.pieces.find((p) => !p.putDown);
  return onCart ? { code: 'shipping.onCart', number: order.number, item: facts.item(onCart.item)?.code ?? '' } : null;
}

type Stepping = Stepped<PackAt, ShippingSaid, PackDoes>;
const say = (at: PackAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

/** One step at the bench (H1–H3): the order's sheet, its goods, its sheet again.
 *  Shape:  `trust`: a whole order is packed by the scan of its sheet alone. Otherwise each piece is scanned, or somebody says that they
 *          looked. The sheet of a packed order ships it. */
export function stepPack(
  at: PackAt,
  event: HandEvent<PackChoice>,
  world: { orders: readonly BenchOrder[]; trust: boolean; facts: Facts },
): Stepping {
  const { orders, facts } = world;
  const order = orders.find((o) => o.id === at.order);
  switch (event.kind) {
    case 'scan':
      return stepScan(at, event.meaning, order, world);
    case 'number': {
      if (!order || at.last === null) return say(at, { tone: 'look', said: 'shipping.chooseFirst' });
      const item = facts.item(at.last);
      const read = parseQty(event.text.replace(',', '.'), item?.decimals ?? 0);
      if (!read.ok || read.value <= 0) return say(at, { tone: 'wrong', said: 'shipping.badNumber', text: event.text });
      return saw({ ...at, seen: { ...at.seen, [at.last]: ZERO } }, at.last, read.value, order, facts);
    }
    case 'choose': {
      const { choice } = event;
      if (choice.what === 'open')
        return open(
          orders.find((o) => o.id === choice.order),
          false,
          facts,
        );
      if (!order) return say(at, { tone: 'look', said: 'shipping.chooseFirst' });
      if (choice.what === 'parcels') {
        if (!/^[1-9]\d?$/.test(choice.text)) return say(at, { tone: 'wrong', said: 'shipping.badNumber', text: choice.text });
        return say({ ...at, parcels: Number(choice.text) }, { tone: 'right', said: 'shipping.parcels', parcels: Number(choice.text) });
      }
      // Who presses it says that they have looked.
      if (choice.what === 'pack') return pack(at, order, facts);
      if (choice.what === 'ship') return ship(at, order, facts);
      return unpack(at, order);
    }
    case 'undo':
      return order ? unpack(at, order) : say(at, { tone: 'look', said: 'shipping.chooseFirst' });
  }
}

function stepScan(
  at: PackAt,
  meaning: Meaning,
  order: BenchOrder | undefined,
  { orders, trust, facts }: { orders: readonly BenchOrder[]; trust: boolean; facts: Facts },
): Stepping {
  if (meaning.kind === 'paper' && meaning.paper === 'order') {
    const meant = orders.find((o) => o.number === meaning.text.trim().toUpperCase());
    if (!meant) return say(at, { tone: 'wrong', said: 'shipping.unknownOrder', text: meaning.text });
    if (meant.id !== order?.id) return open(meant, trust, facts);
    if (meant.packed) return ship(at, meant, facts);
    const missing = trust && isComplete(meant) ? undefined : itemsOf(meant).find((i) => (at.seen[i] ?? ZERO) < pickedOf(meant, i));
    if (missing === undefined) return pack(at, meant, facts);
    const left = subQty(pickedOf(meant, missing), at.seen[missing] ?? ZERO);
    return say(at, { tone: 'look', said: 'shipping.notSeen', code: facts.item(missing)?.code ?? '', missing: left });
  }
  if (!order) return say(at, { tone: 'look', said: 'shipping.isNot', meaning, wanted: 'order' });
  if (meaning.kind === 'item') {
    const qty = meaning.labelled ?? packToBase(ONE, meaning.pack) ?? ONE;
    return saw(at, meaning.item.id, qty, order, facts);
  }
  if (meaning.kind === 'serial') {
    const piece = order.pieces.find((p) => p.serial === meaning.text);
    if (piece) return saw(at, piece.item, ONE, order, facts);
  }
  return say(at, { tone: 'wrong', said: 'shipping.isNot', meaning, wanted: 'goods' });
}

function open(order: BenchOrder | undefined, trust: boolean, facts: Facts): Stepping {
  if (!order) return say(PACK_BEGINS, { tone: 'look', said: 'shipping.chooseFirst' });
  const at: PackAt = { ...PACK_BEGINS, order: order.id };
  const doubt = benchDoubt(order, facts);
  if (doubt) return say(at, { tone: 'wrong', said: 'shipping.refused', error: doubt });
  const complete = isComplete(order);
  if (trust && complete && !order.packed) return pack(at, order, facts);
  const pieces = sumQty(order.pieces.map((p) => p.qty));
  return say(at, {
    tone: complete ? 'right' : 'look',
    said: 'shipping.open',
    number: order.number,
    pieces,
    packed: order.packed,
    complete,
  });
}

function saw(at: PackAt, item: ItemId, qty: Qty, order: BenchOrder, facts: Facts): Stepping {
  const code = facts.item(item)?.code ?? '';
  const of = pickedOf(order, item);
  if (of === 0) return say(at, { tone: 'wrong', said: 'shipping.notOfOrder', code, number: order.number });
  const seen = addQty(at.seen[item] ?? ZERO, qty);
  if (seen > of) return say(at, { tone: 'wrong', said: 'shipping.tooMuch', code, of });
  const next = { ...at.seen, [item]: seen };
  const all = itemsOf(order).every((i) => (next[i] ?? ZERO) >= pickedOf(order, i));
  return say({ ...at, seen: next, last: item }, { tone: 'right', said: 'shipping.saw', code, seen, of, all });
}

function pack(at: PackAt, order: BenchOrder, facts: Facts): Stepping {
  const doubt = benchDoubt(order, facts);
  if (doubt) return say(at, { tone: 'wrong', said: 'shipping.refused', error: doubt });
  const does: PackDoes = { kind: 'pack.order', order: order.id, pieces: order.pieces.map((p) => p.key), parcels: at.parcels };
  return {
    at,
    says: { tone: 'right', said: 'shipping.packed', number: order.number, parcels: at.parcels, short: !isComplete(order) },
    does: [does],
  };
}

function ship(at: PackAt, order: BenchOrder, facts: Facts): Stepping {
  const doubt = benchDoubt(order, facts) ?? (order.packed ? null : ({ code: 'shipping.notPacked', number: order.number } as const));
  if (doubt) return say(at, { tone: 'wrong', said: 'shipping.refused', error: doubt });
  const does: PackDoes = { kind: 'pack.ship', order: order.id, pieces: order.pieces.map((p) => p.key) };
  const pieces = sumQty(order.pieces.map((p) => p.qty));
  return { at: PACK_BEGINS, says: { tone: 'right', said: 'shipping.shipped', number: order.number, pieces }, does: [does] };
}

function unpack(at: PackAt, order: BenchOrder): Stepping {
  if (!order.packed)
    return say(at, { tone: 'look', said: 'shipping.refused', error: { code: 'shipping.notPacked', number: order.number } });
  return {
    at: { ...at, seen: {}, last: null },
    says: { tone: 'look', said: 'shipping.unpacked', number: order.number },
    does: [{ kind: 'pack.undo', order: order.id }],
  };
}

/** The sentence for what a step at the bench came to. */
export function shippingSaid(s: ShippingSaid): string {
  switch (s.said) {
    case 'shipping.open':
      return s.packed
        ? `${s.number} is packed. Scan its sheet again to ship it.`
        : `${s.number}: ${formatQty(s.pieces)} ${s.pieces === ONE ? 'piece' : 'pieces'}${s.complete ? '' : ', not the whole order'}. ` +
            `Scan each, or say that you looked.`;
    case 'shipping.unknownOrder':
      return `${s.text} has nothing at the bench.`;
    case 'shipping.isNot':
      return `${meaningWords(s.meaning)} ${
        s.wanted === 'order' ? 'Scan the sheet of an order.' : 'Scan the goods of this order, or its sheet.'
      }`;
    case 'shipping.saw':
      return `${s.code}: ${formatQty(s.seen)} of ${formatQty(s.of)}.${s.all ? ' All seen: scan the sheet to pack it.' : ''}`;
    case 'shipping.notOfOrder':
      return `${s.code} does not belong to ${s.number}. Lay it aside.`;
    case 'shipping.tooMuch':
      return `More ${s.code} than was picked: ${formatQty(s.of)}. Count again.`;
    case 'shipping.notSeen':
      return `${formatQty(s.missing)} ${s.code} not scanned yet.`;
    case 'shipping.refused':
      return shippingSentence(s.error);
    case 'shipping.packed':
      return `${s.number} is packed in ${s.parcels} ${s.parcels === 1 ? 'parcel' : 'parcels'}${s.short ? '; the rest stays open' : ''}.`;
    case 'shipping.shipped':
      return `${s.number}: ${formatQty(s.pieces)} ${s.pieces === ONE ? 'piece has' : 'pieces have'} left.`;
    case 'shipping.unpacked':
      return `${s.number} is to be packed again.`;
    case 'shipping.parcels':
      return `${s.parcels} ${s.parcels === 1 ? 'parcel' : 'parcels'}.`;
    case 'shipping.badNumber':
      return `“${s.text}” is no number here.`;
    case 'shipping.chooseFirst':
      return 'Scan the sheet of an order, or choose one.';
  }
}
