import { isWholeStep, ONE, sumQty, type BinId, type DocumentId, type PersonId, type Qty } from '#core/base';
import { needsExpiry, needsLot, needsSerialOnArrival } from '#core/items';
import { OUTSIDE, type Movement } from '#core/stock';
import type { BodyOf, ReplyOf, Routes } from '#contract';
import { qtyText } from '#contract/base';
import { announce, makeDocument, query, refuse, type Trx } from '#server/kernel';
import { ensureLots, ensureSerials, insertHome, lockItem, makeListedItem, refreshSearch, type FoundItem } from '#server/items';
import { printItemLabels } from '#server/labels';
import { findBin } from '#server/places';
import { post } from './post.ts';

type OpeningLine = BodyOf<Routes['stock.opening']>['lines'][number];

type Entering = {
  readonly item: number;
  readonly lines: readonly OpeningLine[];
  readonly site: number;
  readonly person: number;
  readonly device?: string | null;
  readonly reason: string;
  /** Why an item with history gets more; null where it is to have none. */
  readonly adjustFor: string | null;
};
type Source = { readonly from: BinId; readonly reason: string };

/** Enters opening stock of an item, bin by bin, as one document from the opening balance (B1). What has no bin yet is entered into
 *  UNPLACED (A7). An item that has moved at this site before has had its opening: what is entered then is an adjustment, with its reason
 *  (K1).
 *  Errors: `stock.hasHistory` where it has moved and no reason is given; a lot, date or serial that the item's tracking asks for and the
 *          line lacks; as many serials as pieces; `stock.passingThrough` for a cart or a bench; what bin rules forbid.
 *  Locks:  the item, so that of two who enter the same opening the second finds the first's. */
export async function enterOpening(
  trx: Trx,
  command: Entering,
): Promise<{ document: { id: number; number: string }; qty: Qty; isAdjustment: boolean }> {
  const item = await lockItem(trx, command.item);
  const history = await selectHistory(trx, item.id, command.site);
  const isAdjustment = history.movements > 0;
  if (isAdjustment && command.adjustFor === null)
    refuse({ code: 'stock.hasHistory', item: item.code, site: history.site, movements: history.movements });
  const source: Source = isAdjustment
    ? { from: OUTSIDE.adjustments, reason: command.adjustFor ?? '' }
    : { from: OUTSIDE.opening, reason: command.reason };
  const movements: Movement[] = [];
  for (const line of command.lines) movements.push(...(await lineMovements(trx, command.site, item, line, source)));
  const document = await makeDocument(trx, isAdjustment ? 'adjustment' : 'opening', { site: command.site, person: command.person });
  await post(trx, { document: document.id as DocumentId, person: command.person as PersonId, device: command.device ?? null, movements });
  return { document, qty: sumQty(movements.map((m) => m.qty)), isAdjustment };
}

async function selectHistory(trx: Trx, item: number, site: number): Promise<{ movements: number; site: string }> {
  const [row] = await query<{ movements: number; site: string }>(
    trx,
    `SELECT s.name AS site,
       (SELECT count(*) FROM movement m JOIN document d ON d.id = m.document_id WHERE m.item_id = ? AND d.site_id = s.id) AS movements
     FROM site s WHERE s.id = ?`,
    [item, site],
  );
  return row ?? refuse({ code: 'places.unknownSite', id: site });
}

async function lineMovements(trx: Trx, site: number, item: FoundItem, line: OpeningLine, source: Source): Promise<Movement[]> {
  const bin = await findBin(trx, site, line.bin);
  if (bin.use === 'cart' || bin.use === 'packing') refuse({ code: 'stock.passingThrough', bin: bin.address, item: item.code });
  if (line.qty <= 0) refuse({ code: 'receiving.nothing', item: item.code });
  if (!isWholeStep(line.qty, item.decimals)) refuse({ code: 'stock.tooFine', text: qtyText(line.qty), decimals: item.decimals });
  if (needsLot(item.tracking) && !line.lot) refuse({ code: 'receiving.lotWanted', item: item.code });
  if (needsExpiry(item.tracking) && !line.expires) refuse({ code: 'receiving.dateWanted', item: item.code, lot: line.lot ?? '' });
  const serials = [...new Set(line.serials)];
  if (needsSerialOnArrival(item.tracking) && serials.length * ONE !== line.qty) refuse({ code: 'receiving.serialWanted', item: item.code });
  const lot = line.lot && needsLot(item.tracking) ? await lotOf(trx, item, line.lot, line.expires ?? null) : null;
  const base = {
    item: item.id,
    lot,
    reason: source.reason,
    from: { bin: source.from, unit: null, condition: 'sound' },
    to: { bin: bin.id, unit: null, condition: 'sound' },
  };
  if (!needsSerialOnArrival(item.tracking)) return [{ ...base, serial: null, qty: line.qty } as unknown as Movement];
  const ids = await ensureSerials(
    trx,
    serials.map((code) => ({ item: item.id, code })),
  );
  return serials.map((code) => ({ ...base, serial: ids.get(`${item.id}|${code}`), qty: ONE }) as unknown as Movement);
}

async function lotOf(trx: Trx, item: FoundItem, code: string, expires: string | null): Promise<number> {
  const id = (await ensureLots(trx, [{ item: item.id, code, expires }])).get(`${item.id}|${code}`) as number;
  const [known] = await query<{ expires: string | null }>(trx, `SELECT expires FROM lot WHERE id = ?`, [id]);
  if (expires && known?.expires && known.expires !== expires)
    refuse({ code: 'receiving.dateDiffers', item: item.code, lot: code, known: known.expires, given: expires });
  return id;
}

/** Stocks an article of a price list at once: the item with its words, barcode, cost and price from the list, the quantity into the bin,
 *  the label (B6). One transaction: there is no item without its stock, and no stock without its item. */
export async function quickAdd(
  trx: Trx,
  command: BodyOf<Routes['stock.quickAdd']> & { site: number; person: number },
): Promise<ReplyOf<Routes['stock.quickAdd']>> {
  const made = await makeListedItem(trx, command);
  const entered = await enterOpening(trx, {
    item: made.id,
    lines: [{ bin: command.bin, qty: command.qty, serials: [] }],
    site: command.site,
    person: command.person,
    device: command.device ?? null,
    reason: `New from the list of ${made.supplier}`,
    adjustFor: null,
  });
  const bin = await findBin(trx, command.site, command.bin);
  // The bin that it was put into is its home from now on.
  await insertHome(trx, made.id, bin.id);
  await refreshSearch(trx, [made.id]);
  const copies = command.labels === 'none' ? 0 : command.labels === 'one' ? 1 : Math.min(999, Math.ceil(command.qty / ONE));
  if (copies > 0) await printItemLabels(trx, { person: command.person, site: command.site, item: made.id, bin: bin.id, copies });
  announce(trx, 'items');
  return {
    item: made.id,
    code: made.code,
    description: made.description,
    bin: bin.address,
    qty: qtyText(entered.qty),
    document: entered.document.id,
    labels: copies,
  };
}
