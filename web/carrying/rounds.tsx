import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { Carry, CarryRow, CarryTaskOut } from '#contract/carrying';
import { shortSscc } from '#core/floor';
import {
  atSite,
  Button,
  counted,
  Empty,
  ItemName,
  lasting,
  Plate,
  Progress,
  sayNumber,
  Tag,
  Trouble,
  useMe,
  useRead,
  useSend,
} from '#web/base';
import { Clashes } from '#web/hands';
import { WalkedBy } from '#web/picking';
import { CARRY_NAME, CarryFrame } from './frame.tsx';
import { KeyCarrySheet } from './key-sheet.tsx';

const STATE = { open: 'under way', done: 'done', thrown: 'thrown away' } as const;
const TROUBLE = { short: 'short', damaged: 'damaged', notFound: 'not found' } as const;

/** Put-away and refill rounds, live; the open one with its lines in the order of the way. */
export function Carries() {
  const { id: given } = useParams();
  const { data, error } = useRead('carrying.list', { query: {} });
  const open = data?.open ?? [];
  const id = given ? Number(given) : (open.find((r) => r.trouble > 0) ?? open[0])?.id;
  const { data: carry, error: unknown } = useRead('carrying.carry', { params: { id: id ?? 0 } }, { enabled: id !== undefined });
  return (
    <CarryFrame title="Put-away and refill rounds">
      <div className="grid grid-cols-1 gap-8 lg:grid-cols-[2fr_3fr]">
        <section>
          <Trouble error={error} />
          {data && open.length === 0 && (
            <Empty title="No round is under way.">
              Make one of what lies at <Link to="/put-away">arrivals</Link>, or of the <Link to="/refill">pick faces</Link> that want more.
            </Empty>
          )}
          <ul>
            {open.map((r) => (
              <li key={r.id}>
                <CarryLink carry={r} isOpen={r.id === id} />
              </li>
            ))}
          </ul>
          {data && data.ended.length > 0 && (
            <>
              <h2 className="mt-6 mb-1 border-b-2 border-ink font-bold">Ended last</h2>
              <ul>
                {data.ended.map((r) => (
                  <li key={r.id}>
                    <Link
                      to={`/carries/${r.id}`}
                      aria-current={r.id === id}
                      className={`flex items-baseline gap-3 border-b border-line p-2 ${r.id === id ? 'bg-shade' : 'hover:bg-shade'}`}
                    >
                      <span className="code text-lg">{r.number}</span>
                      <span className="min-w-0 flex-1 truncate text-soft">
                        {CARRY_NAME[r.kind]}, {r.person ?? 'nobody'}
                        {r.state === 'thrown' && ', thrown away'}
                      </span>
                      <span className="text-sm">{counted(r.lines, 'line', 'lines')}</span>
                    </Link>
                  </li>
                ))}
              </ul>
            </>
          )}
        </section>
        <section>
          <Trouble error={unknown} />
          {carry && <CarryPaper key={carry.id} carry={carry} />}
        </section>
      </div>
    </CarryFrame>
  );
}

function CarryLink({ carry: r, isOpen }: { carry: CarryRow; isOpen: boolean }) {
  return (
    <Link
      to={`/carries/${r.id}`}
      aria-current={isOpen}
      className={`block border-b border-line p-2 ${isOpen ? 'bg-shade' : 'hover:bg-shade'}`}
    >
      <span className="flex items-baseline justify-between">
        <span className="code mr-3 text-xl">{r.number}</span>
        <span className="min-w-0 truncate">{r.person ?? <Tag tone="strong">nobody has it</Tag>}</span>
      </span>
      <Progress done={r.done} of={r.lines} what="lines" />
      <span className="block truncate text-sm text-soft">
        {CARRY_NAME[r.kind]}
        {r.cart && `, ${r.cart}`}, {lasting(r.at)}{' '}
        {r.trouble > 0 && <Tag tone="wrong">trouble at {counted(r.trouble, 'line', 'lines')}</Tag>}
      </span>
    </Link>
  );
}

