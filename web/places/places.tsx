import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import type { BinRow } from '#contract/places';
import { Button, Empty, Field, Plate, Trouble, clock, useRead, useSend } from '#web/base';
import { DataTable, type Column } from '#web/table';

const COLUMNS: readonly Column<BinRow>[] = [
  { id: 'address', title: 'Bin', value: (r) => r.address, show: (r) => <Plate address={r.address} />, width: 120 },
  { id: 'zone', title: 'Zone', value: (r) => r.zoneName, width: 120 },
  { id: 'items', title: 'Items', value: (r) => r.items, number: true, width: 70 },
  {
    id: 'count',
    title: 'Last count',
    value: (r) => r.lastCount ?? '',
    show: (r) => (r.lastCount ? clock(r.lastCount) : <span className="text-soft">never</span>),
    width: 120,
  },
  { id: 'alias', title: 'Old name', value: (r) => r.alias ?? '', width: 90 },
];
const SHOWS = [
  ['all', 'all bins'],
  ['empty', 'empty'],
  ['mixed', 'more than one item'],
  ['neverCounted', 'never counted'],
] as const;

/** Places: the zones with their powers, the bins of one or all, a new bin, labels for the marked ones. */
export function Places() {
  const [search, setSearch] = useSearchParams();
  const go = useNavigate();
  const zone = search.get('zone') ? Number(search.get('zone')) : undefined;
  const show = (search.get('show') ?? 'all') as (typeof SHOWS)[number][0];
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const { data: me } = useRead('people.me', {});
  const { data: sites } = useRead('places.sites', {});
  const { data, error } = useRead(
    'places.bins',
    { query: { ...(zone ? { zone } : {}), show, q: search.get('q') ?? '', limit: 500 } },
    { keep: true },
  );
  const print = useSend('labels.print', {
    onDone: (r) => {
      setPicked(new Set());
      toast.success(`${r.labels} bin ${r.labels === 1 ? 'label' : 'labels'} sent to the printer.`);
    },
  });
  const site = sites?.sites.find((s) => s.id === me?.me?.site.id);
  const set = (name: string, value: string): void =>
    setSearch(
      (was) => {
        const next = new URLSearchParams(was);
        if (value) next.set(name, value);
        else next.delete(name);
        return next;
      },
      { replace: true },
    );
  return (
    <div className="grid gap-6 lg:grid-cols-[22rem_1fr]">
      <section>
        <h1 className="code text-3xl">{site?.name ?? 'Places'}</h1>
        <p className="mb-2 text-soft">{site?.address}</p>
        <ul>
          {site?.zones.map((z) => (
            <li key={z.id}>
              <button
                type="button"
                aria-pressed={zone === z.id}
                onClick={() => set('zone', zone === z.id ? '' : String(z.id))}
                className={`w-full border-b border-line px-2 py-1.5 text-left ${zone === z.id ? 'bg-ink text-paper' : 'hover:bg-shade'}`}
              >
                <span className="flex justify-between">
                  <strong>{z.name}</strong>
                  <span className="code text-lg">
                    {z.used} of {z.bins} used
                  </span>
                </span>
                <span className="block text-sm opacity-80">
                  {z.promisable ? 'may be promised' : 'not promised'}, {z.pickable ? 'may be picked' : 'not picked'}
                  {z.showsPrice ? ', labels show price' : ''}
                </span>
              </button>
            </li>
          ))}
        </ul>
        {me?.me?.role === 'lead' && site && <NewBin key={zone} zones={site.zones} zone={zone ?? site.zones[0]?.id ?? 0} />}
      </section>
      <section>
        <div className="mb-1 flex items-center gap-3">
          <input
            aria-label="Search bins"
            className="min-h-9 w-56 rounded border-2 border-ink/60 bg-sheet px-2"
            placeholder="Address or old name"
            value={search.get('q') ?? ''}
            onChange={(e) => set('q', e.target.value)}
          />
          <select
            aria-label="Which bins"
            className="min-h-9 rounded border-2 border-ink/60 bg-sheet px-1"
            value={show}
            onChange={(e) => set('show', e.target.value)}
          >
            {SHOWS.map(([v, l]) => (
              <option key={v} value={v}>
                {l}
              </option>
            ))}
          </select>
          {picked.size > 0 && (
            <Button look="next" className="ml-auto" onClick={() => print.mutate({ body: { kind: 'bins', bins: [...picked].map(Number) } })}>
              Print {picked.size} bin {picked.size === 1 ? 'label' : 'labels'}
            </Button>
          )}
        </div>
        <Trouble error={error} />
        {data?.bins.length === 0 && (
          <Empty title="No such bins.">
            {show === 'mixed' ? 'Every bin holds one item at most.' : 'Choose another zone, or make a bin.'}
          </Empty>
        )}
        {data && data.bins.length > 0 && (
          <DataTable
            name="Bins"
            rows={data.bins}
            columns={COLUMNS}
            keyOf={(r) => r.id}
            onOpen={(r) => void go(`/bins/${r.id}`)}
            picked={picked}
            onPick={setPicked}
          />
        )}
      </section>
    </div>
  );
}

function NewBin({ zones, zone }: { zones: readonly { id: number; name: string }[]; zone: number }) {
  const [into, setInto] = useState(zone);
  const [address, setAddress] = useState('');
  const go = useNavigate();
  const make = useSend('places.makeBin', {
    quiet: true,
    onDone: (bin) => {
      toast.success(`Bin ${bin.address} is there.`);
      void go(`/bins/${bin.id}`);
    },
  });
  return (
    <form
      className="mt-4 space-y-2 border-2 border-line p-3"
      onSubmit={(e) => {
        e.preventDefault();
        make.mutate({ body: { zone: into, address } });
      }}
    >
      <h2 className="font-bold">New bin</h2>
      <select
        aria-label="Zone of the new bin"
        className="min-h-9 w-full rounded border-2 border-ink/60 bg-sheet"
        value={into}
        onChange={(e) => setInto(Number(e.target.value))}
      >
        {zones.map((z) => (
          <option key={z.id} value={z.id}>
            {z.name}
          </option>
        ))}
      </select>
      <Field label="Address, such as A-11-1" value={address} onChange={(e) => setAddress(e.target.value)} problem={make.error?.message} />
      <Button type="submit" disabled={!address}>
        Make the bin
      </Button>
    </form>
  );
}
