import { useCallback, useEffect, useRef, useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { Button, clock, ScanLine, sound, useScanner } from '#web/base';

/** What the last act came to, said large: right, wrong, or look. */
export type Answer = { readonly tone: 'right' | 'wrong' | 'look'; readonly text: string };
export type Scan = { readonly text: string; readonly at: string; readonly undo?: () => void };

const SETTLE_MS = 10;

type Queue = {
  readonly answer: Answer | null;
  readonly busy: boolean;
  /** Takes a scan. */
  take(code: string): void;
  /** Takes an act of another kind (a keyed number, a button), in its turn among the scans. */
  act(work: () => Promise<Answer | null>): void;
};

/** Does scans and acts one after the other, in the order in which they were made, however fast they come. */
export function useQueue(work: (code: string) => Promise<Answer | null>): Queue {
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
  const take = useCallback(
    (code: string) => {
      // A number that was keyed and not closed by Enter is saved by the next scan. First the field gets back what it held before the
      // scanner typed into it, then it is saved, then the scan finds the screen as that left it.
      setTimeout(() => {
        document.querySelector<HTMLFormElement>('form[data-keyed=pending]')?.requestSubmit();
        setTimeout(() => act(() => latest.current(code)));
      });
    },
    [act],
  );
  useScanner(take);
  return { answer, busy: waiting > 0, take, act };
}

const TONE = {
  right: 'border-settled bg-settled-pale text-settled',
  wrong: 'border-wrong bg-wrong text-paper',
  look: 'border-ink bg-sheet text-ink',
} as const;
const MARK = { right: '✓', wrong: '✕', look: '!' } as const;

/** The frame of every handheld screen: where one is, the work, the answer to the last scan, the scan line at the thumb. */
export function Screen({
  title,
  sub,
  children,
  answer,
  busy = false,
  onScan,
  hint,
  back = '/h',
  last = [],
}: {
  title: ReactNode;
  sub?: ReactNode;
  children: ReactNode;
  answer: Answer | null;
  busy?: boolean;
  onScan: (code: string) => void;
  hint: string;
  back?: string | null;
  last?: readonly Scan[];
}) {
  return (
    <div className="mx-auto flex min-h-dvh max-w-xl flex-col">
      <header className="flex items-center gap-2 border-b-4 border-ink px-3 py-1">
        {back && (
          <Link to={back} aria-label="Back" className="grid size-14 place-items-center rounded border-2 border-ink bg-sheet text-2xl">
            ←
          </Link>
        )}
        <div className="min-w-0 flex-1">
          <h1 className="code truncate text-2xl leading-tight">{title}</h1>
          {sub && <p className="truncate text-sm text-soft">{sub}</p>}
        </div>
      </header>
      <main className="flex-1 space-y-3 p-3">{children}</main>
      <footer className="sticky bottom-0 space-y-2 border-t-4 border-ink bg-paper p-2">
        {last.length > 0 && (
          <ol aria-label="Last scans" className="text-sm">
            {last.slice(0, 3).map((s, i) => (
              <li key={s.at + s.text} className={`flex items-center gap-2 ${i === 0 ? 'font-semibold' : 'text-soft'}`}>
                <span>{clock(s.at)}</span>
                <span className="min-w-0 flex-1 truncate">{s.text}</span>
                {s.undo && i === 0 && (
                  <button type="button" onClick={s.undo} className="min-h-14 min-w-20 rounded border-2 border-ink bg-sheet px-3 text-lg">
                    Undo
                  </button>
                )}
              </li>
            ))}
          </ol>
        )}
        {answer && (
          <p role="status" data-tone={answer.tone} className={`rounded border-2 px-3 py-2 text-lg font-semibold ${TONE[answer.tone]}`}>
            <span aria-hidden>{MARK[answer.tone]} </span>
            {answer.text}
          </p>
        )}
        <ScanLine onScan={onScan} hint={busy ? 'One moment …' : hint} tall />
      </footer>
    </div>
  );
}

/** A quantity to key: large, closed by Enter or by the next scan; the keyboard need not open for scanning. */
export function KeyQuantity({ label, value, unit, onKey }: { label: string; value: string; unit: string; onKey: (qty: string) => void }) {
  const [text, setText] = useState<string | null>(null);
  return (
    <form
      data-keyed={text ? 'pending' : undefined}
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (text) onKey(text);
        setText(null);
        (document.activeElement as HTMLElement | null)?.blur();
      }}
    >
      <label className="flex-1">
        <span className="block text-sm text-soft">{label}</span>
        <input
          aria-label={label}
          inputMode="decimal"
          value={text ?? value}
          onFocus={(e) => {
            setText('');
            e.target.select();
          }}
          onBlur={() => setText((was) => (was ? was : null))}
          onChange={(e) => setText(e.target.value)}
          className="code min-h-14 w-full rounded border-2 border-ink bg-sheet px-3 text-4xl"
        />
      </label>
      <span className="pb-4 text-lg text-soft">{unit}</span>
      {text && (
        <Button look="next" tall type="submit">
          Set
        </Button>
      )}
    </form>
  );
}
