import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Home } from '#contract/desk';
import { Button, counted, sayAgo, sayDay, sayMoney } from '#web/base';
import { useMends, useQuarantine } from './home-mends.ts';

const SHOWN = 5;
const STATION = { bench: 'at the bench', rounds: 'being picked', orders: 'not begun' } as const;
const TROUBLE: Readonly<Record<string, string>> = { notFound: 'not found', count: 'to be counted', damaged: 'damaged', short: 'short' };

/** A thing that is wrong: what it is, what is wrong with it, where it opens, and the press that mends it on the spot, if there is one. */
type Line = { key: string | number; name: string; detail: string; to: string; mend?: { says: string; act: () => void; busy: boolean } };
type Part = {
  part: string;
  title: string;
  total: number;
  all: string;
  /** Figures of parts of it, each leading to that part. */
  says?: { says: string; to: string }[];
  lines: Line[];
};

/** What is late and what is wrong, each line with the act that mends it. */
export function Wrong({ home }: { home: Home }) {
  const parts = useParts(home).filter((p) => p.total > 0);
  return (
    <div className="gap-x-8 md:columns-2">
      {parts.map(({ part, title, total, all, says = [], lines }) => (
        <section key={part} aria-label={title} className="mb-5 break-inside-avoid">
          <h2 className="mb-1 flex items-baseline gap-2 border-b-2 border-ink font-bold">
            {title}{' '}
            <span className="code text-lg" data-testid={`home-${part}`}>
              {total}
            </span>
          </h2>
          {says.length > 0 && (
            <p className="flex gap-3 py-1 text-sm">
              {says.map((s) => (
                <Link key={s.to} to={s.to} className="underline decoration-line underline-offset-4">
                  {s.says}
                </Link>
              ))}
            </p>
          )}
          <ul>
            {lines.slice(0, SHOWN).map((line) => (
              <WrongLine key={line.key} line={line} />
            ))}
          </ul>
          {total > SHOWN && (
            <Link to={all} className="mt-1 inline-block text-sm underline decoration-line underline-offset-4">
              All {total}
            </Link>
          )}
        </section>
      ))}
    </div>
  );
}

function WrongLine({ line: { name, detail, to, mend } }: { line: Line }): ReactNode {
  return (
    <li className="flex items-center gap-3 border-b border-line py-1">
      <Link to={to} className="min-w-0 flex-1 hover:bg-shade">
        <span className="block truncate font-semibold">{name}</span>
        <span className="block truncate text-sm text-soft">{detail}</span>
      </Link>
      {mend && (
        <Button className="text-sm whitespace-nowrap" disabled={mend.busy} onClick={mend.act}>
          {mend.says}
        </Button>
      )}
    </li>
  );
}

