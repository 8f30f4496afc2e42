import { Button } from '#web/base';
import type { LotHere } from './move-step.ts';

/** Asks which of several lots is meant; the first to expire stands first and is proposed. Its label may be scanned instead. */
export function WhichLot({ name, lots, onLot }: { name: string; lots: readonly LotHere[]; onLot: (lot: string) => void }) {
  return (
    <section className="space-y-2 rounded border-4 border-next bg-sheet p-3" aria-label="Which lot">
      <p className="text-xl">
        <strong>{name}</strong>: which lot?
      </p>
      {lots.map((l, i) => (
        <Button
          key={l.lot}
          tall
          look={i === 0 ? 'next' : 'plain'}
          className="flex w-full items-baseline justify-between"
          onClick={() => onLot(l.lot)}
        >
          <span className="code text-2xl">{l.lot}</span>
          <span className="text-base">
            {l.qty} {l.expires ? `until ${l.expires}` : 'without a date'}
            {i === 0 && l.expires ? ', first to expire' : ''}
          </span>
        </Button>
      ))}
    </section>
  );
}
