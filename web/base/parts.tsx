import { useQueryClient, type Query } from '@tanstack/react-query';
import { useState, type ButtonHTMLAttributes, type ReactNode } from 'react';
import { Link, NavLink } from 'react-router';
import { splitAddress } from '#core/places';
import { Refused } from './client.ts';

/** A bin address as a door plate: the levels apart, the last one loudest. */
export function Plate({ address, size = 'row', to }: { address: string; size?: 'row' | 'door'; to?: string | undefined }) {
  const { levels, separators } = splitAddress(address);
  const door = size === 'door';
  const plate = (
    <span
      role="img"
      aria-label={address}
      className={`code inline-flex items-baseline whitespace-nowrap ${
        door
          ? 'rounded border-4 border-ink bg-sheet px-3 py-1 text-5xl'
          : 'rounded-sm border border-ink/60 bg-sheet px-1.5 text-base leading-6'
      }`}
    >
      {levels.map((level, i) => (
        <span key={i} className="inline-flex items-baseline">
          {i > 0 && <span className={`px-0.5 font-normal text-soft ${door ? 'text-3xl' : 'text-xs'}`}>{separators[i - 1]}</span>}
          <span className={i === levels.length - 1 ? '' : door ? 'text-4xl text-soft' : 'text-sm text-soft'}>{level}</span>
        </span>
      ))}
    </span>
  );
  return to ? (
    <Link to={to} className="hover:opacity-70">
      {plate}
    </Link>
  ) : (
    plate
  );
}

const STANDING = {
  waiting: { word: 'waiting', mark: '○' },
  short: { word: 'short', mark: '◐' },
  full: { word: 'full', mark: '●' },
  over: { word: 'over', mark: '▲' },
  notOrdered: { word: 'not ordered', mark: '◆' },
} as const;
export type StandingName = keyof typeof STANDING;

/** A tally as a bar against a notch: before it, on it, past it; always with the figure and the word. */
export function TallyBar({
  expected,
  arrived,
  standing,
  wide = false,
}: {
  expected: string;
  arrived: string;
  standing: StandingName;
  wide?: boolean;
}) {
  const due = Number(expected);
  const got = Number(arrived);
  const scale = Math.max(due, got, 1) * 1.15;
  const wrong = standing === 'over' || standing === 'notOrdered';
  return (
    <span className={`inline-flex items-center gap-2 ${wide ? 'w-full' : ''}`}>
      <span className={`relative h-3 border border-ink/50 bg-sheet ${wide ? 'flex-1' : 'w-28'}`} aria-hidden>
        <span
          className={`absolute inset-y-0 left-0 ${wrong ? 'bg-wrong' : standing === 'full' ? 'bg-settled' : 'bg-soft'}`}
          style={{ width: `${(got / scale) * 100}%` }}
        />
        {due > 0 && <span className="absolute -top-1 -bottom-1 w-0.5 bg-ink" style={{ left: `${(due / scale) * 100}%` }} />}
      </span>
      <span className={`whitespace-nowrap text-sm font-semibold ${wrong ? 'text-wrong' : ''}`}>
        {STANDING[standing].mark} {STANDING[standing].word}
      </span>
    </span>
  );
}

/** How far something has come: a bar and a figure, without a verdict. */
export function Progress({ done, of, what }: { done: number; of: number; what: string }) {
  return (
    <span className="inline-flex w-full items-center gap-2">
      <span className="relative h-3 flex-1 border border-ink/50 bg-sheet" aria-hidden>
        <span className="absolute inset-y-0 left-0 bg-settled" style={{ width: `${of === 0 ? 0 : Math.min(100, (done / of) * 100)}%` }} />
      </span>
      <span className="whitespace-nowrap text-sm font-semibold">
        {done} of {of} {what}
      </span>
    </span>
  );
}

type Look = 'next' | 'plain' | 'quiet' | 'wrong';
const LOOKS: Readonly<Record<Look, string>> = {
  next: 'bg-next text-[#1c1a17] border-[#1c1a17] font-bold hover:bg-next-deep',
  plain: 'bg-sheet text-ink border-ink/70 hover:bg-shade',
  quiet: 'bg-transparent text-ink border-transparent underline decoration-line underline-offset-4 hover:decoration-ink',
  wrong: 'bg-sheet text-wrong border-wrong hover:bg-wrong-pale',
};

const shapeOf = (look: Look, tall: boolean): string =>
  `rounded border-2 px-3 ${tall ? 'min-h-14 text-xl' : 'min-h-9 text-base'} ${LOOKS[look]}`;

