import { useNavigate } from 'react-router';
import { Button, useSend } from '#web/base';
import { useFloor } from '#web/hands';

/** Lets a walk rest: it is nobody's until somebody takes it, with everything that was done on it. Needs a connection, as who has it is
 *  the house's to say. */
export function GiveBack({ round, carry }: { round?: number; carry?: number }) {
  const go = useNavigate();
  // What was not told yet would make it this hand's again.
  const { waiting } = useFloor();
  const onDone = (): void => void go('/h');
  const giveRound = useSend('picking.give', { onDone });
  const giveCarry = useSend('carrying.give', { onDone });
  const busy = giveRound.isPending || giveCarry.isPending || waiting > 0;
  return (
    <Button
      tall
      look="quiet"
      className="w-full"
      disabled={busy}
      onClick={() => {
        if (round !== undefined) giveRound.mutate({ params: { id: round }, body: { person: null } });
        if (carry !== undefined) giveCarry.mutate({ params: { id: carry }, body: { person: null } });
      }}
    >
      Give this round back
    </Button>
  );
}
