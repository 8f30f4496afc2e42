import type { Response } from 'express';
import { formatAmount, formatQty, isWholeStep, moneyText, subQty, worthOf, writeDay, type Qty } from '#core/base';
import { invoiceLine, judgeInvoice, queryWords } from '#core/receiving';
import { qtyText } from '#contract/base';
import type { InvoiceOut } from '#contract/receiving';
import { announce, Paper, refuse, type Db, type House, type Trx } from '#server/kernel';
import { findItem } from '#server/items';
import { selectHouse } from '#server/people';
import { findDelivery, lockDelivery } from './store.ts';
import { replaceInvoice, selectInvoiceBy, selectInvoiced } from './store-invoice.ts';

/** A posted delivery beside the supplier's invoice, with what to query (C14).
 *  Errors: a delivery that is not posted; goods that came back, of which there is no invoice. */
export async function readInvoice(db: Db, id: number): Promise<InvoiceOut> {
  const delivery = await findDelivery(db, id);
  if (delivery.back) refuse({ code: 'receiving.isReturn', number: delivery.number });
  if (delivery.state !== 'posted') refuse({ code: 'receiving.notPosted', number: delivery.number });
  const items = await selectInvoiced(db, id);
  const verdict = judgeInvoice(items);
  const { currency } = await selectHouse(db);
  const by = await selectInvoiceBy(db, id);
  return {
    keyed: by && { by: by.by, at: by.at.toISOString() },
    items: items.map((i) => ({
      item: i.item,
      code: i.code,
      description: i.description,
      unit: i.unit,
      ordered: i.ordered === null ? null : qtyText(i.ordered),
      orderPrice: i.orderPrice === null ? null : formatAmount(i.orderPrice, 4),
      received: qtyText(i.received),
      failed: qtyText(i.failed),
      invoiced: i.invoiced === null ? null : qtyText(i.invoiced),
      invoicePrice: i.invoicePrice === null ? null : formatAmount(i.invoicePrice, 4),
    })),
    queries: verdict.queries.map((q) => ({ item: q.item, words: queryWords(q), amount: formatAmount(q.amount) })),
    says: by === null ? null : invoiceLine(verdict, (text) => moneyText(text, currency)),
    invoiced: formatAmount(verdict.invoiced),
    toPay: formatAmount(verdict.toPay),
  };
}

/** Keeps what the invoice says, as somebody keyed it.
 *  Errors: a delivery that is not posted, or came back; a quantity that the item cannot have.
 *  Locks:  the delivery. */
export async function keyInvoice(
  trx: Trx,
  command: { delivery: number; site: number; person: number; lines: readonly { item: number; qty: Qty; price: string | null }[] },
): Promise<void> {
  const delivery = await lockDelivery(trx, command.delivery, command.site);
  if (delivery.back) refuse({ code: 'receiving.isReturn', number: delivery.number });
  if (delivery.state !== 'posted') refuse({ code: 'receiving.notPosted', number: delivery.number });
  const seen = new Set<number>();
  for (const line of command.lines) {
    const item = await findItem(trx, line.item);
    if (seen.has(item.id)) refuse({ code: 'receiving.invoicedTwice', item: item.code });
    if (!isWholeStep(line.qty, item.decimals)) refuse({ code: 'receiving.tooFine', item: item.code, decimals: item.decimals });
    seen.add(item.id);
  }
  await replaceInvoice(trx, delivery.id, command.person, command.lines);
  announce(trx, 'receiving', { delivery: delivery.id });
}

/** The receipt on paper, for whoever checks the invoice: ordered, received and invoiced side by side, and what to query. */
export async function receiptPaper(house: House, asked: { id: number }, res: Response): Promise<void> {
  const delivery = await findDelivery(house.db, asked.id);
  const { says } = await readInvoice(house.db, asked.id);
  const items = await selectInvoiced(house.db, asked.id);
  const { company, currency } = await selectHouse(house.db);
  const paper = await Paper.open(res, { title: 'Receipt', number: delivery.number, company, file: `receipt-${delivery.number}.pdf` });
  paper.blocks([
    [delivery.supplier ?? 'Supplier not said', delivery.orders.map((o) => o.number).join(', ')],
    [
      delivery.supplier_doc === '' ? 'No paper named' : delivery.supplier_doc,
      delivery.supplier_doc_date === null ? '' : `of ${writeDay(delivery.supplier_doc_date)}`,
    ],
    [`Received at ${delivery.site}`, writeDay(delivery.touched.toISOString().slice(0, 10)), `by ${delivery.by}`],
  ]);
  paper.table([
    { title: 'Item', mm: 22 },
    { title: 'Description', mm: 50 },
    { title: 'Ordered', mm: 18, isRight: true },
    { title: 'at', mm: 18, isRight: true },
    { title: 'Received', mm: 20, isRight: true },
    { title: 'failed', mm: 14, isRight: true },
    { title: 'Invoiced', mm: 18, isRight: true },
    { title: 'at', mm: 14, isRight: true },
  ]);
  const money = (amount: (typeof items)[number]['orderPrice']): string =>
    amount === null ? '' : moneyText(formatAmount(amount), currency);
  for (const i of items)
    paper.row([
      i.code,
      i.description,
      i.ordered === null ? 'not ordered' : formatQty(i.ordered),
      money(i.orderPrice),
      formatQty(i.received),
      i.failed > 0 ? formatQty(i.failed) : '',
      i.invoiced === null ? '' : formatQty(i.invoiced),
      money(i.invoicePrice),
    ]);
  const kept = items.map((i) => worthOf(i.orderPrice ?? i.invoicePrice ?? (0n as never), subQty(i.received, i.failed)));
  const worth = kept.reduce((sum, w) => sum + w, 0n) as (typeof kept)[number];
  paper.row(['', 'Kept, at what was agreed', '', '', '', '', '', moneyText(formatAmount(worth), currency)], true);
  paper.note(says ?? 'The invoice was not keyed yet.');
  paper.end();
}
