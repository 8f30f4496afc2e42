import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { ReplyOf, Routes } from '#contract';
import { BIN_SHOWS, type BinRow, BIN_SORTS } from '#contract/places';
import { Button, sayMoment, Empty, Field, Plate, Tag, Trouble, useFilters, useReadPages, useSend, SearchBox } from '#web/base';
import { Select } from '#web/forms';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';
import { LabelPdf, PaperChoice, sayLabelsSent, sizeOf, useIsSheet } from '#web/labels';
import { PlacesFrame, useMySite } from './frame.tsx';

const COLUMNS: readonly Column<BinRow>[] = [
  { id: 'address', title: 'Bin', value: (r) => r.address, show: (r) => <Plate address={r.address} />, width: 120 },
  { id: 'zone', title: 'Zone', value: (r) => r.zoneName, width: 120 },
  { id: 'items', title: 'Items', value: (r) => r.items, number: true, width: 60 },
  {
    id: 'fill',
    title: 'Full',
    value: (r) => r.fill ?? -1,
    show: (r) =>
      r.fill === null ? (
        <span className="text-soft">no limit</span>
      ) : r.fill > 100 ? (
        <Tag tone="wrong">over, {r.fill} %</Tag>
      ) : (
        `${r.fill} %`
      ),
    number: true,
    width: 90,
  },
  {
    id: 'count',
    title: 'Last count',
    value: (r) => r.lastCount ?? '',
    show: (r) => (r.lastCount ? sayMoment(r.lastCount) : <span className="text-soft">never</span>),
    width: 135,
  },
  {
    id: 'label',
    title: 'Label',
    value: (r) => r.labelled ?? '',
    show: (r) => (r.labelled ? sayMoment(r.labelled) : <span className="text-soft">none</span>),
    width: 135,
  },
  { id: 'oldNames', title: 'Old names', value: (r) => r.oldNames.join(', '), width: 90 },
];
const SHOWS: Readonly<Record<(typeof BIN_SHOWS)[number], string>> = {
  all: 'all bins',
  empty: 'empty',
  overfull: 'over-full',
  mixed: 'more than one item',
  unlabelled: 'without a label',
  neverCounted: 'never counted',
  retired: 'retired',
};

/** The bins of the site: filtered, marked, labelled, retired; zones beside them. */
export function Places() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const zone = of('zone') ? Number(of('zone')) : undefined;
  const show = (of('show') || 'all') as (typeof BIN_SHOWS)[number];
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const { me, site } = useMySite();
  const { pages, more, error, readAll } = useReadPages('places.bins', {
    query: { ...(zone ? { zone } : {}), show, q: of('q'), sort: useSort('bins', BIN_SORTS), limit: 500 },
  });
  const bins = pages.flatMap((p) => p.bins);
  const total = pages[0]?.total ?? 0;
  return (
    <PlacesFrame>
      <div className="grid grid-cols-1 gap-6 lg:grid-cols-[20rem_1fr]">
        <section aria-label="Zones">
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
                    <span className="code ml-2 shrink-0 text-lg">
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
          {me?.role === 'lead' && site && <NewBin key={zone} zones={site.zones} zone={zone ?? site.zones[0]?.id ?? 0} />}
        </section>
        <section>
          <div className="mb-1 flex flex-wrap items-center gap-3">
            <SearchBox label="Search bins" placeholder="Address or old name" value={of('q')} onChange={(e) => set('q', e.target.value)} />
            <Select
              label="Which bins"
              hideLabel
              options={BIN_SHOWS.map((v) => [v, SHOWS[v]])}
              value={show}
              onChange={(v) => set('show', v)}
            />
            <span className="text-soft">{pages.length > 0 && `${total} ${total === 1 ? 'bin' : 'bins'}`}</span>
            <span className="ml-auto flex items-center gap-3">
              {picked.size > 0 ? (
                <Marked
                  picked={picked}
                  addresses={bins.filter((b) => picked.has(b.id)).map((b) => b.address)}
                  isLead={me?.role === 'lead'}
                  onDone={() => setPicked(new Set())}
                />
              ) : (
                zone !== undefined && <ZoneLabels zone={zone} />
              )}
            </span>
          </div>
          <Trouble error={error} />
          {pages.length > 0 && bins.length === 0 && (
            <Empty title={show === 'all' ? 'No such bins.' : `No bin is ${SHOWS[show]}.`}>
              {show === 'all' && total === 0 && !of('q')
                ? 'Build a grid of bins, or import a sheet of them.'
                : 'Choose another zone or another list.'}
            </Empty>
          )}
          {bins.length > 0 && (
            <DataTable
              sorts={BIN_SORTS}
              keep="bins"
              name="Bins"
              rows={bins}
              columns={COLUMNS}
              keyOf={(r) => r.id}
              onOpen={(r) => void go(`/bins/${r.id}`)}
              picked={picked}
              onPick={setPicked}
              more={more}
              readAll={rowsOf(readAll, (page) => page.bins)}
            />
          )}
        </section>
      </div>
    </PlacesFrame>
  );
}

