import { shortSscc } from '#core/floor';
import type { DeliveryJob, HandEntry, ReceiveChoice } from '#core/receiving';
import { Button, counted, Plate, Unreached, useSend } from '#web/base';
import { theFloor } from '#web/hands';
import { UnitGoods } from './unit-goods.tsx';

type Choose = (choice: ReceiveChoice) => void;

/** The pallet or carton into which everything is scanned until it is closed. */
export function OpenUnit({ sscc, job, choose }: { sscc: string; job: DeliveryJob; choose: Choose }) {
  const things = job.entries.filter((e) => e.sscc === sscc).length;
  return (
    <section aria-label="Open unit" className="flex items-center gap-3 rounded border-2 border-ink bg-shade p-3">
      <p className="min-w-0 flex-1 text-lg leading-tight">
        Into unit <span className="code text-2xl">{shortSscc(sscc)}</span>
        <span className="block text-soft">{counted(things, 'thing', 'things')} in it</span>
      </p>
      <Button tall onClick={() => choose({ what: 'closeUnit' })}>
        That is all
      </Button>
    </section>
  );
}

/** A pallet or carton that was taken by one scan: all that came with it. */
export function LastUnit({ entries, choose, quiet }: { entries: readonly HandEntry[]; choose: Choose; quiet: boolean }) {
  const { facts } = theFloor();
  const [first] = entries;
  const bin = entries.find((e) => e.bin !== null)?.bin ?? null;
  if (!first) return null;
  return (
    <section aria-label="Last entry" className={`space-y-2 rounded border-2 bg-sheet p-3 ${quiet ? 'border-line' : 'border-ink'}`}>
      <p className="text-lg leading-tight">
        Unit <span className="code text-4xl">{shortSscc(first.sscc ?? '')}</span>
        <span className="block text-soft">{counted(entries.length, 'thing', 'things')}, as announced</span>
      </p>
      <UnitGoods goods={entries} />
      {bin !== null && (
        <p className="flex items-center gap-2 text-lg">
          goes into <Plate address={facts.bin(bin)?.address ?? ''} />
        </p>
      )}
      {!quiet && (
        <Button tall className="w-full" onClick={() => choose({ what: 'whereTo', entry: first.key })}>
          {bin === null ? 'The whole unit into a bin' : 'Into another bin'}
        </Button>
      )}
    </section>
  );
}

/** A pallet that came without a label gets one of the house's. Without a connection one of those that were printed ahead does it. */
export function NoLabel() {
  const print = useSend('labels.print');
  return (
    <div className="space-y-1">
      <Button tall look="quiet" disabled={print.isPending} onClick={() => print.mutate({ body: { kind: 'unitsAhead', count: 1 } })}>
        Print a label for a pallet without one
      </Button>
      {print.isSuccess && <p className="text-lg">It waits at the printer. Stick it on, scan it, then scan what is in it.</p>}
      {print.error && (
        <p className="text-lg font-semibold text-wrong">
          {print.error instanceof Unreached
            ? 'There is no connection here. Take one of the labels that were printed ahead.'
            : print.error.message}
        </p>
      )}
    </div>
  );
}
