import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { HOLD_SORTS, type HoldRow } from '#contract/stock';
import { Button, sayMoment, Empty, Field, SidePanel, Tag, Trouble, useFilters, useMe, useReadPages, useSend, sayDay } from '#web/base';
import { Select } from '#web/forms';
import { ItemsFrame } from '#web/items';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';

const COLUMNS: readonly Column<HoldRow>[] = [
  { id: 'number', title: 'Hold', value: (r) => r.number, show: (r) => <span className="code text-lg">{r.number}</span>, width: 90 },
  { id: 'what', title: 'What', value: (r) => r.what, width: 240 },
  { id: 'qty', title: 'Quantity', value: (r) => Number(r.qty), show: (r) => <strong>{r.qty}</strong>, number: true, width: 80 },
  { id: 'reason', title: 'Because', value: (r) => r.reason, width: 220 },
  {
    id: 'until',
    title: 'Until',
    value: (r) => r.until ?? '',
    show: (r) =>
      r.overdue ? (
        <Tag tone="wrong">since {sayDay(r.until ?? '')}</Tag>
      ) : r.until ? (
        sayDay(r.until)
      ) : (
        <span className="text-soft">open</span>
      ),
    width: 110,
  },
  { id: 'by', title: 'By', value: (r) => r.by, width: 110 },
  { id: 'at', title: 'Begun', value: (r) => r.at, show: (r) => sayMoment(r.at), width: 110 },
];

/** What is held and why (B10). Holds are laid on items and bins, on their pages; here they are seen together and released. */
export function Holds() {
  const { of, set } = useFilters();
  const show = (of('show') || 'open') as 'open' | 'released';
  const [open, setOpen] = useState<HoldRow | null>(null);
  const me = useMe();
  const { pages, more, error, readAll } = useReadPages('stock.holds', { query: { show, sort: useSort('holds', HOLD_SORTS), limit: 200 } });
  const holds = pages.flatMap((p) => p.holds);
  return (
    <ItemsFrame>
      <div className="mb-2">
        <Select
          label="Which holds"
          hideLabel
          value={show}
          onChange={(v) => set('show', v)}
          options={[
            ['open', 'in force'],
            ['released', 'released'],
          ]}
        />
      </div>
      <Trouble error={error} />
      {pages.length > 0 && holds.length === 0 && (
        <Empty title={show === 'open' ? 'Nothing is held.' : 'No hold was released yet.'}>
          A hold is laid on an item’s page (a quantity, lot or serial) or on a bin’s page.
        </Empty>
      )}
      <div className="flex gap-4">
        {holds.length > 0 && (
          <div className="min-w-0 flex-1">
            <DataTable
              sorts={HOLD_SORTS}
              keep="holds"
              name="Holds"
              rows={holds}
              columns={COLUMNS}
              keyOf={(r) => r.id}
              onOpen={setOpen}
              openKey={open?.id}
              more={more}
              readAll={rowsOf(readAll, (page) => page.holds)}
            />
          </div>
        )}
        {open && (
          <SidePanel title={open.number} onClose={() => setOpen(null)}>
            <p className="text-lg">
              {open.qty} of {open.what}
            </p>
            <p>{open.reason}</p>
            <p className="text-soft">
              {open.by}, {sayMoment(open.at)}
              {open.released && `, released ${sayMoment(open.released)}`}
            </p>
            <p className="my-2 flex gap-4 underline">
              {open.item && <Link to={`/items/${open.item}`}>The item</Link>}
              {open.bin && <Link to={`/bins/${open.bin}`}>The bin</Link>}
            </p>
            {!open.released && me?.me?.role === 'lead' && <Release hold={open.id} onDone={() => setOpen(null)} />}
          </SidePanel>
        )}
      </div>
    </ItemsFrame>
  );
}

function Release({ hold, onDone }: { hold: number; onDone: () => void }) {
  const [reason, setReason] = useState('');
  const release = useSend('stock.release', {
    quiet: true,
    onDone: (r) => {
      toast.success(`${r.number}: ${r.qty} are free again${r.gone === '0' ? '' : `; ${r.gone} are no longer held anywhere`}.`);
      onDone();
    },
  });
  return (
    <form
      className="space-y-2"
      onSubmit={(e) => {
        e.preventDefault();
        release.mutate({ params: { id: hold }, body: { reason } });
      }}
    >
      <Field label="Release, because" value={reason} onChange={(e) => setReason(e.target.value)} problem={release.error?.message} />
      <Button look="next" type="submit" disabled={!reason || release.isPending}>
        Release the hold
      </Button>
    </form>
  );
}
