import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { Button, counted, sayDay, sayMoment, Empty, Progress, Tag, Tick, Trouble, useMe, useRead, useSend } from '#web/base';
import { Select } from '#web/forms';

/** Counts: the open ones with how far they are, the posted ones below; plan another. */
export function Counts() {
  const [search] = useSearchParams();
  const go = useNavigate();
  const { data, error } = useRead('counting.counts', {});
  const me = useMe();
  const { data: sites } = useRead('places.sites', {});
  const zones = sites?.sites.find((s) => s.id === me?.me?.site.id)?.zones.filter((z) => z.pickable) ?? [];
  const [zone, setZone] = useState(search.get('zone') ?? '');
  const [blind, setBlind] = useState(true);
  const make = useSend('counting.make', { onDone: (c) => void go(`/counts/${c.id}`) });
  return (
    <div className="grid grid-cols-1 gap-8 lg:grid-cols-[3fr_2fr]">
      <section>
        <h1 className="code mb-2 text-3xl">Counts</h1>
        <Trouble error={error} />
        {data?.counts.length === 0 && <Empty title="Nothing was counted yet.">Plan the first count on the right.</Empty>}
        <ul>
          {data?.counts.map((c) => (
            <li key={c.id}>
              <Link to={`/counts/${c.id}`} className="flex items-center gap-4 border-b border-line p-2 hover:bg-shade">
                <span className="code text-xl">{c.number}</span>
                <span className="flex-1">
                  <strong>{c.zone}</strong>
                  {c.blind ? ', blind' : ''}
                  <span className="block text-sm text-soft">
                    planned by {c.by}, {sayMoment(c.at)}
                  </span>
                </span>
                {c.state === 'open' ? (
                  <span className="w-64">
                    <Progress done={c.counted} of={c.bins} what="bins" />
                  </span>
                ) : (
                  <>
                    <span className="text-sm">
                      {c.counted} of {c.bins} bins
                    </span>
                    <Tag tone="settled">posted</Tag>
                  </>
                )}
              </Link>
            </li>
          ))}
        </ul>
        <Due onPlan={me?.me?.role === 'lead' ? (due) => setZone(String(due)) : null} />
      </section>
      {me?.me?.role === 'lead' && (
        <form
          className="space-y-3 self-start border-2 border-ink p-4"
          onSubmit={(e) => {
            e.preventDefault();
            make.mutate({ body: { zone: Number(zone), blind } });
          }}
        >
          <h2 className="text-lg font-bold">Plan a count</h2>
          <Select
            label="Zone to count"
            value={zone}
            onChange={setZone}
            options={[['', 'choose …'], ...zones.map((z) => [String(z.id), `${z.name}, ${counted(z.bins, 'bin', 'bins')}`] as const)]}
          />
          <Tick label="blind: hands do not see what is expected" checked={blind} onChange={(e) => setBlind(e.target.checked)} />
          <p className="text-sm text-soft">What is expected is noted now. Work goes on; what moves meanwhile is reckoned with.</p>
          <Button look="next" type="submit" disabled={!zone || make.isPending}>
            Start the count
          </Button>
        </form>
      )}
    </div>
  );
}

/** The zones whose bins nobody has counted for long, the longest first. */
function Due({ onPlan }: { onPlan: ((zone: number) => void) | null }) {
  const { data } = useRead('desk.home', {});
  if (!data || data.counts.total === 0) return null;
  return (
    <>
      <h2 className="mt-6 mb-1 border-b-2 border-ink font-bold">Due for counting</h2>
      <ul>
        {data.counts.rows.map((z) => (
          <li key={z.zone} className="flex items-center gap-3 border-b border-line px-2 py-1">
            <span className="min-w-0 flex-1">
              <strong>{z.name}</strong>
              <span className="block text-sm text-soft">
                {z.never === z.bins
                  ? `${counted(z.bins, 'bin', 'bins')}, never counted`
                  : `${
                      z.never > 0 ? `${z.never} of ${counted(z.bins, 'bin', 'bins')} never counted` : counted(z.bins, 'bin', 'bins')
                    }${z.oldest ? `, the longest since ${sayDay(z.oldest)}` : ''}`}
              </span>
            </span>
            {onPlan && <Button onClick={() => onPlan(z.zone)}>Plan it</Button>}
          </li>
        ))}
      </ul>
    </>
  );
}
