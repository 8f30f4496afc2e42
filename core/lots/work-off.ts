import { fail, ok, type Result } from '#core/base';
import type { LotsError } from './errors.ts';

/** Goods of a lot in a bin, as they are when somebody works them off. */
export type ExpiredStock = {
  readonly item: string;
  readonly lot: string;
  readonly expires: string | null;
  readonly isExpired: boolean;
  readonly bin: number;
  readonly address: string;
};

/** Decides whether lots may be worked off (E3): all of them or none. `asked` is how many were named, `into` the bin where they go, or null
 *  where they are written off.
 *  Errors: some that are gone, some that are still good, some that lie there already. */
export function decideWorkOff<Stock extends ExpiredStock>(
  stock: readonly Stock[],
  asked: readonly number[],
  into: number | null,
): Result<readonly Stock[], LotsError> {
  if (stock.length < new Set(asked).size) return fail({ code: 'lots.gone', id: asked[0] ?? 0 });
  const good = stock.find((s) => !s.isExpired);
  if (good) return fail({ code: 'lots.notExpired', item: good.item, lot: good.lot, expires: good.expires });
  const there = stock.find((s) => s.bin === into);
  if (there) return fail({ code: 'lots.there', item: there.item, lot: there.lot, bin: there.address });
  return ok(stock);
}
