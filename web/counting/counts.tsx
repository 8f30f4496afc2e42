import { useState } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { Button, sayMoment, Empty, Progress, Tag, Trouble, useMe, useRead, useSend } from '#web/base';

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
    <div className="grid gap-8 lg:grid-cols-[3fr_2fr]">
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
          <label className="block">
            <span className="block text-sm text-soft">Zone</span>
            <select
              aria-label="Zone to count"
              className="min-h-9 w-full rounded border-2 border-ink/60 bg-sheet"
              value={zone}
              onChange={(e) => setZone(e.target.value)}
            >
              <option value="">Choose …</option>
              {zones.map((z) => (
                <option key={z.id} value={z.id}>
                  {z.name}, {z.bins} bins
                </option>
              ))}
            </select>
          </label>
          <label className="flex gap-2">
            <input type="checkbox" className="size-4" checked={blind} onChange={(e) => setBlind(e.target.checked)} /> blind: hands do not
            see what is expected
          </label>
          <p className="text-sm text-soft">What is expected is noted now. Work goes on; what moves meanwhile is reckoned with.</p>
          <Button look="next" type="submit" disabled={!zone || make.isPending}>
            Start the count
          </Button>
        </form>
      )}
    </div>
  );
}
