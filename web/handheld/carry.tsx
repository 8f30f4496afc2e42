import { useCallback } from 'react';
import { useParams } from 'react-router';
import { formatQty } from '#core/base';
import {
  CARRY_BEGINS,
  carrySaid,
  carryStop,
  carryStops,
  carryWay,
  ownCarried,
  putOf,
  serialsOnCart,
  stepCarry,
  takenOf,
  toPut,
  toTake,
  type CarryAt,
  type CarryChoice,
  type CarryDoes,
  type CarryJob,
  type CarrySaid,
  type CarryStop,
  type CarryTask,
  type CarryTrouble,
} from '#core/carrying';
import { shortSscc } from '#core/floor';
import { Button, Empty, ItemPicture, Plate, sayDay } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { GiveBack } from './give-back.tsx';
import { Missing } from './missing.tsx';
import { Ask, NumberOf, Screen } from './screen.tsx';
import { Sure } from './sure.tsx';
import { UnitGoods } from './unit-goods.tsx';

export const CARRY_TITLE = { putAway: 'Put-away round', refill: 'Refill' } as const;
const TROUBLES: readonly (readonly [CarryTrouble, string])[] = [
  ['short', 'Too few there'],
  ['damaged', 'Damaged'],
  ['notFound', 'Not found'],
];
type Choose = (choice: CarryChoice) => void;

/** A put-away or refill round (I2, I5): the next bin as a door plate; scan it, scan the goods, key a number if there are more. */
export function CarryOnFloor() {
  const id = Number(useParams()['id']);
  const floor = theFloor();
  const { me } = useFloor();
  const { at, answer, scan, choose, undo } = useHand<CarryAt, CarryChoice, CarrySaid, CarryDoes>({
    job: `carry:${id}`,
    begin: CARRY_BEGINS,
    step: useCallback(
      (where, event, facts, stamp) => {
        const job = floor.carry(id);
        return job ? stepCarry(where, event, job, facts, stamp) : null;
      },
      [floor, id],
    ),
    sentence: carrySaid,
  });
  const job = floor.carry(id);
  if (!job) return <Missing title="Round" what="round" />;
  const { facts } = floor;
  const stop = job.state === 'open' ? carryStop(at, job, facts) : undefined;
  const way = carryWay(at, job);
  const stops = carryStops(job, way, facts);
  const here = stop !== undefined && (at.bin === stop.bin.id || at.elsewhere);
  const hint =
    at.asks.what === 'lot' ? 'Scan the lot' : at.asks.what === 'serial' ? 'Scan the serial' : here ? 'Scan the goods' : 'Scan the bin';
  const place = stop ? stops.findIndex((s) => s.bin.id === stop.bin.id) + 1 : 0;
  return (
    <Screen
      title={`${CARRY_TITLE[job.kind]} ${job.number}`}
      sub={stop ? `${way === 'take' ? 'Take' : 'Put down'} · bin ${place} of ${stops.length}` : undefined}
      answer={answer}
      onScan={scan}
      hint={hint}
      last={ownCarried(job, me?.id ?? 0).map((c) => {
        const task = job.tasks.find((t) => t.key === c.task);
        const name = task?.sscc ? `unit ${shortSscc(task.sscc)}` : `${formatQty(c.qty)} ${facts.item(task?.item ?? 0)?.code ?? ''}`;
        const bin = facts.bin(c.bin)?.address ?? '';
        return { key: c.key, at: c.at, text: `${name} ${c.way === 'take' ? 'from' : 'into'} ${bin}`, undo: () => undo(c.key) };
      })}
    >
      {job.state === 'done' && <Empty title="Everything has its place.">This round is done.</Empty>}
      {job.state === 'thrown' && <Empty title="This round was thrown away.">What was on the cart is put away from arrivals.</Empty>}
      {stop && <Stop job={job} stop={stop} at={at} here={here} choose={choose} />}
      {stop && job.person === me?.id && <GiveBack carry={id} />}
    </Screen>
  );
}

