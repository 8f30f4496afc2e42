import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { LotRow, LotTie } from '#contract/lots';
import { Button, Field, Plate, sayDay, sayMoment, SidePanel, Trouble, useMe, useRead, useSend } from '#web/base';
import { DateField } from '#web/forms';

/** A lot in a bin beside the list: where it came from and what became of it (E6), and a new number for so many of it. */
export function LotPanel({ row, onClose }: { row: LotRow; onClose: () => void }) {
  const { me } = useMe();
  const { data, error } = useRead('lots.ties', { params: { id: row.item, lot: row.lot } });
  return (
    <SidePanel
      title={
        <>
          <span className="code text-2xl">{row.code}</span> lot {row.lot}
        </>
      }
      onClose={onClose}
    >
      <p>
        {row.qty} {row.unit} in <Plate address={row.address} />
        {row.expires && `, good until ${sayDay(row.expires)}`}
      </p>
      <p className="py-2">
        <Link className="underline" to={`/ledger?item=${row.item}&lot=${encodeURIComponent(row.lot)}`}>
          All its movements
        </Link>
      </p>
      <Trouble error={error} />
      {data && <Ties title="It came from" ties={data.cameFrom} item={row.item} />}
      {data && <Ties title="Of it became" ties={data.became} item={row.item} />}
      {me?.role === 'lead' && me.site.name === row.site && <NewNumber key={row.id} row={row} onDone={onClose} />}
    </SidePanel>
  );
}

function Ties({ title, ties, item }: { title: string; ties: readonly LotTie[]; item: number }) {
  if (ties.length === 0) return null;
  return (
    <section aria-label={title} className="mb-3">
      <h3 className="border-b border-ink font-bold">{title}</h3>
      <ul>
        {ties.map((t) => (
          <li key={`${t.document.id} ${t.lot}`} className="border-b border-line py-1" style={{ paddingLeft: `${(t.steps - 1) * 1}rem` }}>
            <Link className="font-semibold underline" to={`/ledger?item=${item}&lot=${encodeURIComponent(t.lot)}`}>
              lot {t.lot}
            </Link>{' '}
            {t.steps > 1 && <span className="text-soft">by way of {t.of} </span>}
            <span className="block text-sm text-soft">
              {t.qty}, “{t.reason}”, {t.by}, {sayMoment(t.at)}, {t.document.number}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function NewNumber({ row, onDone }: { row: LotRow; onDone: () => void }) {
  const [form, setForm] = useState({ lot: '', qty: row.qty, expires: '', reason: '' });
  const set = (part: Partial<typeof form>): void => setForm((was) => ({ ...was, ...part }));
  const undo = useSend('stock.undo', { onDone: (r) => toast.success(`Undone by ${r.document}.`) });
  const relabel = useSend('lots.relabel', {
    quiet: true,
    onDone: (r) => {
      toast.success(`${r.number}: ${form.qty} ${row.code} are lot ${r.lot} now.`, {
        action: { label: 'Undo', onClick: () => undo.mutate({ params: { id: r.document }, body: { reason: 'Numbered by mistake' } }) },
      });
      onDone();
    },
  });
  return (
    <form
      aria-label="A new lot number"
      className="space-y-2 border-2 border-ink p-3"
      onSubmit={(e) => {
        e.preventDefault();
        const { lot, qty, expires, reason } = form;
        relabel.mutate({ body: { balance: row.id, lot: lot.trim(), qty: qty.replace(',', '.'), expires: expires || null, reason } });
      }}
    >
      <h3 className="font-bold">A new number for so many of it</h3>
      <div className="grid grid-cols-2 gap-2">
        <Field code label="New lot" data-takes-code="" value={form.lot} maxLength={40} onChange={(e) => set({ lot: e.target.value })} />
        <Field label={`How many, of ${row.qty}`} inputMode="decimal" value={form.qty} onChange={(e) => set({ qty: e.target.value })} />
      </div>
      <DateField label="Expires (as before, where it is left out)" value={form.expires} onChange={(expires) => set({ expires })} />
      <Field label="Why" value={form.reason} maxLength={200} onChange={(e) => set({ reason: e.target.value })} />
      <Trouble error={relabel.error} />
      <Button look="next" type="submit" disabled={relabel.isPending || !form.lot.trim() || !form.qty.trim() || !form.reason.trim()}>
        Give it the new number
      </Button>
    </form>
  );
}
