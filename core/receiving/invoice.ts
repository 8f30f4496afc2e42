import { formatAmount, formatQty, subQty, sumAmounts, worthOf, type Amount, type ItemId, type Qty } from '#core/base';

/** An item of a posted delivery, as its orders, its receipt and the supplier's invoice say it. Quantities in thousandths of the base unit,
 *  prices of one of them. `ordered` and `orderPrice` are null where nobody ordered it, `invoiced` where it is not on the invoice. */
export type InvoicedItem = {
  readonly item: ItemId;
  readonly code: string;
  readonly ordered: Qty | null;
  readonly orderPrice: Amount | null;
  readonly received: Qty;
  /** Of what was received, how many failed inspection. */
  readonly failed: Qty;
  readonly invoiced: Qty | null;
  readonly invoicePrice: Amount | null;
};

/** Something to ask the supplier about. `amount` is what would be paid too much; nothing where that is not the question. */
export type InvoiceQuery = {
  readonly item: ItemId;
  readonly code: string;
  readonly why: 'notReceived' | 'tooMany' | 'failed' | 'price' | 'missing' | 'fewer';
  readonly qty: Qty;
  readonly amount: Amount;
};
export type InvoiceVerdict = { readonly queries: readonly InvoiceQuery[]; readonly invoiced: Amount; readonly toPay: Amount };

const NOTHING = 0n as Amount;

/** Compares a supplier's invoice with what was ordered and what came (C14).
 *  Shape:  one query for each thing that is wrong, in the order of the items: pieces that never came, that came and failed, a price above
 *          the order's; then what cost nothing: not on the invoice, or fewer than were kept.
 *  Law:    `invoiced` − the queries' amounts = `toPay`: what was kept, at no more than was agreed.
 *  Units:  amounts in ten-thousandths of the currency unit, rounded to cents for each line. */
export function judgeInvoice(items: readonly InvoicedItem[]): InvoiceVerdict {
  const queries: InvoiceQuery[] = [];
  const invoiced: Amount[] = [];
  const toPay: Amount[] = [];
  for (const i of items) {
    const { item, code } = i;
    const kept = subQty(i.received, i.failed);
    const say = (why: InvoiceQuery['why'], qty: Qty, amount: Amount): void => void queries.push({ item, code, why, qty, amount });
    if (i.invoiced === null) {
      if (kept > 0) say('missing', kept, NOTHING);
      continue;
    }
    const price = i.invoicePrice ?? i.orderPrice ?? NOTHING;
    const whole = worthOf(price, i.invoiced);
    // Each part is what is left of the whole without it, so that the parts add up to the cent.
    let left = whole;
    const part = (why: InvoiceQuery['why'], qty: Qty, rest: Amount): void => {
      say(why, qty, (left - rest) as Amount);
      left = rest;
    };
    const paid = i.invoiced < kept ? i.invoiced : kept;
    if (i.invoiced > i.received)
      part(i.received === 0 ? 'notReceived' : 'tooMany', subQty(i.invoiced, i.received), worthOf(price, i.received));
    const charged = i.invoiced < i.received ? i.invoiced : i.received;
    if (charged > kept) part('failed', subQty(charged, kept), worthOf(price, kept));
    if (i.orderPrice !== null && price > i.orderPrice && paid > 0) part('price', paid, worthOf(i.orderPrice, paid));
    if (i.invoiced < kept) say('fewer', subQty(kept, i.invoiced), NOTHING);
    invoiced.push(whole);
    toPay.push(left);
  }
  return { queries, invoiced: sumAmounts(invoiced), toPay: sumAmounts(toPay) };
}

/** A query in words, without the amount: `2 HV-10 on the invoice never came`. */
export function queryWords({ why, qty, code }: Pick<InvoiceQuery, 'why' | 'qty' | 'code'>): string {
  const goods = `${formatQty(qty)} ${code}`;
  switch (why) {
    case 'notReceived':
      return `${goods} on the invoice never came`;
    case 'tooMany':
      return `${goods} more on the invoice than came`;
    case 'failed':
      return `${goods} failed inspection`;
    case 'price':
      return `${goods} cost more than was agreed`;
    case 'missing':
      return `${goods} came and are not on the invoice`;
    case 'fewer':
      return `${goods} fewer on the invoice than were kept`;
  }
}

/** What to query of an invoice, in a line.
 *  Shape:  `money` writes an amount of two decimals with its currency. */
export function invoiceLine(verdict: InvoiceVerdict, money: (amount: string) => string): string {
  if (verdict.queries.length === 0) return `Nothing to query: pay ${money(formatAmount(verdict.toPay))}.`;
  const over = (verdict.invoiced - verdict.toPay) as Amount;
  const words = verdict.queries.map(queryWords).join('; ');
  return over === NOTHING ? `Query: ${words}.` : `Query ${money(formatAmount(over))}: ${words}.`;
}
