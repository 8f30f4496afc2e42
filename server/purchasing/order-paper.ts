import type { Response } from 'express';
import { formatAmount, formatQty, moneyText, parseAmount, sumAmounts, worthOf, writeDay } from '#core/base';
import { baseToPacks } from '#core/items';
import { asQty, Paper, query, type House } from '#server/kernel';
import { selectHouse } from '#server/people';
import { findPurchase, selectPurchaseLines, type PurchaseLineRow } from './store.ts';

/** A purchase order on paper, for its supplier: what, by the supplier's own numbers, how much and for how much, where to and when. */
export async function purchasePaper(house: House, asked: { id: number }, res: Response): Promise<void> {
  const order = await findPurchase(house.db, asked.id);
  const lines = await selectPurchaseLines(house.db, order.id);
  const { company, currency } = await selectHouse(house.db);
  const [places] = await query<{ supplier: string; site: string }>(
    house.db,
    `SELECT s.address AS supplier, w.address AS site FROM supplier s, site w WHERE s.id = ? AND w.id = ?`,
    [order.supplier_id, order.site_id],
  );
  const paper = await Paper.open(res, {
    title: order.state === 'draft' ? 'Draft of a purchase order' : 'Purchase order',
    number: order.number,
    company,
    file: `purchase-order-${order.number}.pdf`,
  });
  paper.blocks([
    [order.supplier, places?.supplier ?? ''],
    [`Deliver to ${order.site}`, places?.site ?? ''],
    [`Due ${writeDay(order.due)}`, `Ordered ${writeDay(order.at.toISOString().slice(0, 10))}`, order.reference],
  ]);
  paper.table([
    { title: 'Your number', mm: 24 },
    { title: 'Item', mm: 22 },
    { title: 'Description', mm: 62 },
    { title: 'Quantity', mm: 26, isRight: true },
    { title: 'Price', mm: 18, isRight: true },
    { title: 'Amount', mm: 22, isRight: true },
  ]);
  for (const l of lines)
    paper.row([
      l.part_no,
      l.code,
      inPacks(l) ? `${l.description}\n${inPacks(l)}` : l.description,
      `${formatQty(asQty(l.qty))} ${l.unit}`,
      moneyText(l.cost, currency, 2),
      moneyText(formatAmount(worthOf(parseAmount(l.cost), asQty(l.qty))), currency),
    ]);
  const total = sumAmounts(lines.map((l) => worthOf(parseAmount(l.cost), asQty(l.qty))));
  paper.row(['', '', 'Together', '', '', moneyText(formatAmount(total), currency)], true);
  if (order.note !== '') paper.note(order.note);
  paper.end();
}

/** How many whole packs a line is, where it is some: `4 cases of 12`. */
export function inPacks(line: Pick<PurchaseLineRow, 'qty' | 'packs'>): string {
  for (const pack of line.packs) {
    if (pack.units === '1') continue;
    const { count, rest } = baseToPacks(asQty(line.qty), { name: pack.name, units: asQty(pack.units) });
    if (count > 0 && rest === 0) return `${count} ${pack.name} of ${pack.units}`;
  }
  return '';
}
