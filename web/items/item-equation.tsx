import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { formatQty, parseQty, sumQty, ZERO, type Qty } from '#core/base';
import type { Item } from '#contract/items';
import type { ReplyOf, Routes } from '#contract';
import { Plate, Trouble, useMayReadCosts, useRead, sayDay } from '#web/base';
import { Select } from '#web/forms';

type PartName = 'free' | 'promised' | 'held' | 'toInspect' | 'expired';
const PARTS: readonly [PartName, string][] = [
  ['free', 'free'],
  ['promised', 'promised'],
  ['held', 'held'],
  ['toInspect', 'to inspect'],
  ['expired', 'expired'],
];
type Equation_ = ReplyOf<Routes['stock.equation']>;
type BinRow = Equation_['bins'][number];

/** The stock equation, each figure opening into what makes it; and the same by site, zone, bin or lot (B9). */
export function Equation({ item }: { item: Item }) {
  const { data: equation, error } = useRead('stock.equation', { params: { id: item.id } });
  const mayBuy = useMayReadCosts();
  const [open, setOpen] = useState<PartName | 'onHand' | 'onOrder'>('onHand');
  const [only, setOnly] = useState<{ by: Scope; key: string } | null>(null);
  if (!equation) return <Trouble error={error} />;
  const bins = equation.bins.filter((b) => (open === 'onHand' || b.part === open) && (!only || keyOf(b, only.by) === only.key));
  const figure = (name: typeof open, label: string, value: string) => (
    <button
      type="button"
      key={name}
      aria-pressed={open === name}
      onClick={() => {
        setOpen(name);
        setOnly(null);
      }}
      className={`min-w-24 border-b-4 px-2 pb-1 text-left ${
        open === name ? 'border-next bg-shade' : 'border-transparent hover:border-line'
      }`}
    >
      <span
        data-testid={`figure-${name}`}
        className={`code block leading-none ${name === 'onHand' || name === 'free' ? 'text-6xl' : 'text-4xl'}`}
      >
        {value}
      </span>
      <span className="text-sm text-soft underline decoration-dotted underline-offset-4">{label}</span>
    </button>
  );
  return (
    <>
      <section aria-label="Stock equation" className="mt-4 flex flex-wrap items-end gap-1 border-y-2 border-ink py-3">
        {figure('onHand', `${item.unit} on hand`, equation.total.onHand)}
        {PARTS.map(([name, label], i) => (
          <span key={name} className="flex items-end">
            <span aria-hidden className="code px-1 pb-6 text-3xl text-soft">
              {i === 0 ? '=' : '+'}
            </span>
            {figure(name, label, equation.total[name])}
          </span>
        ))}
        <span className="ml-auto flex">
          {equation.total.inTransit !== '0' && (
            <span className="px-2 pb-1">
              <span className="code block text-4xl leading-none">{equation.total.inTransit}</span>
              <span className="text-sm text-soft">in transit</span>
            </span>
          )}
          {figure('onOrder', 'on order', equation.total.onOrder)}
        </span>
      </section>
      <div className="mt-4 grid grid-cols-1 gap-8 lg:grid-cols-2">
        <section>
          {open === 'promised' ? (
            <List
              title="Promised to"
              empty="Nothing is promised."
              rows={equation.promises.map((p) => [
                <Link key="o" className="font-semibold underline" to={`/orders/${p.order}`}>
                  {p.number}
                </Link>,
                p.customer,
                `due ${sayDay(p.due)}`,
                p.picked !== '0' ? `${p.picked} picked` : '',
                p.qty,
              ])}
            />
          ) : open === 'onOrder' ? (
            <>
              <List
                title="On order"
                empty="Nothing is on order."
                rows={equation.onOrder.map((o) => [
                  <Link key="o" className="font-semibold underline" to={mayBuy ? `/purchasing/${o.order}` : `/expected?q=${o.number}`}>
                    {o.number}
                  </Link>,
                  o.supplier,
                  `due ${sayDay(o.due)}`,
                  '',
                  o.qty,
                ])}
              />
              {mayBuy && (
                <Link className="underline" to={`/purchasing/reorder?item=${item.id}`}>
                  How much there should be, and what to buy
                </Link>
              )}
            </>
          ) : (
            <List
              title={
                only
                  ? `Where it lies in ${only.key}`
                  : open === 'free'
                    ? 'Where usable stock lies; what is promised of it is not yet taken from a bin'
                    : 'Where it lies, and why'
              }
              empty="None."
              rows={bins.slice(0, 60).map((b) => [
                <Plate key="b" address={b.address} to={`/bins/${b.bin}`} />,
                b.site,
                <>
                  {[b.lot && `lot ${b.lot}`, b.expires && `expires ${sayDay(b.expires)}`].filter(Boolean).join(', ')}
                  {b.serial && (
                    <Link className="underline" to={`/items/${item.id}/serials/${encodeURIComponent(b.serial)}`}>
                      serial {b.serial}
                    </Link>
                  )}
                </>,
                b.part === 'free' ? '' : b.why,
                <Link
                  key="q"
                  to={`/ledger?item=${item.id}&bin=${b.bin}`}
                  title="The movements that make it"
                  className="underline decoration-dotted underline-offset-4"
                >
                  {b.qty}
                </Link>,
              ])}
            />
          )}
          {bins.length > 60 && <p className="text-soft">and {bins.length - 60} more places</p>}
        </section>
        <Scopes
          equation={equation}
          onOpen={(part, by, key) => {
            setOpen(part);
            setOnly({ by, key });
          }}
        />
      </div>
    </>
  );
}

