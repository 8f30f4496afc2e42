import { Suspense, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { addDays } from '#core/base';
import type { FailureOut, FailureReason } from '#contract/receiving';
import {
  Button,
  counted,
  Empty,
  Field,
  ItemName,
  sayMoment,
  siteToday,
  Tag,
  Trouble,
  useFilters,
  useMe,
  useRead,
  useSend,
} from '#web/base';
import { Bars, type BarsOf } from '#web/chart';
import { Select } from '#web/forms';
import { DataTable, type Column } from '#web/table';

const COLUMNS: readonly Column<FailureOut>[] = [
  { id: 'at', title: 'Found', value: (r) => r.at, show: (r) => sayMoment(r.at), width: 165 },
  { id: 'qty', title: 'Failed', value: (r) => Number(r.qty), show: (r) => <strong>{r.qty}</strong>, number: true, width: 70 },
  { id: 'item', title: 'Item', value: (r) => r.code, show: (r) => <ItemName {...r} />, width: 240 },
  { id: 'reason', title: 'Why', value: (r) => r.reason, show: (r) => <Tag tone="wrong">{r.reason}</Tag>, width: 130 },
  { id: 'supplier', title: 'Supplier', value: (r) => r.supplier ?? 'not said', width: 150 },
  { id: 'number', title: 'Delivery', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 90 },
  { id: 'arrived', title: 'Arrived', value: (r) => Number(r.arrived), number: true, width: 80 },
  { id: 'note', title: 'Note', value: (r) => r.note, width: 150 },
  { id: 'photos', title: 'Pictures', value: (r) => r.photos.length, show: (r) => <Photos files={r.photos} />, width: 80 },
  { id: 'by', title: 'Found by', value: (r) => r.by, width: 120 },
  { id: 'lot', title: 'Lot', value: (r) => r.lot ?? '', width: 100, hidden: true },
];

/** Small pictures; each opens whole in a page of its own. */
export function Photos({ files }: { files: readonly number[] }) {
  return (
    <span className="flex flex-wrap gap-1">
      {files.map((file, n) => (
        <a key={file} href={`/api/files/${file}`} target="_blank" rel="noreferrer" onClick={(e) => e.stopPropagation()}>
          <img
            src={`/api/files/${file}?thumb=1`}
            alt={`Picture ${n + 1} of the goods`}
            className="h-9 w-9 border border-line object-cover"
          />
        </a>
      ))}
    </span>
  );
}

function barsOf(sums: readonly { name: string; reason: string; qty: string }[]): BarsOf {
  const names = [...new Set(sums.map((s) => s.name))].slice(0, MOST_BARS);
  const reasons = [...new Set(sums.map((s) => s.reason))].sort();
  const of = (name: string, reason: string): number => Number(sums.find((s) => s.name === name && s.reason === reason)?.qty ?? 0);
  return { names, series: reasons.map((reason) => ({ name: reason, values: names.map((name) => of(name, reason)) })), unit: 'failed' };
}
const MOST_BARS = 12;
const BACK = [
  [30, 'the last 30 days'],
  [90, 'the last 90 days'],
  [365, 'the last year'],
] as const;

/** What failed inspection (C11): by supplier or item and by reason, and each finding with its pictures. */
export function Failures() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const { me } = useMe();
  const back = Number(of('back')) || 90;
  const by = of('by') === 'item' ? 'item' : 'supplier';
  const today = siteToday();
  const { data, error } = useRead('receiving.failures', { query: { from: addDays(today, -back), to: today } });
  const sums = data?.[by === 'item' ? 'byItem' : 'bySupplier'] ?? [];
  return (
    <section>
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <h1 className="code mr-3 text-3xl">What failed</h1>
        <Select
          label="When"
          value={back}
          onChange={(days) => set('back', days === 90 ? '' : String(days))}
          options={BACK.map(([days, words]) => [days as number, words] as const)}
        />
        <Select
          label="By"
          value={by}
          onChange={(v) => set('by', v === 'item' ? v : '')}
          options={[
            ['supplier', 'supplier'],
            ['item', 'item'],
          ]}
        />
        <Link className="ml-auto underline decoration-line underline-offset-4" to="/deliveries">
          At the dock
        </Link>
      </div>
      <Trouble error={error} />
      {data && data.failures.length === 0 && (
        <Empty title="Nothing failed.">
          What arrives is looked at on the handheld, or later here, from a delivery’s entries. {checkedWords(data.checked)}
        </Empty>
      )}
      {data && data.failures.length > 0 && (
        <>
          <div className="grid grid-cols-1 gap-8 lg:grid-cols-[3fr_2fr]">
            <Suspense fallback={<p className="text-soft">One moment …</p>}>
              <Bars lying of={barsOf(sums)} label={`How many failed, by ${by} and reason`} />
            </Suspense>
            <table className="h-fit w-full" aria-label="Looked at and failed, by supplier">
              <thead className="border-b-2 border-ink text-left text-sm text-soft">
                <tr>
                  <th className="font-normal">Supplier</th>
                  <th className="text-right font-normal">Looked at</th>
                  <th className="text-right font-normal">Failed</th>
                  <th className="text-right font-normal">Of a hundred</th>
                </tr>
              </thead>
              <tbody>
                {data.checked.map((c) => (
                  <tr key={c.supplier} className="border-b border-line">
                    <td className="py-1">{c.supplier}</td>
                    <td className="text-right">{c.checked}</td>
                    <td className="text-right font-bold">{c.failed}</td>
                    <td className="text-right">{Number(c.checked) > 0 ? ((100 * Number(c.failed)) / Number(c.checked)).toFixed(1) : ''}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <div className="mt-4">
            <DataTable
              name="What failed"
              keep="failures"
              rows={data.failures}
              columns={COLUMNS}
              keyOf={(r) => `${r.entry} ${r.reason}`}
              onOpen={(r) => void go(`/deliveries/${r.delivery}`)}
            />
          </div>
        </>
      )}
      {me?.role === 'lead' && <Reasons />}
    </section>
  );
}

function checkedWords(checked: readonly { checked: string }[]): string {
  const pieces = checked.reduce((sum, c) => sum + Number(c.checked), 0);
  return pieces === 0 ? 'Nobody looked at anything in this time.' : `${counted(pieces, 'piece was', 'pieces were')} looked at.`;
}

/** For what goods fail: the words that a hand presses. */
function Reasons() {
  const { data } = useRead('receiving.reasons', {});
  const [name, setName] = useState('');
  const set = useSend('receiving.setReason', { onDone: () => setName('') });
  return (
    <details className="mt-6 max-w-2xl border-2 border-line p-3">
      <summary className="cursor-pointer font-semibold">For what goods fail</summary>
      <p className="py-2 text-soft">Hands press one of these. What is used no more stays on what was found with it.</p>
      <ul>
        {data?.reasons.map((r) => (
          <Reason key={`${r.id} ${r.name}`} reason={r} onSet={(body) => set.mutate({ body: { id: r.id, ...body } })} />
        ))}
      </ul>
      <form
        className="flex items-end gap-2 pt-2"
        onSubmit={(e) => {
          e.preventDefault();
          set.mutate({ body: { name } });
        }}
      >
        <div className="w-64">
          <Field label="One more reason" value={name} maxLength={40} onChange={(e) => setName(e.target.value)} />
        </div>
        <Button type="submit" disabled={!name.trim() || set.isPending}>
          Add
        </Button>
      </form>
    </details>
  );
}

function Reason({ reason, onSet }: { reason: FailureReason; onSet: (body: { name: string; retired: boolean }) => void }) {
  const [name, setName] = useState(reason.name);
  return (
    <li className="flex items-center gap-3 border-t border-line py-1">
      <div className="w-64">
        <Field
          label={`Reason ${reason.name}`}
          hideLabel
          value={name}
          maxLength={40}
          onChange={(e) => setName(e.target.value)}
          onBlur={() => name.trim() && name !== reason.name && onSet({ name, retired: reason.retired })}
        />
      </div>
      <span className="flex-1 text-soft">
        {reason.retired ? 'used no more' : ''} {reason.used > 0 && `said ${counted(reason.used, 'time', 'times')}`}
      </span>
      <Button onClick={() => onSet({ name: reason.name, retired: !reason.retired })}>{reason.retired ? 'Use again' : 'Use no more'}</Button>
    </li>
  );
}
