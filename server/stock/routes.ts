import { mayReadCosts } from '#core/people';
import { formatAmount, parseAmount, sumAmounts } from '#core/base';
import { readSearch } from '#core/items';
import { qtyText } from '#contract/base';
import { findItems, refuseUnreadLots } from '#server/items';
import type { StockRow } from '#contract/stock';
import { asQty, keysetOf, keysetText, refuse, type RoomHandlers } from '#server/kernel';
import { adjustStock } from './adjust.ts';
import { readEquation } from './equation.ts';
import { holdStock, releaseHold, selectHolds } from './holds.ts';
import { readKit } from './kits.ts';
import { enterOpening, quickAdd } from './opening.ts';
import { selectStock, selectStockSorted, selectValue } from './past.ts';
import { changeTracking } from './tracking.ts';
import { changeZonePowers, readZoneEffect } from './zone-powers.ts';
import { selectMovements, type LedgerRow } from './store-ledger.ts';
import { selectBinsOf } from './store.ts';
import { isUndoable, undoDocument } from './undo.ts';
import { selectUnit, selectUnitContent } from './store-units.ts';

const MOST_LIT = 20;
const PAPERS = { receipt: 'delivery', shipment: 'order', round: 'round', count: 'count' } as const;

function paperOf({ kind, paper }: LedgerRow): { what: (typeof PAPERS)[keyof typeof PAPERS]; id: number } | null {
  return paper !== null && kind in PAPERS ? { what: PAPERS[kind as keyof typeof PAPERS], id: paper } : null;
}

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
  'stock.adjust': async (trx, { me, params, body }) => {
    if (body.way === 'plus') await refuseUnreadLots(trx, [{ item: params.id, lot: body.lot }]);
    const made = await adjustStock(trx, {
      site: me.site.id,
      person: me.id,
      item: params.id,
      bin: body.bin,
      way: body.way,
      qty: body.qty,
      lot: body.lot || null,
      expires: body.expires ?? null,
      serials: body.serials,
      condition: body.way === 'minus' ? body.condition : 'sound',
      reason: body.reason,
      reference: body.reference ?? '',
      job: body.job ?? '',
      day: body.day ?? null,
      cost: body.cost ?? null,
    });
    return { ...made, qty: qtyText(made.qty) };
  },
  'stock.equation': (db, { params }) => readEquation(db, params.id),
  'stock.unit': async (db, { params }) => {
    const unit = (await selectUnit(db, params.sscc)) ?? refuse({ code: 'stock.unknownUnit', sscc: params.sscc });
    const content = await selectUnitContent(db, unit.id);
    const [first] = content;
    return {
      sscc: unit.sscc,
      place: first ? { bin: first.bin, address: first.address, site: first.siteName } : null,
      content: content.map((c) => ({
        item: c.item,
        code: c.code,
        description: c.description,
        unit: c.measure,
        lot: c.lot,
        expires: c.expires,
        expired: c.expired,
        serial: c.serial,
        condition: c.condition,
        qty: qtyText(c.qty),
      })),
    };
  },
  'stock.movements': async (db, { me, query: { from, to, after, sort, ...asked } }) => {
    const days = from || to ? { site: me.site.id, from, to } : undefined;
    const place = keysetOf(after, 'number')?.[0];
    const rows = await selectMovements(db, {
      ...asked,
      days,
      ...(sort === 'at' ? { oldestFirst: true, after: place } : { before: place }),
    });
    const last = rows.at(-1);
    return {
      movements: rows.map((r) => ({
        id: r.id,
        at: r.at.toISOString(),
        document: {
          id: r.document_id,
          kind: r.kind,
          number: r.number,
          paper: paperOf(r),
          undoable: isUndoable(r.kind) && r.undone_by === null,
        },
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
      next: last && rows.length === asked.limit ? keysetText([last.id]) : null,
    };
  },
  'stock.list': async (db, { me, query: asked }) => {
    const told = (rows: readonly StockRow[]): StockRow[] =>
      mayReadCosts(me.role) ? [...rows] : rows.map((r) => ({ ...r, cost: null, value: null }));
    const { sort } = asked;
    if (sort !== undefined) {
      // An order tells what it is by.
      if (!mayReadCosts(me.role) && /cost|value/.test(sort))
        refuse({ code: 'people.noRight', role: me.role, act: 'See what the stock is worth' });
      const { rows, next } = await selectStockSorted(db, { ...asked, sort });
      return { rows: told(rows), next };
    }
    const rows = await selectStock(db, {
      ...asked,
      after: asked.by === 'item' ? keysetOf(asked.after, 'text') : keysetOf(asked.after, 'text', 'number', 'number', 'number', 'text'),
    });
    const last = rows.at(-1);
    return {
      rows: told(rows),
      next: last && rows.length === asked.limit ? keysetText(last.key) : null,
    };
  },
  'stock.value': async (db, { query: asked }) => {
    const rows = await selectValue(db, asked);
    return { rows, total: formatAmount(sumAmounts(rows.map((r) => parseAmount(r.value)))) };
  },
  'stock.holds': async (db, { me, query: asked }) => {
    const { rows, next } = await selectHolds(db, {
      site: me.site.id,
      open: asked.show === 'open',
      item: asked.item ?? null,
      bin: asked.bin ?? null,
      by: asked.sort ?? '-at',
      after: asked.after,
      limit: asked.limit,
    });
    return {
      holds: rows.map((r) => ({ ...r, qty: qtyText(asQty(r.qty)), at: r.at.toISOString(), released: r.released?.toISOString() ?? null })),
      next,
    };
  },
  'stock.hold': (trx, { me, body }) => holdStock(trx, { ...body, site: me.site.id, person: me.id }),
  'stock.release': (trx, { me, params, body }) =>
    releaseHold(trx, { hold: params.id, site: me.site.id, person: me.id, reason: body.reason }),
  'stock.opening': async (trx, { me, params, body }) => {
    await refuseUnreadLots(
      trx,
      body.lines.map(({ lot }) => ({ item: params.id, lot })),
    );
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
  'stock.changeTracking': async (trx, { me, params, body }) => {
    await refuseUnreadLots(
      trx,
      body.lines.map(({ lot }) => ({ item: params.id, lot })),
    );
    return changeTracking(trx, { ...body, item: params.id, person: me.id });
  },
  'stock.zoneEffect': (db, { params, query: powers }) => readZoneEffect(db, params.id, powers),
  'stock.zonePowers': async (trx, { me, params, body }) => {
    await changeZonePowers(trx, { zone: params.id, site: me.site.id, powers: body });
    return { ok: true };
  },
  'stock.undo': (trx, { me, params, body }) =>
    undoDocument(trx, {
      document: params.id,
      site: me.site.id,
      person: me.id,
      lead: me.role === 'lead',
      reason: body.reason,
      device: null,
      at: null,
    }),
};