function CarryPaper({ carry }: { carry: Carry }) {
  const { me } = useMe();
  const [keying, setKeying] = useState(false);
  const mayKey = carry.state === 'open' && (me?.role === 'lead' || me?.role === 'hand');
  const saved = carry.metres === null || carry.plain === null ? 0 : Math.round(carry.plain - carry.metres);
  return (
    <>
      <h2 className="mb-2 flex items-baseline gap-3">
        <span className="code text-3xl">{carry.number}</span>
        <span className="text-soft">
          {CARRY_NAME[carry.kind]}, {STATE[carry.state]}: {counted(carry.tasks.length, 'line', 'lines')}
        </span>
      </h2>
      {carry.metres !== null && (
        <p className="mb-2">
          <strong className="code text-xl">{sayNumber(Math.round(carry.metres))} m</strong> to walk
          {saved > 0 && <span className="text-soft">, {sayNumber(saved)} m less than in plain walking order</span>}
        </p>
      )}
      {carry.unreached.length > 0 && (
        <p className="mb-2 font-semibold text-wrong">
          The plan has no way to {carry.unreached.join(', ')}. They stand last; <Link to="/places/plan">look at the plan</Link>.
        </p>
      )}
      <p className="mb-2">
        <a
          className="underline decoration-line underline-offset-4 hover:decoration-ink"
          href={atSite(`/api/carries/${carry.id}/sheet.pdf`)}
          target="_blank"
          rel="noreferrer"
        >
          {carry.kind === 'refill' ? 'Refill sheet' : 'Put-away sheet'}
        </a>
        {mayKey && !keying && (
          <span className="ml-4">
            <Button onClick={() => setKeying(true)}>Key the sheet that came back</Button>
          </span>
        )}
      </p>
      {keying && mayKey && <KeyCarrySheet carry={carry} isLead={me?.role === 'lead'} onDone={() => setKeying(false)} />}
      {carry.state === 'open' && <HandOver carry={carry} />}
      <Clashes job={`carry:${carry.id}`} quiet />
      {!keying && (
        <ol className="border-t-2 border-ink">
          {carry.tasks.map((t) => (
            <Line key={t.id} carry={carry} task={t} />
          ))}
        </ol>
      )}
    </>
  );
}

function Line({ carry, task: t }: { carry: Carry; task: CarryTaskOut }) {
  return (
    <li className="flex items-center gap-3 border-b border-line py-2">
      <span className="w-56 shrink-0">
        <Plate address={t.from} to={`/bins/${t.fromBin}`} /> <span aria-label="to">→</span> <Plate address={t.to} to={`/bins/${t.toBin}`} />
      </span>
      <span className="min-w-0 flex-1">
        {t.sscc === null ? (
          <ItemName item={t.item} code={t.code} description={t.description} />
        ) : (
          <Link className="underline" to={`/units/${t.sscc}`}>
            Unit {shortSscc(t.sscc)}, whole
          </Link>
        )}
        <span className="block pl-10 text-sm text-soft">
          {[t.lot && `lot ${t.lot}`, t.serial && `serial ${t.serial}`, t.why].filter(Boolean).join(', ')}
        </span>
      </span>
      {t.trouble && <Tag tone="wrong">{TROUBLE[t.trouble as keyof typeof TROUBLE]}</Tag>}
      <strong className="w-32 text-right">
        {t.put} of {t.qty}
        {carry.cart !== null && Number(t.taken) > Number(t.put) && (
          <span className="block text-sm font-normal text-soft">{sayNumber(Number(t.taken) - Number(t.put))} on the cart</span>
        )}
      </strong>
    </li>
  );
}

/** Gives a round to somebody else, or throws it away. */
function HandOver({ carry }: { carry: Carry }) {
  const go = useNavigate();
  const give = useSend('carrying.give', { onDone: () => toast.success('The round is handed over.') });
  const away = useSend('carrying.throwAway', {
    onDone: (r) => {
      toast.success(
        r.bin === null
          ? `${carry.number} is thrown away.`
          : `${carry.number} is thrown away; ${r.pieces} pieces went from the cart to ${r.bin}, to be put away.`,
      );
      void go('/carries');
    },
  });
  return (
    <WalkedBy
      person={carry.personId}
      busy={away.isPending}
      onGive={(person) => give.mutate({ params: { id: carry.id }, body: { person } })}
      onThrowAway={() => away.mutate({ params: { id: carry.id } })}
    />
  );
}
