import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { NoticeOut, NoticeRow } from '#contract/receiving';
import {
  ago,
  Button,
  counted,
  Empty,
  ItemName,
  sayAgo,
  sayDay,
  Tag,
  Trouble,
  uploadFile,
  useFilters,
  useMe,
  useRead,
  useSend,
} from '#web/base';
import { Select } from '#web/forms';
import { DataTable, type Column } from '#web/table';
import { FileDrop } from '#web/work';

const STATE = { coming: 'on its way', arrived: 'has come', withdrawn: 'void' } as const;
const COLUMNS: readonly Column<NoticeRow>[] = [
  { id: 'number', title: 'Notice', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 90 },
  {
    id: 'due',
    title: 'Comes',
    value: (r) => r.due ?? '9999',
    show: (r) => (
      <>
        {r.due ? sayDay(r.due) : 'not said'} {r.late && <Tag tone="wrong">late</Tag>}
      </>
    ),
    width: 150,
  },
  { id: 'supplier', title: 'From', value: (r) => r.supplier, width: 220 },
  { id: 'orders', title: 'Orders', value: (r) => r.orders.map((o) => o.number).join(', ') || 'none named', width: 150 },
  { id: 'reference', title: 'Their number', value: (r) => r.reference, width: 130 },
  {
    id: 'units',
    title: 'Pallets, cartons',
    value: (r) => r.units,
    show: (r) => (r.come === 0 ? String(r.units) : `${r.come} of ${r.units} here`),
    number: true,
    width: 130,
  },
  { id: 'lines', title: 'Things', value: (r) => r.lines, number: true, width: 80 },
  { id: 'by', title: 'Taken in by', value: (r) => r.by ?? 'came by itself', width: 130 },
  { id: 'at', title: 'Since', value: (r) => r.at, show: (r) => ago(r.at), width: 80 },
];

/** What suppliers say is on its way (C1): which pallets, with what in them, so that one scan of each receives all of it. */
export function Notices() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const { me } = useMe();
  const state = of('state') === 'arrived' || of('state') === 'withdrawn' ? (of('state') as 'arrived' | 'withdrawn') : 'coming';
  const { data, error } = useRead('receiving.notices', { query: { state } });
  const mayTake = me?.role === 'lead' || me?.role === 'office';
  return (
    <section className="space-y-4">
      <div className="flex flex-wrap items-end gap-4">
        <h1 className="code text-3xl">Announced</h1>
        <Select
          label="Show"
          value={state}
          onChange={(v) => set('state', v === 'coming' ? '' : v)}
          options={[
            ['coming', 'what is on its way'],
            ['arrived', 'what has come'],
            ['withdrawn', 'what is void'],
          ]}
        />
        <Link className="ml-auto underline decoration-line underline-offset-4" to="/deliveries">
          At the dock
        </Link>
      </div>
      <Trouble error={error} />
      {data?.refused.map((r) => (
        <Refusal key={r.id} refusal={r} mayAct={mayTake} />
      ))}
      {data && data.notices.length === 0 && (
        <Empty title={state === 'coming' ? 'Nothing is announced.' : 'Nothing here.'}>
          A supplier’s notice (UBL 2.1 DespatchAdvice) is taken in here, or by itself where they drop it.
        </Empty>
      )}
      {data && data.notices.length > 0 && (
        <DataTable
          name="Notices"
          rows={data.notices}
          columns={COLUMNS}
          keyOf={(r) => r.id}
          onOpen={(r) => void go(`/deliveries/notices/${r.id}`)}
        />
      )}
      {mayTake && <TakeIn />}
    </section>
  );
}

function TakeIn() {
  const go = useNavigate();
  const [trouble, setTrouble] = useState<Error | null>(null);
  const take = useSend('receiving.takeNotice', {
    quiet: true,
    onDone: (r) => {
      toast.success(r.isNew ? `${r.number} is taken in.` : `It was taken in before, as ${r.number}.`);
      void go(`/deliveries/notices/${r.id}`);
    },
  });
  const send = async (file: File): Promise<void> => {
    setTrouble(null);
    try {
      const { id } = await uploadFile(file);
      take.mutate({ body: { file: id } });
    } catch (error) {
      setTrouble(error as Error);
    }
  };
  return (
    <div className="max-w-xl space-y-2">
      <FileDrop
        label="Drop a supplier’s notice (XML) here, or choose one"
        accept=".xml"
        busy={take.isPending}
        onFile={(f) => void send(f)}
      />
      <Trouble error={trouble ?? take.error} />
    </div>
  );
}

