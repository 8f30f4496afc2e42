import { useState } from 'react';
import type { Choice } from '#contract/desk';
import type { InvoiceOut } from '#contract/receiving';
import { Button, fieldShape, houseCurrency, ItemName, sayMoment, sayMoney, Tag, Trouble, useRead, useSend } from '#web/base';
import { ChoiceField } from '#web/forms';

type Item = InvoiceOut['items'][number];
type Typed = { readonly qty: string; readonly price: string };

/** A posted receipt beside the supplier's invoice (C14): ordered, received, invoiced, and in a line what to query. */
export function Invoice({ delivery }: { delivery: number }) {
  const { data, error } = useRead('receiving.invoice', { params: { id: delivery } });
  if (!data) return <Trouble error={error} />;
  return <Checked key={`${delivery} ${data.keyed?.at ?? ''}`} delivery={delivery} invoice={data} />;
}

const NOTHING = { unit: '', ordered: null, orderPrice: null, received: '0', failed: '0', invoiced: null, invoicePrice: null };

// What an invoice would say that is right is there to be pressed through: what is received, at what was agreed.
const asAgreed = (i: Item): Typed => ({ qty: i.invoiced ?? i.received, price: trimmed(i.invoicePrice ?? i.orderPrice ?? '') });
const trimmed = (amount: string): string => amount.replace(/(\.\d\d)0+$/, '$1');

function Checked({ delivery, invoice }: { delivery: number; invoice: InvoiceOut }) {
  const [more, setMore] = useState<readonly Item[]>([]);
  const items = [...invoice.items, ...more];
  const [typed, setTyped] = useState<Readonly<Record<number, Typed>>>({});
  const key = useSend('receiving.keyInvoice', { quiet: true, onDone: () => undefined });
  const of = (i: Item): Typed => typed[i.item] ?? (invoice.keyed && i.invoiced === null ? { qty: '', price: '' } : asAgreed(i));
  const set = (i: Item, part: Partial<Typed>): void => setTyped({ ...typed, [i.item]: { ...of(i), ...part } });
  const add = ({ id: item, code, name: description }: Choice): void => {
    if (items.some((i) => i.item === item)) return;
    setMore([...more, { ...NOTHING, item, code, description }]);
  };
  return (
    <section aria-label="The invoice" className="my-4 border-2 border-ink p-3">
      <div className="flex flex-wrap items-baseline gap-3">
        <h2 className="text-lg font-bold">Against the invoice</h2>
        {invoice.says === null ? (
          <span className="text-soft">Key what the invoice says, and it tells what to query.</span>
        ) : (
          <strong className={invoice.queries.length > 0 ? 'text-wrong' : 'text-settled'} role="status">
            {invoice.says}
          </strong>
        )}
        <a className="ml-auto underline" href={`/api/deliveries/${delivery}/receipt.pdf`} target="_blank" rel="noreferrer">
          Receipt as PDF
        </a>
      </div>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          const lines = items.flatMap((i) => {
            const { qty, price } = of(i);
            return qty.trim() === '' ? [] : [{ item: i.item, qty: qty.replace(',', '.'), price: price.trim() === '' ? null : price }];
          });
          key.mutate({ params: { id: delivery }, body: { lines } });
        }}
      >
        <div className="overflow-x-auto">
          <table className="w-full">
            <thead className="border-b-2 border-ink text-left text-sm text-soft">
              <tr>
                <th className="font-normal">Item</th>
                <th className="pl-3 text-right font-normal">Ordered</th>
                <th className="pl-3 text-right font-normal">at</th>
                <th className="pl-3 text-right font-normal">Received</th>
                <th className="pl-3 text-right font-normal">Failed</th>
                <th className="pl-3 text-right font-normal">Invoiced</th>
                <th className="pl-3 text-right font-normal">at ({houseCurrency()})</th>
                <th className="pl-4 font-normal">To query</th>
              </tr>
            </thead>
            <tbody>
              {items.map((i) => (
                <tr key={i.item} className="border-b border-line">
                  <td className="py-1">
                    <ItemName {...i} wraps />
                  </td>
                  <td className="pl-3 text-right">{i.ordered ?? 'not ordered'}</td>
                  <td className="pl-3 text-right">{i.orderPrice === null ? '' : sayMoney(i.orderPrice)}</td>
                  <td className="pl-3 text-right font-bold">{i.received}</td>
                  <td className="pl-3 text-right">{i.failed === '0' ? '' : <strong className="text-wrong">{i.failed}</strong>}</td>
                  <td className="pl-3 text-right">
                    <input
                      aria-label={`Invoiced of ${i.code}`}
                      inputMode="decimal"
                      className={`w-20 text-right ${fieldShape(false)}`}
                      value={of(i).qty}
                      onChange={(e) => set(i, { qty: e.target.value })}
                    />
                  </td>
                  <td className="pl-3 text-right">
                    <input
                      aria-label={`Price of ${i.code} on the invoice`}
                      inputMode="decimal"
                      className={`w-24 text-right ${fieldShape(false)}`}
                      value={of(i).price}
                      onChange={(e) => set(i, { price: e.target.value })}
                    />
                  </td>
                  <td className="space-x-1 pl-4">
                    {invoice.keyed &&
                      invoice.queries
                        .filter((q) => q.item === i.item)
                        .map((q) => (
                          <Tag key={q.words} tone={q.amount === '0.00' ? 'plain' : 'wrong'}>
                            {q.words}
                            {q.amount !== '0.00' && `, ${sayMoney(q.amount)}`}
                          </Tag>
                        ))}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <Trouble error={key.error} />
        <div className="flex flex-wrap items-end gap-3 pt-3">
          <div className="w-56">
            <ChoiceField kind="item" label="Also on the invoice" value={null} onChange={(item) => item && add(item)} />
          </div>
          <Button look={invoice.keyed ? 'plain' : 'next'} type="submit" disabled={key.isPending}>
            {invoice.keyed ? 'Check it again' : 'Check the invoice'}
          </Button>
          {invoice.keyed && (
            <span className="text-soft">
              Invoiced {sayMoney(invoice.invoiced)}, to pay {sayMoney(invoice.toPay)}; keyed by {invoice.keyed.by},{' '}
              {sayMoment(invoice.keyed.at)}
            </span>
          )}
        </div>
      </form>
    </section>
  );
}
