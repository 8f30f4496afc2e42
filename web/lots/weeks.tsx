import { Suspense, useCallback, useMemo, useState } from 'react';
import { counted, sayDayOfYear, useRead } from '#web/base';
import { Bars } from '#web/chart';

/** What expires in each of the next weeks (E2), as a chart that is loaded when it is opened. A week that is pressed is told by the days
 *  until its last. */
export function Weeks({ site, onWeek }: { site: 'here' | 'all'; onWeek: (days: number) => void }) {
  const [isShown, setIsShown] = useState(false);
  return (
    <details className="mb-3 border-2 border-line p-2" onToggle={(e) => setIsShown(e.currentTarget.open)}>
      <summary className="cursor-pointer font-semibold">What expires by week</summary>
      {isShown && <Chart site={site} onWeek={onWeek} />}
    </details>
  );
}

function Chart({ site, onWeek }: { site: 'here' | 'all'; onWeek: (days: number) => void }) {
  const { data } = useRead('lots.weeks', { query: { site } });
  const weeks = data?.weeks;
  const of = useMemo(
    () => ({
      names: (weeks ?? []).map((w) => sayDayOfYear(w.from)),
      series: [
        { name: 'can be sold', values: (weeks ?? []).map((w) => Number(w.sound)) },
        { name: 'set apart', values: (weeks ?? []).map((w) => Number(w.apart)), look: 'wrong' as const },
      ],
      unit: 'pieces',
    }),
    [weeks],
  );
  const pick = useCallback(
    (name: string) => {
      const week = weeks?.find((w) => sayDayOfYear(w.from) === name);
      if (week) onWeek(week.days);
    },
    [weeks, onWeek],
  );
  if (!data || !weeks) return <p className="text-soft">One moment …</p>;
  const lots = weeks.reduce((sum, w) => sum + w.lots, 0);
  return (
    <>
      <p className="pt-2 text-soft">
        {lots === 0
          ? 'Nothing expires within half a year.'
          : `${counted(lots, 'lot', 'lots')} within half a year; press a week to list what expires until then.`}{' '}
        {data.expired.lots > 0 && (
          <strong className="text-wrong">
            {counted(data.expired.lots, 'lot has', 'lots have')} expired already, {data.expired.qty} pieces.
          </strong>
        )}
      </p>
      <Suspense fallback={<p className="text-soft">One moment …</p>}>
        <Bars of={of} label="Pieces that expire, by week" onPick={pick} />
      </Suspense>
    </>
  );
}
