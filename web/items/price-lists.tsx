import { useState } from 'react';
import { PRICE_FIELDS, type PriceField, type PriceMapping, readAmount } from '#core/items';
import type { PriceList } from '#contract/items';
import {
  Button,
  sayMoment,
  Empty,
  Field,
  siteToday,
  Trouble,
  uploadFile,
  useFilters,
  useMe,
  useRead,
  useSend,
  sayNumber,
  houseCurrency,
} from '#web/base';
import { DateField, Select } from '#web/forms';
import { DataTable, type Column } from '#web/table';
import { FileDrop, SheetImport } from '#web/work';
import { ItemsFrame } from './frame.tsx';
import { WrongBySite } from './wrong-by-site.tsx';

const COLUMNS: readonly Column<PriceList>[] = [
  { id: 'name', title: 'Supplier', value: (r) => r.name, show: (r) => <strong>{r.name}</strong>, width: 220 },
  { id: 'rows', title: 'Articles listed', value: (r) => r.rows, number: true, width: 110 },
  { id: 'stocked', title: 'Of them stocked', value: (r) => r.stocked, number: true, width: 110 },
  { id: 'file', title: 'Last file', value: (r) => r.file ?? '', width: 200 },
  {
    id: 'imported',
    title: 'Imported',
    value: (r) => r.imported ?? '',
    show: (r) => (r.imported ? sayMoment(r.imported) : <span className="text-soft">never</span>),
    width: 120,
  },
];

/** Suppliers' price lists (B7): choose the supplier, send the list, say once which column is which, see what is new, changed and gone. */
export function PriceLists() {
  const { of, set } = useFilters();
  const { data, error } = useRead('items.priceLists', {});
  const supplier = of('supplier') ? Number(of('supplier')) : null;
  const list = data?.lists.find((l) => l.supplier === supplier);
  return (
    <ItemsFrame>
      <Trouble error={error} />
      {supplier === null || !list ? (
        <>
          {data?.lists.length === 0 ? (
            <Empty title="There is no supplier yet.">Make one below, then send their price list.</Empty>
          ) : (
            data && (
              <DataTable
                name="Price lists"
                rows={data.lists}
                columns={COLUMNS}
                keyOf={(r) => r.supplier}
                onOpen={(r) => set('supplier', String(r.supplier))}
                height="50dvh"
              />
            )
          )}
          <NewSupplier />
          <Currency />
        </>
      ) : (
        <>
          <p className="mb-3 flex items-baseline gap-4">
            <Button look="quiet" onClick={() => (set('job', ''), set('supplier', ''))}>
              All suppliers
            </Button>
            <strong className="text-2xl">{list.name}</strong>
            <span className="text-soft">
              {list.rows} articles listed, {list.stocked} of them stocked
            </span>
          </p>
          <OneList
            key={list.supplier}
            supplier={list.supplier}
            imports={list.imports}
            job={of('job') ? Number(of('job')) : null}
            onJob={(job) => set('job', job === null ? '' : String(job))}
          />
        </>
      )}
    </ItemsFrame>
  );
}