/** A button. `next` is for the one next act of a screen; `tall` is for gloves. */
export function Button({
  look = 'plain',
  tall = false,
  className = '',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { look?: Look; tall?: boolean }) {
  return <button type="button" {...rest} className={`${shapeOf(look, tall)} disabled:opacity-40 ${className}`} />;
}

/** What looks like a button and leads to another page: a link, which may be opened beside and copied. */
export function ButtonLink({
  to,
  look = 'plain',
  tall = false,
  className = '',
  children,
}: {
  to: string;
  look?: Look;
  tall?: boolean;
  className?: string;
  children: ReactNode;
}) {
  return (
    <Link to={to} className={`inline-flex items-center justify-center whitespace-nowrap ${shapeOf(look, tall)} ${className}`}>
      {children}
    </Link>
  );
}

/** The screens of one room, beside its name. */
export function SubRow({
  title,
  links,
  children,
}: {
  title: string;
  links: readonly (readonly [to: string, label: string])[];
  children?: ReactNode;
}) {
  return (
    <div className="mb-3 flex flex-wrap items-end gap-x-5 border-b-2 border-ink">
      <h1 className="code text-3xl leading-tight">{title}</h1>
      <nav aria-label={title} className="flex flex-wrap gap-1">
        {links.map(([to, label]) => (
          <NavLink
            key={to}
            to={to}
            end
            className={({ isActive }) =>
              `-mb-0.5 border-b-4 px-2 py-1 ${isActive ? 'border-next font-bold' : 'border-transparent hover:border-line'}`
            }
          >
            {label}
          </NavLink>
        ))}
      </nav>
      <div className="ml-auto flex flex-wrap items-center justify-end gap-2 pb-1">{children}</div>
    </div>
  );
}

/** What a list says when it is empty: what it is for and what to do first. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="rounded border-2 border-dashed border-line p-6 text-center">
      <p className="text-lg font-semibold">{title}</p>
      {children && <p className="text-soft">{children}</p>}
    </div>
  );
}

/** What went wrong, in the server's own sentence, where it happened. */
export function Trouble({ error }: { error: Error | null }) {
  const client = useQueryClient();
  if (!error) return null;
  // What could not be read, on this page or beside it, is read once more. What was refused would be refused again.
  const unread = { type: 'active', predicate: (q: Query) => q.state.status === 'error' } as const;
  const isPassing = !(error instanceof Refused) || error.problem.status >= 500;
  const mayAgain = isPassing && client.getQueryCache().findAll(unread).length > 0;
  return (
    <div role="alert" className="flex items-center gap-3 rounded border-2 border-wrong bg-wrong-pale p-3 text-wrong">
      <span className="font-semibold">{error.message}</span>
      {mayAgain && (
        <Button look="wrong" onClick={() => void client.refetchQueries(unread)}>
          Try again
        </Button>
      )}
    </div>
  );
}

/** A word in a box: a state, told by its word and never by colour alone. */
export function Tag({ children, tone = 'plain' }: { children: ReactNode; tone?: 'plain' | 'wrong' | 'settled' | 'strong' }) {
  const tones = {
    plain: 'border-line',
    wrong: 'border-wrong bg-wrong-pale text-wrong',
    settled: 'border-settled bg-settled-pale text-settled',
    strong: 'border-ink bg-ink text-paper',
  };
  return <span className={`inline-block whitespace-nowrap rounded-sm border px-1.5 text-sm font-semibold ${tones[tone]}`}>{children}</span>;
}

/** The scan line: takes what was typed by hand where there is no scanner, or no barcode. */
export function ScanLine({ onScan, hint, tall = false }: { onScan: (code: string) => void; hint: string; tall?: boolean }) {
  const [text, setText] = useState('');
  return (
    <form
      className="flex gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        const code = text.trim();
        setText('');
        if (code) onScan(code);
      }}
    >
      <input
        data-scanline=""
        aria-label="Scan or type a code"
        value={text}
        onChange={(e) => setText(e.target.value)}
        placeholder={hint}
        autoComplete="off"
        autoCapitalize="off"
        spellCheck={false}
        inputMode={tall ? 'none' : 'text'}
        onFocus={(e) => tall && e.target.setAttribute('inputmode', 'text')}
        enterKeyHint="go"
        className={`code min-w-0 flex-1 rounded border-2 border-ink bg-sheet px-3 font-medium placeholder:font-medium
          placeholder:text-soft ${tall ? 'min-h-14 text-xl' : 'min-h-9 text-lg'}`}
      />
    </form>
  );
}
