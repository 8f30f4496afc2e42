import { addQty, formatQty, type BinId, type DocumentId, type ItemId, type PersonId, type Qty, type SiteId } from '#core/base';
import { decideFinding, decideSetApart, failedOf, type Finding } from '#core/receiving';
import { coveringHold, type Movement } from '#core/stock';
import { announce, asQty, makeDocument, refuse, valueOf, type Trx } from '#server/kernel';
import { findDefaultBin } from '#server/places';
import { lockStock, post, selectStandingHolds } from '#server/stock';
import { stateWord, type Floor } from './enter.ts';
import { lockDelivery, type DeliveryRow } from './store.ts';
import { selectReceivedStock } from './store-entries.ts';
import {
  countPhotos,
  insertFinding,
  insertPhoto,
  selectFileKind,
  selectInspectable,
  selectReasons,
  type InspectableRow,
} from './store-inspect.ts';

const MOST_PHOTOS = 12;
type OfEntry = { readonly delivery: number; readonly entry: { readonly id: number } | { readonly key: string } };
export type Inspecting = Floor & OfEntry & Finding & { readonly key: string };

/** Keeps what somebody found who looked at goods that arrived (C11), before they are stock or after. Goods that are stock go to quarantine
 *  as failed, or come back from there, so that as many are there as have failed in all.
 *  Shape:  returns the document by which they were moved, null where none were.
 *  Errors: what `decideFinding` and `decideSetApart` refuse; a delivery that was thrown away; an entry that is not its, or was reversed.
 *  Locks:  the delivery, then what `post` locks. */
export async function inspectEntry(trx: Trx, command: Inspecting): Promise<{ document: string | null; failed: Qty }> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  const entry = await findInspectable(trx, delivery, command.entry);
  if (entry.reversed) refuse({ code: 'receiving.reversed', item: entry.code, document: entry.reversed });
  const reasons = await selectReasons(trx);
  const known = new Set([...reasons.filter((r) => !r.retired).map((r) => r.id), ...(entry.finding?.failed ?? []).map((f) => f.reason)]);
  const finding = valueOf(
    decideFinding(command, { item: entry.code, decimals: entry.decimals, arrived: entry.qty, isReason: (r) => known.has(r) }),
  );
  const moved = await moveFailed(trx, { delivery, entry, finding, by: command, words: wordsOf(finding, reasons) });
  await insertFinding(trx, { ...command, ...finding, entry: entry.id, document: moved?.id ?? null });
  announce(trx, 'receiving', { delivery: delivery.id });
  return { document: moved?.number ?? null, failed: failedOf(finding) };
}

/** Keeps a picture of goods that arrived.
 *  Errors: a delivery that was thrown away; an entry that is not its; a file that is no picture; too many pictures of one.
 *  Locks:  the delivery. */
export async function photographEntry(trx: Trx, command: Floor & OfEntry & { readonly file: number }): Promise<void> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  const entry = await findInspectable(trx, delivery, command.entry);
  const file = await selectFileKind(trx, command.file);
  if (!file) return refuse({ code: 'file.unknown', id: command.file });
  if (!file.type.startsWith('image/')) refuse({ code: 'file.wrongKind', name: file.name, wanted: 'goods that arrived take pictures' });
  if ((await countPhotos(trx, entry.id)) >= MOST_PHOTOS) refuse({ code: 'receiving.photosFull', item: entry.code, most: MOST_PHOTOS });
  await insertPhoto(trx, { entry: entry.id, file: command.file, person: command.person, at: command.at });
  announce(trx, 'receiving', { delivery: delivery.id });
}

async function findInspectable(trx: Trx, delivery: DeliveryRow, entry: OfEntry['entry']): Promise<InspectableRow> {
  if (delivery.state === 'thrown') refuse({ code: 'receiving.notOpen', number: delivery.number, state: stateWord('thrown') });
  return (await selectInspectable(trx, delivery.id, entry)) ?? refuse({ code: 'receiving.unknownEntry', id: 'id' in entry ? entry.id : 0 });
}

