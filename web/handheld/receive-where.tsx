import { formatQty, ONE } from '#core/base';
import { shortSscc } from '#core/floor';
import { PUT_AWAY_WHY, suggestFor, suggestForUnit } from '#core/moves';
import type { DeliveryJob, ReceiveAsks, ReceiveChoice } from '#core/receiving';
import { Button, Plate } from '#web/base';
import { theFloor } from '#web/hands';
import { Ask, NumberOf } from './screen.tsx';

type Choose = (choice: ReceiveChoice) => void;

/** Where goods go that arrived (C10): into a bin that is scanned, all or so many of them; the best place that the device knows is named
 *  with its reason. Or they are left to be put away. */
export function WhereTo({ asks, job, choose }: { asks: Extract<ReceiveAsks, { what: 'whereTo' }>; job: DeliveryJob; choose: Choose }) {
  const { facts } = theFloor();
  const item = facts.item(asks.item);
  const arrivals = [...facts.bins()].find((b) => b.use === 'arrivals');
  const suggested =
    arrivals && asks.sscc !== null
      ? suggestForUnit({ bin: arrivals.id, goods: goodsOf(job, asks.sscc) }, facts)
      : item && arrivals
        ? suggestFor({ from: arrivals.id, item, lot: null, qty: asks.qty ?? ONE }, facts)
        : null;
  const bin = suggested ? facts.bin(suggested.bin) : undefined;
  return (
    <Ask label="Where to">
      <p className="text-xl">
        {asks.sscc === null ? (
          <>
            <strong>{asks.code}</strong>: scan the bin where they go.
          </>
        ) : (
          <>
            Unit <strong className="code">{shortSscc(asks.sscc)}</strong>: scan the bin where all of it goes.
          </>
        )}
      </p>
      {bin && suggested && (
        <p className="flex flex-wrap items-center gap-2 text-lg">
          <Plate address={bin.address} /> {PUT_AWAY_WHY[suggested.why]}
        </p>
      )}
      {asks.sscc === null && (
        <NumberOf label="Only so many of them" value={asks.qty === null ? '' : formatQty(asks.qty)} unit={item?.unit ?? ''} />
      )}
      <Button tall className="w-full" onClick={() => choose({ what: 'later', entry: asks.entry })}>
        {asks.sscc === null ? 'Leave them at arrivals' : 'Leave it at arrivals'}
      </Button>
    </Ask>
  );
}

const goodsOf = (job: DeliveryJob, sscc: string) =>
  job.entries.flatMap((e) => (e.sscc === sscc && e.item !== null ? [{ item: e.item, lot: e.lot, qty: e.qty }] : []));
