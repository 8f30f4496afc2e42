import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { Round, RoundRow } from '#contract/picking';
import {
  atSite,
  Button,
  ButtonLink,
  counted,
  Empty,
  ItemName,
  lasting,
  Plate,
  Progress,
  sayDay,
  sayNumber,
  Tag,
  Trouble,
  useMe,
  useRead,
  useSend,
} from '#web/base';
import { Select } from '#web/forms';
import { Clashes } from '#web/hands';
import { KeySheet } from './key-sheet.tsx';
import { RoundMap } from './round-map.tsx';
import { WalkedBy } from './walked-by.tsx';

/** Rounds in progress, live; the open one with its stops in walking order. Without a choice that is the one with trouble, or the oldest. */
export function Rounds() {
  const { id: given } = useParams();
  const { data, error } = useRead('picking.rounds', { query: { state: 'open' } });
  const { data: down } = useRead('picking.rounds', { query: { state: 'putDown' } });
  const open = data?.rounds ?? [];
  const id = given ? Number(given) : (open.find((r) => r.trouble > 0) ?? open[0])?.id;
  const { data: round, error: unknown } = useRead('picking.round', { params: { id: id ?? 0 } }, { enabled: id !== undefined });
  return (
    <div className="grid grid-cols-1 gap-8 lg:grid-cols-[2fr_3fr]">
      <section>
        <div className="mb-2 flex items-baseline gap-3">
          <h1 className="code text-3xl">Being picked</h1>
          <span className="ml-auto">
            <ButtonLink to="/rounds/propose">Propose rounds</ButtonLink>
          </span>
        </div>
        <Trouble error={error} />
        {data && open.length === 0 && (
          <Empty title="No round is being walked.">Mark orders under “Ordered” and make one round of them.</Empty>
        )}
        <ul>
          {open.map((r) => (
            <li key={r.id}>
              <RoundLink round={r} isOpen={r.id === id} />
            </li>
          ))}
        </ul>
        {down && down.rounds.length > 0 && (
          <>
            <h2 className="mt-6 mb-1 border-b-2 border-ink font-bold">Put down last</h2>
            <ul>
              {down.rounds.slice(0, LAST_DOWN).map((r) => (
                <li key={r.id}>
                  <Link
                    to={`/rounds/${r.id}`}
                    aria-current={r.id === id}
                    className={`flex items-baseline gap-3 border-b border-line p-2 ${r.id === id ? 'bg-shade' : 'hover:bg-shade'}`}
                  >
                    <span className="code text-lg">{r.number}</span>
                    <span className="min-w-0 flex-1 truncate text-soft">
                      {r.person ?? 'nobody'}, {r.orders.join(', ')}
                    </span>
                    <span className="text-sm">{counted(r.picks, 'pick', 'picks')}</span>
                  </Link>
                </li>
              ))}
            </ul>
          </>
        )}
      </section>
      <section>
        <Trouble error={unknown} />
        {round && <RoundPaper key={round.id} round={round} />}
        {data && id === undefined && <NextToWalk />}
      </section>
    </div>
  );
}

const LAST_DOWN = 8;

function RoundLink({ round: r, isOpen }: { round: RoundRow; isOpen: boolean }) {
  return (
    <Link
      to={`/rounds/${r.id}`}
      aria-current={isOpen}
      className={`block border-b border-line p-2 ${isOpen ? 'bg-shade' : 'hover:bg-shade'}`}
    >
      <span className="flex items-baseline justify-between">
        <span className="code mr-3 text-xl">{r.number}</span>
        <span className="min-w-0 truncate">{r.person ?? <Tag tone="strong">nobody has it</Tag>}</span>
      </span>
      <Progress done={r.done} of={r.picks} what="picks" />
      <span className="block truncate text-sm text-soft">
        {r.cart}, {r.orders.join(', ')}, {counted(r.stops, 'stop', 'stops')}, {lasting(r.at)}{' '}
        {r.trouble > 0 && <Tag tone="wrong">trouble at {counted(r.trouble, 'pick', 'picks')}</Tag>}
      </span>
    </Link>
  );
}