type Scope = 'site' | 'zone' | 'bin' | 'lot';
const keyOf = (b: BinRow, by: Scope): string =>
  by === 'site'
    ? b.site
    : by === 'zone'
      ? `${b.zone}, ${b.site}`
      : by === 'bin'
        ? `${b.address}, ${b.site}`
        : b.lot
          ? `lot ${b.lot}`
          : 'without a lot';
const numberOf = (text: string): Qty => {
  const read = parseQty(text);
  return read.ok ? read.value : ZERO;
};

// A promise does not yet choose its bin or lot: below the site, free and promised are one figure, what may be promised.
function Scopes({ equation, onOpen }: { equation: Equation_; onOpen: (part: PartName | 'onHand', by: Scope, key: string) => void }) {
  const [by, setBy] = useState<Scope>('site');
  const names = by === 'site' ? equation.sites.map((s) => s.name) : [...new Set(equation.bins.map((b) => keyOf(b, by)))];
  const sum = (name: string, part: string): string =>
    formatQty(
      sumQty(equation.bins.filter((b) => keyOf(b, by) === name && (part === 'onHand' || b.part === part)).map((b) => numberOf(b.qty))),
    );
  const columns: readonly (readonly [PartName | 'onHand', string])[] =
    by === 'site'
      ? [['onHand', 'on hand'], ...PARTS]
      : [
          ['onHand', 'on hand'],
          ['free', 'free'],
          ['held', 'held'],
          ['toInspect', 'to inspect'],
          ['expired', 'expired'],
        ];
  const value = (name: string, part: PartName | 'onHand'): string =>
    by === 'site' ? (equation.sites.find((s) => s.name === name)?.[part] ?? '0') : sum(name, part);
  return (
    <section>
      <h2 className="mb-1 flex items-center justify-between border-b-2 border-ink font-bold">
        The equation by
        <Select
          label="The equation by"
          hideLabel
          value={by}
          onChange={setBy}
          options={[
            ['site', 'site'],
            ['zone', 'zone'],
            ['bin', 'bin'],
            ['lot', 'lot'],
          ]}
        />
      </h2>
      <table className="w-full text-right">
        <thead className="text-sm text-soft">
          <tr>
            <th />
            {columns.map(([n, l]) => (
              <th key={n} className="font-normal">
                {l}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {names.slice(0, 40).map((name) => (
            <tr key={name} className="border-t border-line">
              <td className="py-1 text-left">{name}</td>
              {columns.map(([part]) => (
                <td key={part}>
                  <button type="button" className="underline decoration-dotted underline-offset-4" onClick={() => onOpen(part, by, name)}>
                    {value(name, part)}
                  </button>
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function List({ title, rows, empty }: { title: string; rows: readonly (readonly ReactNode[])[]; empty: string }) {
  return (
    <>
      <h2 className="mb-1 border-b-2 border-ink font-bold">{title}</h2>
      {rows.length === 0 && <p className="py-2 text-soft">{empty}</p>}
      <table className="w-full">
        <tbody>
          {rows.map((cells, i) => (
            <tr key={i} className="border-b border-line">
              {cells.map((cell, j) => (
                <td key={j} className={`py-1 pr-3 ${j === cells.length - 1 ? 'text-right font-bold' : ''}`}>
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
