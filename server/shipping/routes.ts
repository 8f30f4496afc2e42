import { qtyText } from '#contract/base';
import { asQty, refuse, type RoomHandlers } from '#server/kernel';
import { findOrder } from '#server/orders';
import { handOver } from './hand-over.ts';
import { packOrder, shipOrder, unpackOrder } from './ship-order.ts';
import { selectBench, selectPicked, selectUnpicked, type BenchListRow } from './store.ts';

export const shippingHandlers: RoomHandlers<'shipping'> = {
  'shipping.bench': async (db, { me }) => ({ orders: (await selectBench(db, me.site.id, null)).map(benchRow) }),
  'shipping.look': async (db, { me, params }) => {
    const order = await findOrder(db, params.id);
    const [row] = await selectBench(db, me.site.id, params.id);
    if (!row) return refuse({ code: 'shipping.nothingPicked', number: order.number });
    const picked = await selectPicked(db, params.id);
    const lines = [...new Set(picked.map((p) => p.line))].map((line) => {
      const parts = picked.filter((p) => p.line === line);
      const first = parts[0] as (typeof parts)[number];
      return {
        line,
        code: first.code,
        description: first.description,
        unit: first.unit,
        ordered: qtyText(asQty(first.ordered)),
        shipped: qtyText(asQty(first.shipped)),
        picked: qtyText(parts.reduce((sum, p) => (sum + asQty(p.qty)) as never, asQty('0'))),
        parts: parts.map((p) => ({ qty: qtyText(asQty(p.qty)), lot: p.lot, serial: p.serial, bin: p.bin, putDown: p.put_down })),
      };
    });
    const missing = (await selectUnpicked(db, params.id)).map((l) => ({
      ...l,
      ordered: qtyText(asQty(l.ordered)),
      shipped: qtyText(asQty(l.shipped)),
      picked: '0',
      parts: [],
    }));
    return { ...benchRow(row), lines: [...lines, ...missing] };
  },
  'shipping.pack': (trx, { me, params, body }) =>
    packOrder(trx, { order: params.id, parcels: body.parcels, site: me.site.id, person: me.id }),
  'shipping.unpack': (trx, { me, params }) => unpackOrder(trx, { order: params.id, site: me.site.id }),
  'shipping.ship': (trx, { me, params }) => shipOrder(trx, { order: params.id, site: me.site.id, person: me.id }),
  'shipping.handOver': (trx, { me, body }) => {
    if (body.anyway && me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Handing over what is promised' });
    return handOver(trx, { ...body, customer: body.customer ?? null, note: body.note ?? '', site: me.site.id, person: me.id });
  },
};

function benchRow(r: BenchListRow) {
  return {
    id: r.id,
    number: r.number,
    customer: r.customer,
    makesKits: r.kind === 'kit',
    due: r.due,
    heldFor: r.held_for,
    packed: r.packed_at !== null,
    bins: r.bins,
    pieces: qtyText(asQty(r.pieces)),
    since: (r.since ?? new Date()).toISOString(),
    complete: asQty(r.pieces) >= asQty(r.open),
  };
}
