import { Link } from 'react-router';
import type { Home } from '#contract/desk';
import { DAY_KINDS } from '#contract/desk';
import { ago, Progress, sayNumber, useRead } from '#web/base';

const JOB = {
  round: { does: 'picks', path: '/rounds', of: 'stops' },
  delivery: { does: 'receives', path: '/deliveries', of: 'entries' },
  count: { does: 'counts', path: '/counts', of: 'bins' },
} as const;

/** Who is on what, how far, and when they were last heard of. */
export function Floor({ people }: { people: Home['people'] }) {
  return (
    <section aria-label="On the floor">
      <h2 className="mb-1 border-b-2 border-ink font-bold">On the floor</h2>
      {people.length === 0 && <p className="text-soft">Nobody is scanning just now.</p>}
      <ul>
        {people.map((p) => (
          <li key={p.name} className="border-b border-line py-1.5">
            <div className="flex items-baseline justify-between gap-2">
              <span className="min-w-0 truncate">
                <strong>{p.name}</strong> {JOB[p.job].does}{' '}
                <Link to={`${JOB[p.job].path}/${p.id}`} className="underline decoration-line underline-offset-4">
                  {p.number}
                </Link>
              </span>
              <span className="text-sm whitespace-nowrap text-soft">{ago(p.at)}</span>
            </div>
            {p.of === null ? (
              <span className="text-sm">
                {p.done} {p.done === 1 ? 'entry' : JOB[p.job].of}
              </span>
            ) : (
              <Progress done={p.done} of={p.of} what={JOB[p.job].of} />
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

const NAMES = { in: 'In', putAway: 'Put away', picked: 'Picked', gone: 'Gone' } as const;
const [FROM, TO] = [6, 20]; // hours that are always drawn

/** The day so far by the hour, against what is usual at that hour. */
export function Today() {
  const { data } = useRead('desk.day', {});
  if (!data) return null;
  const found = [...data.hours, ...data.usual].map((h) => h.hour);
  const [from, to] = [Math.min(FROM, ...found), Math.max(TO, ...found)];
  const hours = Array.from({ length: to - from + 1 }, (_, i) => from + i);
  const at = (list: typeof data.hours, kind: string, hour: number): number =>
    list.find((h) => h.kind === kind && h.hour === hour)?.pieces ?? 0;
  const sum = (list: typeof data.hours, kind: string): number => list.filter((h) => h.kind === kind).reduce((n, h) => n + h.pieces, 0);
  return (
    <section aria-label="Today">
      <h2 className="mb-1 flex items-baseline justify-between border-b-2 border-ink font-bold">
        Today, pieces <span className="text-sm font-normal text-soft">line: usual at that hour</span>
      </h2>
      <ul>
        {DAY_KINDS.map((kind) => {
          const most = Math.max(1, ...hours.flatMap((h) => [at(data.hours, kind, h), at(data.usual, kind, h)]));
          const [today, usual] = [sum(data.hours, kind), sum(data.usual, kind)];
          return (
            <li key={kind} className="flex items-end gap-3 border-b border-line py-1">
              <span className="w-24 shrink-0">
                <span className="block text-sm">{NAMES[kind]}</span>
                <span className="code block text-2xl leading-none">{sayNumber(Math.round(today))}</span>
                <span className="block text-sm text-soft">usual {sayNumber(Math.round(usual))}</span>
              </span>
              <span className="flex h-12 flex-1 items-end gap-px border-b border-ink/60" aria-hidden>
                {hours.map((hour) => (
                  <span key={hour} className="relative h-full flex-1" title={`${hour}:00`}>
                    <span
                      className="absolute inset-x-0 bottom-0 bg-settled"
                      style={{ height: `${(at(data.hours, kind, hour) / most) * 100}%` }}
                    />
                    {at(data.usual, kind, hour) > 0 && (
                      <span
                        className="absolute inset-x-0 border-t-2 border-ink/60"
                        style={{ bottom: `${(at(data.usual, kind, hour) / most) * 100}%` }}
                      />
                    )}
                  </span>
                ))}
              </span>
            </li>
          );
        })}
      </ul>
      <p className="flex justify-between pl-27 text-sm text-soft" aria-hidden>
        <span>{from}:00</span>
        <span>{to}:00</span>
      </p>
    </section>
  );
}
