import { useState } from 'react';
import type { MoveDoubt } from '#core/moves';
import { placesSentence } from '#core/places';
import { Button, Field, Plate } from '#web/base';
import { theFloor } from '#web/hands';
import { Ask } from './screen.tsx';

/** Asks once whether goods go into a bin although something speaks against it; another bin is the louder answer. */
export function Sure({
  to,
  doubt,
  onBack,
  onSure,
}: {
  to?: string | undefined;
  doubt: MoveDoubt;
  onBack: () => void;
  onSure: (reason: string) => void;
}) {
  const lead = theFloor().get().me?.role === 'lead';
  const [reason, setReason] = useState('');
  return (
    <Ask label="Is that so">
      {to !== undefined && (
        <p className="text-center">
          <Plate address={to} size="door" />
        </p>
      )}
      <p className="text-xl">{doubtWords(doubt)}</p>
      <Button tall look="next" className="w-full" onClick={onBack}>
        Another bin
      </Button>
      {doubt.why !== 'use' && lead && (
        <Field tall label="Put it there all the same, because" value={reason} onChange={(e) => setReason(e.target.value)} />
      )}
      <Button tall className="w-full" onClick={() => onSure(reason)}>
        {doubt.why === 'use' ? 'Yes, there' : 'It lies there all the same'}
      </Button>
      {doubt.why !== 'use' && !lead && <p className="text-soft">The lead looks at it then.</p>}
    </Ask>
  );
}

function doubtWords(doubt: MoveDoubt): string {
  switch (doubt.why) {
    case 'rule':
      return placesSentence(doubt.broken);
    case 'expired':
      return `Lot ${doubt.lot} expired on ${doubt.expired}. It belongs into quarantine or scrap.`;
    case 'use':
      return `This is the ${doubt.use} bin. Does it go there?`;
  }
}
