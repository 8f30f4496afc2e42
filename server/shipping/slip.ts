import { selectHouse } from '#server/people';
import { createRequire } from 'node:module';
import bwipjs from 'bwip-js/node';
import type { Response } from 'express';
import PDFDocument from 'pdfkit';
import { formatQty } from '#core/base';
import { asQty, query, type House } from '#server/kernel';
import { findOrder } from '#server/orders';

const MM = 72 / 25.4;
// TrueType, so that names outside Latin-1 print as they are spelled.
const require = createRequire(import.meta.url);
const FONT = require.resolve('@expo-google-fonts/barlow-condensed/400Regular/BarlowCondensed_400Regular.ttf');
const BOLD = require.resolve('@expo-google-fonts/barlow-condensed/700Bold/BarlowCondensed_700Bold.ttf');

type SlipLine = { code: string; description: string; unit: string; ordered: string; shipped: string; picked: string; marks: string | null };

/** The packing slip as PDF (F9): the order's code to scan, what is in the parcels with lots and serials, what follows later. */
export async function orderSlip(house: House, asked: { id: number | string }, res: Response): Promise<void> {
  const order = await findOrder(house.db, asked.id);
  const { company } = await selectHouse(house.db);
  const [customer] = await query<{ address: string }>(
    house.db,
    `SELECT c.address FROM customer c JOIN customer_order o ON o.customer_id = c.id WHERE o.id = ?`,
    [order.id],
  );
  const lines = await query<SlipLine>(
    house.db,
    `SELECT i.code, i.description, i.base_unit AS unit, l.qty AS ordered, l.shipped,
       coalesce(sum(k.qty) FILTER (WHERE NOT k.shipped), 0) AS picked,
         string_agg(DISTINCT coalesce('Lot ' || t.code || coalesce(' (expires ' || t.expires || ')', ''),
         'Serial ' || coalesce(s.code, k.serial_out)), ', ') AS marks
       FROM order_line l
       JOIN item i ON i.id = l.item_id
       LEFT JOIN picked k ON k.line_id = l.id AND k.returned_at IS NULL
       LEFT JOIN lot t ON t.id = k.lot_id
       LEFT JOIN serial s ON s.id = k.serial_id
       WHERE l.order_id = ? GROUP BY l.id, i.id ORDER BY l.id`,
    [order.id],
  );
  const code = await bwipjs.toBuffer({
    bcid: 'code128',
    text: order.number,
    height: 12,
    scale: 3,
    includetext: true,
    backgroundcolor: 'ffffff',
    paddingwidth: 6,
    paddingheight: 2,
  });
  res.type('application/pdf').set('Content-Disposition', `inline; filename="packing-slip-${order.number}.pdf"`);
  const pdf = new PDFDocument({ size: 'A4', margin: 18 * MM, info: { Title: `Packing slip ${order.number}` } });
  pdf.pipe(res);
  pdf
    .font(BOLD)
    .fontSize(22)
    .text('Packing slip', 18 * MM, 18 * MM);
  pdf.font(FONT).fontSize(11).text(company);
  pdf.image(code, 130 * MM, 15 * MM, { width: 62 * MM });
  pdf
    .font(BOLD)
    .fontSize(13)
    .text(order.customer, 18 * MM, 45 * MM)
    .font(FONT)
    .fontSize(11)
    .text(customer?.address ?? '');
  pdf.text(`Order ${order.number}   Due ${order.due}`, 18 * MM, 62 * MM);
  let y = 74 * MM;
  const row = (cells: readonly string[], font: string): void => {
    const widths = [26, 82, 22, 22, 22];
    let x = 18 * MM;
    let tallest = 0;
    for (const [i, cell] of cells.entries()) {
      const width = (widths[i] ?? 20) * MM;
      pdf
        .font(font)
        .fontSize(10)
        .text(cell, x, y, { width: width - 4, align: i > 1 ? 'right' : 'left' });
      tallest = Math.max(tallest, pdf.y - y);
      x += width;
    }
    y += tallest + 5;
    if (y > 270 * MM) {
      pdf.addPage();
      y = 18 * MM;
    }
  };
  row(['Item', 'Description', 'Ordered', 'In this box', 'To follow'], BOLD);
  for (const l of lines) {
    const here = asQty(l.picked) > 0 ? asQty(l.picked) : order.state === 'shipped' ? asQty(l.shipped) : asQty('0');
    const follow = Math.max(0, asQty(l.ordered) - Math.max(asQty(l.shipped), here));
    row(
      [
        l.code,
        l.marks ? `${l.description}\n${l.marks}` : l.description,
        `${formatQty(asQty(l.ordered))} ${l.unit}`,
        formatQty(here),
        formatQty(follow as never),
      ],
      FONT,
    );
  }
  pdf
    .font(FONT)
    .fontSize(10)
    .text('Packed by ______________________     Checked by ______________________', 18 * MM, y + 10 * MM);
  pdf.end();
}
