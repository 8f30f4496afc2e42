import { Link, useNavigate } from 'react-router';
import type { Me } from '#contract/people';
import { ago, Button, forgetSite, read, Refused, Select, send, switchSite, useRead, useSend } from '#web/base';
import { Screen, useQueue } from './screen.tsx';

/** My work: the one list of a hand, and a scan line that takes anything. */
export function MyWork({ me }: { me: Me }) {
  const go = useNavigate();
  const workAt = useSend('people.workAt', { onDone: (there) => switchSite(there.site.id, '/h') });
  const { data: rounds } = useRead('picking.rounds', { query: { state: 'open' } });
  const { data: deliveries } = useRead('receiving.deliveries', { query: { state: 'open' } });
  const { data: counts } = useRead('counting.counts', {});
  const { data: arrivals } = useRead('moves.putAway', {});
  const { data: unplaced } = useRead('moves.putAway', { query: { from: 'unplaced' } });
  const { data: ready } = useRead('orders.list', { query: { ready: 'yes', limit: 200 } });
  const { answer, busy, take } = useQueue(async (code) => {
    const found = await read('desk.scan', { query: { code } });
    switch (found.kind) {
      case 'purchaseOrder': {
        const delivery = await send('receiving.start', { body: { purchaseOrder: found.number } });
        void go(`/h/receive/${delivery.id}`);
        return { tone: 'right', text: found.number };
      }
      case 'order': {
        try {
          const round = await send('picking.make', { body: { orders: [found.order] } });
          void go(`/h/round/${round.id}`);
          return { tone: 'right', text: round.number };
        } catch (refused) {
          // Its goods are on a walk already: the sheet opens that walk.
          if (!(refused instanceof Refused) || refused.problem.code !== 'picking.onRound') throw refused;
          void go(`/h/round/${String(refused.problem['round'])}`);
          return { tone: 'look', text: refused.message };
        }
      }
      case 'delivery':
        void go(`/h/receive/${found.delivery}`);
        return { tone: 'right', text: found.number };
      case 'round':
        void go(`/h/round/${found.round}`);
        return { tone: 'right', text: found.number };
      case 'count':
        void go(`/h/count/${found.count}`);
        return { tone: 'right', text: found.number };
      case 'bin':
        void go(`/h/move?from=${encodeURIComponent(found.address)}`);
        return { tone: 'right', text: found.address };
      case 'elsewhere':
        return { tone: 'wrong', text: `${found.text} is a bin of ${found.sites.join(' and ')}. Change the site above to work there.` };
      case 'item':
        return { tone: 'look', text: `${found.code} ${found.description}. To put it away or move it, scan its bin first.` };
      case 'unknown': {
        // Nobody stocks it; a supplier may list it, and then only the quantity and the bin are left to give.
        const list = await read('items.search', { query: { q: code, over: 'lists' } });
        if (!list.listRows.some((r) => r.item === null)) return { tone: 'look', text: `Nothing here is known by “${found.text}”.` };
        void go(`/h/quick-add?code=${encodeURIComponent(code)}`);
        return { tone: 'right', text: 'It is on a supplier’s list.' };
      }
      default:
        return { tone: 'look', text: 'Scan an order, a delivery, a round, a count or a bin.' };
    }
  });
  const mine = rounds?.rounds.filter((r) => r.personId === me.id || r.personId === null) ?? [];
  const open = counts?.counts.filter((c) => c.state === 'open') ?? [];
  const scanning = deliveries?.deliveries.filter((d) => d.state === 'scanning') ?? [];
  return (
    <Screen title="My work" sub={`${me.name}, ${me.site.name}`} back={null} answer={answer} busy={busy} onScan={take} hint="Scan anything">
      {me.sites.length > 1 && (
        <Select
          tall
          label="You work at"
          value={me.site.id}
          onChange={(e) => workAt.mutate({ body: { site: Number(e.target.value) } })}
          options={me.sites.map((s) => [s.id, s.name])}
        />
      )}
      <ul className="space-y-2">
        {mine.map((r) => (
          <Work
            key={r.number}
            to={`/h/round/${r.id}`}
            figure={`${r.done}/${r.picks}`}
            title={`${r.person ? 'Go on with' : 'Take'} ${r.number}`}
            detail={`${r.orders.join(', ')} · ${ago(r.at)}`}
          />
        ))}
        {scanning.map((d) => (
          <Work
            key={d.number}
            to={`/h/receive/${d.id}`}
            figure={String(d.entries)}
            title={`Receive ${d.purchaseOrder ?? d.number}`}
            detail={`${d.supplier} · last scan ${since(d.touched)}`}
          />
        ))}
        {arrivals && arrivals.rows.length > 0 && (
          <Work
            to="/h/put-away"
            figure={String(arrivals.rows.length)}
            title="Put away"
            detail={`oldest ${ago(arrivals.rows[0]?.since ?? null)}`}
          />
        )}
        {unplaced && unplaced.rows.length > 0 && (
          <Work to="/h/unplaced" figure={String(unplaced.rows.length)} title="Put away unplaced" detail="stock that has no bin yet" />
        )}
        {open.map((c) => (
          <Work key={c.number} to={`/h/count/${c.id}`} figure={`${c.counted}/${c.bins}`} title={`Count ${c.zone}`} detail={c.number} />
        ))}
        <Work to="/h/move" figure="→" title="Move goods" detail="scan a bin, the goods, the other bin" />
        <Work to="/h/quick-add" figure="+" title="New item by scan" detail="scan goods that nobody stocked yet" />
        <Work to="/h/assign" figure="⌂" title="Home bins" detail="scan a bin, then its items" />
      </ul>
      {ready && ready.orders.length > 0 && (
        <p className="pt-2 text-soft">{ready.orders.length} orders can be picked whole: scan an order’s sheet to make a round.</p>
      )}
      <Button look="quiet" tall onClick={() => void send('people.signOut', {}).then(() => (forgetSite(), window.location.assign('/h')))}>
        Sign out
      </Button>
    </Screen>
  );
}

const since = (iso: string): string => (ago(iso) === 'now' ? 'just now' : `${ago(iso)} ago`);

function Work({ to, figure, title, detail }: { to: string; figure: string; title: string; detail: string }) {
  return (
    <li>
      <Link to={to} className="flex min-h-20 items-center gap-3 rounded border-2 border-ink bg-sheet px-3">
        <span className="code w-20 text-right text-4xl">{figure}</span>
        <span className="min-w-0 flex-1">
          <span className="block truncate text-xl font-bold">{title}</span>
          <span className="block truncate text-soft">{detail}</span>
        </span>
      </Link>
    </li>
  );
}
