import { atSite, useFilters, useSend } from '#web/base';
import { SheetImport } from '#web/work';
import { ItemsFrame } from './frame.tsx';

/** Import of items, own fields included; both ways. */
export function ItemImport() {
  const { of, set } = useFilters();
  const start = useSend('items.importItems', { onDone: (r) => set('job', String(r.job)) });
  const link = 'underline decoration-line underline-offset-4 hover:decoration-ink';
  return (
    <ItemsFrame>
      <SheetImport
        job={of('job') ? Number(of('job')) : null}
        label="Drop a CSV or XLSX of items here, or choose one"
        noun="items"
        onStart={(file) => start.mutate({ body: { file } })}
        onAgain={() => set('job', '')}
      >
        <p className="max-w-2xl text-soft">
          Code and description, and what else you know. An item that is here already is changed where the sheet says otherwise; columns that
          the sheet does not have stay as they are. First you see what every row would do.
        </p>
        <p className="flex gap-4">
          <a className={link} href={atSite('/api/download/items.xlsx?template')}>
            Empty sheet with the columns
          </a>
          <a className={link} href={atSite('/api/download/items.xlsx')}>
            What there is, as XLSX
          </a>
          <a className={link} href={atSite('/api/download/items.csv')}>
            as CSV
          </a>
        </p>
      </SheetImport>
    </ItemsFrame>
  );
}
