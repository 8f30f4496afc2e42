import { formatQty, minQty, subQty, sumQty, ZERO, type DocumentId, type PersonId, type Qty } from '#core/base';
import type { Condition, Movement } from '#core/stock';
import type { BodyOf, Routes } from '#contract';
import { qtyText } from '#contract/base';
import { asQty, dbQty, makeDocument, query, refuse, type Db, type Trx } from '#server/kernel';
import { findItem, selectLot, selectSerial } from '#server/items';
import { selectBin } from '#server/places';
import { post } from './post.ts';

type KeyRow = { item_id: number; bin_id: number; lot_id: number | null; serial_id: number | null; unit_id: number | null; qty: string };

/** Holds stock (B10): a quantity, lot, serial, bin or item. What is held moves on the ledger from sound to held, in its bin; so it is neither
 *  promised nor picked, and promises that it backed give way at once. What arrives later is not held.
 *  Errors: nothing sound there to hold; less there than asked. */
export async function holdStock(
  trx: Trx,
  command: BodyOf<Routes['stock.hold']> & { site: number; person: number },
): Promise<{ id: number; number: string; qty: string; promisesCut: number }> {
  const scope = await readScope(trx, command);
  const rows = await query<KeyRow>(
    trx,
    `SELECT b.item_id, b.bin_id, b.lot_id, b.serial_id, b.unit_id, b.qty FROM balance b JOIN bin ON bin.id = b.bin_id JOIN zone z ON z.id = bin.zone_id LEFT JOIN lot l ON l.id = b.lot_id
     WHERE bin.site_id = ? AND b.condition = 'sound' AND b.qty > 0 AND (?::int IS NULL OR b.item_id = ?) AND (?::int IS NULL OR b.bin_id = ?) AND (?::int IS NULL OR b.lot_id = ?) AND (?::int IS NULL OR b.serial_id = ?)
     -- What is picked already is in somebody's hands for an order; it is held by holding the order.
     AND bin.use NOT IN ('cart', 'packing') ORDER BY l.expires NULLS LAST, bin.walk, b.bin_id`,
    [command.site, ...[scope.item, scope.bin, scope.lot, scope.serial].flatMap((v) => [v, v])],
  );
  const there = sumQty(rows.map((r) => asQty(r.qty)));
  if (there === 0) refuse({ code: 'stock.nothingToHold', what: scope.what });
  const wanted = command.qty ?? there;
  if (wanted > there || wanted <= 0)
    refuse({
      code: 'stock.binShort',
      line: 0,
      bin: scope.what,
      item: scope.what,
      lot: null,
      serial: null,
      asked: formatQty(wanted),
      there: formatQty(there),
    });
  const document = await makeDocument(trx, 'hold', { site: command.site, person: command.person });
  const [hold] = await query<{ id: number }>(
    trx,
    `INSERT INTO hold (document_id, site_id, item_id, lot_id, serial_id, bin_id, reason, until, person_id) VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?) RETURNING id`,
    [document.id, command.site, scope.item, scope.lot, scope.serial, scope.bin, command.reason, command.until ?? null, command.person],
  );
  let rest: Qty = wanted;
  const taken: { row: KeyRow; qty: Qty }[] = [];
  for (const row of rows) {
    if (rest <= 0) break;
    const take = minQty(rest, asQty(row.qty));
    rest = subQty(rest, take);
    taken.push({ row, qty: take });
  }
  const before = await promisedOf(
    trx,
    taken.map((t) => t.row.item_id),
    command.site,
  );
  await post(trx, {
    document: document.id as DocumentId,
    person: command.person as PersonId,
    movements: taken.map((t) => conditionChange(t.row, t.qty, 'sound', 'held', command.reason)),
  });
  await query(
    trx,
    `INSERT INTO hold_line (hold_id, item_id, lot_id, serial_id, bin_id, unit_id, qty) SELECT ?, * FROM unnest(?::int[], ?::int[], ?::int[], ?::int[], ?::int[], ?::numeric[])`,
    [
      hold?.id,
      taken.map((t) => t.row.item_id),
      taken.map((t) => t.row.lot_id),
      taken.map((t) => t.row.serial_id),
      taken.map((t) => t.row.bin_id),
      taken.map((t) => t.row.unit_id),
      taken.map((t) => dbQty(t.qty)),
    ],
  );
  const after = await promisedOf(
    trx,
    taken.map((t) => t.row.item_id),
    command.site,
  );
  return { id: hold?.id ?? 0, number: document.number, qty: qtyText(wanted), promisesCut: before - after };
}

async function promisedOf(trx: Trx, items: readonly number[], site: number): Promise<number> {
  const [row] = await query<{ n: number }>(trx, `SELECT count(*) AS n FROM promise WHERE item_id = ANY(?::int[]) AND site_id = ?`, [
    items,
    site,
  ]);
  return row?.n ?? 0;
}

