import { useState } from 'react';
import { formatQty } from '#core/base';
import {
  LONGEST_LABEL,
  makeSerialRange,
  readSerialList,
  receivingSentence,
  type DeliveryJob,
  type ReceiveAsks,
  type ReceiveChoice,
} from '#core/receiving';
import { Button, counted, Field, fieldShape, sayDate } from '#web/base';
import { TallDate } from './fields.tsx';
import { Inspect } from './receive-inspect.tsx';
import { WhereTo } from './receive-where.tsx';
import { Ask, AskDate, AskSure, NumberOf } from './screen.tsx';

type Choose = (choice: ReceiveChoice) => void;

/** What the step waits for, loud, with its answers. */
export function Question({ asks, job, choose }: { asks: ReceiveAsks; job: DeliveryJob; choose: Choose }) {
  const isReturn = job.back !== null;
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
          <ManySerials choose={choose} />
        </Ask>
      );
    case 'date':
      return <WhichDay key={asks.lot} asks={asks} choose={choose} />;
    case 'whichDate':
      return (
        <Ask label="Which date">
          <p className="text-xl">
            <strong>{asks.goods.item.code}</strong>, lot {asks.lot}, is known to expire on {sayDate(asks.known)}; this says{' '}
            {sayDate(asks.given)}. One lot has one date.
          </p>
          <Button tall look="next" className="w-full" onClick={() => choose({ what: 'knownDate' })}>
            It is {sayDate(asks.known)}
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
            <strong>{asks.goods.item.code}</strong> {isReturn ? 'did not leave with this shipment.' : 'is not on this order.'}
          </p>
          <Button look="next" tall className="w-full" onClick={() => choose({ what: 'takeAnyway' })}>
            {isReturn ? 'Take it back anyway' : 'Take it anyway'}
          </Button>
          <Button tall className="w-full" onClick={() => choose({ what: 'setAside' })}>
            Not this one
          </Button>
        </Ask>
      );
    case 'whereTo':
      return <WhereTo asks={asks} job={job} choose={choose} />;
    case 'inspect':
      return <Inspect key={asks.entry} asks={asks} choose={choose} />;
    case 'howMany':
      return (
        <Ask label="How many">
          <NumberOf label={asks.code} value="" unit="" />
          <Button tall className="w-full" onClick={() => choose({ what: 'goOn' })}>
            Leave it as it is
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

/** The date of a lot that is new here: keyed, or reckoned from how long the goods keep (C8). */
function WhichDay({ asks, choose }: { asks: Extract<ReceiveAsks, { what: 'date' }>; choose: Choose }) {
  const { item, made } = asks.goods;
  const [isMade, setIsMade] = useState(false);
  const own = item.shelfLifeMonths;
  const lives = [...new Set([...(own === null ? [] : [own]), 6, 12])];
  return (
    <AskDate
      enter="Enter it"
      onDate={(date) => choose({ what: 'date', date })}
      beside={
        <>
          <div className="grid grid-cols-3 gap-2" role="group" aria-label="By how long it keeps">
            {lives.map((months) => (
              <Button key={months} tall onClick={() => choose({ what: 'life', months })}>
                {months === own ? `keeps ${sayMonths(months)}` : `+${sayMonths(months)}`}
              </Button>
            ))}
          </div>
          <p className="text-soft">
            {made === null ? 'Reckoned from today.' : `Reckoned from when it was made, ${sayDate(made)}.`}{' '}
            {!isMade && (
              <button type="button" className="min-h-10 underline" onClick={() => setIsMade(true)}>
                {made === null ? 'It says when it was made' : 'Made on another day'}
              </button>
            )}
          </p>
          {isMade && (
            <TallDate
              label="Made"
              value={made ?? ''}
              onChange={(date) => {
                if (date) choose({ what: 'made', date });
              }}
            />
          )}
          <Button tall className="w-full" onClick={() => choose({ what: 'anotherLot' })}>
            It is another lot
          </Button>
        </>
      }
    >
      <strong>{item.code}</strong>, lot {asks.lot}: when does it expire?
    </AskDate>
  );
}

const sayMonths = (months: number): string =>
  months % 12 === 0 ? counted(months / 12, 'year', 'years') : counted(months, 'month', 'months');

/** Many serials at once (C9): a pasted list, or numbers that follow each other. They are seen before they are entered. */
function ManySerials({ choose }: { choose: Choose }) {
  const [how, setHow] = useState<'list' | 'range' | null>(null);
  const [text, setText] = useState('');
  const [range, setRange] = useState({ prefix: '', first: '', count: '' });
  if (how === null)
    return (
      <div className="grid grid-cols-2 gap-2">
        <Button tall onClick={() => setHow('range')}>
          A range
        </Button>
        <Button tall onClick={() => setHow('list')}>
          A list
        </Button>
      </div>
    );
  const made = how === 'range' ? makeSerialRange({ ...range, prefix: range.prefix.trim(), count: Number(range.count) }) : null;
  const codes = made === null ? readSerialList(text) : made.ok ? made.value : [];
  const isBegun = range.first !== '' && range.count !== '';
  const set = (part: Partial<typeof range>): void => setRange({ ...range, ...part });
  return (
    <div className="space-y-2">
      {how === 'list' ? (
        <label className="block">
          <span className="block text-sm text-soft">Serials, one to a line</span>
          <textarea
            rows={5}
            data-takes-code=""
            value={text}
            onChange={(e) => setText(e.target.value)}
            className={`code w-full ${fieldShape(true)}`}
          />
        </label>
      ) : (
        <div className="grid grid-cols-3 gap-2">
          <Field
            tall
            code
            label="Begins with"
            value={range.prefix}
            maxLength={LONGEST_LABEL}
            onChange={(e) => set({ prefix: e.target.value })}
          />
          <Field
            tall
            code
            label="First number"
            value={range.first}
            inputMode="numeric"
            onChange={(e) => set({ first: e.target.value.trim() })}
          />
          <Field tall label="How many" value={range.count} inputMode="numeric" onChange={(e) => set({ count: e.target.value.trim() })} />
        </div>
      )}
      {made && !made.ok && isBegun && <p className="font-semibold text-wrong">{receivingSentence(made.error)}</p>}
      {codes.length > 0 && (
        <p>
          <strong>{codes.length}</strong>: {codes.length > 2 ? `${codes[0]}, ${codes[1]} … ${codes.at(-1)}` : codes.join(', ')}
        </p>
      )}
      <div className="grid grid-cols-2 gap-2">
        <Button tall onClick={() => setHow(null)}>
          One by one
        </Button>
        <Button
          tall
          look="next"
          disabled={codes.length === 0}
          onClick={() => {
            choose({ what: 'serials', codes });
          }}
        >
          Enter {codes.length || ''}
        </Button>
      </div>
    </div>
  );
}