const STATE = { open: 'the way', putDown: 'put down at the bench', thrown: 'thrown away' } as const;

function RoundPaper({ round }: { round: Round }) {
  const { me } = useMe();
  const [keying, setKeying] = useState(false);
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set());
  const mayKey = round.state === 'open' && (me?.role === 'lead' || me?.role === 'hand');
  return (
    <>
      <h2 className="mb-2 flex items-baseline gap-3">
        <span className="code text-3xl">{round.number}</span>
        <span className="text-soft">
          {round.state === 'open'
            ? `${STATE.open}: ${counted(round.stopList.length, 'stop', 'stops')}, then ${round.packingBin ?? 'a bench'}`
            : STATE[round.state]}
        </span>
      </h2>
      <HowFar round={round} />
      {!keying && <RoundMap round={round} />}
      <p className="mb-2">
        <a
          className="underline decoration-line underline-offset-4 hover:decoration-ink"
          href={atSite(`/api/rounds/${round.id}/sheet.pdf`)}
          target="_blank"
          rel="noreferrer"
        >
          Pick sheet
        </a>
        {mayKey && !keying && (
          <span className="ml-4">
            <Button onClick={() => setKeying(true)}>Key the sheet that came back</Button>
          </span>
        )}
      </p>
      {keying && mayKey && <KeySheet round={round} onDone={() => setKeying(false)} />}
      {round.state === 'open' && <HandOver round={round} />}
      {mayKey && !keying && marked.size > 0 && <Split round={round} marked={marked} onDone={() => setMarked(new Set())} />}
      <Clashes job={`round:${round.id}`} quiet />
      {!keying && (
        <ol className="border-t-2 border-ink">
          {round.stopList.map((s, n) => (
            <li key={s.bin} className="flex items-center gap-4 border-b border-line py-2">
              <span className="code w-6 text-right text-soft">{n + 1}</span>
              <span className="w-28">
                <Plate address={s.address} to={`/bins/${s.bin}`} />
              </span>
              <ul className="min-w-0 flex-1">
                {s.picks.map((p) => (
                  <li key={p.id} className="flex items-center gap-3">
                    {mayKey && Number(p.qty) > Number(p.picked) && (
                      <input
                        type="checkbox"
                        className="size-4 accent-ink"
                        aria-label={`Mark ${p.code} for ${p.order}`}
                        checked={marked.has(p.id)}
                        onChange={(e) =>
                          setMarked((was) => new Set([...was].filter((id) => id !== p.id).concat(e.target.checked ? [p.id] : [])))
                        }
                      />
                    )}
                    <span className="min-w-0 flex-1">
                      <ItemName item={p.item} code={p.code} description={p.description} />
                      {p.lot && <span className="block pl-10 text-sm text-soft">lot {p.lot}</span>}
                      {p.instead && <span className="block pl-10 text-sm text-soft">instead of {p.instead}</span>}
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
      )}
    </>
  );
}

/** What could be walked next, where nothing is. */
function NextToWalk() {
  const { data } = useRead('orders.list', { query: { ready: 'yes', limit: 200 } });
  const ready = data?.orders ?? [];
  if (ready.length === 0) return null;
  return (
    <>
      <h2 className="mb-2 flex items-center gap-3 border-b-2 border-ink pb-1">
        <span className="font-bold">{counted(ready.length, 'order', 'orders')} can be picked whole</span>
        <span className="ml-auto">
          <ButtonLink look="next" to="/orders?ready=yes">
            Choose orders for a round
          </ButtonLink>
        </span>
      </h2>
      <ul>
        {ready.slice(0, LAST_DOWN).map((o) => (
          <li key={o.id}>
            <Link to={`/orders/${o.id}`} className="flex items-baseline gap-3 border-b border-line py-1.5 hover:bg-shade">
              <span className="code text-lg">{o.number}</span>
              <span className="min-w-0 flex-1 truncate">{o.customer}</span>
              <span className="text-soft">due {sayDay(o.due)}</span>
            </Link>
          </li>
        ))}
      </ul>
    </>
  );
}

/** Gives a round to somebody else, or throws it away; what is on its cart goes back through put-away. */
function HandOver({ round }: { round: Round }) {
  const go = useNavigate();
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
  return (
    <WalkedBy
      person={round.personId}
      busy={away.isPending}
      onGive={(person) => give.mutate({ params: { id: round.id }, body: { person } })}
      onThrowAway={() => away.mutate({ params: { id: round.id } })}
    />
  );
}

/** How far the way is, what it saves, and the bins to which the plan has none. */
function HowFar({ round: { metres, plain, unreached } }: { round: Round }) {
  if (metres === null && unreached.length === 0) return null;
  const saved = metres === null || plain === null ? 0 : Math.round(plain - metres);
  return (
    <div className="mb-2">
      {metres !== null && (
        <p>
          <strong className="code text-xl">{sayNumber(Math.round(metres))} m</strong> to walk
          {saved > 0 && <span className="text-soft">, {sayNumber(saved)} m less than in plain walking order</span>}
        </p>
      )}
      {unreached.length > 0 && (
        <p className="font-semibold text-wrong">
          The plan has no way to {unreached.join(', ')}. They stand last; <Link to="/places/plan">look at the plan</Link>.
        </p>
      )}
    </div>
  );
}

/** Takes the marked lines off a round, or gives them to another one (G8). */
function Split({ round, marked, onDone }: { round: Round; marked: ReadonlySet<number>; onDone: () => void }) {
  const { me } = useMe();
  const go = useNavigate();
  const { data } = useRead('picking.rounds', { query: { state: 'open' } });
  const { data: people } = useRead('people.people', {});
  const split = useSend('picking.split', {
    onDone: (r) => {
      onDone();
      toast.success(
        r.number === null
          ? `${counted(r.picks, 'line is', 'lines are')} off ${round.number}; their orders can be picked anew.`
          : `${counted(r.picks, 'line is', 'lines are')} on ${r.number} now.`,
      );
      if (r.ended) void go(r.id === null ? '/rounds' : `/rounds/${r.id}`);
    },
  });
  const send = (to: Parameters<typeof split.mutate>[0]['body']['to']): void =>
    split.mutate({ params: { id: round.id }, body: { picks: [...marked], to } });
  const here = people?.people.filter((p) => p.role !== 'office' && p.sites.includes(me?.site.id ?? 0)) ?? [];
  const others = data?.rounds.filter((r) => r.id !== round.id) ?? [];
  return (
    <div className="mb-2 flex flex-wrap items-end gap-3 border-2 border-ink bg-sheet p-2">
      <strong className="pb-1.5">{counted(marked.size, 'line', 'lines')} marked</strong>
      <Select
        label="Give them to"
        className="max-w-80"
        value=""
        onChange={(v) => {
          const [kind, id] = v.split(':');
          if (kind === 'round') send({ kind: 'round', round: Number(id) });
          if (kind === 'new') send({ kind: 'new', person: id === '' ? null : Number(id) });
        }}
        options={[
          ['', 'choose'],
          ...others.map((r) => [`round:${r.id}`, `${r.number}, ${r.person ?? 'nobody has it'}`] as const),
          ['new:', 'a new round, for whoever takes it'],
          ...here.map((p) => [`new:${p.id}`, `a new round for ${p.name}`] as const),
        ]}
      />
      <Button disabled={split.isPending} onClick={() => send({ kind: 'out' })}>
        Take them off the round
      </Button>
      <Button look="quiet" onClick={onDone}>
        Not now
      </Button>
    </div>
  );
}
