import { useState } from 'react';
import { Link } from 'react-router';
import type { Choice } from '#contract/desk';
import { atSite, sayDay, Tick, Trouble, useFilters, useRead, useSend } from '#web/base';
import { ChoiceField } from '#web/forms';
import { SheetImport } from '#web/work';

/** Goods that came with a sheet instead of being scanned (C12): they stand in a delivery to review, or in that in which their orders are
 *  received already. */
export function ReceiptImport() {
  const { of, set } = useFilters();
  const [supplier, setSupplier] = useState<Choice | null>(null);
  const [unwanted, setUnwanted] = useState<ReadonlySet<number>>(new Set());
  const { data, error } = useRead('receiving.expected', {});
  const start = useSend('receiving.import', { onDone: (r) => set('job', String(r.job)) });
  const job = of('job') ? Number(of('job')) : null;
  const expected = supplier ? (data?.orders.filter((o) => o.supplierId === supplier.id) ?? []) : [];
  const orders = expected.filter((o) => !unwanted.has(o.id)).map((o) => o.id);
  const toggle = (id: number): void => setUnwanted((s) => (s.has(id) ? new Set([...s].filter((x) => x !== id)) : new Set([...s, id])));
  return (
    <section className="space-y-4">
      <h1 className="code text-3xl">Received by sheet</h1>
      <Trouble error={error} />
      {job === null && (
        <div className="max-w-xl">
          <ChoiceField kind="supplier" label="From which supplier?" placeholder="Not said yet" value={supplier} onChange={setSupplier} />
        </div>
      )}
      {job === null && expected.length > 0 && (
        <fieldset className="max-w-xl">
          <legend className="font-bold">Of these orders</legend>
          {expected.map((o) => (
            <Tick key={o.id} label={`${o.number}, due ${sayDay(o.due)}`} checked={!unwanted.has(o.id)} onChange={() => toggle(o.id)} />
          ))}
        </fieldset>
      )}
      <SheetImport
        job={job}
        label="Drop a CSV or XLSX of what came here, or choose one"
        noun="lines"
        onStart={(file) => start.mutate({ body: { file, supplier: supplier?.id ?? null, orders } })}
        onAgain={() => set('job', '')}
        whenDone={(done) => (
          <p>
            <Link className="font-semibold underline" to={`/deliveries/${String(done.result?.['delivery'])}`}>
              Look at the delivery and post it
            </Link>
          </p>
        )}
      >
        <p className="max-w-2xl text-soft">
          Item and quantity; pack, lot, dates and serials where the item has them. The item by its code, its barcode or the supplier’s own
          number. Nothing is stock before the delivery is posted.
        </p>
        <p>
          <a
            className="underline decoration-line underline-offset-4 hover:decoration-ink"
            href={atSite('/api/download/received-goods.xlsx')}
          >
            Empty sheet with the columns
          </a>
        </p>
      </SheetImport>
    </section>
  );
}
