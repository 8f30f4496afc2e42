import { useCallback, useEffect, useRef, useState } from 'react';
import { sound, useScanner } from '#web/base';
import type { Answer } from '#web/hands';

const SETTLE_MS = 10;

type Queue = {
  readonly answer: Answer | null;
  readonly busy: boolean;
  /** Takes a scan. */
  take(code: string): void;
  /** Takes an act of another kind (a keyed number, a button), in its turn among the scans. */
  act(work: () => Promise<Answer | null>): void;
};

/** For the screens that need the server by their nature (a new item, homes of items): does scans and acts one after the other, in the
 *  order in which they were made, however fast they come. */
export function useQueue(work: (code: string) => Promise<Answer | null>, onNumber?: (text: string) => void): Queue {
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [waiting, setWaiting] = useState(0);
  const tail = useRef<Promise<unknown>>(Promise.resolve());
  const latest = useRef(work);
  useEffect(() => {
    latest.current = work;
  });
  const act = useCallback((doIt: () => Promise<Answer | null>) => {
    const say = (next: Answer | null): void => {
      if (next) sound(next.tone);
      setAnswer(next);
    };
    setWaiting((n) => n + 1);
    tail.current = tail.current
      .then(doIt)
      .then(say, (error: Error) => say({ tone: 'wrong', text: error.message }))
      // The next scan must find the screen as this one left it: let what was read again be drawn first.
      .then(() => new Promise((resolve) => setTimeout(resolve, SETTLE_MS)))
      .finally(() => setWaiting((n) => n - 1));
  }, []);
  const take = useCallback((code: string) => act(() => latest.current(code)), [act]);
  useScanner(
    (code, { number }) => {
      if (number !== null) onNumber?.(number);
      setTimeout(() => take(code));
    },
    onNumber ? { onNumber } : {},
  );
  return { answer, busy: waiting > 0, take, act };
}