function Refusal({ refusal, mayAct }: { refusal: { id: number; fileName: string; says: string; at: string }; mayAct: boolean }) {
  const seen = useSend('receiving.seenRefused');
  return (
    <section role="alert" className="flex items-start gap-3 border-2 border-wrong bg-wrong-pale p-3">
      <p className="min-w-0 flex-1">
        <strong>A dropped file was not taken in</strong>, {sayAgo(refusal.at)}. {refusal.says}
      </p>
      {mayAct && (
        <Button disabled={seen.isPending} onClick={() => seen.mutate({ params: { id: refusal.id } })}>
          Seen
        </Button>
      )}
    </section>
  );
}

const UNIT_STATE = { coming: 'on its way', scanned: 'being received', come: 'has come' } as const;

/** One notice: pallet by pallet, what is in it and whether it has come. */
export function NoticePage() {
  const id = Number(useParams()['id']);
  const { me } = useMe();
  const { data: notice, error } = useRead('receiving.notice', { params: { id } });
  const withdraw = useSend('receiving.withdrawNotice');
  if (!notice) return <Trouble error={error} />;
  const mayAct = me?.role === 'lead' || me?.role === 'office';
  const set = (withdrawn: boolean): void => withdraw.mutate({ params: { id }, body: { withdrawn } });
  return (
    <article>
      <div className="flex flex-wrap items-baseline gap-3">
        <h1 className="code text-3xl">{notice.number}</h1>
        <Tag tone={notice.state === 'coming' ? 'strong' : 'plain'}>{STATE[notice.state]}</Tag>
        <span>
          {notice.supplier}, their {notice.reference}
          {notice.due && `, comes ${sayDay(notice.due)}`} {notice.late && <Tag tone="wrong">late</Tag>}
        </span>
        {notice.orders.map((o) => (
          <Link key={o.id} className="underline" to={`/purchasing/${o.id}`}>
            {o.number}
          </Link>
        ))}
        {mayAct && notice.state !== 'arrived' && (
          <Button look="quiet" className="ml-auto" disabled={withdraw.isPending} onClick={() => set(notice.state === 'coming')}>
            {notice.state === 'coming' ? 'It is void' : 'It stands after all'}
          </Button>
        )}
      </div>
      <p className="py-2 text-soft">
        {notice.by ? `Taken in by ${notice.by}` : 'Came by itself'} from {notice.fileName}. A hand receives a pallet by one scan of its
        label.
      </p>
      <Trouble error={withdraw.error} />
      <div className="grid grid-cols-1 gap-x-8 gap-y-4 lg:grid-cols-2">
        {notice.unitList.map((u) => (
          <Unit key={u.sscc ?? 'loose'} unit={u} />
        ))}
      </div>
    </article>
  );
}

function Unit({ unit }: { unit: NoticeOut['unitList'][number] }) {
  return (
    <section aria-label={unit.sscc ?? 'Loose'}>
      <h2 className="flex flex-wrap items-baseline gap-2 border-b-2 border-ink">
        {unit.sscc === null ? (
          <strong>Loose</strong>
        ) : unit.state === 'come' ? (
          <Link className="code text-lg underline" to={`/units/${unit.sscc}`}>
            {unit.sscc}
          </Link>
        ) : (
          <span className="code text-lg">{unit.sscc}</span>
        )}
        <span className="text-soft">{counted(unit.goods.length, 'thing', 'things')}</span>
        {unit.sscc !== null && !unit.byScan && <Tag tone="wrong">lots or serials not told</Tag>}
        <span className="ml-auto">
          {unit.delivery ? (
            <Link className="underline" to={`/deliveries/${unit.delivery.id}`}>
              {UNIT_STATE[unit.state]}, {unit.delivery.number}
            </Link>
          ) : (
            UNIT_STATE[unit.state]
          )}
        </span>
      </h2>
      <ul>
        {unit.goods.map((g, n) => (
          <li key={n} className="flex items-baseline gap-3 border-b border-line py-1">
            <strong className="w-14 text-right">{g.qty}</strong>
            <span className="min-w-0 flex-1 truncate">
              <ItemName {...g} />
            </span>
            <span className="text-sm text-soft">
              {[g.lot && `lot ${g.lot}`, g.expires && `until ${sayDay(g.expires)}`, g.serial && `serial ${g.serial}`]
                .filter(Boolean)
                .join(' · ')}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
