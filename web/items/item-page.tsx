import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { toast } from 'sonner';
import { Button, Field, Plate, Tag, Trouble, useRead, useSend } from '#web/base';

type PartName = 'free' | 'promised' | 'held' | 'toInspect' | 'expired';
const PARTS: readonly [PartName, string][] = [
  ['free', 'free'],
  ['promised', 'promised'],
  ['held', 'held'],
  ['toInspect', 'to inspect'],
  ['expired', 'expired'],
];

/** An item: its stock equation first, every figure opening into what makes it, then its record. */
export function ItemPage() {
  const id = Number(useParams()['id']);
  const { data: item, error } = useRead('items.item', { params: { id } });
  const { data: equation } = useRead('stock.equation', { params: { id } });
  const [open, setOpen] = useState<PartName | 'onHand' | 'onOrder'>('onHand');
  const print = useSend('labels.print', {
    onDone: (r) => toast.success(`${r.labels} ${r.labels === 1 ? 'label' : 'labels'} sent to the printer.`),
  });
  if (!item || !equation) return <Trouble error={error} />;
  const bins = equation.bins.filter((b) => open === 'onHand' || b.part === open);
  const figure = (name: typeof open, label: string, value: string) => (
    <button
      type="button"
      key={name}
      aria-pressed={open === name}
      onClick={() => setOpen(name)}
      className={`min-w-24 border-b-4 px-2 pb-1 text-left ${open === name ? 'border-next bg-shade' : 'border-transparent hover:border-line'}`}
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
    <article>
      <div className="flex items-start gap-4">
        <div>
          <h1 className="flex items-baseline gap-3">
            <span className="code text-3xl">{item.code}</span>
            <span className="text-xl">{item.description}</span>
          </h1>
          <p className="text-soft">
            {item.group} · kept in {item.unit} · {TRACKED[item.tracking]}
            {item.homes.length > 0 && (
              <>
                {' '}
                · home{' '}
                {item.homes.map((h) => (
                  <Plate key={h.bin} address={h.address} to={`/bins/${h.bin}`} />
                ))}
              </>
            )}
          </p>
        </div>
        <div className="ml-auto flex gap-2">
          <Button onClick={() => print.mutate({ body: { kind: 'item', item: id, copies: 1 } })}>Print a label</Button>
          <Link to={`/ledger?item=${id}`} className="rounded border-2 border-ink/70 bg-sheet px-3 py-1">
            Every movement
          </Link>
        </div>
      </div>
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
        <span className="ml-auto">{figure('onOrder', 'on order', equation.total.onOrder)}</span>
      </section>
      <div className="mt-4 grid gap-8 lg:grid-cols-[2fr_1fr]">
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
                `due ${p.due}`,
                p.picked !== '0' ? `${p.picked} picked` : '',
                p.qty,
              ])}
            />
          ) : open === 'onOrder' ? (
            <List
              title="On order"
              empty="Nothing is on order."
              rows={equation.onOrder.map((o) => [
                <Link key="o" className="font-semibold underline" to={`/expected?q=${o.number}`}>
                  {o.number}
                </Link>,
                o.supplier,
                `due ${o.due}`,
                '',
                o.qty,
              ])}
            />
          ) : (
            <List
              title={
                open === 'onHand'
                  ? 'Where it lies'
                  : open === 'free'
                    ? 'Where usable stock lies; what is promised of it is not yet taken from a bin'
                    : 'Where it lies, and why'
              }
              empty="None."
              rows={bins.map((b) => [
                <Plate key="b" address={b.address} to={`/bins/${b.bin}`} />,
                b.site,
                [b.lot && `lot ${b.lot}`, b.expires && `expires ${b.expires}`, b.serial && `serial ${b.serial}`].filter(Boolean).join(', '),
                b.part === 'free' ? '' : b.why,
                b.qty,
              ])}
            />
          )}
          <h2 className="mt-6 mb-1 border-b-2 border-ink font-bold">By site</h2>
          <table className="w-full text-right">
            <thead className="text-sm text-soft">
              <tr>
                <th className="text-left font-normal">Site</th>
                <th className="font-normal">on hand</th>
                {PARTS.map(([n, l]) => (
                  <th key={n} className="font-normal">
                    {l}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {equation.sites.map((s) => (
                <tr key={s.site} className="border-t border-line">
                  <td className="py-1 text-left">{s.name}</td>
                  <td>{s.onHand}</td>
                  {PARTS.map(([n]) => (
                    <td key={n}>{s[n]}</td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <section>
          <h2 className="mb-1 border-b-2 border-ink font-bold">Packs and barcodes</h2>
          <ul>
            {item.packs.map((p) => (
              <li key={p.id} className="flex items-baseline justify-between border-b border-line py-1">
                <span>
                  <strong>{p.name}</strong> of {p.units} {item.unit}
                </span>
                <span className="code text-lg">{p.barcodes.join(', ') || 'no barcode'}</span>
              </li>
            ))}
          </ul>
          <TieBarcode item={id} packs={item.packs} />
          <h2 className="mt-5 mb-1 border-b-2 border-ink font-bold">Supplier and price</h2>
          <ul>
            {item.suppliers.map((s) => (
              <li key={s.code} className="flex justify-between border-b border-line py-1">
                <span>
                  {s.name}, part {s.partNo}
                </span>
                <span>
                  {Number(s.cost).toFixed(2)} · {s.leadDays} days
                </span>
              </li>
            ))}
          </ul>
          <p className="flex justify-between py-1">
            <span>Sells at</span>
            <strong>{item.price}</strong>
          </p>
          <p className="flex justify-between py-1">
            <span>Weight of one</span>
            <span>{item.weightGrams} g</span>
          </p>
          <p className="py-1">
            <Tag>storage: {item.storageClass}</Tag> {item.shelfLifeMonths && <Tag>shelf life {item.shelfLifeMonths} months</Tag>}{' '}
            <Tag>count class {item.countClass}</Tag>
          </p>
        </section>
      </div>
    </article>
  );
}

const TRACKED: Readonly<Record<string, string>> = {
  none: 'not tracked',
  lot: 'kept by lot',
  lotExpiry: 'kept by lot with expiry',
  serial: 'kept by serial',
  serialOut: 'serial noted when it ships',
};

function List({ title, rows, empty }: { title: string; rows: readonly (readonly React.ReactNode[])[]; empty: string }) {
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

function TieBarcode({ item, packs }: { item: number; packs: readonly { id: number; name: string }[] }) {
  const [code, setCode] = useState('');
  const [pack, setPack] = useState(packs[0]?.id ?? 0);
  const tie = useSend('items.addBarcode', { quiet: true, onDone: () => setCode('') });
  return (
    <form
      className="mt-2 flex items-end gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        tie.mutate({ params: { id: item }, body: { code, pack } });
      }}
    >
      <div className="flex-1">
        <Field label="Tie another barcode" value={code} onChange={(e) => setCode(e.target.value)} problem={tie.error?.message} />
      </div>
      <select
        aria-label="Pack"
        className="min-h-9 rounded border-2 border-ink/60 bg-sheet"
        value={pack}
        onChange={(e) => setPack(Number(e.target.value))}
      >
        {packs.map((p) => (
          <option key={p.id} value={p.id}>
            {p.name}
          </option>
        ))}
      </select>
      <Button type="submit" disabled={!code}>
        Tie
      </Button>
    </form>
  );
}
