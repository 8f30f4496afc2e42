import { useCallback, useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { formatQty, ONE } from '#core/base';
import {
  openOf,
  kitsToMake,
  nextKit,
  ownMade,
  ownTaken,
  partsOnCart,
  PICK_BEGINS,
  pickingSaid,
  stepPick,
  stopAt,
  stopsOf,
  takenOf,
  type HandKit,
  type HandPick,
  type HandStop,
  type PickAsks,
  type PickAt,
  type PickChoice,
  type PickDoes,
  type PickingSaid,
  type RoundJob,
  type TroubleKind,
} from '#core/picking';
import { Button, Empty, Field, Plate, Tag, sayDay, ItemPicture } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { WayMap, type MapStop } from '#web/picking';
import { GiveBack } from './give-back.tsx';
import { Missing } from './missing.tsx';
import { Ask, NumberOf, Screen } from './screen.tsx';
import { PrintLabel } from './print-label.tsx';

const TROUBLES: readonly (readonly [TroubleKind, string])[] = [
  ['short', 'Too few there'],
  ['damaged', 'Damaged'],
  ['notFound', 'Not found'],
];

/** One walk: the next stop as a door plate; scan the bin, scan the goods, key a number if there are more; at the end, put down. */
export function PickOnFloor() {
  const id = Number(useParams()['id']);
  const go = useNavigate();
  const floor = theFloor();
  const { me } = useFloor();
  const { at, answer, scan, choose, undo } = useHand<PickAt, PickChoice, PickingSaid, PickDoes>({
    job: `round:${id}`,
    begin: PICK_BEGINS,
    step: useCallback(
      (where, event, facts, stamp) => {
        const job = floor.round(id);
        return job ? stepPick(where, event, job, facts, stamp) : null;
      },
      [floor, id],
    ),
    sentence: pickingSaid,
    onSaid: (said) => said.said === 'picking.putDown' && void go('/h'),
  });
  const job = floor.round(id);
  if (!job) return <Missing title="Round" what="round" />;
  const { facts } = floor;
  const stops = stopsOf(job, facts);
  const stop = stopAt(at, job, facts);
  const orders = [...new Set(job.picks.map((p) => p.order))];
  const cart = facts.bin(job.cart)?.address ?? '';
  const here = stop !== undefined && at.bin === stop.bin.id;
  const kit = stop ? undefined : nextKit(job, facts);
  const hint = kit
    ? at.asks.what === 'kitBin'
      ? 'Scan the bin'
      : 'Key how many, or scan one'
    : !stop
      ? 'Scan the packing bin'
      : !here
        ? 'Scan the bin'
        : {
            goods: 'Scan the goods',
            trouble: 'Scan the goods',
            lot: 'Scan the lot',
            serial: 'Scan the serial',
            otherLot: 'Scan the goods',
            otherBin: 'Scan the bin',
            kitBin: 'Scan the bin',
            unmade: 'Scan the packing bin',
          }[at.asks.what];
  const stopWords = stop ? `Stop ${stops.findIndex((s) => s.bin.id === stop.bin.id) + 1} of ${stops.length} · ` : '';
  return (
    <Screen
      title={job.number}
      sub={`${stopWords}${cart} · ${orders.join(', ')}`}
      answer={answer}
      onScan={scan}
      hint={hint}
      last={[
        ...ownMade(job, me?.id ?? 0).map((m) => ({
          key: m.key,
          at: m.at,
          text: `${formatQty(m.qty)} ${facts.item(m.kit.item)?.code ?? ''} made`,
          undo: () => undo(m.key),
        })),
        ...ownTaken(job, me?.id ?? 0).map((t) => {
          const pick = job.picks.find((p) => p.key === t.pick);
          const code = facts.item(pick?.item ?? 0)?.code ?? '';
          return { key: t.key, at: t.at, text: `${formatQty(t.qty)} ${code}${t.serial ? ` ${t.serial}` : ''}`, undo: () => undo(t.key) };
        }),
      ].toSorted((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0))}
    >
      {job.state !== 'open' && <Empty title="This round is put down.">Its orders wait at the bench.</Empty>}
      {job.state === 'open' && kit && <MakeKits job={job} kit={kit} asks={at.asks} choose={choose} />}
      {job.state === 'open' && !stop && !kit && <AtTheEnd job={job} />}
      {job.state === 'open' && stop && <Stop job={job} stop={stop} here={here} asks={at.asks} choose={choose} />}
      {stop && here && <PickLabel job={job} stop={stop} person={me?.id ?? 0} />}
      {job.state === 'open' && job.person === me?.id && <GiveBack round={id} />}
    </Screen>
  );
}

/** What is on the cart becomes kits (G9): how many, of what, and where they go. */
function MakeKits({ job, kit, asks, choose }: { job: RoundJob; kit: HandKit; asks: PickAsks; choose: (c: PickChoice) => void }) {
  const { facts } = theFloor();
  const item = facts.item(kit.item);
  const many = kitsToMake(kit, job, facts);
  const slots = [...new Set(job.picks.filter((p) => kit.parts.some((x) => x.line === p.line)).map((p) => p.slot))];
  return (
    <section className="space-y-3">
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <p className="text-xl">Make of what is in slot {slots.join(' and ')}:</p>
          <p className="text-lg leading-tight">
            <span className="code text-3xl" data-testid="item-code">
              {item?.code}
            </span>{' '}
            {item?.description}
          </p>
          <p className="pt-2">
            <span className="code text-7xl leading-none" data-testid="to-make">
              {formatQty(many)}
            </span>{' '}
            <span className="text-xl text-soft">to make</span>
          </p>
        </div>
        <div className="text-right">
          <ItemPicture item={kit.item} size="stop" />
          <p className="pt-1">
            <Tag tone="strong">
              {kit.for === null ? 'for stock' : kit.for.slot === null ? 'onto the cart' : `into slot ${kit.for.slot}`}
            </Tag>{' '}
            <span className="text-sm text-soft">{kit.for?.number ?? kit.number}</span>
          </p>
        </div>
      </div>
      <ul aria-label="Of what each is made" className="border-t border-line">
        {partsOnCart(kit, job, facts).map((part) => (
          <li key={part.item} className="flex justify-between border-b border-line py-1 text-lg">
            <span>
              <span className="code">{part.code}</span> {facts.item(part.item)?.description}
            </span>
            <strong className="code whitespace-nowrap">{formatQty(part.each)} each</strong>
          </li>
        ))}
      </ul>
      {asks.what === 'kitBin' ? (
        <Ask label="Into which bin">
          <p className="text-xl">
            {formatQty(asks.qty)} {item?.code} {asks.qty === 1000 ? 'goes' : 'go'} to stock. Scan the bin.
          </p>
        </Ask>
      ) : (
        <Button tall look="next" className="w-full" onClick={() => choose({ what: 'kitsMade' })}>
          {formatQty(many)} {many === 1000 ? 'is' : 'are'} made
        </Button>
      )}
      <p className="text-soft">Not now? Scan the packing bin twice: they can be made at the bench.</p>
    </section>
  );
}

function AtTheEnd({ job }: { job: RoundJob }) {
  const bin = job.packingBin === null ? undefined : theFloor().facts.bin(job.packingBin);
  return (
    <section className="space-y-4 pt-6 text-center">
      <p className="text-2xl">Everything is on the cart.</p>
      <p className="text-xl">Put it down, and scan the packing bin:</p>
      {bin && <Plate address={bin.address} size="door" />}
    </section>
  );
}

function Stop({
  job,
  stop,
  here,
  asks,
  choose,
}: {
  job: RoundJob;
  stop: HandStop;
  here: boolean;
  asks: PickAsks;
  choose: (c: PickChoice) => void;
}) {
  const asked = 'pick' in asks ? stop.open.find((p) => p.key === asks.pick) : undefined;
  const pick = asked ?? (stop.open[0] as HandPick);
  const { facts } = theFloor();
  const item = facts.item(pick.item);
  const lot = pick.lot === null ? undefined : facts.lot(pick.item, pick.lot);
  const taken = takenOf(job, pick);
  return (
    <section className="space-y-3">
      <p className={`rounded border-4 p-2 text-center ${here ? 'border-settled' : 'border-next'}`}>
        <Plate address={stop.bin.address} size="door" />
        <span className="block text-soft">
          {stop.bin.zone}
          {here ? ', right bin ✓' : stop.far === null ? '' : stop.far < 1 ? ', right here' : `, ${Math.round(stop.far)} m on`}
        </span>
      </p>
      {!here && <WayMap id={job.id} number={job.number} stops={stopsOf(job, facts).map(mapStop)} near />}
      <div className="flex items-start gap-3">
        <div className="min-w-0 flex-1">
          <p className="text-lg leading-tight">
            <span className="code text-3xl" data-testid="item-code">
              {item?.code}
            </span>{' '}
            {item?.description}
          </p>
          {pick.named.serials && (
            <p className="text-xl">
              {pick.named.serials.length === 1 ? 'serial ' : 'one of the serials '}
              <strong className="code text-xl">
                {pick.named.serials.filter((s) => !job.taken.some((t) => t.pick === pick.key && t.serial === s)).join(', ')}
              </strong>
            </p>
          )}
          {pick.lot && (
            <p className="text-lg">
              lot <strong className="code text-xl">{pick.lot}</strong>
              {lot?.expires && <span className="text-soft"> expires {sayDay(lot.expires)}</span>}
            </p>
          )}
          <p className="pt-2">
            <span className="code text-7xl leading-none" data-testid="to-take">
              {formatQty(openOf(job, pick))}
            </span>{' '}
            <span className="text-xl text-soft">{item?.unit} to take</span>
          </p>
        </div>
        <div className="text-right">
          <ItemPicture item={pick.item} size="stop" />
          <p className="pt-1">
            <Tag tone="strong">slot {pick.slot}</Tag> <span className="text-sm text-soft">{pick.order}</span>
          </p>
        </div>
      </div>
      {asks.what === 'lot' && pick.lot && (
        <Ask label="Which lot">
          <p className="text-xl">Several lots lie here. Scan the lot that you take.</p>
          <Button tall look="next" className="w-full" onClick={() => choose({ what: 'lot' })}>
            It is {pick.lot}
          </Button>
        </Ask>
      )}
      {asks.what === 'otherBin' && <OtherBin asks={asks} planned={stop.bin.address} choose={choose} />}
      {asks.what === 'otherLot' && <OtherLot asks={asks} choose={choose} />}
      {asks.what === 'serial' && (
        <Ask label="Which serial">
          <p className="text-xl">Scan the serial of the one you take.</p>
          {item?.tracking === 'serialOut' && (
            <Button tall className="w-full" onClick={() => choose({ what: 'madeSerial' })}>
              It carries none: make one
            </Button>
          )}
        </Ask>
      )}
      {here && asks.what === 'goods' && taken > 0 && <NumberOf label="Taken so far" value={formatQty(taken)} unit={item?.unit ?? ''} />}
      {stop.open.length > 1 && <p className="text-soft">and {stop.open.length - 1} more from this bin</p>}
      {asks.what === 'trouble' ? (
        <div className="grid gap-2">
          {TROUBLES.map(([kind, label]) => (
            <Button key={kind} look="wrong" tall onClick={() => choose({ what: 'report', kind })}>
              {label}
            </Button>
          ))}
          <Button look="quiet" tall onClick={() => choose({ what: 'noTrouble' })}>
            No trouble
          </Button>
        </div>
      ) : (
        <Button tall className="w-full" onClick={() => choose({ what: 'trouble' })}>
          Trouble here …
        </Button>
      )}
    </section>
  );
}

const mapStop = ({ bin, open, picks }: HandStop): MapStop => ({
  bin: bin.id,
  address: bin.address,
  standing: open.length > 0 ? 'open' : picks.some((p) => p.trouble !== null) ? 'trouble' : 'done',
});

/** Another bin than planned was scanned, and the goods lie there too (G4): taken there, on record, or the walk goes on as planned. */
function OtherBin({
  asks,
  planned,
  choose,
}: {
  asks: Extract<PickAsks, { what: 'otherBin' }>;
  planned: string;
  choose: (c: PickChoice) => void;
}) {
  const [reason, setReason] = useState('');
  const bin = theFloor().facts.bin(asks.bin)?.address ?? '';
  return (
    <Ask label="Another bin">
      <p className="text-xl">
        It lies in <strong className="code">{bin}</strong> too.
      </p>
      <Button tall look="next" className="w-full" onClick={() => choose({ what: 'noTrouble' })}>
        Go to {planned}
      </Button>
      <Field tall label="Why here (may stay empty)" value={reason} onChange={(e) => setReason(e.target.value)} />
      <Button tall className="w-full" onClick={() => choose({ what: 'otherBin', reason })}>
        Take it from {bin}
      </Button>
    </Ask>
  );
}

/** Another lot than planned is in the hand (E4): put back, or taken for a reason; a hand's word is for a lead to accept. */
function OtherLot({ asks, choose }: { asks: Extract<PickAsks, { what: 'otherLot' }>; choose: (c: PickChoice) => void }) {
  const lead = theFloor().get().me?.role === 'lead';
  const [reason, setReason] = useState('');
  return (
    <Ask label="Another lot">
      <p className="text-xl">
        Lot <strong className="code">{asks.lot}</strong> is not the planned one.
      </p>
      <Button tall look="next" className="w-full" onClick={() => choose({ what: 'noTrouble' })}>
        Put it back
      </Button>
      <Field tall label="Take it all the same, because" value={reason} onChange={(e) => setReason(e.target.value)} />
      <Button tall className="w-full" disabled={reason.trim() === ''} onClick={() => choose({ what: 'otherLot', reason })}>
        Take {formatQty(asks.qty)} of it
      </Button>
      {!lead && <p className="text-soft">The lead looks at it then.</p>}
    </Ask>
  );
}

/** A label for what is in the hand (G7): of its serial where it has just been taken, else of its goods and lot. */
function PickLabel({ job, stop, person }: { job: RoundJob; stop: HandStop; person: number }) {
  const [last] = ownTaken(job, person);
  const pick = job.picks.find((p) => p.key === last?.pick && p.bin === stop.bin.id) ?? stop.open[0];
  if (!pick) return null;
  const isLast = last?.pick === pick.key;
  const goods = {
    item: pick.item,
    bin: pick.bin,
    lot: isLast ? last.lot : pick.lot,
    serial: isLast ? last.serial : null,
    copies: Math.ceil(pick.qty / ONE),
  };
  return <PrintLabel key={pick.key} goods={goods} />;
}
