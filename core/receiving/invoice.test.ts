import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import { parseAmount, qty, worthOf, type Amount, type ItemId } from '#core/base';
import { invoiceLine, judgeInvoice, type InvoicedItem } from './invoice.ts';

const line = (of: {
  ordered?: number;
  agreed?: string;
  received: number;
  failed?: number;
  invoiced?: number;
  price?: string;
}): InvoicedItem => ({
  item: 1 as ItemId,
  code: 'HV-10',
  ordered: of.ordered === undefined ? null : qty(of.ordered * 1000),
  orderPrice: of.agreed === undefined ? null : parseAmount(of.agreed),
  received: qty(of.received * 1000),
  failed: qty((of.failed ?? 0) * 1000),
  invoiced: of.invoiced === undefined ? null : qty(of.invoiced * 1000),
  invoicePrice: of.price === undefined ? null : parseAmount(of.price),
});
const said = (...items: InvoicedItem[]): string => invoiceLine(judgeInvoice(items), (text) => `€${text}`);

describe('C14 the invoice against what was ordered and what came', () => {
  it('is in order where it says what came, for what was agreed', () => {
    expect(said(line({ ordered: 10, agreed: '4.00', received: 10, invoiced: 10, price: '4.00' }))).toBe('Nothing to query: pay €40.00.');
    expect(said(line({ ordered: 10, agreed: '4.00', received: 10, invoiced: 10, price: '3.50' }))).toBe('Nothing to query: pay €35.00.');
  });
  it('each thing that is wrong is named with what it costs, in one line', () => {
    expect(said(line({ ordered: 12, agreed: '4.00', received: 10, failed: 3, invoiced: 12, price: '4.20' }))).toBe(
      'Query €22.40: 2 HV-10 more on the invoice than came; 3 HV-10 failed inspection; 7 HV-10 cost more than was agreed.',
    );
    expect(said(line({ ordered: 5, agreed: '2.00', received: 0, invoiced: 5, price: '2.00' }))).toBe(
      'Query €10.00: 5 HV-10 on the invoice never came.',
    );
    expect(said(line({ received: 2 }))).toBe('Query: 2 HV-10 came and are not on the invoice.');
    expect(said(line({ agreed: '1.00', received: 6, invoiced: 4, price: '1.00' }))).toContain('2 HV-10 fewer on the invoice');
  });
  it('what is queried and paid are the invoice, to the cent; nobody pays for what failed or never came, nor above the price', () => {
    const some = fc.record({
      ordered: fc.option(fc.nat(9), { nil: undefined }),
      agreed: fc.option(
        fc.integer({ min: 0, max: 99_999 }).map((n) => (n / 1000).toFixed(3)),
        { nil: undefined },
      ),
      received: fc.nat(9),
      failed: fc.nat(9),
      invoiced: fc.option(fc.nat(12), { nil: undefined }),
      price: fc.option(
        fc.integer({ min: 0, max: 99_999 }).map((n) => (n / 1000).toFixed(3)),
        { nil: undefined },
      ),
    });
    fc.assert(
      fc.property(fc.array(some, { maxLength: 5 }), (rows) => {
        const items = rows.map((r) =>
          line({
            received: r.received,
            failed: Math.min(r.failed, r.received),
            ...(r.ordered === undefined ? {} : { ordered: r.ordered }),
            ...(r.agreed === undefined ? {} : { agreed: r.agreed }),
            ...(r.invoiced === undefined ? {} : { invoiced: r.invoiced }),
            ...(r.price === undefined ? {} : { price: r.price }),
          }),
        );
        const { queries, invoiced, toPay } = judgeInvoice(items);
        const queried = queries.reduce((sum, q) => sum + q.amount, 0n);
        expect(invoiced - queried).toBe(toPay);
        expect(queries.every((q) => q.amount >= 0n && q.qty > 0)).toBe(true);
        const most = items.reduce((sum, i) => {
          if (i.invoiced === null) return sum;
          const kept = Math.min(i.received - i.failed, i.invoiced);
          const price = i.invoicePrice ?? i.orderPrice ?? 0n;
          const agreed = i.orderPrice !== null && i.orderPrice < price ? i.orderPrice : price;
          return sum + worthOf(agreed as Amount, qty(kept));
        }, 0n);
        expect(toPay).toBe(most);
      }),
    );
  });
});