function OneList({
  supplier,
  imports,
  job,
  onJob,
}: {
  supplier: number;
  imports: PriceList['imports'];
  job: number | null;
  onJob: (job: number | null) => void;
}) {
  const [file, setFile] = useState<number | null>(null);
  const [busy, setBusy] = useState(false);
  const [problem, setProblem] = useState<Error | null>(null);
  if (job !== null)
    return (
      <SheetImport
        job={job}
        label=""
        noun="articles"
        onStart={() => undefined}
        onAgain={() => (setFile(null), onJob(null))}
        whenDone={() => <WrongBySite />}
      />
    );
  if (file !== null) return <Mapping supplier={supplier} file={file} onJob={onJob} onBack={() => setFile(null)} />;
  return (
    <div className="max-w-2xl space-y-3">
      <FileDrop
        label="Drop the price list here (CSV or XLSX), or choose it"
        accept=".csv,.xlsx,.txt,.tsv"
        busy={busy}
        onFile={(chosen) => {
          setBusy(true);
          setProblem(null);
          uploadFile(chosen)
            .then((sent) => setFile(sent.id), setProblem)
            .finally(() => setBusy(false));
        }}
      />
      <Trouble error={problem} />
      <p className="text-soft">First you see what is new, changed and gone. Nothing changes until you say so.</p>
      {imports.length > 0 && (
        <section>
          <h2 className="mt-4 border-b-2 border-ink font-bold">What earlier lists changed</h2>
          <ul>
            {imports.map((i) => (
              <li key={i.job}>
                <button type="button" className="w-full border-b border-line py-1 text-left hover:bg-shade" onClick={() => onJob(i.job)}>
                  <span className="underline decoration-line underline-offset-4">{i.title}</span>, {sayMoment(i.at)}
                  {i.state === 'checked' && ', compared and not imported'}
                </button>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

function Mapping({ supplier, file, onJob, onBack }: { supplier: number; file: number; onJob: (job: number) => void; onBack: () => void }) {
  const { data, error } = useRead('items.priceColumns', { params: { id: supplier }, query: { file } });
  const [changed, setChanged] = useState<PriceMapping>({});
  const [holdsFrom, setFrom] = useState(() => siteToday());
  const [decimal, setDecimal] = useState<'' | '.' | ','>('');
  const start = useSend('items.importPrices', { quiet: true, onDone: (r) => onJob(r.job) });
  if (!data)
    return (
      <>
        <Trouble error={error} />
        {error && <Button onClick={onBack}>Choose another file</Button>}
      </>
    );
  const mapping: PriceMapping = { ...(data.mapping as PriceMapping), ...changed };
  const used = Object.fromEntries(Object.entries(mapping).filter(([, title]) => title)) as PriceMapping;
  const lacking = PRICE_FIELDS.filter((f) => f.required && !used[f.key]);
  const sample = (key: PriceField): string => {
    const at = data.header.indexOf(used[key] ?? '');
    return at < 0
      ? ''
      : data.sample
          .map((row) => row[at] ?? '')
          .filter(Boolean)
          .slice(0, 3)
          .join(' · ');
  };
  return (
    <form
      className="max-w-4xl space-y-4"
      onSubmit={(e) => {
        e.preventDefault();
        start.mutate({ params: { id: supplier }, body: { file, mapping: used, holdsFrom, ...(decimal ? { decimal } : {}) } });
      }}
    >
      <p className="text-lg">
        <strong>{sayNumber(data.rows)}</strong> rows.{' '}
        {data.remembered
          ? 'The columns are those of this supplier’s last list.'
          : 'Say once which column is which; it is remembered for this supplier.'}
      </p>
      <table className="w-full">
        <thead className="border-b-2 border-ink text-left text-sm text-soft">
          <tr>
            <th className="w-44 font-normal">What</th>
            <th className="w-72 font-normal">Column in the file</th>
            <th className="font-normal">The first rows say</th>
          </tr>
        </thead>
        <tbody>
          {PRICE_FIELDS.map((f) => (
            <tr key={f.key} className="border-b border-line">
              <td className="py-1.5 font-semibold">{f.title}</td>
              <td>
                <Select
                  label={`Column for ${f.title}`}
                  hideLabel
                  className="w-64"
                  value={used[f.key] ?? ''}
                  onChange={(v) => setChanged({ ...changed, [f.key]: v })}
                  options={[['', f.required ? 'choose …' : 'not in the list'], ...data.header.filter(Boolean).map((h) => [h, h] as const)]}
                />
              </td>
              <td className="truncate text-soft">{sample(f.key)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex items-end gap-4">
        {data.unclear !== null && (
          <Select
            label={`“${data.unclear}” is`}
            value={decimal}
            onChange={setDecimal}
            options={[
              ['', 'choose …'],
              ['.', `${readAmount(data.unclear, '.') ?? ''}: the comma parts thousands`],
              [',', `${readAmount(data.unclear, ',') ?? ''}: the comma is the decimal mark`],
            ]}
          />
        )}
        <DateField label="Valid from" value={holdsFrom} onChange={setFrom} />
        <Button look="next" type="submit" disabled={lacking.length > 0 || start.isPending || (data.unclear !== null && decimal === '')}>
          {lacking.length > 0
            ? `Choose the column for ${lacking.map((f) => f.title.toLowerCase()).join(', ')}`
            : 'Compare with what is known'}
        </Button>
        <Button onClick={onBack}>Another file</Button>
      </div>
      <Trouble error={start.error} />
    </form>
  );
}

/** In which currency all prices and costs are: one for the house. */
function Currency() {
  const { me } = useMe();
  const save = useSend('items.setCurrency', { onDone: () => window.location.reload() });
  if (me?.role !== 'lead') return null;
  return (
    <div className="mt-6 w-72">
      <Select
        label="Prices and costs are in"
        value={houseCurrency()}
        onChange={(currency) => save.mutate({ body: { currency } })}
        options={CURRENCIES}
      />
    </div>
  );
}

const NAMES = new Intl.DisplayNames('en-GB', { type: 'currency' });
const CURRENCIES = Intl.supportedValuesOf('currency').map((code) => [code, `${code}, ${NAMES.of(code) ?? ''}`] as const);

function NewSupplier() {
  const [form, setForm] = useState({ code: '', name: '' });
  const make = useSend('items.makeSupplier', { quiet: true, onDone: () => setForm({ code: '', name: '' }) });
  return (
    <form
      className="mt-5 flex max-w-xl items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate({ body: form });
      }}
    >
      <div className="w-28">
        <Field label="Code" required value={form.code} onChange={(e) => setForm({ ...form, code: e.target.value })} />
      </div>
      <div className="flex-1">
        <Field
          label="Name of a new supplier"
          required
          value={form.name}
          onChange={(e) => setForm({ ...form, name: e.target.value })}
          problem={make.error?.message}
        />
      </div>
      <Button type="submit">Make the supplier</Button>
    </form>
  );
}
