import { selectHouse } from '#server/people';
import type { Response } from 'express';
import { formatQty, subQty, ZERO, type Qty } from '#core/base';
import { asQty, Paper, query, refuse, type House } from '#server/kernel';
import { findOrder, selectExtras } from '#server/orders';

type SlipLine = { code: string; description: string; unit: string; ordered: string; shipped: string; here: string; marks: string | null };
type NoteLine = { code: string; description: string; unit: string; qty: string; grams: number | null; marks: string };

const COLUMNS = [
  { title: 'Item', mm: 26 },
  { title: 'Description', mm: 82 },
  { title: 'Ordered', mm: 22, isRight: true },
  { title: 'In this box', mm: 22, isRight: true },
  { title: 'To follow', mm: 22, isRight: true },
];

/** The packing slip as PDF (F9): the order's code to scan, what is in the parcels with lots and serials, what follows later, and what is no
 *  stock. */
export async function orderSlip(house: House, asked: { id: number | string }, res: Response): Promise<void> {
  const order = await findOrder(house.db, asked.id);
  const { company } = await selectHouse(house.db);
  const lines = await selectSlipLines(house, order.id);
  const paper = await Paper.open(res, { title: 'Packing slip', number: order.number, company, file: `packing-slip-${order.number}.pdf` });
  paper.blocks([
    [order.customer, await addressOf(house, order.id)],
    [
      `Order ${order.number}`,
      order.reference && `Your number ${order.reference}`,
      `Due ${order.due}`,
      order.carrier && `By ${order.carrier}`,
    ],
  ]);
  paper.table(COLUMNS);
  for (const l of lines) {
    const [ordered, shipped] = [asQty(l.ordered), asQty(l.shipped)];
    const here = asQty(l.here) > 0 ? asQty(l.here) : order.state === 'shipped' ? shipped : ZERO;
    const gone = Math.max(shipped, asQty(l.here) > 0 ? shipped + here : here) as Qty;
    paper.row([
      l.code,
      l.marks ? `${l.description}\n${l.marks}` : l.description,
      `${formatQty(ordered)} ${l.unit}`,
      formatQty(here),
      formatQty(Math.max(0, subQty(ordered, gone)) as Qty),
    ]);
  }
  for (const e of await selectExtras(house.db, order.id)) paper.row(['', e.text, formatQty(asQty(e.qty)), '', '']);
  paper.note('Packed by ______________________     Checked by ______________________', 10);
  paper.end();
}

/** The delivery note of a shipment as PDF (F9): what left, with lots and serials, units and weight in all, and a place to sign.
 *  Units:  kilograms; what has no weight on record is said to be missing in the sum.
 *  Errors: `shipping.unknownShipment`. */
export async function deliveryNote(house: House, asked: { number: string }, res: Response): Promise<void> {
  const [shipment] = await query<{ id: number; number: string; order: number; document: number; parcels: number; at: Date }>(
    house.db,
    `SELECT id, number, order_id AS order, document_id AS document, parcels, at FROM shipment WHERE number = upper(?)`,
    [asked.number],
  );
  if (!shipment) return refuse({ code: 'shipping.unknownShipment', text: asked.number });
  const order = await findOrder(house.db, shipment.order);
  const { company } = await selectHouse(house.db);
  const lines = await selectNoteLines(house, shipment.document);
  const paper = await Paper.open(res, {
    title: 'Delivery note',
    number: shipment.number,
    company,
    file: `delivery-note-${shipment.number}.pdf`,
  });
  paper.blocks([
    [order.customer, await addressOf(house, order.id)],
    [
      `Shipment ${shipment.number}`,
      `Order ${order.number}`,
      order.reference && `Your number ${order.reference}`,
      `Left on ${shipment.at.toISOString().slice(0, 10)}`,
      order.carrier && `By ${order.carrier}`,
    ],
  ]);
  paper.table([
    { title: 'Item', mm: 26 },
    { title: 'Description', mm: 92 },
    { title: 'Units', mm: 28, isRight: true },
    { title: 'Weight, kg', mm: 28, isRight: true },
  ]);
  let [grams, units, weightless] = [0, 0, 0];
  for (const l of lines) {
    const here = asQty(l.qty);
    const weight = l.grams === null ? null : (l.grams * here) / 1000;
    if (weight === null) weightless += 1;
    grams += weight ?? 0;
    units += here;
    paper.row([
      l.code,
      l.marks ? `${l.description}\n${l.marks}` : l.description,
      `${formatQty(here)} ${l.unit}`,
      weight === null ? '?' : kilograms(weight),
    ]);
  }
  for (const e of await selectExtras(house.db, order.id)) paper.row(['', e.text, formatQty(asQty(e.qty)), '']);
  paper.row(['', 'In all', formatQty(units as Qty), weightless === lines.length ? '?' : kilograms(grams)], true);
  paper.note(
    `${shipment.parcels} ${shipment.parcels === 1 ? 'parcel' : 'parcels'}.${
      weightless > 0 ? ` The weight is without ${weightless} of ${lines.length} lines, whose items have none on record.` : ''
    }`,
  );
  paper.note('Received in full and in good order: ______________________     Date ______________', 14);
  paper.end();
}

const kilograms = (grams: number): string => (grams / 1000).toFixed(2);

async function addressOf(house: House, order: number): Promise<string> {
  const [party] = await query<{ address: string }>(house.db, `SELECT address FROM order_party WHERE order_id = ?`, [order]);
  return party?.address ?? '';
}

// `here`: what is in hand for the order.
function selectSlipLines(house: House, order: number): Promise<SlipLine[]> {
  return query<SlipLine>(
    house.db,
    `SELECT i.code, i.description, i.base_unit AS unit, l.qty AS ordered, l.shipped, coalesce(sum(k.qty), 0) AS here,
       string_agg(DISTINCT coalesce('Lot ' || t.code || coalesce(' (expires ' || t.expires || ')', ''),
         'Serial ' || coalesce(s.code, k.serial_out)), ', ') AS marks
     FROM order_line l
     JOIN item i ON i.id = l.item_id
     LEFT JOIN in_hand k ON k.line_id = l.id
     LEFT JOIN lot t ON t.id = k.lot_id
     LEFT JOIN serial s ON s.id = k.serial_id
     WHERE l.order_id = ? AND l.qty > 0
     GROUP BY l.id, i.id
     ORDER BY l.id`,
    [order],
  );
}

// What the ledger says left with a shipment's document. Serials that are noted only when goods leave stand with what was picked.
function selectNoteLines(house: House, document: number): Promise<NoteLine[]> {
  return query<NoteLine>(
    house.db,
    `SELECT i.code, i.description, i.base_unit AS unit, nullif(i.weight_g, 0) AS grams, sum(m.qty) AS qty,
       concat_ws(', ', string_agg(DISTINCT 'Lot ' || t.code || coalesce(' (expires ' || t.expires || ')', ''), ', '),
         'Serial ' || string_agg(DISTINCT s.code, ', '),
         'Serial ' || (SELECT string_agg(k.serial_out, ', ' ORDER BY k.id) FROM picked k
           WHERE k.shipment_document = m.document_id AND k.item_id = i.id AND k.serial_out IS NOT NULL)) AS marks
     FROM movement m
     JOIN item i ON i.id = m.item_id
     LEFT JOIN lot t ON t.id = m.lot_id
     LEFT JOIN serial s ON s.id = m.serial_id
     WHERE m.document_id = ? AND NOT EXISTS (SELECT 1 FROM movement r WHERE r.reverses = m.id)
     GROUP BY i.id, m.document_id
     ORDER BY min(m.id)`,
    [document],
  );
}
