import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import { Button, counted, Empty, ItemName, Plate, sayDay, sayMoment, Tag, Trouble, useMe, useRead, useSend } from '#web/base';
import { ChoiceField } from '#web/forms';
import { LabelPanel, sayLabelsSent } from '#web/labels';

/** A pallet or carton (C15): where it stands, what is in it, and what became of it. */
export function UnitPage() {
  const sscc = useParams()['sscc'] ?? '';
  const { me } = useMe();
  const { data: unit, error } = useRead('stock.unit', { params: { sscc } });
  const { data: ledger } = useRead('stock.movements', { query: { sscc, limit: 50 } });
  const print = useSend('labels.print', { onDone: (r) => sayLabelsSent(r) });
  const [isLabelling, setIsLabelling] = useState(false);
  const undo = useSend('stock.undo', { onDone: (r) => toast.success(`Undone by ${r.document}.`) });
  const move = useSend('moves.unit', {
    onDone: (r) =>
      toast.success(`${r.number}: the unit is in ${r.to}.`, {
        action: { label: 'Undo', onClick: () => undo.mutate({ params: { id: r.document }, body: { reason: 'Carried by mistake' } }) },
      }),
  });
  if (!unit) return <Trouble error={error} />;
  const { place } = unit;
  const mayCarry = me?.role === 'lead' || me?.role === 'hand';
  return (
    <article>
      <div className="flex items-start gap-4">
        <h1 className="flex items-baseline gap-3">
          <span className="text-xl">unit</span>
          <span className="code text-3xl">{unit.sscc}</span>
        </h1>
        <div className="ml-auto text-right">
          {place ? (
            <>
              <Plate address={place.address} size="door" to={`/bins/${place.bin}`} />
              <p className="pt-1">{place.site}</p>
            </>
          ) : (
            <Tag tone="strong">nothing is in it any more</Tag>
          )}
        </div>
      </div>
      {place && (
        <div className="my-4 flex flex-wrap items-end gap-4">
          {mayCarry && place.site === me.site.name && (
            <div className="w-64">
              <ChoiceField
                key={place.bin}
                kind="bin"
                label="Carry it whole to"
                placeholder="Scan or key the bin"
                value={null}
                onChange={(bin) => bin && move.mutate({ params: { sscc }, body: { to: bin.code } })}
              />
            </div>
          )}
          <Button disabled={print.isPending} onClick={() => print.mutate({ body: { kind: 'unit', sscc } })}>
            Print its label
          </Button>
          <Button look="quiet" aria-expanded={isLabelling} onClick={() => setIsLabelling(!isLabelling)}>
            See it first
          </Button>
        </div>
      )}
      {isLabelling && <LabelPanel of={`unit ${sscc}`} wanted={{ kind: 'unit', sscc }} copies onDone={() => setIsLabelling(false)} />}
      <Trouble error={move.error ?? print.error} />
      <div className="grid grid-cols-1 gap-8 lg:grid-cols-2">
        <section aria-label="What is in it">
          <h2 className="border-b-2 border-ink font-bold">In it: {counted(unit.content.length, 'thing', 'things')}</h2>
          {unit.content.length === 0 && (
            <Empty title="It is empty.">What was in it was taken out, or left. The ledger beside says how.</Empty>
          )}
          <ul>
            {unit.content.map((c) => (
              <li key={`${c.item} ${c.lot} ${c.serial} ${c.condition}`} className="flex items-baseline gap-3 border-b border-line py-1.5">
                <strong className="w-16 text-right">{c.qty}</strong>
                <span className="min-w-0 flex-1">
                  <ItemName {...c} wraps />
                  <span className="block text-sm text-soft">
                    {[c.lot && `lot ${c.lot}`, c.expires && `expires ${sayDay(c.expires)}`, c.serial && `serial ${c.serial}`]
                      .filter(Boolean)
                      .join(' · ')}
                  </span>
                </span>
                {c.expired && <Tag tone="wrong">expired</Tag>}
                {c.condition !== 'sound' && <Tag tone="wrong">{c.condition}</Tag>}
              </li>
            ))}
          </ul>
        </section>
        <section aria-label="What became of it">
          <h2 className="border-b-2 border-ink font-bold">What became of it, newest first</h2>
          <ul>
            {ledger?.movements.map((m) => (
              <li key={m.id} className="border-b border-line py-1.5">
                <span className="flex items-baseline gap-2">
                  <strong className="w-16 text-right">{m.qty}</strong>
                  <span className="code text-lg">{m.item.code}</span>
                  <span className="min-w-0 flex-1 truncate">
                    {m.from.address === m.to.address ? m.from.address : `${m.from.address} → ${m.to.address}`}
                  </span>
                  <Link className="underline" to={`/ledger?document=${m.document.id}`}>
                    {m.document.number}
                  </Link>
                </span>
                <span className="block pl-18 text-sm text-soft">
                  {m.reason.replace(` unit ${unit.sscc}`, ' this unit')}, {m.person}, {sayMoment(m.at)}
                </span>
              </li>
            ))}
          </ul>
        </section>
      </div>
    </article>
  );
}
