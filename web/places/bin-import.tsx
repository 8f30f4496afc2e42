import { atSite, useFilters, useSend } from '#web/base';
import { SheetImport } from '#web/work';
import { PlacesFrame } from './frame.tsx';

/** Import of bins, and of who lives in them (A4, A6); both ways, so that a sheet can be taken out, mended and brought back. */
export function BinImport() {
  const { of, set } = useFilters();
  const id = (name: string): number | null => (of(name) ? Number(of(name)) : null);
  const bins = useSend('places.importBins', { onDone: (r) => set('bins', String(r.job)) });
  const homes = useSend('items.importHomes', { onDone: (r) => set('homes', String(r.job)) });
  return (
    <PlacesFrame>
      <div className={id('bins') || id('homes') ? 'space-y-8' : 'grid gap-10 lg:grid-cols-2'}>
        {!id('homes') && (
          <section>
            <h2 className="mb-2 text-xl font-bold">Bins</h2>
            <SheetImport
              job={id('bins')}
              label="Drop a CSV or XLSX of bins here, or choose one"
              noun="bins"
              onStart={(file) => bins.mutate({ body: { file } })}
              onAgain={() => set('bins', '')}
            >
              <p className="text-soft">
                Zone and address, and what else you know of a bin: old name, walking order, rules, room, arrow. First you see what every row
                would do.
              </p>
              <Take name="bins" />
            </SheetImport>
          </section>
        )}
        {!id('bins') && (
          <section>
            <h2 className="mb-2 text-xl font-bold">Home bins of items</h2>
            <SheetImport
              job={id('homes')}
              label="Drop a CSV or XLSX of home bins here, or choose one"
              noun="homes"
              onStart={(file) => homes.mutate({ body: { file } })}
              onAgain={() => set('homes', '')}
            >
              <p className="text-soft">Bin and item, face or reserve, minimum and maximum.</p>
              <Take name="homes" />
            </SheetImport>
          </section>
        )}
      </div>
    </PlacesFrame>
  );
}

/** The sheet with what there is, and an empty one with the right columns. */
export function Take({ name }: { name: string }) {
  const link = 'underline decoration-line underline-offset-4 hover:decoration-ink';
  return (
    <p className="flex gap-4">
      <a className={link} href={atSite(`/api/download/${name}.xlsx?template`)}>
        Empty sheet with the columns
      </a>
      <a className={link} href={atSite(`/api/download/${name}.xlsx`)}>
        What there is, as XLSX
      </a>
      <a className={link} href={atSite(`/api/download/${name}.csv`)}>
        as CSV
      </a>
    </p>
  );
}
