import { useCallback, useState } from 'react';
import { formatQty } from '#core/base';
import type { Facts } from '#core/floor';
import {
  ADJUST_BEGINS,
  adjustSaid,
  lyingOf,
  NO_NOTE,
  stepAdjust,
  type AdjustAt,
  type AdjustChoice,
  type AdjustDoes,
  type AdjustNote,
  type AdjustSaid,
  type MoveDoes,
  type OwnAdjustment,
} from '#core/moves';
import { Button, Field, ItemPicture, Plate } from '#web/base';
import { theFloor, useFloor, useHand } from '#web/hands';
import { TallDate } from './fields.tsx';
import { Contents } from './contents.tsx';
import { Ask, AskDate, NumberOf, Screen } from './screen.tsx';

const HINTS: Readonly<Record<AdjustAt['step'], string>> = {
  bin: 'Scan the bin',
  goods: 'Scan the goods',
  lot: 'Scan or key the lot',
  serial: 'Scan the serial',
  how: 'Key how many',
  date: 'Say the date above',
};
const REASONS = {
  minus: ['broken', 'lost', 'used up', 'spoilt', 'counted wrong'],
  plus: ['found', 'came without papers', 'counted wrong'],
} as const;

/** Stock that is not as the records have it (K1): a bin, goods, how many more or fewer, and why. Of a hand it is for the lead to post. */
export function AdjustOnFloor() {
  const floor = theFloor();
  const { me } = useFloor();
  const person = me?.id ?? 0;
  const { at, answer, scan, choose, undo } = useHand<
    AdjustAt,
    AdjustChoice,
    AdjustSaid,
    AdjustDoes | Extract<MoveDoes, { kind: 'move.undo' }>
  >({
    job: 'moves/adjust',
    begin: ADJUST_BEGINS,
    step: useCallback((where, event, facts) => stepAdjust(where, event, { facts, own: floor.ownAdjustments(person) }), [floor, person]),
    sentence: adjustSaid,
  });
  const { facts } = floor;
  const own = floor.ownAdjustments(person);
  return (
    <Screen
      title="More or fewer"
      sub={me?.role === 'lead' ? 'than the records have' : 'the lead looks at it'}
      answer={answer}
      onScan={scan}
      hint={HINTS[at.step]}
      last={own.map((a) => ({ key: a.key, at: a.at, text: words(a, facts), undo: () => undo(a.key) }))}
    >
      {at.step !== 'bin' && (
        <p>
          <Plate address={facts.bin(at.bin)?.address ?? ''} size="door" />
        </p>
      )}
      <Step at={at} facts={facts} choose={choose} />
    </Screen>
  );
}

const words = ({ does }: OwnAdjustment, facts: Facts): string =>
  `${does.way === 'plus' ? '+' : '−'}${formatQty(does.qty)} ${facts.item(does.item)?.code ?? ''} ${facts.bin(does.bin)?.address ?? ''}`;

type Choose = (choice: AdjustChoice) => void;

function Step({ at, facts, choose }: { at: AdjustAt; facts: Facts; choose: Choose }) {
  switch (at.step) {
    case 'bin':
      return <p className="pt-6 text-center text-2xl">Scan the bin in which something is not as it should be.</p>;
    case 'goods':
      return <Contents rows={facts.contents(at.bin)} facts={facts} onChoose={(content) => choose({ what: 'goods', content })} />;
    case 'lot':
    case 'serial':
      return (
        <>
          <Ask label={at.step === 'lot' ? 'Which lot' : 'Which serial'}>
            <p className="text-xl">
              <strong>{at.goods.item.code}</strong>: {at.step === 'lot' ? 'which lot? Scan it, or key it below.' : 'scan its serial.'}
            </p>
          </Ask>
          <Contents
            rows={facts.contents(at.bin).filter((c) => c.item === at.goods.item.id)}
            facts={facts}
            onChoose={(content) => choose({ what: 'goods', content })}
          />
        </>
      );
    case 'date':
      return (
        <AskDate enter="Add them" onDate={(date) => choose({ what: 'date', date })}>
          Nobody knows lot {at.goods.lot} of <strong>{at.goods.item.code}</strong>. When does it expire?
        </AskDate>
      );
    case 'how':
      return <How key={at.way} at={at} facts={facts} choose={choose} />;
  }
}

