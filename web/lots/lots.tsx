import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import { LOT_SORTS, type LotRow } from '#contract/lots';
import {
  Button,
  counted,
  Empty,
  Field,
  Plate,
  sayDay,
  SearchBox,
  Tag,
  Trouble,
  useFilters,
  useMe,
  useRead,
  useReadPages,
  useSend,
} from '#web/base';
import { Select } from '#web/forms';
import { ItemsFrame } from '#web/items';
import { DataTable, rowsOf, useSort, type Column } from '#web/table';
import { LotPanel } from './lot-panel.tsx';
import { Weeks } from './weeks.tsx';

const CONDITION = { sound: '', inspect: 'to inspect', held: 'held', failed: 'failed' } as const;

function Left({ row }: { row: LotRow }) {
  if (row.expires === null || row.daysLeft === null) return <span className="text-soft">no date</span>;
  if (row.daysLeft < 0) return <Tag tone="wrong">expired {sayDay(row.expires)}</Tag>;
  const words = row.daysLeft === 0 ? 'last day today' : `${counted(row.daysLeft, 'day', 'days')} left`;
  return <Tag tone={row.daysLeft <= SOON_DAYS ? 'strong' : 'plain'}>{words}</Tag>;
}
const SOON_DAYS = 30;

const COLUMNS: readonly Column<LotRow>[] = [
  { id: 'code', title: 'Item', value: (r) => r.code, show: (r) => <span className="code text-lg">{r.code}</span>, width: 90 },
  { id: 'description', title: 'Description', value: (r) => r.description, width: 210 },
  { id: 'lot', title: 'Lot', value: (r) => r.lot, show: (r) => <strong>{r.lot}</strong>, width: 110 },
  { id: 'expires', title: 'Expires', value: (r) => r.expires ?? '9999', show: (r) => (r.expires ? sayDay(r.expires) : ''), width: 110 },
  { id: 'left', title: 'Left', value: (r) => r.daysLeft ?? 99_999, show: (r) => <Left row={r} />, width: 150 },
  { id: 'qty', title: 'Quantity', value: (r) => Number(r.qty), show: (r) => <strong>{r.qty}</strong>, number: true, width: 80 },
  { id: 'address', title: 'Bin', value: (r) => r.address, show: (r) => <Plate address={r.address} />, width: 120 },
  { id: 'condition', title: 'Condition', value: (r) => CONDITION[r.condition], width: 90 },
  { id: 'supplier', title: 'From', value: (r) => r.supplier ?? '', width: 160 },
  { id: 'made', title: 'Made', value: (r) => r.made ?? '', show: (r) => (r.made ? sayDay(r.made) : ''), width: 100, hidden: true },
  { id: 'site', title: 'Site', value: (r) => r.site, width: 120, hidden: true },
  { id: 'receipt', title: 'Receipt', value: (r) => r.receipt?.number ?? '', width: 90, hidden: true },
];

