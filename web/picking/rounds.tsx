import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { Round } from '#contract/picking';
import { ago, Button, Empty, Plate, Select, Tag, TallyBar, Trouble, useMe, useRead, useSend } from '#web/base';
import { Clashes } from '#web/hands';

/** Rounds in progress, live; the open one with its stops in walking order. */
export function Rounds() {
  const { id: given } = useParams();
  const id = given ? Number(given) : undefined;
  const { data, error } = useRead('picking.rounds', { query: { state: 'open' } });
  const { data: round } = useRead('picking.round', { params: { id: id ?? 0 } }, { enabled: id !== undefined });
  return (
    <div className="grid gap-8 lg:grid-cols-[2fr_3fr]">
      <section>
        <h1 className="code mb-2 text-3xl">Being picked</h1>
        <Trouble error={error} />
        {data?.rounds.length === 0 && (
          <Empty title="No round is being walked.">Mark orders under “Ordered” and make one round of them.</Empty>
        )}
        <ul>
          {data?.rounds.map((r) => (
            <li key={r.id}>
              <Link
                to={`/rounds/${r.id}`}
                aria-current={r.id === id}
                className={`block border-b border-line p-2 ${r.id === id ? 'bg-shade' : 'hover:bg-shade'}`}
              >
                <span className="flex items-baseline justify-between">
                  <span className="code text-xl">{r.number}</span>
                  <span>{r.person ?? <Tag tone="strong">nobody has it</Tag>}</span>
                </span>
                <TallyBar
                  wide
                  expected={String(r.picks)}
                  arrived={String(r.done)}
                  standing={r.done === r.picks ? 'full' : r.done > 0 ? 'short' : 'waiting'}
                />
                <span className="block truncate text-sm text-soft">
                  {r.done} of {r.picks} picks, {r.stops} stops, {r.cart}, {r.orders.join(', ')}, since {ago(r.at)}{' '}
                  {r.trouble > 0 && <Tag tone="wrong">{r.trouble} trouble</Tag>}
                </span>
              </Link>
            </li>
          ))}
        </ul>
      </section>
      {round && (
        <section>
          <h2 className="mb-2 flex items-baseline gap-3">
            <span className="code text-3xl">{round.number}</span>
            <span className="text-soft">
              {round.state === 'putDown'
                ? 'put down at the bench'
                : round.state === 'thrown'
                  ? 'thrown away'
                  : `the way: ${round.stopList.length} stops, then ${round.packingBin ?? 'a bench'}`}
            </span>
          </h2>
          {round.state === 'open' && <HandOver round={round} />}
          <Clashes job={`round:${round.id}`} quiet />
          <ol>
            {round.stopList.map((s, n) => (
              <li key={s.bin} className="flex gap-4 border-b border-line py-2">
                <span className="code w-6 text-right text-soft">{n + 1}</span>
                <Plate address={s.address} to={`/bins/${s.bin}`} />
                <ul className="flex-1">
                  {s.picks.map((p) => (
                    <li key={p.id} className="flex items-baseline gap-3">
                      <span className="code">{p.code}</span>
                      <span className="min-w-0 flex-1 truncate">
                        {p.description} {p.lot && <span className="text-soft">lot {p.lot}</span>}
                      </span>
                      <span className="text-sm text-soft">
                        {p.order}, slot {p.slot}
                      </span>
                      {p.trouble ? (
                        <Tag tone="wrong">{p.trouble === 'notFound' ? 'not found' : p.trouble}</Tag>
                      ) : (
                        <strong className="w-20 text-right">
                          {p.picked} of {p.qty}
                        </strong>
                      )}
                    </li>
                  ))}
                </ul>
              </li>
            ))}
          </ol>
        </section>
      )}
    </div>
  );
}

/** Gives a round to somebody else, or throws it away; what is on its cart goes back through put-away. */
function HandOver({ round }: { round: Round }) {
  const go = useNavigate();
  const me = useMe();
  const { data: people } = useRead('people.people', {});
  const give = useSend('picking.give', { onDone: () => toast.success('The round is handed over.') });
  const away = useSend('picking.throwAway', {
    onDone: (r) => {
      toast.success(
        r.bin === null
          ? `${round.number} is thrown away.`
          : `${round.number} is thrown away; ${r.pieces} pieces went back to ${r.bin}, to be put away.`,
      );
      void go('/rounds');
    },
  });
  const here = people?.people.filter((p) => p.role !== 'office' && p.sites.includes(me?.me?.site.id ?? 0)) ?? [];
  return (
    <div className="mb-2 flex items-end gap-3">
      <Select
        label="Walked by"
        value={round.personId ?? ''}
        onChange={(e) => give.mutate({ params: { id: round.id }, body: { person: e.target.value === '' ? null : Number(e.target.value) } })}
        options={[['', 'nobody yet'], ...here.map((p) => [p.id, p.name] as const)]}
      />
      {me?.me?.role === 'lead' && (
        <Button look="wrong" disabled={away.isPending} onClick={() => away.mutate({ params: { id: round.id } })}>
          Throw the round away
        </Button>
      )}
    </div>
  );
}
