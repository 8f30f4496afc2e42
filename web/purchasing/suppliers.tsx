import { useState } from 'react';
import { toast } from 'sonner';
import type { SupplierRow } from '#contract/purchasing';
import { Button, Empty, Field, SearchBox, Trouble, useFilters, useRead, useSend } from '#web/base';
import { PurchasingFrame } from './frame.tsx';

/** Suppliers, with how much over or short is agreed with each (C13): within it a line is full, and nothing more of it is expected. */
export function Suppliers() {
  const { of, set } = useFilters();
  const { data, error } = useRead('purchasing.suppliers', {});
  const words = of('q').trim().toLowerCase();
  const rows = data?.suppliers.filter((s) => `${s.code} ${s.name}`.toLowerCase().includes(words)) ?? [];
  return (
    <PurchasingFrame>
      <div className="mb-3 flex items-end gap-4">
        <SearchBox label="Search suppliers" placeholder="Name or code" value={of('q')} onChange={(e) => set('q', e.target.value)} />
        <p className="max-w-2xl text-soft">
          What is agreed: so many percent more are as good as ordered; so many fewer, and the rest is not expected any more.
        </p>
      </div>
      <Trouble error={error} />
      {data && rows.length === 0 && <Empty title="No supplier of that name." />}
      {rows.length > 0 && (
        <table className="w-full" aria-label="Suppliers">
          <thead className="border-b-2 border-ink text-left text-sm text-soft">
            <tr>
              <th className="font-normal">Code</th>
              <th className="font-normal">Supplier</th>
              <th className="text-right font-normal">Orders to come</th>
              <th className="pl-8 font-normal">Agreed over and short</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((s) => (
              <Row key={`${s.id} ${s.over} ${s.short}`} supplier={s} />
            ))}
          </tbody>
        </table>
      )}
    </PurchasingFrame>
  );
}

function Row({ supplier }: { supplier: SupplierRow }) {
  const [over, setOver] = useState(supplier.over);
  const [short, setShort] = useState(supplier.short);
  const agree = useSend('purchasing.agree', { quiet: true, onDone: () => toast.success(`Agreed with ${supplier.name}.`) });
  const changed = over !== supplier.over || short !== supplier.short;
  return (
    <tr className="border-b border-line align-top">
      <td className="code py-2 text-lg">{supplier.code}</td>
      <td className="py-2">{supplier.name}</td>
      <td className="py-2 text-right">{supplier.open === 0 ? '' : supplier.open}</td>
      <td className="py-1 pl-8">
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            agree.mutate({ params: { id: supplier.id }, body: { over: over.trim() || '0', short: short.trim() || '0' } });
          }}
        >
          <div className="w-24">
            <Field label="% over" inputMode="decimal" value={over} onChange={(e) => setOver(e.target.value)} />
          </div>
          <div className="w-24">
            <Field label="% short" inputMode="decimal" value={short} onChange={(e) => setShort(e.target.value)} />
          </div>
          {changed && (
            <Button type="submit" look="next" disabled={agree.isPending}>
              Agreed
            </Button>
          )}
        </form>
        <Trouble error={agree.error} />
      </td>
    </tr>
  );
}
