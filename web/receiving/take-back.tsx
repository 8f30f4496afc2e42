import { useState } from 'react';
import { useNavigate } from 'react-router';
import type { Choice } from '#contract/desk';
import { Button, Field, Trouble, useFilters, useSend } from '#web/base';
import { ChoiceField } from '#web/forms';

/** Begins to take goods back (C19): against the shipment with which they left, or without one. They are scanned, looked at and posted like
 *  any delivery. */
export function TakeBack() {
  const go = useNavigate();
  const { of } = useFilters();
  const [shipment, setShipment] = useState(of('shipment'));
  const [customer, setCustomer] = useState<Choice | null>(null);
  const begin = useSend('receiving.takeBack', { quiet: true, onDone: (r) => void go(`/deliveries/${r.id}`) });
  const isKnown = shipment.trim() !== '';
  return (
    <section className="max-w-2xl">
      <h1 className="code mb-3 text-3xl">Take goods back</h1>
      <form
        className="space-y-3"
        onSubmit={(e) => {
          e.preventDefault();
          begin.mutate({ body: { shipment: shipment.trim(), customer: isKnown ? null : (customer?.id ?? null) } });
        }}
      >
        <div className="flex flex-wrap items-end gap-3">
          <div className="w-64">
            <Field
              code
              label="Shipment or order, scanned or keyed"
              data-takes-code=""
              value={shipment}
              maxLength={60}
              autoFocus
              onChange={(e) => setShipment(e.target.value)}
            />
          </div>
          {!isKnown && (
            <div className="w-72">
              <ChoiceField kind="customer" label="Or from which customer" value={customer} onChange={setCustomer} />
            </div>
          )}
        </div>
        <Trouble error={begin.error} />
        <Button look="next" type="submit" disabled={begin.isPending}>
          {isKnown ? 'Take back what left with it' : 'Take back without a shipment'}
        </Button>
        <p className="text-soft">
          Then scan what came, look at it, and post it: what passed lies at arrivals to be put away, what failed in quarantine. On a
          handheld, scan the shipment.
        </p>
      </form>
    </section>
  );
}