function How({ at, facts, choose }: { at: Extract<AdjustAt, { step: 'how' }>; facts: Facts; choose: Choose }) {
  const [reason, setReason] = useState('');
  const [note, setNote] = useState<AdjustNote>(NO_NOTE);
  const because = (why: string): void => choose({ what: 'reason', reason: why, note });
  const { item, lot, serial, condition, qty } = at.goods;
  const there = lyingOf(at.bin, at.goods, facts);
  return (
    <section className="space-y-3">
      <ItemPicture item={item.id} size="record" />
      <p className="text-lg leading-tight">
        <span className="code text-2xl">{item.code}</span> {item.description}
        {lot && <span className="block text-soft">lot {lot}</span>}
        {serial && <span className="block text-soft">serial {serial}</span>}
        <span className="block">
          the records have {formatQty(there)} here{condition === 'failed' && ' that failed'}
        </span>
      </p>
      <NumberOf label="How many" value={formatQty(qty)} unit={item.unit} fixed={serial !== null && item.tracking === 'serial'} />
      <div className="grid grid-cols-2 gap-2">
        {(['minus', 'plus'] as const).map((way) => (
          <Button
            key={way}
            tall
            look={at.way === null ? 'next' : at.way === way ? 'plain' : 'quiet'}
            className={at.way === way ? '!border-4' : ''}
            aria-pressed={at.way === way}
            onClick={() => choose({ what: 'way', way })}
          >
            {way === 'plus' ? '+ more' : '− fewer'}
          </Button>
        ))}
      </div>
      {at.way !== null && (
        <Ask label="Why">
          <Notes note={note} isMore={at.way === 'plus'} onNote={setNote} />
          <p className="text-xl">
            {formatQty(qty)} {at.way === 'plus' ? 'more' : 'fewer'}. Why?
          </p>
          <div className="grid grid-cols-2 gap-2">
            {REASONS[at.way].map((r) => (
              <Button key={r} tall onClick={() => because(r)}>
                {r}
              </Button>
            ))}
          </div>
          <form
            className="space-y-2"
            onSubmit={(e) => {
              e.preventDefault();
              because(reason);
            }}
          >
            <Field tall label="Or in your words" value={reason} maxLength={200} onChange={(e) => setReason(e.target.value)} />
            {reason.trim() !== '' && (
              <Button tall look="next" type="submit" className="w-full">
                That is why
              </Button>
            )}
          </form>
        </Ask>
      )}
      <Button tall look="quiet" onClick={() => choose({ what: 'back' })}>
        Nothing is wrong with it
      </Button>
    </section>
  );
}

// What few of them need is folded away: the reasons above are one press.
function Notes({ note, isMore, onNote }: { note: AdjustNote; isMore: boolean; onNote: (note: AdjustNote) => void }) {
  const field = (key: 'reference' | 'job' | 'cost', label: string) => (
    <Field
      tall
      label={label}
      value={note[key] ?? ''}
      maxLength={60}
      inputMode={key === 'cost' ? 'decimal' : 'text'}
      onChange={(e) => onNote({ ...note, [key]: e.target.value })}
    />
  );
  return (
    <details>
      <summary className="flex min-h-14 cursor-pointer items-center text-lg underline">
        {isMore ? 'Reference, job, cost, day' : 'Reference, job, day'}
      </summary>
      <div className="space-y-2">
        {field('reference', 'Reference')}
        {field('job', isMore ? 'Comes back from job' : 'Used up for job')}
        {isMore && field('cost', 'Cost of one')}
        <TallDate label="Day in the books" value={note.day ?? ''} onChange={(day) => onNote({ ...note, day: day || null })} />
      </div>
    </details>
  );
}
