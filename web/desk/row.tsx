import { Link, useLocation } from 'react-router';
import { stationAt } from './station-at.ts';
import type { Station } from '#contract/desk';
import { ago, useRead } from '#web/base';

const STATION: Readonly<Record<Station['station'], { name: string; path: string }>> = {
  expected: { name: 'Expected', path: '/expected' },
  dock: { name: 'At the dock', path: '/deliveries' },
  review: { name: 'To review', path: '/deliveries?show=review' },
  putAway: { name: 'To put away', path: '/put-away' },
  shelf: { name: 'On shelves', path: '/places' },
  orders: { name: 'Ordered', path: '/orders' },
  rounds: { name: 'Being picked', path: '/rounds' },
  bench: { name: 'At the bench', path: '/bench' },
  gone: { name: 'Gone today', path: '/orders?state=shipped' },
  counts: { name: 'Being counted', path: '/counts' },
};

/** The row: the stations in the order goods flow, each with what waits there and how old the oldest is. Navigation and news at once. */
export function RowStrip() {
  const { data } = useRead('desk.row', {});
  const here = stationAt(useLocation());
  const stations =
    data?.stations ??
    Object.keys(STATION).map((station) => ({ station: station as Station['station'], waiting: null, late: 0, oldest: null, unit: '' }));
  return (
    <nav aria-label="The row" className="flex border-y-4 border-ink">
      {stations.map((s) => (
        <Link
          key={s.station}
          to={STATION[s.station].path}
          aria-current={here === s.station ? 'page' : undefined}
          className={`group relative flex min-w-0 flex-1 flex-col px-2.5 pt-1.5 pb-1 ${
            s.station === 'counts' ? 'ml-3 border-l-4 border-ink' : 'border-r border-line last:border-r-0'
          } ${here === s.station ? 'bg-ink text-paper' : 'hover:bg-shade'}`}
        >
          <span className="truncate text-sm">{STATION[s.station].name}</span>
          <span className="flex items-baseline gap-1.5">
            <span data-testid={`station-${s.station}`} className="code text-4xl leading-9">
              {s.waiting ?? '·'}
            </span>
            <span className="truncate text-xs opacity-75">{s.unit}</span>
          </span>
          <span className="h-5 truncate text-xs">
            {s.late > 0 ? (
              <span className="rounded-sm bg-wrong px-1 font-bold text-paper">{s.late} late</span>
            ) : s.waiting ? (
              s.oldest ? (
                `oldest ${ago(s.oldest)}`
              ) : (
                ''
              )
            ) : (
              ''
            )}
          </span>
        </Link>
      ))}
    </nav>
  );
}
