import { sumQty, ZERO, type DocumentId, type PersonId, type SiteId } from '#core/base';
import { coveringHold, decideHold, decideRelease, type Condition, type HeldPieces, type Movement } from '#core/stock';
import type { BodyOf, Routes } from '#contract';
import { qtyText } from '#contract/base';
import type { HOLD_SORTS } from '#contract/stock';
import { lockRows, makeDocument, query, refuse, valueOf, type Db, type Trx, selectSorted, type SortBy, type SortKey } from '#server/kernel';
import { findItem, selectLot, selectSerial } from '#server/items';
import { selectBin } from '#server/places';
import { post } from './post.ts';
import { lockStock, lockWholeSite } from './store.ts';
import {
  insertHoldLines,
  selectHeld,
  selectHoldable,
  selectHoldLines,
  selectOtherClaims,
  selectPromised,
  selectStandingHolds,
  insertHold,
  updateReleased,
} from './store-holds.ts';

/** Holds stock (B10): a quantity, lot, serial, bin or item. What is held moves on the ledger from sound to held, in its bin; so it is
 *  neither promised nor picked, and promises that it backed give way at once. Without a quantity the hold stands: what comes later is held
 *  as it comes. With one it means so many of today's pieces.
 *  Errors: less sound there than asked; nothing at all there where a bin or a lot holds nothing and is not expected to.
 *  Locks:  the items at the site, then what `post` locks. */
export async function holdStock(
  trx: Trx,
  command: BodyOf<Routes['stock.hold']> & { site: number; person: number },
): Promise<{ id: number; number: string; qty: string; promisesCut: number }> {
  const scope = await readScope(trx, command);
  const standing = command.qty === undefined;
  await lockScope(trx, command.site, scope.item);
  const rows = await selectHoldable(trx, command.site, scope);
  const items = [...new Set(rows.map((r) => r.item))];
  const taken = valueOf(decideHold(rows, { qty: command.qty ?? null, what: scope.what }));
  const document = await makeDocument(trx, 'hold', { site: command.site, person: command.person });
  const before = await selectPromised(trx, command.site, items);
  // Posted before the hold stands: these pieces are on its lines by name, not caught by it.
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: taken.map((pieces) => conditionChange(pieces, 'sound', 'held', command.reason)),
  });
  const { site, person, reason, until = null } = command;
  const hold = await insertHold(trx, { ...scope, document: document.id, site, person, reason, until, standing });
  await insertHoldLines(
    trx,
    taken.map((pieces) => ({ ...pieces, hold })),
  );
  const after = await selectPromised(trx, command.site, items);
  return { id: hold, number: document.number, qty: qtyText(sumQty(taken.map((p) => p.qty))), promisesCut: before.lines - after.lines };
}

// A hold of a whole bin is about items that nobody named: nothing may come in between the look and the hold.
async function lockScope(trx: Trx, site: number, item: number | null): Promise<void> {
  if (item === null) await lockWholeSite(trx, site);
  else await lockStock(trx, [{ item, site }]);
}

function conditionChange(pieces: HeldPieces, from: Condition, to: Condition, reason: string): Movement {
  const place = { bin: pieces.bin, unit: pieces.unit };
  return {
    item: pieces.item,
    lot: pieces.lot,
    serial: pieces.serial,
    qty: pieces.qty,
    reason,
    from: { ...place, condition: from },
    to: { ...place, condition: to },
  };
}

type Scope = { item: number | null; bin: number | null; lot: number | null; serial: number | null; what: string };

async function readScope(trx: Trx, command: BodyOf<Routes['stock.hold']> & { site: number }): Promise<Scope> {
  const bin =
    command.bin === undefined
      ? null
      : ((await selectBin(trx, command.bin)) ?? refuse({ code: 'places.unknownBin', text: String(command.bin) }));
  if (bin && bin.site_id !== command.site) refuse({ code: 'places.unknownBin', text: bin.address });
  if (command.item === undefined) return { item: null, bin: bin?.id ?? null, lot: null, serial: null, what: `bin ${bin?.address}` };
  const item = await findItem(trx, command.item);
  const lot = command.lot
    ? ((await selectLot(trx, item.id, command.lot)) ?? refuse({ code: 'stock.nothingToHold', what: `${item.code} lot ${command.lot}` }))
    : null;
  const serial = command.serial
    ? ((await selectSerial(trx, item.id, command.serial)) ??
      refuse({ code: 'stock.nothingToHold', what: `${item.code} serial ${command.serial}` }))
    : null;
  const what = [item.code, command.lot && `lot ${command.lot}`, command.serial && `serial ${command.serial}`, bin && `in ${bin.address}`]
    .filter(Boolean)
    .join(' ');
  return { item: item.id, bin: bin?.id ?? null, lot: lot?.id ?? null, serial: serial?.id ?? null, what };
}

/** Releases a hold: what it holds becomes sound again where it lies now, unless another hold names it too. What was taken away meanwhile
 *  (scrapped, counted off) stays away and is said.
 *  Errors: an unknown hold, one of another site, one that was released before.
 *  Locks:  the hold, the items at the site, then what `post` locks. */
