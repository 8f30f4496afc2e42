import type { ReactNode } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { Home, NextAct } from '#contract/desk';
import { ago, Button, ButtonLink, counted, Empty, read, useMe, useSend } from '#web/base';
import { sayLabelsSent } from '#web/labels';
import { useMends, useQuarantine } from './home-mends.ts';

const MOST_LABELS = 500;

type Said = { says: string; act: ReactNode };

/** What can be done now, ranked: the first large, with the one loud button of the page. */
export function NextActs({ home }: { home: Home }) {
  const say = useActs(home);
  const [first, ...rest] = home.now;
  if (!first)
    return (
      <section aria-label="Now" className="mb-5">
        <Empty title="Nothing waits for you.">What comes in and what is to leave shows here at once.</Empty>
      </section>
    );
  const { says, act } = say(first, true);
  return (
    <section aria-label="Now" className="mb-5">
      <div className="flex items-center gap-6 border-4 border-ink bg-sheet p-4">
        <div className="min-w-0 flex-1">
          <h2 className="text-2xl leading-tight font-bold">{says}</h2>
          <p className="truncate text-soft">{detailOf(first)}</p>
        </div>
        {act}
      </div>
      <ul>
        {rest.map((next) => {
          const line = say(next, false);
          return (
            <li key={next.act} className="flex items-center gap-4 border-b border-line py-1.5">
              <p className="min-w-0 flex-1">
                <span className="font-semibold">{line.says}</span> <span className="text-sm text-soft">{detailOf(next)}</span>
              </p>
              {line.act}
            </li>
          );
        })}
      </ul>
    </section>
  );
}

// The first by name, how many more, and since when.
function detailOf({ act, of, count, since }: NextAct): string {
  const [first] = of;
  const more = count - 1;
  const names = first && act !== 'quarantine' ? `${first.name}${more > 0 ? ` and ${more} more` : ''}` : '';
  const age = since && act !== 'pack' && act !== 'pick' ? `oldest ${ago(since)}` : '';
  return [names, age].filter(Boolean).join(' · ');
}

const LARGE = '!min-h-12 !px-5 !text-lg';

// What each act is called, and the press that does it.
function useActs(home: Home): (next: NextAct, isFirst: boolean) => Said {
  const go = useNavigate();
  const role = useMe()?.me?.role;
  const quarantine = useQuarantine();
  const make = useSend('picking.make', {
    onDone: (r) =>
      toast.success(`${r.number} is made: ${counted(r.stops, 'stop', 'stops')}.`, {
        action: { label: 'Open', onClick: () => void go(`/rounds/${r.id}`) },
      }),
  });
  const { promise } = useMends();
  const print = useSend('labels.print', { onDone: (r) => sayLabelsSent(r, 'shelf', 'in walking order') });
  return (next, isFirst) => {
    const { act, count, late, of } = next;
    const [first] = of;
    const ids = of.map((o) => o.id);
    // A press does what it says: of many it takes the first.
    const some = ids.length < count ? ` of the first ${ids.length}` : '';
    const button = (label: string, onPress: () => void, isBusy: boolean): ReactNode => (
      <Button look={isFirst ? 'next' : 'plain'} className={isFirst ? LARGE : ''} disabled={isBusy} onClick={onPress}>
        {label}
      </Button>
    );
    const link = (label: string, to: string): ReactNode => (
      <ButtonLink to={to} look={isFirst ? 'next' : 'plain'} className={isFirst ? LARGE : ''}>
        {label}
      </ButtonLink>
    );
    const tally = counted(count, 'order', 'orders');
    const lateness = late === 0 ? '' : late === count ? ', late' : `, ${late} late`;
    switch (act) {
      case 'pack':
        return {
          says: `${tally} ${count === 1 ? 'waits' : 'wait'} at the bench${lateness}`,
          act: link('Pack', `/bench/${first?.id ?? ''}`),
        };
      case 'pick':
        return {
          says: `${tally} due by today can be picked whole${lateness}`,
          act:
            role === 'office'
              ? link('See them', '/orders')
              : button(`Make a round${some}`, () => make.mutate({ body: { orders: ids } }), make.isPending),
        };
      case 'promise':
        return {
          says: `${tally} can be promised more${lateness}`,
          act: button(`Promise what is free${some}`, () => promise.mutate({ body: { orders: ids, mode: 'free' } }), promise.isPending),
        };
      case 'settle':
        return {
          says: `${counted(count, 'report from the floor stands', 'reports from the floor stand')} against the record`,
          act: link('Settle', '/floor'),
        };
      case 'quarantine': {
        const [lot] = home.expired.rows;
        const says =
          count === 1 && lot ? `${lot.code} lot ${lot.lot} has expired on ${lot.address}` : `${count} lots have expired on their shelves`;
        return {
          says,
          act: lot?.to
            ? button(count === 1 ? 'Move to quarantine' : `Move ${lot.code} to quarantine`, () => quarantine.act(lot), quarantine.busy)
            : link('Open', `/bins/${lot?.bin ?? ''}`),
        };
      }
      case 'post':
        return {
          says: `${counted(count, 'delivery waits', 'deliveries wait')} for review`,
          act: link('Review', `/deliveries/${first?.id ?? ''}`),
        };
      case 'putAway':
        return {
          says: `${count === 1 ? '1 line of goods waits' : `${count} lines of goods wait`} at arrivals`,
          act: link('Where to', '/put-away'),
        };
      case 'label':
        return {
          says: `${counted(count, 'shelf label is', 'shelf labels are')} wrong`,
          act: button(
            count === 1 ? 'Print it' : `Print ${Math.min(count, MOST_LABELS)}`,
            () =>
              void read('labels.wrong', { query: { limit: MOST_LABELS } }).then((wrong) =>
                print.mutate({ body: { kind: 'shelf', pairs: wrong.labels.map(({ bin, item }) => ({ bin, item })) } }),
              ),
            print.isPending,
          ),
        };
    }
  };
}
