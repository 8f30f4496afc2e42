import { useCallback, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { formatQty } from '#core/base';
import { needsLot } from '#core/items';
import { isExpired } from '#core/lots';
import {
  lineOf,
  linesOf,
  ownEntries,
  RECEIVE_BEGINS,
  receivingSaid,
  stepReceive,
  type DeliveryJob,
  type HandEntry,
  type ReceiveAsks,
  type ReceiveAt,
  type ReceiveDoes,
  type ReceivingSaid,
  type ReceiveChoice,
} from '#core/receiving';
import { Button, Empty, TallyBar, Tag, ItemPicture, sayDate } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { Missing } from './missing.tsx';
import { Ask, AskDate, AskSure, NumberOf, Screen } from './screen.tsx';

const HINTS: Readonly<Record<ReceiveAsks['what'], string>> = {
  goods: 'Scan goods',
  lot: 'Scan or key the lot',
  date: 'Key the date above',
  whichDate: 'Scan other goods',
  serial: 'Scan the serial',
  notOrdered: 'Scan other goods',
  sure: 'Key it again, or scan on',
};

/** Receiving on the floor: each scan is one of the pack scanned; the next scan saves the last one. Nothing here is stock yet. */
export function ReceiveOnFloor() {
  const id = Number(useParams()['id']);
  const go = useNavigate();
  const floor = theFloor();
  const { me } = useFloor();
  const { at, answer, scan, choose, undo } = useHand<ReceiveAt, ReceiveChoice, ReceivingSaid, ReceiveDoes>({
    job: `delivery:${id}`,
    begin: RECEIVE_BEGINS,
    step: useCallback(
      (where, event, facts, stamp) => {
        const job = floor.delivery(id);
        return job ? stepReceive(where, event, job, facts, stamp) : null;
      },
      [floor, id],
    ),
    sentence: receivingSaid,
    onSaid: (said) => said.said === 'receiving.finished' && void go('/h'),
  });
  const job = floor.delivery(id);
  if (!job) return <Missing title="Receive" what="delivery" />;
  const mine = ownEntries(job, me?.id ?? 0);
  const latest = mine[0];
  const wordsOf = (e: HandEntry): string =>
    [`${formatQty(e.qty)} ${e.item === null ? e.code : floor.facts.item(e.item)?.code}`, e.lot && `lot ${e.lot}`, e.serial]
      .filter(Boolean)
      .join(' ');
  return (
    <Screen
      title={`Receive ${job.purchaseOrder ?? job.number}`}
      sub={job.supplier}
      answer={answer}
      onScan={scan}
      hint={HINTS[at.asks.what]}
      last={mine.map((e) => ({ key: e.key, at: e.at, text: wordsOf(e), undo: () => undo(e.key) }))}
    >
      <Question asks={at.asks} choose={choose} />
      {latest ? (
        <LastEntry job={job} entry={latest} choose={choose} quiet={!['goods', 'serial'].includes(at.asks.what)} />
      ) : (
        at.asks.what === 'goods' && (
          <Empty title="Scan the first piece.">Each scan is one of the pack that you scan; or scan once and key how many.</Empty>
        )
      )}
      <Lines job={job} />
      {job.state === 'scanning' && job.entries.length > 0 && (at.asks.what === 'goods' || at.asks.what === 'serial') && (
        <Button tall className="w-full" onClick={() => choose({ what: 'finish' })}>
          All scanned: hand in for review
        </Button>
      )}
      {job.state === 'review' && <p className="text-lg font-semibold">Handed in for review. A scan opens it again.</p>}
    </Screen>
  );
}

/** The last thing that this person scanned, with how its line stands: the tally stays in sight whatever is asked. */
function LastEntry({
  job,
  entry,
  choose,
  quiet,
}: {
  job: DeliveryJob;
  entry: HandEntry;
  choose: (c: ReceiveChoice) => void;
  quiet: boolean;
}) {
  const { facts } = theFloor();
  const item = entry.item === null ? undefined : facts.item(entry.item);
  if (!item)
    return (
      <section aria-label="Last entry" className="rounded border-2 border-ink bg-sheet p-3">
        <p className="text-lg">
          <span className="code text-2xl">{entry.code}</span> Nobody knows this code yet; it is tied to an item later.
        </p>
        <NumberOf label="This scan" value={formatQty(entry.qty)} unit="" />
      </section>
    );
  const line = lineOf(job, item.id);
  const waiting = job.lines.find((l) => l.item === item.id)?.waiting ?? 0;
  return (
    <section aria-label="Last entry" className={`rounded border-2 bg-sheet p-3 ${quiet ? 'border-line' : 'border-ink'}`}>
      <div className="flex items-start gap-3">
        <p className="min-w-0 flex-1 text-lg leading-tight">
          <span className="code text-2xl">{item.code}</span> {item.description}
        </p>
        <ItemPicture item={item.id} size={quiet ? 'bench' : 'record'} />
      </div>
      <p>
        <span className={`code ${quiet ? 'text-4xl' : 'text-6xl'}`} data-testid="arrived">
          {formatQty(line.arrived)}
        </span>{' '}
        <span className="text-xl text-soft">{line.expected === 0 ? item.unit : `of ${formatQty(line.expected)} ${item.unit}`}</span>
      </p>
      <TallyBar wide expected={formatQty(line.expected)} arrived={formatQty(line.arrived)} standing={line.standing} />
      {isExpired(entry.expires, facts.today) && <Tag tone="wrong">expired: goes to quarantine</Tag>}
      {waiting > 0 && (
        <p className="pt-2">
          <Tag tone="strong">
            {waiting} {waiting === 1 ? 'order waits' : 'orders wait'} for this
          </Tag>
        </p>
      )}
      {!quiet && !entry.serial && (
        <div className="pt-2">
          <NumberOf label="This scan" value={formatQty(entry.qty)} unit={item.unit} />
        </div>
      )}
      {!quiet && needsLot(item.tracking) && (
        <Button tall className="mt-2 w-full" onClick={() => choose({ what: 'anotherLot' })}>
          Not lot {entry.lot}: another lot
        </Button>
      )}
    </section>
  );
}

function Question({ asks, choose }: { asks: ReceiveAsks; choose: (c: ReceiveChoice) => void }) {
  switch (asks.what) {
    case 'goods':
      return null;
    case 'lot':
      return (
        <Ask label="Which lot">
          <p className="text-xl">
            <strong>{asks.goods.item.code}</strong>: which lot? Scan it, or key it below.
          </p>
        </Ask>
      );
    case 'serial':
      return (
        <Ask label="Which serial">
          <p className="text-xl">
            <strong>{asks.goods.item.code}</strong>: scan the serial of each one.
          </p>
        </Ask>
      );
    case 'date':
      return (
        <AskDate
          enter="Enter it"
          onDate={(date) => choose({ what: 'date', date })}
          beside={
            <Button tall className="w-full" onClick={() => choose({ what: 'anotherLot' })}>
              It is another lot
            </Button>
          }
        >
          <strong>{asks.goods.item.code}</strong>, lot {asks.lot}: when does it expire?
        </AskDate>
      );
    case 'whichDate':
      return (
        <Ask label="Which date">
          <p className="text-xl">
            <strong>{asks.goods.item.code}</strong>, lot {asks.lot}, is known to expire on {sayDate(asks.known)}; this says{' '}
            {sayDate(asks.given)}. One lot has one date.
          </p>
          <Button tall look="next" className="w-full" onClick={() => choose({ what: 'knownDate' })}>
            It is {asks.known}
          </Button>
          <Button tall className="w-full" onClick={() => choose({ what: 'anotherLot' })}>
            It is another lot
          </Button>
        </Ask>
      );
    case 'notOrdered':
      return (
        <Ask label="Not ordered">
          <p className="text-xl">
            <strong>{asks.goods.item.code}</strong> is not on this order.
          </p>
          <Button look="next" tall className="w-full" onClick={() => choose({ what: 'takeAnyway' })}>
            Take it anyway
          </Button>
          <Button tall className="w-full" onClick={() => choose({ what: 'setAside' })}>
            Not this one
          </Button>
        </Ask>
      );
    case 'sure':
      return (
        <AskSure qty={formatQty(asks.qty)} onSure={() => choose({ what: 'sure' })} onBack={() => choose({ what: 'notSure' })}>
          {asks.code}
          {asks.expected > 0 && `, and ${formatQty(asks.expected)} are expected`}
        </AskSure>
      );
  }
}

function Lines({ job }: { job: DeliveryJob }) {
  const { facts } = theFloor();
  const [shown, setShown] = useState(false);
  const lines = linesOf(job);
  const full = lines.filter((l) => l.standing === 'full').length;
  return (
    <details className="rounded border-2 border-line p-2" onToggle={(e) => setShown(e.currentTarget.open)}>
      <summary className="min-h-12 cursor-pointer text-lg leading-[3rem]">
        {full} of {lines.length} lines full
      </summary>
      {/* Drawn only while somebody looks: a scan must not wait for five hundred lines. */}
      {shown && (
        <ul>
          {lines.map((l) => (
            <li key={l.item} className="border-t border-line py-1.5">
              <span className="block truncate">
                <span className="code">{facts.item(l.item)?.code}</span> {facts.item(l.item)?.description}
              </span>
              <span className="flex items-center gap-3">
                <strong className="w-24">
                  {formatQty(l.arrived)} of {formatQty(l.expected)}
                </strong>
                <TallyBar wide expected={formatQty(l.expected)} arrived={formatQty(l.arrived)} standing={l.standing} />
              </span>
            </li>
          ))}
        </ul>
      )}
    </details>
  );
}
