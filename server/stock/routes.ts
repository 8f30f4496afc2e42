import { formatAmount, parseAmount, sumAmounts } from '#core/base';
import { readSearch } from '#core/items';
import { qtyText } from '#contract/base';
import { findItems } from '#server/items';
import { reverseMovement, type Movement } from '#core/stock';
import { announce, asQty, keysetOf, keysetText, makeDocument, refuse, type RoomHandlers } from '#server/kernel';
import { readEquation } from './equation.ts';
import { holdStock, releaseHold, selectHolds } from './holds.ts';
import { readKit } from './kits.ts';
import { enterOpening, quickAdd } from './opening.ts';
import { selectStock, selectValue } from './past.ts';
import { post } from './post.ts';
import { changeTracking } from './tracking.ts';
import { changeZonePowers, readZoneEffect } from './zone-powers.ts';
import { selectBinsOf, selectDocument, selectMovements } from './store.ts';

// A hand may take back their own move while it is fresh; everything else is the lead's.
const HAND_MAY_UNDO = ['move', 'putAway'];

const MOST_LIT = 20;

export const stockHandlers: RoomHandlers<'stock'> = {
  'stock.where': async (db, { me, query }) => {
    const text = readSearch(query.q);
    const filter = { site: me.site.id, group: undefined, supplier: undefined, onlyFree: false, retired: false };
    const found = await findItems(db, filter, { text, words: text.words.map((w) => [w]) }, MOST_LIT);
    // Who names the very item means it, not those whose codes begin alike.
    const meant = found.some((i) => i.rank === 0) ? found.filter((i) => i.rank === 0) : found;
    const items = meant.map(({ id, code }) => ({ id, code }));
    return {
      items,
      bins: await selectBinsOf(
        db,
        me.site.id,
        items.map((i) => i.id),
      ),
    };
  },
  'stock.equation': (db, { params }) => readEquation(db, params.id),
  'stock.movements': async (db, { query }) => {
    const rows = (await selectMovements(db, query)) as unknown as LedgerRow[];
    return {
      movements: rows.map((r) => ({
        id: r.id,
        at: r.at.toISOString(),
        document: { id: r.document_id, kind: r.kind, number: r.number },
        person: r.person,
        reason: r.reason,
        item: { id: r.item_id, code: r.code, description: r.description },
        lot: r.lot,
        serial: r.serial,
        qty: qtyText(asQty(r.qty)),
        from: { id: r.from_bin, address: r.from_address, condition: r.from_condition },
        to: { id: r.to_bin, address: r.to_address, condition: r.to_condition },
        undoneBy: r.undone_by,
        undoes: r.reverses,
      })),
      next: rows.length === query.limit ? (rows.at(-1)?.id ?? null) : null,
    };
  },
  'stock.list': async (db, { query: asked }) => {
    const rows = await selectStock(db, { ...asked, after: keysetOf(asked.after, asked.by === 'item' ? 1 : 5) });
    const last = rows.at(-1);
    return { rows, next: last && rows.length === asked.limit ? keysetText(last.key) : null };
  },
  'stock.value': async (db, { query: asked }) => {
    const rows = await selectValue(db, asked);
    return { rows, total: formatAmount(sumAmounts(rows.map((r) => parseAmount(r.value)))) };
  },
  'stock.holds': async (db, { me, query: asked }) => {
    const rows = await selectHolds(db, {
      site: me.site.id,
      open: asked.show === 'open',
      item: asked.item ?? null,
      bin: asked.bin ?? null,
      before: Number(keysetOf(asked.after, 1)?.[0] ?? 2 ** 31 - 1),
      limit: asked.limit,
    });
    const last = rows.at(-1);
    return {
      holds: rows.map((r) => ({ ...r, qty: qtyText(asQty(r.qty)), at: r.at.toISOString(), released: r.released?.toISOString() ?? null })),
      next: last && rows.length === asked.limit ? keysetText([last.id]) : null,
    };
  },
  'stock.hold': (trx, { me, body }) => holdStock(trx, { ...body, site: me.site.id, person: me.id }),
  'stock.release': (trx, { me, params, body }) =>
    releaseHold(trx, { hold: params.id, site: me.site.id, person: me.id, reason: body.reason }),
  'stock.opening': async (trx, { me, params, body }) => {
    const { document, qty, isAdjustment } = await enterOpening(trx, {
      item: params.id,
      lines: body.lines,
      site: me.site.id,
      person: me.id,
      reason: 'Opening stock',
      adjustFor: body.reason || null,
    });
    return { document: document.number, qty: qtyText(qty), isAdjustment };
  },
  'stock.quickAdd': (trx, { me, body }) => quickAdd(trx, { ...body, site: me.site.id, person: me.id }),
  'stock.kit': (db, { params }) => readKit(db, params.id),
  'stock.changeTracking': (trx, { me, params, body }) => changeTracking(trx, { ...body, item: params.id, person: me.id }),
  'stock.zoneEffect': (db, { params, query: powers }) => readZoneEffect(db, params.id, powers),
  'stock.zonePowers': async (trx, { me, params, body }) => {
    await changeZonePowers(trx, { zone: params.id, site: me.site.id, powers: body });
    return { ok: true };
  },
  'stock.undo': async (trx, { me, params, body }) => {
    const document = await selectDocument(trx, params.id);
    if (!document) return refuse({ code: 'stock.unknownMovement', movement: params.id });
    if (document.site_id !== me.site.id) refuse({ code: 'people.otherSite', what: document.number, site: document.site });
    const own = document.person_id === me.id && HAND_MAY_UNDO.includes(document.kind);
    // Receipts, rounds, shipments and counts carry their own records beside the ledger: they are undone in their own rooms.
    if (!HAND_MAY_UNDO.includes(document.kind) || (me.role !== 'lead' && !own))
      return refuse({ code: 'people.noRight', role: me.role, act: `Undoing ${document.number}` });
    const rows = (await selectMovements(trx, { document: document.id, limit: 500 })) as unknown as LedgerRow[];
    const undone = rows.find((r) => r.undone_by !== null);
    if (undone) refuse({ code: 'stock.alreadyUndone', movement: undone.id });
    const reversal = await makeDocument(trx, 'reversal', { site: document.site_id, person: me.id, subject: document.id });
    const movements = rows.map((r) => reverseMovement(movementOf(r), r.id, body.reason));
    await post(trx, { document: reversal.id as never, person: me.id as never, movements, overBinRules: true });
    announce(trx, 'stock');
    return { document: reversal.number, movements: movements.length };
  },
};

type LedgerRow = {
  id: number;
  at: Date;
  document_id: number;
  kind: string;
  number: string;
  person: string;
  reason: string;
  item_id: number;
  code: string;
  description: string;
  lot: string | null;
  serial: string | null;
  lot_id: number | null;
  serial_id: number | null;
  qty: string;
  from_bin: number;
  from_address: string;
  from_condition: string;
  from_unit: number | null;
  to_bin: number;
  to_address: string;
  to_condition: string;
  to_unit: number | null;
  reverses: number | null;
  undone_by: number | null;
};

function movementOf(r: LedgerRow): Movement {
  return {
    item: r.item_id,
    lot: r.lot_id,
    serial: r.serial_id,
    qty: asQty(r.qty),
    reason: r.reason,
    from: { bin: r.from_bin, unit: r.from_unit, condition: r.from_condition },
    to: { bin: r.to_bin, unit: r.to_unit, condition: r.to_condition },
  } as Movement;
}
