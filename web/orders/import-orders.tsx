import { Link } from 'react-router';
import { atSite, useFilters, useSend } from '#web/base';
import { SheetImport } from '#web/work';
import { OrdersFrame } from './frame.tsx';

/** Orders from a sheet (F2): all of them, or none. */
export function OrderImport() {
  const { of, set } = useFilters();
  const start = useSend('orders.import', { onDone: (r) => set('job', String(r.job)) });
  return (
    <OrdersFrame title="Orders from a sheet">
      <SheetImport
        job={of('job') ? Number(of('job')) : null}
        label="Drop a CSV or XLSX of orders here, or choose one"
        noun="lines"
        onStart={(file) => start.mutate({ body: { file } })}
        onAgain={() => set('job', '')}
        whenDone={(done) => (
          <p>
            <Link className="font-semibold underline" to="/orders?step=new">
              Look at the {String(done.result?.['orders'])} orders and promise them
            </Link>
          </p>
        )}
      >
        <p className="max-w-2xl text-soft">
          The customer’s own reference, customer, item and quantity; due day, priority, carrier and pack where you have them. Rows with one
          reference of one customer become one order; a reference that is here already is refused.
        </p>
        <p>
          <a className="underline decoration-line underline-offset-4 hover:decoration-ink" href={atSite('/api/download/orders.xlsx')}>
            Empty sheet with the columns
          </a>
        </p>
      </SheetImport>
    </OrdersFrame>
  );
}