export async function releaseHold(
  trx: Trx,
  command: { hold: number; site: number; person: number; reason: string },
): Promise<{ number: string; qty: string; gone: string; stillHeld: string }> {
  await lockRows(trx, 'hold', [command.hold]);
  const [hold] = await query<{
    id: number;
    site_id: SiteId;
    site: string;
    item_id: number | null;
    number: string;
    released_at: Date | null;
  }>(
    trx,
    `SELECT h.id, h.site_id, s.name AS site, h.item_id, d.number, h.released_at
     FROM hold h
     JOIN document d ON d.id = h.document_id
     JOIN site s ON s.id = h.site_id
     WHERE h.id = ?`,
    [command.hold],
  );
  if (!hold) return refuse({ code: 'stock.unknownHold', id: command.hold });
  if (hold.site_id !== command.site) refuse({ code: 'people.otherSite', what: `Hold ${hold.number}`, site: hold.site });
  if (hold.released_at) refuse({ code: 'stock.holdReleased', number: hold.number });
  // Ended first, so that it does not catch again what it lets go.
  const document = await makeDocument(trx, 'release', { site: hold.site_id, person: command.person, subject: hold.id });
  await updateReleased(trx, hold.id, { person: command.person, document: document.id });
  await lockScope(trx, hold.site_id, hold.item_id);
  const release = await decideAgainst(trx, { id: hold.id, site: hold.site_id });
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: release.sound.map((pieces) => conditionChange(pieces, 'held', 'sound', command.reason)),
  });
  await insertHoldLines(
    trx,
    release.handed.map((pieces) => ({ ...pieces, hold: pieces.to })),
  );
  return {
    number: document.number,
    qty: qtyText(sumQty(release.sound.map((p) => p.qty))),
    gone: qtyText(release.gone),
    stillHeld: qtyText(sumQty(release.handed.map((p) => p.qty))),
  };
}

async function decideAgainst(trx: Trx, hold: { id: number; site: SiteId }): Promise<ReturnType<typeof decideRelease>> {
  const lines = await selectHoldLines(trx, hold.id);
  const items = [...new Set(lines.map((l) => l.item))];
  const there = await selectHeld(trx, hold.site, items);
  const others = await selectOtherClaims(trx, hold, items);
  const standing = await selectStandingHolds(trx, hold.site, items);
  const same = (a: HeldPieces, b: HeldPieces): boolean => a.item === b.item && a.lot === b.lot && a.serial === b.serial;
  return decideRelease(
    lines,
    there,
    (pieces) => others.find((o) => same(o, pieces))?.qty ?? ZERO,
    (pieces) => coveringHold(standing, { ...pieces, site: hold.site })?.id ?? null,
  );
}

type HoldListRow = {
  id: number;
  number: string;
  item: number | null;
  bin: number | null;
  what: string;
  qty: string;
  reason: string;
  until: string | null;
  overdue: boolean;
  standing: boolean;
  by: string;
  at: Date;
  released: Date | null;
};

const SORTS: Readonly<Record<(typeof HOLD_SORTS)[number], SortKey>> = {
  number: { sql: 'number', kind: 'text' },
  what: { sql: 'lower(what)', kind: 'text' },
  qty: { sql: 'qty', kind: 'decimal' },
  reason: { sql: 'lower(reason)', kind: 'text' },
  until: { sql: `coalesce(until::text, '')`, kind: 'text' },
  by: { sql: 'lower("by")', kind: 'text' },
  at: { sql: 'at', kind: 'moment' },
};

/** Holds of a site, a page at a time in the order that was asked for. */
export function selectHolds(
  db: Pick<Db, 'raw'>,
  where: {
    site: number;
    open: boolean;
    item: number | null;
    bin: number | null;
    by: SortBy<(typeof HOLD_SORTS)[number]>;
    after: string | undefined;
    limit: number;
  },
): Promise<{ rows: HoldListRow[]; next: string | null }> {
  return selectSorted<HoldListRow, (typeof HOLD_SORTS)[number]>(db, {
    ...where,
    rows: `SELECT h.id, d.number, h.item_id AS item, h.bin_id AS bin,
        concat_ws(' ', i.code, 'lot ' || l.code, 'serial ' || s.code, CASE WHEN i.id IS NULL THEN 'bin '
        ELSE 'in ' END || bin.address) AS what,
        coalesce((SELECT sum(qty) FROM hold_line x WHERE x.hold_id = h.id), 0) AS qty, h.standing, h.reason, h.until,
        h.until < today_in(site.time_zone) AND h.released_at IS NULL AS overdue, p.name AS by, h.at,
        h.released_at AS released
      FROM hold h
      JOIN document d ON d.id = h.document_id
      JOIN site ON site.id = h.site_id
      JOIN person p ON p.id = h.person_id
      LEFT JOIN item i ON i.id = h.item_id
      LEFT JOIN lot l ON l.id = h.lot_id
      LEFT JOIN serial s ON s.id = h.serial_id
      LEFT JOIN bin ON bin.id = h.bin_id
      WHERE h.site_id = ? AND (h.released_at IS NULL) = ?
        AND (?::int IS NULL OR h.item_id = ? OR EXISTS (SELECT 1 FROM hold_line x WHERE x.hold_id = h.id AND x.item_id = ?))
        AND (?::int IS NULL OR h.bin_id = ? OR EXISTS (SELECT 1 FROM hold_line x WHERE x.hold_id = h.id AND x.bin_id = ?))`,
    values: [where.site, where.open, where.item, where.item, where.item, where.bin, where.bin, where.bin],
    keys: SORTS,
  });
}
