import { z } from 'zod';
import { byId, done, id, moment, qtyIn, qtyOut, routesOf } from '../base/index.ts';
import { amount } from '../items/index.ts';

const MOST_LINES = 2000;
/** A posted delivery beside the supplier's invoice. */
export const InvoiceOut = z.object({
  keyed: z.object({ by: z.string(), at: moment }).nullable().describe('Who keyed the invoice; null as long as nobody did'),
  items: z.array(
    z.object({
      item: z.number(),
      code: z.string(),
      description: z.string(),
      unit: z.string(),
      ordered: qtyOut.nullable(),
      orderPrice: z.string().nullable().describe('Of one base unit'),
      received: qtyOut,
      failed: qtyOut,
      invoiced: qtyOut.nullable(),
      invoicePrice: z.string().nullable().describe('Of one base unit'),
    }),
  ),
  queries: z.array(z.object({ item: z.number(), words: z.string(), amount: z.string() })),
  says: z.string().nullable().describe('What to query, in a line'),
  invoiced: z.string(),
  toPay: z.string(),
});
export type InvoiceOut = z.infer<typeof InvoiceOut>;

export const invoiceRoutes = routesOf({
  'receiving.invoice': {
    method: 'GET',
    path: '/api/deliveries/:id/invoice',
    allow: ['lead', 'office'],
    act: 'Check an invoice',
    params: byId,
    reply: InvoiceOut,
  },
  'receiving.keyInvoice': {
    method: 'POST',
    path: '/api/deliveries/:id/invoice',
    allow: ['lead', 'office'],
    act: 'Key an invoice',
    params: byId,
    body: z.object({
      lines: z
        .array(z.object({ item: id, qty: qtyIn, price: amount.nullable().default(null) }))
        .max(MOST_LINES, `must be at most ${MOST_LINES} lines`),
    }),
    reply: done,
  },
});
