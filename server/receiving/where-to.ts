import type { Qty } from '#core/base';
import { decideWhereTo } from '#core/receiving';
import { announce, dbQty, refuse, valueOf, type Trx } from '#server/kernel';
import { findItem } from '#server/items';
import { selectBin } from '#server/places';
import { lockEntryHead, type Floor, type OwnEntry } from './enter.ts';
import { splitEntry, updateEntry, updateToBin, updateUnitToBin } from './store-entries.ts';
import { selectInspectable } from './store-inspect.ts';

/** Says into which bin goods of an entry go (C10), whole or so many of them: the part is an entry of its own then, under `key`. What the
 *  bin's rules say is asked when it is posted, like of everything that enters a bin.
 *  Errors: what `decideWhereTo` refuses; a bin of another site; an entry that was handed in, a delivery that has ended.
 *  Locks:  the delivery. */
export async function placeEntry(
  trx: Trx,
  command: Floor & OwnEntry & { readonly bin: number | null; readonly qty: Qty; readonly key: string },
): Promise<void> {
  const head = await lockEntryHead(trx, command);
  const entry = await selectInspectable(trx, command.delivery, { id: head.id });
  if (!entry) return refuse({ code: 'receiving.unknownEntry', id: head.id });
  const bin = command.bin === null ? null : await selectBin(trx, command.bin);
  if (bin === undefined) return refuse({ code: 'places.unknownBin', text: String(command.bin) });
  if (bin && bin.site_id !== command.site) refuse({ code: 'people.otherSite', what: `Bin ${bin.address}`, site: bin.site });
  // What came in one unit goes into one bin, all of it.
  if (head.sscc !== null && command.qty < entry.qty) refuse({ code: 'receiving.unitWhole', sscc: head.sscc });
  const item = await findItem(trx, entry.item);
  const { stays } = valueOf(
    decideWhereTo(command.qty, {
      item: item.code,
      decimals: item.decimals,
      arrived: entry.qty,
      isFound: entry.finding !== null,
      expired: head.expired,
      bin,
    }),
  );
  if (stays > 0) {
    await updateEntry(trx, { entry: head.id, person: command.person, qty: dbQty(stays) });
    await splitEntry(trx, { entry: head.id, key: command.key, qty: command.qty, bin: command.bin });
  } else if (head.sscc === null) await updateToBin(trx, head.id, command.bin);
  else await updateUnitToBin(trx, { delivery: command.delivery, sscc: head.sscc, bin: command.bin });
  announce(trx, 'receiving', { delivery: command.delivery });
}