/** Lots: where they lie, how long they last, from whom they came (E1); expired ones are worked off together (E3). */
export function Lots() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const { me } = useMe();
  const show = (of('show') || 'all') as 'all' | 'soon' | 'expired';
  const within = Number(of('within')) || 60;
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const { pages, more, error, readAll } = useReadPages('lots.list', {
    query: {
      q: of('q'),
      show,
      within,
      site: of('site') === 'all' ? ('all' as const) : ('here' as const),
      sort: useSort('lots', LOT_SORTS),
      limit: 200,
    },
  });
  const { data: warnings } = useRead('lots.warnings', {});
  const rows = pages.flatMap((p) => p.lots);
  const [opened, setOpened] = useState<number | null>(null);
  const open = rows.find((r) => r.id === opened);
  const isFiltered = ['q', 'show', 'site'].some((name) => of(name) !== '');
  const mayWorkOff = me?.role === 'lead' && show === 'expired' && of('site') !== 'all';
  return (
    <ItemsFrame>
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <SearchBox
          label="Search lots"
          className="w-60"
          placeholder="Lot, item or words"
          value={of('q')}
          onChange={(e) => set('q', e.target.value)}
        />
        <Select
          label="Which lots"
          value={show}
          onChange={(v) => {
            setPicked(new Set());
            set('show', v === 'all' ? '' : v);
          }}
          options={[
            ['all', 'all that lie anywhere'],
            ['soon', `expire within ${within} days`],
            ['expired', 'have expired'],
          ]}
        />
        {show === 'soon' && (
          <Select
            label="Within"
            value={within}
            onChange={(v) => set('within', String(v))}
            options={[...new Set([...(warnings?.days ?? []), within, 7, 90, 180, 365])]
              .sort((a, b) => a - b)
              .map((d) => [d, `${d} days`] as const)}
          />
        )}
        {show === 'soon' && me?.role === 'lead' && warnings && <Warnings key={warnings.days.join()} days={warnings.days} />}
        {(me?.sites.length ?? 0) > 1 && (
          <Select
            label="Site"
            value={of('site') === 'all' ? 'all' : 'here'}
            onChange={(v) => set('site', v === 'all' ? 'all' : '')}
            options={[
              ['here', me?.site.name ?? 'this site'],
              ['all', 'every site of mine'],
            ]}
          />
        )}
        {mayWorkOff && picked.size > 0 && <WorkOff balances={[...picked].map(Number)} onDone={() => setPicked(new Set())} />}
      </div>
      <Weeks
        site={of('site') === 'all' ? 'all' : 'here'}
        onWeek={(days) => void go(`/lots?show=soon&within=${days}${of('site') === 'all' ? '&site=all' : ''}`)}
      />
      <Trouble error={error} />
      {pages.length > 0 && rows.length === 0 && (
        <Empty title={isFiltered ? 'No lot fits.' : 'Nothing here is kept by lot.'}>
          {show === 'expired' && !of('q')
            ? 'Nothing has expired. What expires next stands under “expire within …”.'
            : isFiltered
              ? 'Take a filter away.'
              : 'An item’s record says whether it is kept by lot.'}
        </Empty>
      )}
      <div className="flex gap-4">
        <div className="min-w-0 flex-1">
          {rows.length > 0 && (
            <DataTable
              name="Lots"
              keep="lots"
              sorts={LOT_SORTS}
              rows={rows}
              columns={COLUMNS}
              keyOf={(r) => r.id}
              onOpen={(r) => setOpened(r.id)}
              more={more}
              readAll={rowsOf(readAll, (page) => page.lots)}
              {...(mayWorkOff ? { picked, onPick: setPicked } : {})}
            />
          )}
        </div>
        {open && <LotPanel key={open.id} row={open} onClose={() => setOpened(null)} />}
      </div>
      {show === 'expired' && rows.length > 0 && !mayWorkOff && (
        <p className="pt-2 text-soft">
          A lead of the site works expired lots off. <Link to="/holds">Holds</Link> keep what is only in doubt.
        </p>
      )}
    </ItemsFrame>
  );
}

const TO = { quarantine: 'into quarantine', scrap: 'to scrap', writeOff: 'off the books' } as const;

function WorkOff({ balances, onDone }: { balances: readonly number[]; onDone: () => void }) {
  const [to, setTo] = useState<keyof typeof TO>('quarantine');
  const [reason, setReason] = useState('Expired');
  const undo = useSend('stock.undo', { onDone: (r) => toast.success(`Undone by ${r.document}.`) });
  const work = useSend('lots.workOff', {
    onDone: (r) => {
      toast.success(`${r.number}: ${counted(r.lots, 'lot', 'lots')} ${r.bin === null ? 'written off' : `in ${r.bin}`}.`, {
        action: { label: 'Undo', onClick: () => undo.mutate({ params: { id: r.document }, body: { reason: 'Worked off by mistake' } }) },
      });
      onDone();
    },
  });
  return (
    <form
      aria-label="Work expired lots off"
      className="ml-auto flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        work.mutate({ body: { balances: [...balances], to, reason } });
      }}
    >
      <Select
        label="Where to"
        value={to}
        onChange={setTo}
        options={Object.entries(TO).map(([v, w]) => [v as keyof typeof TO, w] as const)}
      />
      <div className="w-44">
        <Field label="Why" value={reason} maxLength={200} onChange={(e) => setReason(e.target.value)} />
      </div>
      <Button look={to === 'writeOff' ? 'wrong' : 'next'} type="submit" disabled={work.isPending || !reason.trim()}>
        {counted(balances.length, 'lot', 'lots')} {TO[to]}
      </Button>
    </form>
  );
}

/** At which distances home warns of this site's lots (E2). */
function Warnings({ days }: { days: readonly number[] }) {
  const [text, setText] = useState(days.join(', '));
  const warn = useSend('lots.warn', { onDone: () => toast.success('Home warns at these distances now.') });
  const read = text.split(/[\s,;]+/).filter(Boolean);
  const fault = read.some((d) => !/^\d{1,4}$/.test(d)) ? 'Key days, such as 14, 30, 60.' : undefined;
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        warn.mutate({ body: { days: read.map(Number) } });
      }}
    >
      <div className="w-48">
        <Field label="Home warns within (days)" value={text} problem={fault} onChange={(e) => setText(e.target.value)} />
      </div>
      {text !== days.join(', ') && (
        <Button type="submit" disabled={fault !== undefined || read.length === 0 || warn.isPending}>
          Save
        </Button>
      )}
    </form>
  );
}
