import { useCallback } from 'react';
import { useNavigate, useParams } from 'react-router';
import { formatQty, ONE, sumQty } from '#core/base';
import { shortSscc } from '#core/floor';
import { needsLot } from '#core/items';
import { isExpired } from '#core/lots';
import {
  deliveryTitle,
  entriesTogether,
  fromWhom,
  lineOf,
  ownEntries,
  RECEIVE_BEGINS,
  receivingSaid,
  stepReceive,
  type DeliveryJob,
  type DeliveryRef,
  type HandEntry,
  type ReceiveAsks,
  type ReceiveAt,
  type ReceiveChoice,
  type ReceiveDoes,
  type ReceivingSaid,
} from '#core/receiving';
import { Button, Empty, Plate, TallyBar, Tag, ItemPicture } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { Missing } from './missing.tsx';
import { Question } from './receive-asks.tsx';
import { Entries, lastScans, Lines, LookUp, Paper } from './receive-lists.tsx';
import { FoundWords, ToInspect } from './receive-inspect.tsx';
import { LastUnit, NoLabel, OpenUnit } from './receive-unit.tsx';
import { NumberOf, Screen } from './screen.tsx';
import type { Scan } from './each-scan.ts';
import { LabelsWithEachScan, PrintLabel, type LabelledGoods } from './print-label.tsx';

const HINTS: Readonly<Record<ReceiveAsks['what'], string>> = {
  goods: 'Scan goods',
  lot: 'Scan or key the lot',
  date: 'Key the date above',
  whichDate: 'Scan other goods',
  serial: 'Scan the serial',
  notOrdered: 'Scan other goods',
  howMany: 'Key how many',
  inspect: 'Scan on, or key how many',
  whereTo: 'Scan the bin',
  sure: 'Key it again, or scan on',
};

/** Receiving on the floor: each scan is one of the pack scanned; the next scan saves the last one. Nothing here is stock yet. */
export function ReceiveOnFloor() {
  const param = useParams()['id'] ?? '';
  const id: DeliveryRef = /^\d+$/.test(param) ? Number(param) : param;
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
  const isOpen = at.asks.what === 'goods' || at.asks.what === 'serial';
  return (
    <Screen
      title={deliveryTitle(job)}
      sub={fromWhom(job)}
      answer={answer}
      onScan={scan}
      hint={HINTS[at.asks.what]}
      last={lastScans(job, mine).map((e) => ({ ...e, undo: () => undo(e.key) }))}
    >
      {at.unit !== null && <OpenUnit sscc={at.unit} job={job} choose={choose} />}
      <Question asks={at.asks} job={job} choose={choose} />
      {latest && entriesTogether(job, latest).length > 1 ? (
        <LastUnit entries={entriesTogether(job, latest)} choose={choose} quiet={at.asks.what !== 'goods'} />
      ) : latest ? (
        <LastEntry
          job={job}
          entry={latest}
          choose={choose}
          quiet={at.asks.what !== 'goods' && !(at.asks.what === 'serial' && at.asks.goods.item.id === latest.item)}
        />
      ) : (
        at.asks.what === 'goods' && (
          <Empty title="Scan the first piece.">Each scan is one of the pack that you scan; or scan once and key how many.</Empty>
        )
      )}
      <LabelsWithEachScan key={id} scans={mine.flatMap(labelledScan)} />
      {isOpen && <LookUp choose={choose} />}
      <Lines job={job} />
      {isOpen && <ToInspect job={job} choose={choose} />}
      <Entries mine={mine} choose={choose} undo={undo} />
      <Paper key={job.paper.doc} job={job} choose={choose} />
      {isOpen && at.unit === null && !job.back && <NoLabel />}
      {job.state === 'scanning' && job.entries.length > 0 && isOpen && (
        <Button tall className="w-full" onClick={() => choose({ what: 'finish' })}>
          All scanned: hand in for review
        </Button>
      )}
      {job.state === 'review' && <p className="text-lg font-semibold">Handed in for review. A scan opens it again.</p>}
    </Screen>
  );
}

const goodsOf = ({ lot, expires, serial, bin, qty }: HandEntry): Omit<LabelledGoods, 'item'> => ({
  ...{ lot, expires, serial, bin, copies: Math.ceil(qty / ONE) },
});
// What is unknown has no label yet, and a pallet has its own.
const labelledScan = (e: HandEntry): (Scan & LabelledGoods)[] =>
  e.item === null || e.sscc !== null ? [] : [{ key: e.key, at: e.at, item: e.item, ...goodsOf(e) }];

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
        <span className="text-xl text-soft">
          {line.expected === 0 ? item.unit : `of ${formatQty(line.expected)} ${item.unit}${job.back ? ' that left' : ''}`}
        </span>
      </p>
      {/* Of what left, nobody expects all: there is nothing to fill. */}
      {(!job.back || line.standing !== 'full') && (
        <TallyBar wide expected={formatQty(line.expected)} arrived={formatQty(line.arrived)} standing={line.standing} />
      )}
      {entry.sscc !== null && <p className="text-soft">in unit {shortSscc(entry.sscc)}</p>}
      {isExpired(entry.expires, facts.today) && <Tag tone="wrong">expired: goes to quarantine</Tag>}
      {entry.finding !== null && <FoundWords entry={entry} />}
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
      {!quiet && (
        <Button tall className="mt-2 w-full" onClick={() => choose({ what: 'inspect', entry: entry.key })}>
          {entry.finding === null ? 'Inspect these' : 'Inspect these again'}
        </Button>
      )}
      {entry.bin !== null && (
        <p className="flex items-center gap-2 pt-2 text-lg">
          go into <Plate address={facts.bin(entry.bin)?.address ?? ''} />
        </p>
      )}
      {!quiet && (
        <Button tall className="mt-2 w-full" onClick={() => choose({ what: 'whereTo', entry: entry.key })}>
          {entry.sscc !== null ? 'The whole unit into a bin' : entry.bin === null ? 'Straight into a bin' : 'Into another bin'}
        </Button>
      )}
      {!quiet && needsLot(item.tracking) && (
        <Button tall className="mt-2 w-full" onClick={() => choose({ what: 'anotherLot' })}>
          Not lot {entry.lot}: another lot
        </Button>
      )}
      {entry.sscc === null && (
        <PrintLabel
          all={Math.ceil(sumQty(job.entries.filter((e) => e.item === item.id && e.lot === entry.lot).map((e) => e.qty)) / ONE)}
          goods={{ ...goodsOf(entry), item: item.id }}
        />
      )}
    </section>
  );
}
