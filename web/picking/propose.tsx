import { useEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { Proposal } from '#core/routing';
import type { ToJoin } from '#contract/picking';
import { Button, ButtonLink, counted, Empty, Refused, sayDay, sayNumber, Tag, Tick, Trouble, useRead, useSend } from '#web/base';
import type { FromProposer, ToProposer } from './propose.worker.ts';

/** Rounds that are proposed (G1): orders joined so that the whole walk is short. Reckoned beside the screen; it can be stopped at the
 *  best so far. What is ticked is made, one round after the other, as long as there are carts. */
export function ProposeRounds() {
  const { data: asked, error } = useRead('picking.toJoin', {}, { keep: true });
  const { data: plan } = useRead('places.plan', {});
  // What is here when it begins is what it is about: an order that comes meanwhile is for the next time.
  const [begun, setBegun] = useState<ToJoin | null>(null);
  useEffect(() => {
    if (asked) setBegun((was) => was ?? asked);
  }, [asked]);
  return (
    <section>
      <div className="mb-3 flex items-baseline gap-4">
        <h1 className="code text-3xl">Rounds to propose</h1>
        <Link className="underline decoration-line underline-offset-4" to="/rounds">
          Being picked
        </Link>
        {begun && (
          <span className="ml-auto">
            <Button onClick={() => setBegun(asked ?? null)}>Look anew</Button>
          </span>
        )}
      </div>
      <Trouble error={error} />
      {begun && begun.orders.length === 0 && (
        <Empty title="No order can be picked now.">Promise stock under “Ordered”; what is held, or walked already, is left out.</Empty>
      )}
      {begun && plan && begun.orders.length > 0 && <Search key={begun.orders.map((o) => o.id).join()} asked={begun} plan={plan.layout} />}
    </section>
  );
}

function useProposal(asked: ToJoin, plan: Extract<ToProposer, object>['plan']) {
  const [said, setSaid] = useState<FromProposer | null>(null);
  const [fault, setFault] = useState<Error | null>(null);
  const worker = useRef<Worker | null>(null);
  useEffect(() => {
    const own = new Worker(new URL('./propose.worker.ts', import.meta.url), { type: 'module' });
    worker.current = own;
    own.addEventListener('message', ({ data }: MessageEvent<FromProposer>) => setSaid(data));
    own.addEventListener('error', () => setFault(new Error('The search could not be begun. Load the page again.')));
    own.postMessage({ asked, plan } satisfies ToProposer);
    return () => own.terminate();
  }, [asked, plan]);
  return { said, fault, stop: () => worker.current?.postMessage('stop' satisfies ToProposer) };
}

function Search({ asked, plan }: { asked: ToJoin; plan: Extract<ToProposer, object>['plan'] }) {
  const { said, fault, stop } = useProposal(asked, plan);
  if (!said) return fault ? <Trouble error={fault} /> : <p className="text-soft">Measuring the floor …</p>;
  const { proposal, ended } = said;
  return (
    <>
      <Trouble error={fault} />
      <Figures proposal={proposal} asked={asked} />
      {!ended && (
        <div role="status" className="mb-3 flex items-center gap-3">
          <progress className="h-3 w-80 accent-[var(--color-ink)]" aria-label="Search" value={proposal.done} max={1} />
          <span className="text-soft">looking for shorter ones …</span>
          <Button onClick={stop}>Stop here: these are good enough</Button>
        </div>
      )}
      <Chosen asked={asked} proposal={proposal} ended={ended} />
    </>
  );
}

const metresText = (m: number | null): string => (m === null ? '–' : `${sayNumber(Math.round(m))} m`);

function Figures({ proposal: p, asked }: { proposal: Proposal; asked: ToJoin }) {
  const lines = asked.orders.reduce((sum, o) => sum + o.lines, 0);
  const unsized = asked.orders.reduce((sum, o) => sum + o.unsized, 0);
  const figures: [string, string][] = [
    ['joined', metresText(p.metres)],
    ['as they come', metresText(p.firstCome)],
    ['each by itself', metresText(p.singly)],
    ['no way is under', metresText(p.least)],
    ['joined, a line', p.metres === null || lines === 0 ? '–' : `${(p.metres / lines).toFixed(1)} m`],
  ];
  return (
    <div className="mb-3">
      <p className="text-lg">
        <strong>{counted(asked.orders.length, 'order', 'orders')}</strong> in <strong>{counted(p.rounds.length, 'round', 'rounds')}</strong>
        , {counted(asked.slots, 'slot', 'slots')} to a cart
      </p>
      <dl className="mt-1 flex flex-wrap gap-x-8">
        {figures.map(([what, far]) => (
          <div key={what}>
            <dt className="text-sm text-soft">{what}</dt>
            <dd className="code text-2xl">{far}</dd>
          </div>
        ))}
      </dl>
      {unsized > 0 && (
        <p className="text-soft">
          {counted(unsized, 'line is', 'lines are')} of items without a weight or size on record: whether a cart bears them is not known.
        </p>
      )}
      {p.offPlan.length > 0 && (
        <p className="font-semibold text-wrong">
          {counted(p.offPlan.length, 'order stops', 'orders stop')} where the plan has no way; how far that is, is not in the metres.{' '}
          <Link to="/places/plan" className="underline">
            Look at the plan
          </Link>
        </p>
      )}
    </div>
  );
}

function Chosen({ asked, proposal, ended }: { asked: ToJoin; proposal: Proposal; ended: boolean }) {
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [made, setMade] = useState<ReadonlyMap<string, { id: number; number: string }>>(new Map());
  const [working, setWorking] = useState(false);
  const [refused, setRefused] = useState<ReadonlyMap<string, string>>(new Map());
  const make = useSend('picking.make', { quiet: true });
  const orders = new Map(asked.orders.map((o) => [o.id, o]));
  const keyOf = (round: Proposal['rounds'][number]): string => round.orders.join();
  const wanted = proposal.rounds.filter((r) => !left.has(keyOf(r)) && !made.has(keyOf(r)) && !refused.has(keyOf(r)));
  const now = wanted.slice(0, Math.max(0, asked.freeCarts - made.size));
  // Somebody may have taken an order meanwhile: that round is said to be gone, the others are made.
  const makeAll = async (): Promise<void> => {
    setWorking(true);
    let count = 0;
    for (const round of now) {
      try {
        const done = await make.mutateAsync({ body: { orders: [...round.orders] } });
        count += 1;
        setMade((was) => new Map([...was, [keyOf(round), done]]));
      } catch (error) {
        setRefused((was) => new Map([...was, [keyOf(round), (error as Error).message]]));
        // Without a cart, or without an answer, the next would fare no better.
        if (!(error instanceof Refused) || error.problem.code === 'picking.noCart') break;
      }
    }
    setWorking(false);
    if (count > 0) toast.success(`${counted(count, 'round is', 'rounds are')} there.`);
  };
  return (
    <>
      <div className="mb-2 flex items-center gap-3 border-b-2 border-ink pb-2">
        <span>{counted(asked.freeCarts - made.size, 'cart is', 'carts are')} free</span>
        <span className="ml-auto flex items-center gap-2">
          {working && <span role="status">{made.size} made …</span>}
          {made.size > 0 && !working && <ButtonLink to="/rounds">To the rounds</ButtonLink>}
          <Button look="next" disabled={!ended || working || now.length === 0} onClick={() => void makeAll()}>
            {now.length === 0 ? 'No round to make' : `Make ${now.length === 1 ? 'this round' : `the first ${now.length} rounds`}`}
          </Button>
        </span>
      </div>
      <ol aria-label="Proposed rounds">
        {proposal.rounds.map((round, n) => {
          const key = keyOf(round);
          const own = round.orders.map((id) => orders.get(id)).filter((o) => o !== undefined);
          const done = made.get(key);
          const soonest = own.map((o) => o.due).toSorted()[0] ?? '';
          return (
            <li key={key} className="flex items-center gap-4 border-b border-line py-1.5">
              <span className="code w-8 text-right text-soft">{n + 1}</span>
              {done ? (
                <Link className="code text-lg underline" to={`/rounds/${done.id}`}>
                  {done.number}
                </Link>
              ) : (
                <Tick
                  label={`Round ${n + 1}`}
                  checked={!left.has(key)}
                  onChange={(e) =>
                    setLeft((was) => (e.target.checked ? new Set([...was].filter((k) => k !== key)) : new Set([...was, key])))
                  }
                />
              )}
              <span className="min-w-0 flex-1 truncate">
                {own.map((o) => (
                  <Link key={o.id} to={`/orders/${o.id}`} className="code mr-3 hover:underline" title={o.customer}>
                    {o.number}
                  </Link>
                ))}
              </span>
              {refused.has(key) && <span className="max-w-96 font-semibold text-wrong">{refused.get(key)}</span>}
              {own.some((o) => o.day < 0) && <Tag tone="wrong">late</Tag>}
              <span className="w-36 whitespace-nowrap text-soft">due {sayDay(soonest)}</span>
              <span className="w-20 text-right">{counted(round.stops, 'stop', 'stops')}</span>
              <strong className="code w-20 text-right text-lg">{metresText(round.metres)}</strong>
            </li>
          );
        })}
      </ol>
    </>
  );
}