/** Why goods failed, as a movement says it: `damaged 2, dirty 1`. */
export function wordsOf(finding: Pick<Finding, 'failed'>, reasons: readonly { id: number; name: string }[]): string {
  return finding.failed.map((f) => `${reasons.find((r) => r.id === f.reason)?.name ?? 'failed'} ${formatQty(f.qty)}`).join(', ');
}

async function moveFailed(
  trx: Trx,
  of: { delivery: DeliveryRow; entry: InspectableRow; finding: Finding; by: Floor; words: string },
): Promise<{ id: number; number: string } | null> {
  const { delivery, entry, by } = of;
  const { posted } = entry;
  // What is no stock yet is set apart when it is posted; what expired lies in quarantine already.
  if (posted === null || entry.expired) return null;
  const [before, now] = [failedOf(entry.finding), failedOf(of.finding)];
  if (before === now) return null;
  const { site_id: site, number } = delivery;
  await lockStock(trx, [{ item: entry.item, site }]);
  const lying = await selectReceivedStock(trx, site, { ...posted, item: entry.item, to: { condition: 'sound', unit: null } });
  const { apart, back } = valueOf(
    decideSetApart(
      { item: entry.code, before, now, receivedInto: posted.bin },
      lying.map((l) => ({ ...l, qty: asQty(l.qty) })),
    ),
  );
  const quarantine = (await findDefaultBin(trx, site, 'quarantine')).id as BinId;
  const document = await makeDocument(trx, 'inspection', {
    site,
    person: by.person,
    subject: delivery.id,
    ...(by.at ? { at: by.at } : {}),
  });
  const goods = { item: entry.item, lot: posted.lot, serial: posted.serial };
  const failed = { bin: quarantine, unit: null, condition: 'failed' } as const;
  await post(trx, {
    document: document.id as DocumentId,
    person: by.person as PersonId,
    ...(by.at ? { at: by.at } : {}),
    overBinRules: true,
    movements: [
      ...apart.map((a): Movement => ({
        ...goods,
        qty: a.qty,
        from: { bin: a.bin, unit: null, condition: 'sound' },
        to: failed,
        reason: `Failed on ${number}: ${of.words}`,
      })),
      ...(back > 0
        ? [
            {
              ...goods,
              qty: back,
              from: failed,
              to: { bin: posted.bin, unit: null, condition: 'sound' },
              reason: `Sound after all, ${number}`,
            } satisfies Movement,
          ]
        : []),
    ],
  });
  return document;
}

/** The movements by which what failed of entries that are being posted goes to quarantine; they follow those by which all of it comes in.
 *  `came` are the movements of the entries, each with its finding. Goods that a hold catches as they come in are held when they fail.
 *  Locks:  the items at the site, so that no hold comes between: `items` are all that are posted with them, in one order. */
export async function failedMovements(
  trx: Trx,
  came: readonly { readonly movement: Movement; readonly finding: Finding }[],
  of: { readonly site: number; readonly number: string; readonly quarantine: BinId; readonly items: readonly ItemId[] },
): Promise<Movement[]> {
  const { site, number, quarantine, items } = of;
  await lockStock(
    trx,
    items.map((item) => ({ item, site })),
  );
  const holds = await selectStandingHolds(trx, site, items);
  const reasons = await selectReasons(trx);
  const isHeld = (m: Movement): boolean => coveringHold(holds, { ...m, site: site as SiteId, bin: m.to.bin }) !== null;
  return came.map(({ movement, finding }) => ({
    ...movement,
    qty: failedOf(finding),
    from: { ...movement.to, condition: isHeld(movement) ? 'held' : movement.to.condition },
    to: { bin: quarantine, unit: null, condition: 'failed' },
    reason: `Failed on ${number}: ${wordsOf(finding, reasons)}`,
  }));
}

/** How many of these failed, in all. */
export const allFailed = (findings: Iterable<Finding>): Qty => [...findings].reduce((sum, f) => addQty(sum, failedOf(f)), 0 as Qty);
