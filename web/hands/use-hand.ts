import { useCallback, useEffect, useState } from 'react';
import { useLocation, useNavigate } from 'react-router';
import type { Does } from '#core/hands';
import { meaningBy, type Facts, type HandEvent, type Meaning, type Stamp, type Tone } from '#core/floor';
import { sound, useScanner, type Scan } from '#web/base';
import { pokeCourier, theFloor, useFloor } from './use-floor.ts';

/** What the last act came to, said large: right, wrong, or look. */
export type Answer = { readonly tone: Tone; readonly text: string };

type Machine<At, Choice, Said, D extends Does> = {
  /** The job under whose name the hand's place is kept. */
  readonly job: string;
  readonly begin: At;
  /** The job's own step function, with the world as it is at that very moment. Null: the job is not on the device any more. */
  readonly step: (
    at: At,
    event: HandEvent<Choice>,
    facts: Facts,
    stamp: Stamp,
  ) => { at: At; says: { tone: Tone } & Said; does: readonly D[] } | null;
  readonly sentence: (said: Said) => string;
  readonly onSaid?: (said: Said) => void;
};

export type Hand<At, Choice> = {
  readonly at: At;
  readonly answer: Answer | null;
  readonly scan: (code: string) => void;
  readonly number: (text: string) => void;
  readonly choose: (choice: Choice) => void;
  readonly undo: (key?: string) => void;
};

const NOT_KEPT = 'This device could not keep it: its storage is full. Nothing was entered. Free some room, or take another device.';
const GONE = 'This job is no longer on the device. Go back to My work.';

// A scan that led here from another screen was answered there: what it came to is said here, once.
function useCarriedAnswer(): [Answer | null, (answer: Answer) => void] {
  const { state, pathname, search } = useLocation() as { state: { answer?: Answer } | null; pathname: string; search: string };
  const go = useNavigate();
  const [answer, setAnswer] = useState<Answer | null>(state?.answer ?? null);
  useEffect(() => {
    if (state?.answer) void go(pathname + search, { replace: true, state: null });
  }, [state, go, pathname, search]);
  return [answer, setAnswer];
}

/** Draws nothing and decides nothing: carries what reaches a screen to the job's step machine, in order, and says what it came to once it
 *  is kept. */
export function useHand<At, Choice, Said, D extends Does>({
  job,
  begin,
  step,
  sentence,
  onSaid,
}: Machine<At, Choice, Said, D>): Hand<At, Choice> {
  const floor = theFloor();
  useFloor();
  const [answer, setAnswer] = useCarriedAnswer();
  const dispatch = useCallback(
    (event: (facts: Facts) => HandEvent<Choice> | null): void => {
      const say = (next: Answer): void => {
        sound(next.tone);
        setAnswer(next);
      };
      void floor
        .step(job, begin, (at, stamp) => {
          const what = event(floor.facts);
          if (what === null) return { at, says: null, does: [] };
          const stepped = step(at, what, floor.facts, stamp);
          if (stepped === null) throw new Error(GONE);
          return stepped;
        })
        .then(
          (result) => {
            if (result.says === null) return;
            say({ tone: result.says.tone, text: sentence(result.says) });
            onSaid?.(result.says);
            // What was not right here may be so since a moment ago: the next scan of it shall know.
            if (result.does.length > 0 || result.says.tone === 'wrong') pokeCourier();
          },
          (error: Error) => say({ tone: 'wrong', text: error.name === 'QuotaExceededError' ? NOT_KEPT : error.message }),
        );
    },
    [floor, job, begin, step, sentence, onSaid, setAnswer],
  );
  const scanned = useCallback(
    (raw: Scan): void => {
      const meaning = (facts: Facts): { meaning: Meaning; whole: boolean } => {
        // A number keyed so shortly before the scan that the two may be one code: if they are one that is known, they are.
        const whole = raw.whole === null ? null : meaningBy(facts, raw.whole);
        return whole && whole.kind !== 'unknown' && whole.kind !== 'unreadable'
          ? { meaning: whole, whole: true }
          : { meaning: meaningBy(facts, raw.code), whole: false };
      };
      if (raw.number !== null) {
        const { number } = raw;
        dispatch((facts) => (meaning(facts).whole ? null : { kind: 'number', text: number, closedBy: 'scan' }));
      }
      dispatch((facts) => ({ kind: 'scan', meaning: meaning(facts).meaning }));
    },
    [dispatch],
  );
  const number = useCallback((text: string): void => dispatch(() => ({ kind: 'number', text })), [dispatch]);
  // What is typed into the scan line may be a short number as well: only the facts can tell.
  const scan = useCallback(
    (code: string): void => {
      dispatch((facts) => {
        const meaning = meaningBy(facts, code);
        return meaning.kind === 'unknown' && /^\d{1,6}([.,]\d{1,3})?$/.test(code.trim())
          ? { kind: 'number', text: code.trim() }
          : { kind: 'scan', meaning };
      });
    },
    [dispatch],
  );
  useScanner((_code, raw) => scanned(raw), { onNumber: number });
  return {
    at: floor.at(job, begin),
    answer,
    scan,
    number,
    choose: (choice) => dispatch(() => ({ kind: 'choose', choice })),
    undo: (key) => dispatch(() => ({ kind: 'undo', ...(key === undefined ? {} : { key }) })),
  };
}