function useParts(home: Home): Part[] {
  const { settle, release, promise, count, busy } = useMends();
  const quarantine = useQuarantine();
  const furthest = home.expiring.within.at(-1)?.days ?? 0;
  const { late, short, held, overdue, trouble, clashes, expired, expiring, pastHolds, unplaced, wrongLabels, counts } = home;
  return [
    {
      ...{ part: 'clashes', title: 'From the floor, to be settled', total: clashes.total, all: '/floor' },
      lines: clashes.rows.map((c) => ({ key: c.key, name: c.what, detail: `${c.by}, ${sayAgo(c.at)}: ${c.against}`, to: '/floor' })),
    },
    {
      ...{ part: 'late', title: 'Late', total: late.total, all: '/orders' },
      lines: late.rows.map((o) => ({
        ...{ key: o.order, name: `${o.number} ${o.customer}`, to: `/orders/${o.order}` },
        detail: [`due ${sayDay(o.due)}`, STATION[o.station], o.who].filter(Boolean).join(', '),
      })),
    },
    {
      ...{ part: 'overdue', title: 'Overdue from suppliers', total: overdue.total, all: '/expected' },
      lines: overdue.rows.map((o) => ({
        ...{ key: o.purchaseOrder, name: `${o.number} ${o.supplier}`, to: `/expected?q=${encodeURIComponent(o.number)}` },
        detail: `due ${sayDay(o.due)}, ${counted(o.days, 'day', 'days')} ago`,
      })),
    },
    {
      ...{ part: 'trouble', title: 'Trouble on the floor', total: trouble.total, all: '/floor' },
      lines: trouble.rows.map((t) => ({
        ...{ key: t.trouble, name: `${t.address} ${t.code}`, to: `/bins/${t.bin}` },
        detail: `${TROUBLE[t.what] ?? t.what}, said by ${t.by} ${sayAgo(t.at)}`,
        mend: { says: 'Settled', act: () => settle.mutate({ params: { id: t.trouble } }), busy },
      })),
    },
    {
      ...{ part: 'short', title: 'Not all promised', total: short.total, all: '/orders' },
      lines: short.rows.map((o) => ({
        ...{ key: o.order, name: `${o.number} ${o.customer}`, to: `/orders/${o.order}` },
        detail: `${counted(o.lines, 'line', 'lines')} not promised, due ${sayDay(o.due)}`,
        ...(o.isFree
          ? {
              mend: {
                says: 'Promise what is free',
                act: () => promise.mutate({ body: { orders: [o.order], mode: 'free' as const } }),
                busy,
              },
            }
          : {}),
      })),
    },
    {
      ...{ part: 'held', title: 'Held orders', total: held.total, all: '/orders' },
      lines: held.rows.map((o) => ({
        ...{ key: o.order, name: `${o.number} ${o.customer}`, to: `/orders/${o.order}`, detail: o.reason },
        mend: { says: 'Release', act: () => release.mutate({ params: { id: o.order } }), busy },
      })),
    },
    {
      ...{ part: 'pastHolds', title: 'Holds past their day', total: pastHolds.total, all: '/holds' },
      lines: pastHolds.rows.map((h) => ({
        ...{ key: h.hold, name: `${h.number} ${h.what}`, to: '/holds' },
        detail: `until ${sayDay(h.until)}, ${h.by}: ${h.reason}`,
      })),
    },
    {
      ...{ part: 'expired', title: 'Expired on shelves', total: expired.total, all: '/lots?show=expired' },
      lines: expired.rows.map((l) => ({
        ...{ key: l.balance, name: `${l.code} lot ${l.lot}`, to: `/bins/${l.bin}` },
        detail: `${l.qty} ${l.unit} in ${l.address}, expired ${sayDay(l.expires)}`,
        ...(l.to ? { mend: { says: 'Move to quarantine', act: () => quarantine.act(l), busy: quarantine.busy } } : {}),
      })),
    },
    {
      ...{ part: 'expiring', title: `Expires within ${counted(furthest, 'day', 'days')}`, total: expiring.total },
      all: `/lots?show=soon&within=${furthest}`,
      says: expiring.within.slice(0, -1).map((w) => ({ says: `${w.lots} within ${w.days} days`, to: `/lots?show=soon&within=${w.days}` })),
      lines: expiring.rows.map((l) => ({
        ...{ key: l.lotId, name: `${l.code} lot ${l.lot}`, to: `/items/${l.item}` },
        detail: `${l.qty} ${l.unit} until ${sayDay(l.expires)}, first in ${l.address}`,
      })),
    },
    {
      ...{ part: 'unplaced', title: 'Without a place', total: unplaced.total, all: '/places/unplaced' },
      lines: unplaced.rows.map((g) => ({
        ...{ key: g.item, name: `${g.code} ${g.description}`, detail: `${g.qty} ${g.unit}`, to: '/places/unplaced' },
      })),
    },
    {
      ...{ part: 'wrongLabels', title: 'Wrong shelf labels', total: wrongLabels.total, all: '/items/shelf-labels' },
      lines: wrongLabels.rows.map((l) => ({
        ...{ key: `${l.bin} ${l.item}`, name: `${l.address} ${l.code}`, to: '/items/shelf-labels' },
        detail: l.onLabel === null ? `no label yet, costs ${sayMoney(l.now)}` : `says ${sayMoney(l.onLabel)}, costs ${sayMoney(l.now)}`,
      })),
    },
    {
      ...{ part: 'counts', title: 'Due for counting', total: counts.total, all: '/counts' },
      lines: counts.rows.map((z) => ({
        ...{ key: z.zone, name: z.name, to: '/counts' },
        detail: z.never > 0 ? `${z.never} of ${counted(z.bins, 'bin', 'bins')} never counted` : `longest ago ${sayDay(z.oldest ?? '')}`,
        mend: { says: 'Plan a count', act: () => count.mutate({ body: { zone: z.zone, blind: true } }), busy },
      })),
    },
  ];
}
