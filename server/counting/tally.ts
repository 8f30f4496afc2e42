import { formatQty, isWholeStep, ONE, type Qty } from '#core/base';
import { needsLot } from '#core/items';
import { announce, query, refuse, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials, selectLot, selectSerial, type FoundItem } from '#server/items';
import type { FoundBin } from '#server/places';
import { lockOpenCount, type CountListRow, beginBinAgain, insertTally, selectUnitTallied, updateTally } from './store.ts';

/** Something found in a bin of a count. Lot and serial as on the label; a lot that nobody knew is new, with its date. */
export type Found = {
  readonly key: string;
  readonly count: number;
  readonly site: number;
  readonly person: number;
  readonly device: string | null;
  /** When it was looked at, where that is not now. */
  readonly at: Date | null;
  readonly bin: FoundBin;
  readonly item: FoundItem;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serial: string | null;
  /** The logistic unit by whose label it was counted. */
  readonly sscc: string | null;
  readonly qty: Qty;
};

/** Locks an open count and makes sure that a bin belongs to it.
 *  Errors: a count that has ended or is another site's, a bin that is not part of it. */
export async function lockCountBin(trx: Trx, count: number, site: number, bin: FoundBin): Promise<CountListRow> {
  const open = await lockOpenCount(trx, count, site);
  const [member] = await query(trx, `SELECT 1 FROM count_bin WHERE count_id = ? AND bin_id = ?`, [count, bin.id]);
  if (!member) refuse({ code: 'counting.binNotInCount', bin: bin.address, number: open.number });
  return open;
}

/** Keeps what was found (J2, J4). The bin's verdict goes: somebody has looked more closely.
 *  Shape:  returns the tally's id.
 *  Errors: as `lockCountBin`; a lot or serial that must be said; a serial that was counted before; finer than the item is counted.
 *  Locks:  the count; the lot that it makes. */
export async function enterTally(trx: Trx, found: Found): Promise<number> {
  const { item, bin } = found;
  await lockCountBin(trx, found.count, found.site, bin);
  if (needsLot(item.tracking) && !found.lot) refuse({ code: 'counting.lotWanted', item: item.code, bin: bin.address });
  const lot = needsLot(item.tracking) && found.lot ? await lotFound(trx, item, found.lot, found.expires) : null;
  const serial = item.tracking === 'serial' ? await serialFound(trx, found.count, item, found.serial) : null;
  const twice = found.sscc === null ? undefined : await selectUnitTallied(trx, { ...found, sscc: found.sscc, item: item.id, lot, serial });
  if (twice) refuse({ code: 'counting.unitTwice', sscc: found.sscc ?? '', person: twice });
  const qty = serial === null ? found.qty : ONE;
  if (qty < 0 || !isWholeStep(qty, item.decimals)) refuse({ code: 'stock.tooFine', text: formatQty(qty), decimals: item.decimals });
  const made = await insertTally(trx, { ...found, bin: bin.id, item: item.id, lot, serial, qty });
  announce(trx, 'counting', { count: found.count });
  return made;
}

async function lotFound(trx: Trx, item: FoundItem, code: string, expires: string | null): Promise<number> {
  const known = await selectLot(trx, item.id, code);
  if (known) return known.id;
  if (item.tracking === 'lotExpiry' && expires === null) return refuse({ code: 'counting.dateWanted', item: item.code, lot: code });
  const made = await ensureLots(trx, [{ item: item.id, code, expires }]);
  return made.get(`${item.id}|${code}`) as number;
}

async function serialFound(trx: Trx, count: number, item: FoundItem, code: string | null): Promise<number> {
  if (!code) return refuse({ code: 'counting.serialWanted', item: item.code });
  const known =
    (await selectSerial(trx, item.id, code))?.id ?? (await ensureSerials(trx, [{ item: item.id, code }])).get(`${item.id}|${code}`) ?? 0;
  const [twice] = await query(trx, `SELECT 1 FROM tally WHERE count_id = ? AND serial_id = ? AND taken_out_at IS NULL`, [count, known]);
  if (twice) refuse({ code: 'counting.serialTwice', item: item.code, serial: code });
  return known;
}

/** Says how many a tally is.
 *  Errors: a tally that is not in the count any more, a serial, a quantity that the item cannot have, a count that has ended.
 *  Locks:  the count. */
export async function changeTally(trx: Trx, command: { count: number; site: number; tally: string; qty: Qty }): Promise<void> {
  const count = await lockOpenCount(trx, command.count, command.site);
  const [tally] = await query<{ id: number; serial_id: number | null; decimals: number }>(
    trx,
    `SELECT t.id, t.serial_id, i.decimals
     FROM tally t
     JOIN item i ON i.id = t.item_id
     WHERE t.key = ? AND t.count_id = ? AND t.taken_out_at IS NULL`,
    [command.tally, command.count],
  );
  if (!tally) return refuse({ code: 'counting.unknownTally', id: 0, number: count.number });
  if (tally.serial_id !== null || !isWholeStep(command.qty, tally.decimals))
    return refuse({ code: 'stock.tooFine', text: formatQty(command.qty), decimals: tally.serial_id === null ? tally.decimals : 0 });
  await updateTally(trx, tally.id, command.qty);
  announce(trx, 'counting', { count: command.count });
}

/** Begins a bin of a count again: what was told of it before that moment goes. A null verdict only begins again.
 *  Errors: as `lockCountBin`; `counting.blind` where nothing can be as expected.
 *  Locks:  the count. */
export async function sayOfBin(
  trx: Trx,
  command: { count: number; site: number; bin: FoundBin; verdict: 'none' | 'asExpected' | null; at: Date | null },
): Promise<void> {
  const count = await lockCountBin(trx, command.count, command.site, command.bin);
  if (count.blind && command.verdict === 'asExpected') refuse({ code: 'counting.blind', number: count.number });
  // A verdict is about the whole bin: it begins the bin again.
  await beginBinAgain(trx, { ...command, bin: command.bin.id });
  announce(trx, 'counting', { count: command.count });
}
