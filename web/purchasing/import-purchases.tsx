import { Link } from 'react-router';
import { atSite, useFilters, useSend } from '#web/base';
import { SheetImport } from '#web/work';
import { PurchasingFrame } from './frame.tsx';

/** Purchase orders from a sheet: each becomes a draft. */
export function PurchaseImport() {
  const { of, set } = useFilters();
  const start = useSend('purchasing.import', { onDone: (r) => set('job', String(r.job)) });
  const link = 'underline decoration-line underline-offset-4 hover:decoration-ink';
  return (
    <PurchasingFrame>
      <SheetImport
        job={of('job') ? Number(of('job')) : null}
        label="Drop a CSV or XLSX of purchase orders here, or choose one"
        noun="lines"
        onStart={(file) => start.mutate({ body: { file } })}
        onAgain={() => set('job', '')}
        whenDone={() => (
          <p>
            <Link className="font-semibold underline" to="/purchasing?state=draft">
              Look at the drafts and approve them
            </Link>
          </p>
        )}
      >
        <p className="max-w-2xl text-soft">
          Supplier, item and quantity; the item by its code, its barcode or the supplier’s own number. Rows with the same order, or without
          one of the same supplier, become one draft. First you see what every row would do.
        </p>
        <p>
          <a className={link} href={atSite('/api/download/purchase-orders.xlsx')}>
            Empty sheet with the columns
          </a>
        </p>
      </SheetImport>
    </PurchasingFrame>
  );
}
