import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { PutAwayRow } from '#contract/moves';
import { Button, counted, useMe, useSend } from '#web/base';
import { PutAwayRows, putAwayKey } from '#web/moves';
import { CarryFrame } from './frame.tsx';

/** Everything still at arrivals, with where it goes and why. Hands work it off on the handheld one by one, or as a round that begins here;
 *  done ones leave the list. */
export function PutAwayPage() {
  const go = useNavigate();
  const { me } = useMe();
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const [rows, setRows] = useState<readonly PutAwayRow[]>([]);
  const make = useSend('carrying.putAway', {
    onDone: (made) => {
      const homeless = made.homeless > 0 ? ` ${counted(made.homeless, 'thing stays', 'things stay')}: no bin has room.` : '';
      toast.success(`${made.number}: ${counted(made.lines, 'line', 'lines')}.${homeless}`);
      void go(`/carries/${made.id}`);
    },
  });
  const waiting = rows.filter((r) => r.round === null);
  const chosen = waiting.filter((r) => picked.has(putAwayKey(r)));
  const may = me?.role === 'lead' || me?.role === 'hand';
  return (
    <CarryFrame
      title="To put away"
      act={
        may &&
        waiting.length > 0 && (
          <Button
            look="next"
            disabled={make.isPending}
            onClick={() =>
              make.mutate({
                body:
                  chosen.length === 0
                    ? {}
                    : { only: chosen.map(({ bin, item, lot, serial, condition, sscc }) => ({ bin, item, lot, serial, condition, sscc })) },
              })
            }
          >
            {chosen.length === 0 ? 'Make a round of all' : `Make a round of ${chosen.length}`}
          </Button>
        )
      }
    >
      <PutAwayRows from="arrivals" name="To put away" title="Arrivals are clear." picked={picked} onPick={setPicked} onRows={setRows}>
        What is posted from a delivery comes here until it lies on a shelf.
      </PutAwayRows>
    </CarryFrame>
  );
}
