import { Link } from 'react-router';
import type { ReplyOf, Routes } from '#contract';
import { ago, Empty, Trouble, useRead } from '#web/base';

type HomeReply = ReplyOf<Routes['desk.home']>;
type Part = Exclude<keyof HomeReply, 'people'>;

const PARTS: readonly { part: Part; title: string; act: string }[] = [
  { part: 'trouble', title: 'Trouble on the floor', act: 'Look at the bin' },
  { part: 'late', title: 'Late', act: 'Open the order' },
  { part: 'short', title: 'Not all promised', act: 'Promise or buy' },
  { part: 'held', title: 'Held orders', act: 'Release' },
  { part: 'expired', title: 'Expired on shelves', act: 'Move to quarantine' },
  { part: 'expiring', title: 'Expires within 30 days', act: 'See the lot' },
  { part: 'counts', title: 'Due for counting', act: 'Plan a count' },
];

/** Home: what is wrong or will be soon, each line a step from mending it; and who is on what. What waits is on the row above. */
export function Home() {
  const { data, error, refetch } = useRead('desk.home', {});
  if (!data) return <Trouble error={error} onAgain={() => void refetch()} />;
  const parts = PARTS.filter(({ part }) => data[part].length > 0);
  return (
    <div className="grid gap-x-8 gap-y-5 lg:grid-cols-3">
      <div className="grid content-start gap-x-8 gap-y-5 md:grid-cols-2 lg:col-span-2">
        {parts.length === 0 && <Empty title="Nothing is wrong.">What waits is on the row above.</Empty>}
        {parts.map(({ part, title, act }) => (
          <section key={part}>
            <h2 className="mb-1 flex items-baseline gap-2 border-b-2 border-ink font-bold">
              {title} <span className="code text-lg">{data[part].length === 12 ? '12 or more' : data[part].length}</span>
            </h2>
            <ul>
              {data[part].slice(0, 6).map((w) => (
                <li key={w.path + w.name}>
                  <Link to={w.path} className="flex items-baseline gap-3 border-b border-line py-1 hover:bg-shade" title={act}>
                    <span className="min-w-0 flex-1">
                      <span className="block truncate font-semibold">{w.name}</span>
                      <span className="block truncate text-sm text-soft">{w.detail}</span>
                    </span>
                    <span className="whitespace-nowrap text-sm underline decoration-line underline-offset-4">{act}</span>
                  </Link>
                </li>
              ))}
            </ul>
            {data[part].length > 6 && <p className="pt-1 text-sm text-soft">and {data[part].length - 6} more</p>}
          </section>
        ))}
      </div>
      <section>
        <h2 className="mb-1 border-b-2 border-ink font-bold">Who is on what</h2>
        {data.people.length === 0 && <p className="text-soft">Nobody is scanning just now.</p>}
        <ul>
          {data.people.map((p) => (
            <li key={p.name} className="flex justify-between border-b border-line py-1.5">
              <span>
                <strong>{p.name}</strong> {p.doing}
              </span>
              <span className="text-sm text-soft">{ago(p.at)}</span>
            </li>
          ))}
        </ul>
      </section>
    </div>
  );
}