function conditionChange(row: Omit<KeyRow, 'qty'>, qty: Qty, from: Condition, to: Condition, reason: string): Movement {
  const place = { bin: row.bin_id, unit: row.unit_id };
  return {
    item: row.item_id,
    lot: row.lot_id,
    serial: row.serial_id,
    qty,
    reason,
    from: { ...place, condition: from },
    to: { ...place, condition: to },
  } as Movement;
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

/** Releases a hold: what it holds becomes sound again, where it lies now. What was taken away meanwhile (scrapped, counted off) stays away and
 *  is said. Held stock that was carried to another bin of the site is found there.
 *  Locks:  the hold, then the balances. */
export async function releaseHold(
  trx: Trx,
  command: { hold: number; person: number; reason: string },
): Promise<{ number: string; qty: string; gone: string }> {
  const [hold] = await query<{ id: number; site_id: number; number: string; released_at: Date | null }>(
    trx,
    `SELECT h.id, h.site_id, d.number, h.released_at FROM hold h JOIN document d ON d.id = h.document_id WHERE h.id = ? FOR UPDATE OF h`,
    [command.hold],
  );
  if (!hold) return refuse({ code: 'stock.unknownHold', id: command.hold });
  if (hold.released_at) refuse({ code: 'stock.holdReleased', number: hold.number });
  const lines = await query<KeyRow>(trx, `SELECT item_id, bin_id, lot_id, serial_id, unit_id, qty FROM hold_line WHERE hold_id = ?`, [
    hold.id,
  ]);
  const held = await query<KeyRow>(
    trx,
    `SELECT b.item_id, b.bin_id, b.lot_id, b.serial_id, b.unit_id, b.qty FROM balance b JOIN bin ON bin.id = b.bin_id
     WHERE bin.site_id = ? AND b.condition = 'held' AND b.qty > 0 AND b.item_id = ANY(?::int[]) ORDER BY b.bin_id, b.id`,
    [hold.site_id, lines.map((l) => l.item_id)],
  );
  const left = held.map((row) => ({ row, qty: asQty(row.qty) }));
  const movements: Movement[] = [];
  let gone: Qty = ZERO;
  for (const line of lines) {
    let rest: Qty = asQty(line.qty);
    const same = left.filter((l) => l.row.item_id === line.item_id && l.row.lot_id === line.lot_id && l.row.serial_id === line.serial_id);
    // Where it was held first; other bins only after that.
    for (const l of same.sort((a, b) => Number(b.row.bin_id === line.bin_id) - Number(a.row.bin_id === line.bin_id))) {
      const take = minQty(rest, l.qty);
      if (take <= 0) continue;
      l.qty = subQty(l.qty, take);
      rest = subQty(rest, take);
      movements.push(conditionChange(l.row, take, 'held', 'sound', command.reason));
    }
    gone = sumQty([gone, rest]);
  }
  const document = await makeDocument(trx, 'release', { site: hold.site_id, person: command.person, subject: hold.id });
  await post(trx, { document: document.id as DocumentId, person: command.person as PersonId, movements });
  await query(trx, `UPDATE hold SET released_at = now(), released_by = ?, release_document_id = ? WHERE id = ?`, [
    command.person,
    document.id,
    hold.id,
  ]);
  return { number: document.number, qty: qtyText(sumQty(movements.map((m) => m.qty))), gone: qtyText(gone) };
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
  by: string;
  at: Date;
  released: Date | null;
};

/** Holds of a site, newest first. */
export function selectHolds(
  db: Pick<Db, 'raw'>,
  where: { site: number; open: boolean; item: number | null; bin: number | null; before: number; limit: number },
): Promise<HoldListRow[]> {
  return query<HoldListRow>(
    db,
    `SELECT h.id, d.number, h.item_id AS item, h.bin_id AS bin, concat_ws(' ', i.code, 'lot ' || l.code, 'serial ' || s.code, CASE WHEN i.id IS NULL THEN 'bin ' ELSE 'in ' END || bin.address) AS what,
       (SELECT sum(qty) FROM hold_line x WHERE x.hold_id = h.id) AS qty, h.reason, h.until, h.until < (now() AT TIME ZONE site.time_zone)::date AND h.released_at IS NULL AS overdue, p.name AS by, h.at, h.released_at AS released
     FROM hold h JOIN document d ON d.id = h.document_id JOIN site ON site.id = h.site_id JOIN person p ON p.id = h.person_id LEFT JOIN item i ON i.id = h.item_id LEFT JOIN lot l ON l.id = h.lot_id LEFT JOIN serial s ON s.id = h.serial_id LEFT JOIN bin ON bin.id = h.bin_id
     WHERE h.site_id = ? AND (h.released_at IS NULL) = ? AND h.id < ?
       AND (?::int IS NULL OR EXISTS (SELECT 1 FROM hold_line x WHERE x.hold_id = h.id AND x.item_id = ?)) AND (?::int IS NULL OR EXISTS (SELECT 1 FROM hold_line x WHERE x.hold_id = h.id AND x.bin_id = ?)) ORDER BY h.id DESC LIMIT ?`,
    [where.site, where.open, where.before, where.item, where.item, where.bin, where.bin, where.limit],
  );
}
