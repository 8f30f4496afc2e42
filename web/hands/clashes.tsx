import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import type { ClashOut } from '#contract/hands';
import { ago, Button, sayMoment, Empty, Field, Trouble, useMe, useRead, useSend } from '#web/base';

/** What hands told and the house could not do as it was told: each with what stood against it and the acts that settle it. Of one paper,
 *  or of the site. `quiet`: nothing is drawn where nothing clashes. */
export function Clashes({ job, quiet = false }: { job?: string; quiet?: boolean }) {
  const [show, setShow] = useState<'open' | 'all'>('open');
  const me = useMe();
  const mayLook = me?.me?.role === 'lead' || me?.me?.role === 'office';
  const { data, error } = useRead('hands.clashes', { query: { show, ...(job ? { job } : {}) } }, { enabled: mayLook });
  if (quiet && (!data || data.clashes.length === 0)) return null;
  return (
    <section aria-label="From the floor, for the lead">
      <div className="mb-1 flex items-baseline gap-3 border-b-2 border-ink">
        <h2 className="font-bold">
          From the floor, to be settled <span className="code text-lg">{data?.clashes.filter((c) => c.settled === null).length ?? ''}</span>
        </h2>
        {!quiet && (
          <Button look="quiet" className="ml-auto" aria-pressed={show === 'all'} onClick={() => setShow(show === 'all' ? 'open' : 'all')}>
            {show === 'all' ? 'Only what is open' : 'Also what was settled'}
          </Button>
        )}
      </div>
      <Trouble error={error} />
      {data?.clashes.length === 0 && (
        <Empty title="Nothing to settle.">What hands told without a connection was done as they told it.</Empty>
      )}
      <ul>
        {data?.clashes.map((c) => (
          <ClashLine key={c.key} clash={c} lead={me?.me?.role === 'lead'} named={!job} />
        ))}
      </ul>
    </section>
  );
}

function ClashLine({ clash, lead, named }: { clash: ClashOut; lead: boolean; named: boolean }) {
  const settle = useSend('hands.settle', { onDone: (r) => toast.success(r.says) });
  const [asking, setAsking] = useState<ClashOut['settlements'][number] | null>(null);
  const told = Date.parse(clash.told) - Date.parse(clash.at) > 120_000;
  return (
    <li className={`grid gap-x-6 gap-y-1 border-b border-line py-3 md:grid-cols-[1fr_17rem] ${clash.settled ? 'text-soft' : ''}`}>
      <div>
        <p className="text-lg font-semibold">{clash.what}</p>
        <p className={clash.settled ? '' : 'text-wrong'}>{clash.against}</p>
        <p className="text-sm text-soft">
          {clash.by}, {sayMoment(clash.at)}
          {told && `, told ${sayMoment(clash.told)}`} · {clash.device}
          {named && clash.document && (
            <>
              {' · '}
              <Link className="underline decoration-line underline-offset-4" to={clash.document.path}>
                {clash.document.name}
              </Link>
            </>
          )}
        </p>
      </div>
      {clash.settled ? (
        <p className="text-sm">
          {clash.settled.how}, by {clash.settled.by} {ago(clash.settled.at)}
        </p>
      ) : lead ? (
        <div className="flex flex-col items-stretch gap-1">
          {clash.settlements.map((s, n) => (
            <Button
              key={s.how}
              look={n === 0 ? 'next' : 'plain'}
              disabled={settle.isPending}
              onClick={() => (s.wants === 'nothing' ? settle.mutate({ params: { key: clash.key }, body: { how: s.how } }) : setAsking(s))}
            >
              {s.label}
            </Button>
          ))}
          {asking?.wants === 'item' && (
            <ChooseItem onItem={(item) => settle.mutate({ params: { key: clash.key }, body: { how: asking.how, item } })} />
          )}
          {asking?.wants === 'serial' && (
            <ChooseSerial onSerial={(serial) => settle.mutate({ params: { key: clash.key }, body: { how: asking.how, serial } })} />
          )}
        </div>
      ) : (
        <p className="text-sm text-soft">A lead settles it.</p>
      )}
    </li>
  );
}

// Fetched by those who settle something: a handheld, which keeps all of this room, never does.
const ChoiceField = lazy(() => import('#web/forms').then((forms) => ({ default: forms.ChoiceField })));

function ChooseItem({ onItem }: { onItem: (item: number) => void }) {
  return (
    <div className="w-80">
      <Suspense fallback={<p className="text-soft">One moment …</p>}>
        <ChoiceField kind="item" label="The item" value={null} onChange={(item) => item && onItem(item.id)} autoFocus />
      </Suspense>
    </div>
  );
}

function ChooseSerial({ onSerial }: { onSerial: (serial: string) => void }) {
  const [serial, setSerial] = useState('');
  return (
    <form
      className="flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        if (serial.trim()) onSerial(serial.trim());
      }}
    >
      <Field code label="Its serial" value={serial} onChange={(e) => setSerial(e.target.value)} autoFocus />
      <Button type="submit" disabled={!serial.trim()}>
        Enter it
      </Button>
    </form>
  );
}
