import { formatQty, sumQty, writeDay, type Qty } from '#core/base';
import type { AdjustNote } from '#core/moves';
import type { Does, Unreadable } from './acts.ts';

/** The code of an item and the address of a bin, as far as whoever asks knows them. */
export type DoesNames = { item(id: number): string | undefined; bin(id: number): string | undefined };

/** What an act did, in words that its hand and the lead read alike.
 *  Shape:  begins with a capital and the verb, past tense, no full stop. Names that are not known are told by their number. */
export function doesWords(does: Does | Unreadable, names: DoesNames): string {
  const goods = (g: { item: number; qty: Qty; lot: string | null; serial: string | null }): string =>
    [`${formatQty(g.qty)} ${names.item(g.item) ?? `item ${g.item}`}`, g.lot && `lot ${g.lot}`, g.serial && `serial ${g.serial}`]
      .filter(Boolean)
      .join(', ');
  const bin = (id: number): string => names.bin(id) ?? `bin ${id}`;
  switch (does.kind) {
    case 'receive.begin':
      return does.back ? 'Began to take goods back' : 'Began a delivery';
    case 'receive.paper':
      return `Named the supplier’s paper ${does.doc}`;
    case 'receive.enter':
      return `Received ${goods(does)}${does.expires ? `, expires ${writeDay(does.expires)}` : ''}`;
    case 'receive.unit':
      return `Received unit ${does.sscc} with ${does.goods.length} ${does.goods.length === 1 ? 'thing' : 'things'}`;
    case 'receive.unknown':
      return `Received ${formatQty(does.qty)} of the unknown code ${does.code}`;
    case 'receive.change':
    case 'count.change':
      return `Said that it was ${formatQty(does.qty)}`;
    case 'receive.takeOut':
    case 'count.takeOut':
      return 'Took a scan out again';
    case 'receive.inspect':
      return `Looked at ${formatQty(does.checked)}: ${formatQty(sumQty(does.failed.map((f) => f.qty)))} failed`;
    case 'receive.where':
      return does.bin === null
        ? `Left ${formatQty(does.qty)} at arrivals`
        : `Put ${formatQty(does.qty)} that arrived into ${bin(does.bin)}`;
    case 'receive.photo':
      return 'Took a picture of goods that arrived';
    case 'receive.finish':
      return 'Handed the delivery in';
    case 'move.put':
      return `Put ${goods(does)} from ${bin(does.from)} into ${bin(does.to)}${does.newLot === null ? '' : ` as lot ${does.newLot}`}`;
    case 'move.unit':
      return `Put unit ${does.sscc} from ${bin(does.from)} into ${bin(does.to)}`;
    case 'move.undo':
      return 'Took back what they had done last';
    case 'adjust.say':
      return (
        `Said that there are ${goods(does)} ${does.way === 'plus' ? 'more' : 'fewer'}` +
        `${does.condition === 'failed' ? ' that failed' : ''} ` +
        `in ${bin(does.bin)}: ` +
        `${does.reason}${noteWords(does)}`
      );
    case 'pick.take':
      return (
        `Picked ${goods(does)}${does.sscc === null ? '' : ` with unit ${does.sscc}`} ` +
        `from ${bin(does.bin)}${does.over === null ? '' : `, another lot than planned: ${does.over}`}`
      );
    case 'pick.undo':
      return 'Put picked goods back where they lay';
    case 'pick.trouble':
      return `Reported trouble at a stop: ${{ short: 'too few', damaged: 'damaged', notFound: 'not found' }[does.trouble]}`;
    case 'pick.elsewhere':
      return `Took ${formatQty(does.instead.qty)} from ${bin(does.instead.bin)} instead: ${does.reason}`;
    case 'pick.assemble':
      return `Made ${formatQty(does.qty)} kits${does.to === null ? '' : ` into ${bin(does.to)}`}`;
    case 'pick.putDown':
      return `Put the round down at ${bin(does.bin)}`;
    case 'carry.take':
      return `Took ${goods(does)} onto the cart`;
    case 'carry.put':
      return `Put ${goods(does)} into ${bin(does.to)}`;
    case 'carry.undo':
      return 'Took back what they had carried last';
    case 'carry.trouble':
      return `Reported trouble on a round: ${{ short: 'too few', damaged: 'damaged', notFound: 'not found' }[does.trouble]}`;
    case 'count.tally':
      return `Counted ${goods(does)} in ${bin(does.bin)}`;
    case 'count.verdict':
      return `Said of ${bin(does.bin)}: ${does.verdict === 'none' ? 'nothing there' : 'as expected'}`;
    case 'count.again':
      return `Began ${bin(does.bin)} again`;
    case 'pack.order':
      return `Packed ${does.pieces.length} pieces in ${does.parcels} ${does.parcels === 1 ? 'parcel' : 'parcels'}`;
    case 'pack.undo':
      return 'Undid the packing';
    case 'pack.ship':
      return 'Let the order leave';
    case 'unreadable':
      return `Told something in another program’s words: ${does.told.slice(0, 200)}`;
  }
}

function noteWords({ reference, job, day, cost }: AdjustNote): string {
  return [reference, job && `for job ${job}`, cost !== null && `at ${cost} each`, day !== null && `in the books of ${writeDay(day)}`]
    .filter((part) => part)
    .map((part) => `, ${part}`)
    .join('');
}
