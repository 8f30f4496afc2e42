import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { Button, sayMoment, ScanLine, useKeyed } from '#web/base';
import { TallDate } from './fields.tsx';
import { CameraButton } from '#web/camera';
import { theFloor, useFloor } from '#web/hands';
import type { Answer } from '#web/hands';

/** One of the person's own last scans, with the way to take it back. */
export type LastScan = { readonly key: string; readonly text: string; readonly at: string; readonly undo?: () => void };

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
  last?: readonly LastScan[];
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
          <p className="flex items-center gap-2 text-sm text-soft">
            <span className="min-w-0 flex-1 truncate">{sub}</span>
            <Waiting />
          </p>
        </div>
      </header>
      <Loud />
      <main className="flex-1 space-y-3 p-3">{children}</main>
      <footer className="sticky bottom-0 space-y-2 border-t-4 border-ink bg-paper p-2">
        {last.length > 0 && (
          <ol aria-label="Last scans" className="text-sm">
            {last.slice(0, 3).map((s, i) => (
              <li key={s.key} className={`flex items-center gap-2 ${i === 0 ? 'font-semibold' : 'text-soft'}`}>
                <span>{sayMoment(s.at)}</span>
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
        <div className="flex gap-2">
          <div className="min-w-0 flex-1">
            <ScanLine onScan={onScan} hint={busy ? 'One moment …' : hint} tall />
          </div>
          <CameraButton />
        </div>
      </footer>
    </div>
  );
}

/** How much waits to be sent: a quiet mark, as long as nobody must act. */
function Waiting() {
  const { waiting, fault } = useFloor();
  if (waiting === 0) return null;
  return (
    <span
      data-testid="waiting"
      className="whitespace-nowrap rounded-sm border border-line px-1.5 text-sm text-soft"
      title="Kept on this device, sent by itself"
    >
      {waiting} to send{fault?.kind === 'away' ? ', no connection' : ''}
    </span>
  );
}

/** What needs a person, loud: a session that has run out while something waits, what the server does not take, what waits for the lead, a
 *  browser that keeps nothing. */
function Loud() {
  const { waiting, fault, clashes, lasting } = useFloor();
  const [clash] = clashes;
  return (
    <>
      {!lasting && (
        <p className="border-b-2 border-wrong bg-wrong-pale px-3 py-1 font-semibold text-wrong">
          This browser keeps nothing. Work only with a connection: what was not sent is lost with the page.
        </p>
      )}
      {waiting > 0 && fault?.kind === 'signIn' && (
        <p className="flex items-center gap-2 border-b-2 border-wrong bg-wrong-pale px-3 py-1 font-semibold text-wrong">
          <span className="flex-1">Sign in again to send {waiting}. They are kept.</span>
          <Button tall look="next" onClick={() => window.location.assign('/h')}>
            Sign in
          </Button>
        </p>
      )}
      {waiting > 0 && fault?.kind === 'refused' && (
        <p className="border-b-2 border-wrong bg-wrong-pale px-3 py-1 font-semibold text-wrong">
          {waiting} cannot be sent: {fault.says} They are kept; tell the lead.
        </p>
      )}
      {clash && (
        <p role="alert" className="flex items-center gap-2 border-b-2 border-wrong bg-wrong-pale px-3 py-1">
          <span className="flex-1">
            <strong>For the lead{clashes.length > 1 ? `, 1 of ${clashes.length}` : ''}:</strong> {clash.says}
          </span>
          <Button tall onClick={() => void theFloor().seen(clash.key)}>
            Seen
          </Button>
        </p>
      )}
    </>
  );
}

/** The number of the last scan, or what is being keyed for it: digits are heard wherever the focus is; a touch opens a pad of large
 *  keys. */
export function NumberOf({ label, value, unit, fixed = false }: { label: string; value: string; unit: string; fixed?: boolean }) {
  const { keyed, press } = useKeyed();
  const [pad, setPad] = useState(false);
  if (fixed) return <p className="code text-6xl">{value}</p>;
  return (
    <div className="space-y-2">
      <button
        type="button"
        aria-label={`${label}: ${keyed || value} ${unit}. Key another number`}
        aria-expanded={pad}
        onClick={() => setPad((was) => !was)}
        className={`flex min-h-16 w-full items-baseline gap-3 rounded border-2 bg-sheet px-3 text-left
          ${keyed ? 'border-next' : 'border-ink'}`}
      >
        <span className="text-sm text-soft">{label}</span>
        <span className="code flex-1 text-right text-5xl" data-testid="number">
          {keyed || value}
        </span>
        <span className="text-lg text-soft">{unit}</span>
      </button>
      {keyed && !pad && <p className="text-sm text-soft">Enter, or the next scan, takes {keyed}.</p>}
      {pad && (
        <div className="grid grid-cols-3 gap-2" role="group" aria-label="Keys">
          {['1', '2', '3', '4', '5', '6', '7', '8', '9', '.', '0', '⌫'].map((key) => (
            <Button key={key} tall className="code text-3xl" onClick={() => press(key === '⌫' ? 'Backspace' : key)}>
              {key}
            </Button>
          ))}
          <Button
            tall
            look="next"
            className="col-span-3"
            disabled={!keyed}
            onClick={() => {
              press('Enter');
              setPad(false);
            }}
          >
            Take {keyed || 'the number'}
          </Button>
        </div>
      )}
    </div>
  );
}

/** A question that stands before anything else: loud, with its one or two answers. */
export function Ask({ children, label }: { children: ReactNode; label: string }) {
  return (
    <section aria-label={label} className="space-y-2 rounded border-4 border-next bg-sheet p-3">
      {children}
    </section>
  );
}

/** Asks for the date of a lot that nobody knew. `children`: what is asked; `enter`: the word of the button that answers. */
export function AskDate({
  children,
  enter,
  onDate,
  beside,
}: {
  children: ReactNode;
  enter: string;
  onDate: (date: string) => void;
  beside?: ReactNode;
}) {
  const [date, setDate] = useState('');
  return (
    <Ask label="Which date">
      <form
        className="space-y-2"
        onSubmit={(e) => {
          e.preventDefault();
          onDate(date);
          setDate('');
        }}
      >
        <p className="text-xl">{children}</p>
        <TallDate label="Expires" value={date} onChange={setDate} />
        <Button look="next" tall type="submit" className="w-full" disabled={!date}>
          {enter}
        </Button>
        {beside}
      </form>
    </Ask>
  );
}

/** Asks once whether a number that is unlikely is so; keying it again is the louder answer. */
export function AskSure({ qty, children, onSure, onBack }: { qty: string; children: ReactNode; onSure: () => void; onBack: () => void }) {
  return (
    <Ask label="Is that so">
      <p className="text-xl">
        <strong className="code text-4xl">{qty}</strong> {children}?
      </p>
      <Button look="next" tall className="w-full" onClick={onBack}>
        No, I key it again
      </Button>
      <Button tall className="w-full" onClick={onSure}>
        Yes, {qty}
      </Button>
    </Ask>
  );
}
