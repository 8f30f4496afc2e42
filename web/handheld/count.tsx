import { useCallback } from 'react';
import { useParams } from 'react-router';
import { formatQty, ONE, sumQty } from '#core/base';
import { needsLot } from '#core/items';
import {
  COUNT_BEGINS,
  countingSaid,
  isCounted,
  ownTallies,
  stepCount,
  totalIn,
  type CountAsks,
  type CountAt,
  type CountChoice,
  type CountDoes,
  type CountingSaid,
  type CountJob,
} from '#core/counting';
import { Button, Plate, Progress, ItemPicture } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { Missing } from './missing.tsx';
import { Ask, AskDate, AskSure, NumberOf, Screen } from './screen.tsx';
import { PrintLabel } from './print-label.tsx';

/** Counting: scan a bin, then what lies in it; each scan is one more, or key the number. The next bin closes this one. */
export function CountOnFloor() {
  const id = Number(useParams()['id']);
  const floor = theFloor();
  const { me } = useFloor();
  const { at, answer, scan, choose, undo } = useHand<CountAt, CountChoice, CountingSaid, CountDoes>({
    job: `count:${id}`,
    begin: COUNT_BEGINS,
    step: useCallback(
      (where, event, facts, stamp) => {
        const job = floor.count(id);
        return job ? stepCount(where, event, job, facts, stamp) : null;
      },
      [floor, id],
    ),
    sentence: countingSaid,
  });
  const job = floor.count(id);
  if (!job) return <Missing title="Count" what="count" />;
  const { facts } = floor;
  const counted = job.bins.filter((b) => isCounted(job, b.bin)).length;
  const mine = ownTallies(job, me?.id ?? 0, at.bin);
  const hint =
    at.bin === null
      ? 'Scan a bin'
      : at.asks.what === 'lot' || at.asks.what === 'serial'
        ? `Scan the ${at.asks.what}`
        : 'Scan goods, or the next bin';
  return (
    <Screen
      title={`Count ${job.zone}`}
      sub={job.number}
      answer={answer}
      onScan={scan}
      hint={hint}
      last={mine.map((t) => ({
        key: t.key,
        at: t.at,
        text: `${formatQty(t.qty)} ${facts.item(t.item)?.code ?? ''}${t.lot ? ` lot ${t.lot}` : ''}${t.serial ? ` ${t.serial}` : ''}`,
        undo: () => undo(t.key),
      }))}
    >
      <Progress done={counted} of={job.bins.length} what="bins counted" />
      {at.bin === null ? <NextBin job={job} /> : <InBin job={job} at={at} person={me?.id ?? 0} choose={choose} />}
    </Screen>
  );
}

function NextBin({ job }: { job: CountJob }) {
  const next = job.bins.find((b) => !isCounted(job, b.bin));
  return (
    <div className="pt-6 text-center">
      <p className="pb-3 text-2xl">Scan the bin that you count.</p>
      {next ? (
        <>
          <p className="text-soft">the next on the way</p>
          <Plate address={next.address} size="door" />
        </>
      ) : (
        <p className="text-xl font-semibold">Every bin was counted.</p>
      )}
    </div>
  );
}