function Stop({ job, stop, at, here, choose }: { job: CarryJob; stop: CarryStop; at: CarryAt; here: boolean; choose: Choose }) {
  const { facts } = theFloor();
  const way = carryWay(at, job);
  const { asks } = at;
  const asked = 'task' in asks ? job.tasks.find((t) => t.key === asks.task) : undefined;
  const task = asked ?? (stop.open[0] as CarryTask);
  const elsewhere = at.elsewhere && at.bin !== null ? facts.bin(at.bin) : undefined;
  const done = way === 'take' ? takenOf(job, task) : putOf(job, task);
  const bin = elsewhere ?? stop.bin;
  const isLaden = way === 'take' && job.tasks.some((t) => toPut(job, t) > 0);
  return (
    <section className="space-y-3">
      <p className={`rounded border-4 p-2 text-center ${here ? 'border-settled' : 'border-next'}`}>
        <Plate address={bin.address} size="door" />
        <span className="block text-soft">
          {way === 'take' ? 'take here' : 'put down here'}
          {elsewhere ? `, planned was ${stop.bin.address}` : here ? ', right bin ✓' : <Far far={stop.far} />}
        </span>
      </p>
      <Goods job={job} task={task} way={way} />
      {asks.what === 'sure' && (
        <Sure doubt={asks.doubt} onBack={() => choose({ what: 'back' })} onSure={(reason) => choose({ what: 'sure', reason })} />
      )}
      {asks.what === 'elsewhere' && (
        <Ask label="Another bin">
          <p className="text-xl">{facts.bin(asks.bin)?.address} is not the planned bin. Scan it again if the goods go there.</p>
          <Button tall look="next" className="w-full" onClick={() => choose({ what: 'back' })}>
            No, to {stop.bin.address}
          </Button>
        </Ask>
      )}
      {asks.what === 'lot' && (
        <Ask label="Which lot">
          <p className="text-xl">Several lots lie here. Scan the lot, or say which it is.</p>
          {[...new Set(stop.open.filter((t) => t.item === asks.item).flatMap((t) => t.lot ?? []))].map((lot) => (
            <Button key={lot} tall look="next" className="w-full" onClick={() => choose({ what: 'lot', lot })}>
              It is {lot}
            </Button>
          ))}
        </Ask>
      )}
      {here && asks.what === 'goods' && done > 0 && task.sscc === null && (
        <NumberOf
          label={way === 'take' ? 'Taken so far' : 'Put so far'}
          value={formatQty(done)}
          unit={facts.item(task.item)?.unit ?? ''}
          fixed={facts.item(task.item)?.tracking === 'serial'}
        />
      )}
      {stop.open.length > 1 && (
        <p className="text-soft">
          and {stop.open.length - 1} more {way === 'take' ? 'from' : 'into'} this bin
        </p>
      )}
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
        <div className="grid gap-2">
          {isLaden && (
            <Button tall onClick={() => choose({ what: 'lay' })}>
              The cart is full: put down first
            </Button>
          )}
          {(way === 'take' || job.cart === null) && (
            <Button tall onClick={() => choose({ what: 'trouble' })}>
              Trouble here …
            </Button>
          )}
        </div>
      )}
    </section>
  );
}

const Far = ({ far }: { far: number | null }) => <>{far === null ? '' : far < 1 ? ', right here' : `, ${Math.round(far)} m on`}</>;

function Goods({ job, task, way }: { job: CarryJob; task: CarryTask; way: 'take' | 'put' }) {
  const { facts } = theFloor();
  const item = facts.item(task.item);
  const lot = task.lot === null ? undefined : facts.lot(task.item, task.lot);
  const open = way === 'take' ? toTake(job, task) : toPut(job, task);
  const unit = task.sscc === null ? undefined : facts.unit(task.sscc);
  const serials = task.serial !== null ? [task.serial] : way === 'put' ? serialsOnCart(job, task) : [];
  if (task.sscc !== null)
    return (
      <div>
        <p className="text-lg leading-tight">
          Unit{' '}
          <span className="code text-3xl" data-testid="item-code">
            {shortSscc(task.sscc)}
          </span>
          , whole
        </p>
        {unit && <UnitGoods goods={unit.goods} />}
        <p className="pt-2 text-soft">{task.why}</p>
      </div>
    );
  return (
    <div className="flex items-start gap-3">
      <div className="min-w-0 flex-1">
        <p className="text-lg leading-tight">
          <span className="code text-3xl" data-testid="item-code">
            {item?.code}
          </span>{' '}
          {item?.description}
        </p>
        {task.lot && (
          <p className="text-lg">
            lot <strong className="code text-xl">{task.lot}</strong>
            {lot?.expires && <span className="text-soft"> expires {sayDay(lot.expires)}</span>}
          </p>
        )}
        {serials.length > 0 && (
          <p className="text-lg">
            serial <strong className="code text-xl">{serials.join(', ')}</strong>
          </p>
        )}
        <p className="pt-2">
          <span className="code text-7xl leading-none" data-testid="to-carry">
            {formatQty(open)}
          </span>{' '}
          <span className="text-xl text-soft">
            {item?.unit} {way === 'take' ? 'to take' : 'to put down'}
          </span>
        </p>
        <p className="pt-1 text-soft">{task.why}</p>
      </div>
      <ItemPicture item={task.item} size="stop" />
    </div>
  );
}