const said = (r: ReplyOf<Routes['labels.print']>): void => sayLabelsSent(r, 'bin', 'in walking order');

function Marked({
  picked,
  addresses,
  isLead,
  onDone,
}: {
  picked: ReadonlySet<string | number>;
  addresses: readonly string[];
  isLead: boolean;
  onDone: () => void;
}) {
  const [size, setSize] = useState('');
  const isSheet = useIsSheet(size);
  const bins = [...picked].map(Number);
  const print = useSend('labels.print', { onDone: (r) => (onDone(), said(r)) });
  const retire = useSend('places.retireBins', {
    onDone: (r) => {
      onDone();
      toast.success(`${r.retired} ${r.retired === 1 ? 'bin is' : 'bins are'} retired. They are under “retired” and can be brought back.`);
    },
  });
  return (
    <>
      <AssignMarked bins={addresses} onDone={onDone} />
      <PaperChoice value={size} onChange={setSize} />
      <LabelPdf wanted={{ kind: 'bins', bins }} size={size}>
        as PDF
      </LabelPdf>
      {!isSheet && (
        <Button look="next" onClick={() => print.mutate({ body: { kind: 'bins', bins, ...sizeOf(size) } })}>
          Print {picked.size} bin {picked.size === 1 ? 'label' : 'labels'}
        </Button>
      )}
      {isLead && (
        <Button look="wrong" onClick={() => retire.mutate({ body: { bins } })}>
          Retire {picked.size}
        </Button>
      )}
    </>
  );
}

/** Gives one item a home in every marked bin. */
function AssignMarked({ bins, onDone }: { bins: readonly string[]; onDone: () => void }) {
  const [item, setItem] = useState('');
  const assign = useSend('items.assign', {
    onDone: (r) => {
      setItem('');
      onDone();
      toast.success(`${r.assigned} ${r.assigned === 1 ? 'home' : 'homes'} assigned.`);
    },
  });
  return (
    <form
      onSubmit={(e) => {
        e.preventDefault();
        if (item) assign.mutate({ body: { pairs: bins.map((bin) => ({ bin, item })) } });
      }}
    >
      <input
        aria-label={`Item that lives in the ${bins.length} marked bins`}
        className="min-h-9 w-40 rounded border-2 border-ink/60 bg-sheet px-2"
        placeholder="Home of which item"
        value={item}
        onChange={(e) => setItem(e.target.value)}
      />
    </form>
  );
}

function ZoneLabels({ zone }: { zone: number }) {
  const [size, setSize] = useState('');
  const isSheet = useIsSheet(size);
  const print = useSend('labels.print', { onDone: said });
  return (
    <>
      <PaperChoice value={size} onChange={setSize} />
      <LabelPdf wanted={{ kind: 'zone', zone }} size={size}>
        all as PDF
      </LabelPdf>
      {!isSheet && (
        <Button onClick={() => print.mutate({ body: { kind: 'zone', zone, only: 'unlabelled', ...sizeOf(size) } })}>
          Label those without
        </Button>
      )}
    </>
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
      <Select
        label="Zone of the new bin"
        hideLabel
        className="w-full"
        value={into}
        onChange={setInto}
        options={zones.map((z) => [z.id, z.name])}
      />
      <Field label="Address, such as A-11-1" value={address} onChange={(e) => setAddress(e.target.value)} problem={make.error?.message} />
      <Button type="submit" disabled={!address}>
        Make the bin
      </Button>
    </form>
  );
}
