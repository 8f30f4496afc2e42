import {
  formatAmount,
  parseAmount,
  type BinId,
  type DocumentId,
  type ItemId,
  type LotId,
  type PersonId,
  type Qty,
  type SerialId,
} from '#core/base';
import { needsLot, needsSerialOnArrival } from '#core/items';
import { decideAdjustment, OUTSIDE, type Movement } from '#core/stock';
import { announce, makeDocument, query, refuse, valueOf, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials, findItem, selectLot, selectSerial } from '#server/items';
import { findBin, selectToday } from '#server/places';
import { post } from './post.ts';
import { insertAdjustment } from './store.ts';

export type Adjust = {
  readonly site: number;
  readonly person: number;
  readonly device?: string | null;
  /** When it was done, where that is not now. */
  readonly at?: Date | null;
  readonly item: number;
  readonly bin: string;
  readonly way: 'plus' | 'minus';
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serials: readonly string[];
  readonly condition: 'sound' | 'failed';
  readonly reason: string;
  readonly reference: string;
  readonly job: string;
  readonly day: string | null;
  readonly cost: string | null;
};

/** Adds to stock or takes from it by saying so (K1), on a document of its own. What is used up for a job goes to it; a lot that nobody
 *  knows is made on the spot.
 *  Errors: what `decideAdjustment` refuses; a cart or bench, which hold orders' goods only; a lot or serial that is not there to be taken;
 *          what `post` refuses.
 *  Locks:  the lot that it makes, then what `post` locks. */
export async function adjustStock(trx: Trx, wish: Adjust): Promise<{ document: number; number: string; qty: Qty }> {
  const item = await findItem(trx, wish.item);
  const bin = await findBin(trx, wish.site, wish.bin);
  if (bin.use === 'cart' || bin.use === 'packing') refuse({ code: 'stock.passingThrough', bin: bin.address, item: item.code });
  const today = await selectToday(trx, wish.site);
  const known = wish.lot && needsLot(item.tracking) ? await selectLot(trx, item.id, wish.lot) : undefined;
  const places = await selectSerialBins(trx, item.id, wish.serials);
  const day = wish.day ?? today;
  const decided = valueOf(
    decideAdjustment(
      { ...wish, day, cost: wish.cost === null ? null : parseAmount(wish.cost) },
      {
        itemCode: item.code,
        decimals: item.decimals,
        tracking: item.tracking,
        today,
        knownLot: known ?? null,
        placeOf: (serial) => places.get(serial) ?? null,
      },
    ),
  );
  const lot = await lotOf(trx, wish, decided, item, known);
  const outside = wish.job === '' ? OUTSIDE.adjustments : OUTSIDE.jobs;
  const here = { bin: bin.id as BinId, unit: null, condition: wish.condition };
  const there = { bin: outside, unit: null, condition: 'sound' as const };
  const serials = await serialsOf(trx, wish, item);
  const movements = decided.pieces.map((piece): Movement => ({
    item: item.id as ItemId,
    lot,
    serial: piece.serial === null ? null : (serials.get(piece.serial) as SerialId),
    qty: piece.qty,
    reason: wish.reason,
    ...(wish.way === 'plus' ? { from: there, to: here } : { from: here, to: there }),
  }));
  const at = wish.at ? { at: wish.at } : {};
  const document = await makeDocument(trx, 'adjustment', { site: wish.site, person: wish.person, ...at });
  await post(trx, {
    document: document.id as DocumentId,
    person: wish.person as PersonId,
    device: wish.device ?? null,
    ...at,
    movements,
  });
  const cost = wish.cost === null ? null : formatAmount(parseAmount(wish.cost), 4);
  await insertAdjustment(trx, { document: document.id, reference: wish.reference, day, job: wish.job, cost });
  announce(trx, 'stock');
  return { document: document.id, number: document.number, qty: wish.qty };
}

type Found = Awaited<ReturnType<typeof findItem>>;

async function lotOf(
  trx: Trx,
  wish: Adjust,
  { lot, expires }: { lot: string | null; expires: string | null },
  item: Found,
  known: { id: number } | undefined,
): Promise<LotId | null> {
  if (lot === null) return null;
  if (known) return known.id as LotId;
  // What nobody knows cannot be taken away: said as what is not in the bin.
  if (wish.way === 'minus') refuse({ code: 'stock.noSuchLot', item: item.code, lot });
  return (await ensureLots(trx, [{ item: item.id, code: lot, expires }])).get(`${item.id}|${lot}`) as LotId;
}

async function serialsOf(trx: Trx, wish: Adjust, item: Found): Promise<ReadonlyMap<string, number>> {
  if (!needsSerialOnArrival(item.tracking)) return new Map();
  if (wish.way === 'plus') {
    const made = await ensureSerials(
      trx,
      wish.serials.map((code) => ({ item: item.id, code })),
    );
    return new Map(wish.serials.map((code) => [code, made.get(`${item.id}|${code}`) ?? 0]));
  }
  const found = new Map<string, number>();
  for (const code of wish.serials)
    found.set(code, (await selectSerial(trx, item.id, code))?.id ?? refuse({ code: 'stock.noSuchSerial', item: item.code, serial: code }));
  return found;
}

async function selectSerialBins(trx: Trx, item: number, serials: readonly string[]): Promise<ReadonlyMap<string, string>> {
  const rows = await query<{ serial: string; bin: string }>(
    trx,
    `SELECT serial, address AS bin FROM stock_fact WHERE item_id = ? AND serial = ANY(?::text[])`,
    [item, serials],
  );
  return new Map(rows.map((r) => [r.serial, r.bin]));
}