function InBin({ job, at, person, choose }: { job: CountJob; at: CountAt; person: number; choose: (c: CountChoice) => void }) {
  const here = job.bins.find((b) => b.bin === at.bin);
  const { facts } = theFloor();
  if (!here) return null;
  const there = job.tallies.filter((t) => t.bin === here.bin);
  const latest = ownTallies(job, person, here.bin)[0];
  const item = latest && facts.item(latest.item);
  const next = job.bins.find((b) => b.bin !== here.bin && !isCounted(job, b.bin));
  return (
    <section className="space-y-3">
      <p className="text-center">
        <Plate address={here.address} size="door" />
      </p>
      <Question asks={at.asks} bin={here.address} job={job} choose={choose} />
      {latest && item && at.asks.what !== 'visit' && (
        <>
          <div className="flex items-start gap-3">
            <p className="min-w-0 flex-1 text-lg leading-tight">
              <span className="code text-2xl">{item.code}</span> {item.description}
            </p>
            <ItemPicture item={item.id} size="record" />
          </div>
          {latest.lot && (
            <p className="text-lg">
              lot <strong className="code text-xl">{latest.lot}</strong>
            </p>
          )}
          <p>
            <span className="code text-6xl" data-testid="found">
              {formatQty(totalIn(job, here.bin, latest.item, latest.lot))}
            </span>{' '}
            <span className="text-xl text-soft">{item.unit} found here</span>
          </p>
          {latest.serial === null && at.asks.what === 'goods' && (
            <NumberOf label="This scan" value={formatQty(latest.qty)} unit={item.unit} />
          )}
          {needsLot(item.tracking) && at.asks.what === 'goods' && (
            <Button tall className="w-full" onClick={() => choose({ what: 'anotherLot' })}>
              Another lot of {item.code}
            </Button>
          )}
          {at.asks.what === 'goods' && (
            <PrintLabel
              key={`${latest.item} ${latest.lot ?? ''} ${latest.serial ?? ''}`}
              goods={{
                item: latest.item,
                lot: latest.lot,
                serial: latest.serial,
                bin: here.bin,
                copies: Math.ceil(totalIn(job, here.bin, latest.item, latest.lot) / ONE),
              }}
            />
          )}
        </>
      )}
      {here.verdict && <p className="text-xl font-semibold">{here.verdict === 'none' ? 'Nothing in this bin.' : 'As expected.'}</p>}
      {there.length === 0 && !here.verdict && at.asks.what === 'goods' && (
        <div className="grid grid-cols-1 gap-2">
          <Button tall onClick={() => choose({ what: 'verdict', verdict: 'none' })}>
            Nothing in this bin
          </Button>
          {!job.blind && (
            <Button tall onClick={() => choose({ what: 'verdict', verdict: 'asExpected' })}>
              As expected, all of it
            </Button>
          )}
        </div>
      )}
      {(there.length > 0 || here.verdict) && next && at.asks.what === 'goods' && (
        <p className="flex items-center gap-2 text-soft">
          then <Plate address={next.address} />
        </p>
      )}
    </section>
  );
}

function Question({ asks, bin, job, choose }: { asks: CountAsks; bin: string; job: CountJob; choose: (c: CountChoice) => void }) {
  switch (asks.what) {
    case 'goods':
      return null;
    case 'lot':
    case 'serial':
      return (
        <Ask label={`Which ${asks.what}`}>
          <p className="text-xl">
            <strong>{asks.goods.item.code}</strong>: scan the {asks.what}
            {asks.what === 'lot' ? ', or key it below' : ' of each one'}.
          </p>
          <Button tall className="w-full" onClick={() => choose({ what: 'back' })}>
            Other goods
          </Button>
        </Ask>
      );
    case 'date':
      return (
        <AskDate enter="Count it" onDate={(date) => choose({ what: 'date', date })}>
          Lot {asks.lot} of <strong>{asks.goods.item.code}</strong> is new here: when does it expire?
        </AskDate>
      );
    case 'visit': {
      const there = job.tallies.filter((t) => t.bin === asks.bin);
      return (
        <Ask label="Counted already">
          <p className="text-xl">
            {bin} was counted already{there.length > 0 ? `: ${formatQty(sumQty(there.map((t) => t.qty)))} pieces` : ''}.
          </p>
          <Button tall look="next" className="w-full" onClick={() => choose({ what: 'back' })}>
            Leave it as it is
          </Button>
          <Button tall className="w-full" onClick={() => choose({ what: 'add' })}>
            Add to it
          </Button>
          <Button tall className="w-full" onClick={() => choose({ what: 'again' })}>
            Begin it again
          </Button>
        </Ask>
      );
    }
    case 'sure':
      return (
        <AskSure qty={formatQty(asks.qty)} onSure={() => choose({ what: 'sure' })} onBack={() => choose({ what: 'back' })}>
          {asks.code}
        </AskSure>
      );
  }
}
