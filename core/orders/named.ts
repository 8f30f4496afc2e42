import { fail, formatQty, ok, ONE, writeDay, type Qty, type Result } from '#core/base';
import { needsLot, type Tracking } from '#core/items';
import type { OrdersError } from './errors.ts';

/** What a line names of its goods beforehand (F3), as it stands on labels. */
export type NamedGoods = { readonly lot: string | null; readonly serials: readonly string[]; readonly bin: string | null };

/** The line whose goods somebody names. `qty` in thousandths of the base unit. */
export type NamedLine = { readonly item: string; readonly tracking: Tracking; readonly qty: Qty };

/** Decides whether a line may name these goods.
 *  Shape:  serials name every piece of the line, each once; a lot is named of what has lots, a serial of what lies under its serial.
 *  Errors: a lot or serials of an item that has none; a serial twice; more or fewer serials than pieces. */
export function decideNames(named: NamedGoods, line: NamedLine): Result<NamedGoods, OrdersError> {
  const { item, tracking, qty } = line;
  if (named.lot !== null && !needsLot(tracking)) return fail({ code: 'orders.noLots', item });
  if (named.serials.length === 0) return ok(named);
  if (tracking !== 'serial') return fail({ code: 'orders.noSerials', item });
  const twice = named.serials.find((s, n) => named.serials.indexOf(s) < n);
  if (twice !== undefined) return fail({ code: 'orders.serialTwice', item, serial: twice });
  if (named.serials.length * ONE !== qty)
    return fail({ code: 'orders.serialsForPieces', item, serials: named.serials.length, pieces: formatQty(qty) });
  return ok(named);
}

/** Says what a line asks for, as in “only lot L7”; null where it takes whatever there is. `goodOn` is an ISO day. */
export function sayAsking(of: NamedGoods & { readonly goodOn: string | null }): string | null {
  const said = [
    ...(of.lot === null ? [] : [`lot ${of.lot}`]),
    ...(of.serials.length === 0 ? [] : [`${of.serials.length === 1 ? 'serial' : 'serials'} ${of.serials.join(', ')}`]),
    ...(of.bin === null ? [] : [`from ${of.bin}`]),
    ...(of.goodOn === null ? [] : [`good until ${writeDay(of.goodOn)}`]),
  ];
  return said.length === 0 ? null : said.join(', ');
}
