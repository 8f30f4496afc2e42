import { Button, siteToday } from '#web/base';
import type { LotHere } from './move-step.ts';

const dateWords = (expires: string | null, isFirst: boolean): string =>
  expires === null ? 'no date' : expires < siteToday() ? `expired ${expires}` : `${isFirst ? 'first, ' : ''}until ${expires}`;

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
          className="flex w-full items-center justify-between gap-2"
          onClick={() => onLot(l.lot)}
        >
          <span className="code text-2xl">{l.lot}</span>
          <span className="text-base">
            {l.qty}, {dateWords(l.expires, i === 0)}
          </span>
        </Button>
      ))}
    </section>
  );
}
