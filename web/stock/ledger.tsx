import { useCallback, useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import type { MovementRow } from '#contract/stock';
import { Button, sayMoment, Empty, Plate, SidePanel, Tag, Trouble, useRead, useSend } from '#web/base';
import { DataTable, type Column } from '#web/table';

const COLUMNS: readonly Column<MovementRow>[] = [
  { id: 'at', title: 'When', value: (r) => r.at, show: (r) => sayMoment(r.at), width: 110 },
  {
    id: 'item',
    title: 'Item',
    value: (r) => r.item.code,
    show: (r) => (
      <>
        <span className="code">{r.item.code}</span> <span className="text-soft">{r.item.description}</span>
      </>
    ),
    width: 220,
  },
  { id: 'qty', title: 'Quantity', value: (r) => Number(r.qty), show: (r) => <strong>{r.qty}</strong>, number: true, width: 80 },
  { id: 'from', title: 'From', value: (r) => r.from.address, show: (r) => <Plate address={r.from.address} />, width: 120 },
  { id: 'to', title: 'To', value: (r) => r.to.address, show: (r) => <Plate address={r.to.address} />, width: 120 },
  { id: 'lot', title: 'Lot or serial', value: (r) => r.lot ?? r.serial ?? '', width: 110 },
  { id: 'document', title: 'Document', value: (r) => r.document.number, width: 90 },
  {
    id: 'reason',
    title: 'Reason',
    value: (r) => r.reason,
    show: (r) => (
      <>
        {r.reason} {r.undoneBy && <Tag>undone</Tag>}
      </>
    ),
    width: 170,
  },
  { id: 'person', title: 'Who', value: (r) => r.person, width: 100 },
];

/** The ledger: every movement, newest first, of an item, a bin or a document. Nothing here is ever edited. */
export function Ledger() {
  const [search] = useSearchParams();
  const [open, setOpen] = useState<MovementRow | null>(null);
  const close = useCallback(() => setOpen(null), []);
  const number = (name: string): number | undefined => (search.get(name) ? Number(search.get(name)) : undefined);
  const document = number('document');
  const { data, error } = useRead('stock.movements', {
    query: {
      item: number('item'),
      bin: number('bin'),
      document,
      lot: search.get('lot') ?? undefined,
      serial: search.get('serial') ?? undefined,
      limit: 500,
    },
  });
  const undo = useSend('stock.undo', { onDone: (r) => toast.success(`${r.movements} movements undone by ${r.document}.`) });
  const first = data?.movements[0];
  const undoable = document !== undefined && first && ['move', 'putAway'].includes(first.document.kind) && first.undoneBy === null;
  return (
    <section>
      <div className="flex items-center gap-4">
        <h1 className="code text-3xl">Ledger</h1>
        <p className="text-soft">
          {first && search.get('item')
            ? `of ${first.item.code} ${first.item.description}`
            : first && document
              ? `of ${first.document.number}, by ${first.person}`
              : search.get('bin')
                ? 'of one bin'
                : 'of everything'}
        </p>
        {undoable && (
          <Button
            className="ml-auto"
            look="wrong"
            onClick={() => undo.mutate({ params: { id: document }, body: { reason: 'Undone at the desk' } })}
          >
            Undo {first.document.number}
          </Button>
        )}
      </div>
      <Trouble error={error} />
      {data?.movements.length === 0 && <Empty title="No movement fits." />}
      {data && data.movements.length > 0 && (
        <div className="flex gap-4">
          <div className="min-w-0 flex-1">
            <DataTable name="Ledger" rows={data.movements} columns={COLUMNS} keyOf={(r) => r.id} onOpen={setOpen} openKey={open?.id} />
          </div>
          {open && <Movement movement={open} onClose={close} />}
        </div>
      )}
    </section>
  );
}

/** One movement, with everything that explains it. */
function Movement({ movement: m, onClose }: { movement: MovementRow; onClose: () => void }) {
  const facts: [string, React.ReactNode][] = [
    [
      'Item',
      <Link key="i" className="underline" to={`/items/${m.item.id}`}>
        {m.item.code} {m.item.description}
      </Link>,
    ],
    ['Quantity', m.qty],
    ['Lot or serial', m.lot ?? m.serial ?? 'none'],
    [
      'From',
      <>
        {m.from.address}, {m.from.condition}
      </>,
    ],
    [
      'To',
      <>
        {m.to.address}, {m.to.condition}
      </>,
    ],
    [
      'Document',
      <Link key="d" className="underline" to={`/ledger?document=${m.document.id}`}>
        {m.document.number}
      </Link>,
    ],
    ['Reason', m.reason],
    ['Who and when', `${m.person}, ${sayMoment(m.at)}`],
    ...(m.undoes ? [['Undoes', `movement ${m.undoes}`] as [string, React.ReactNode]] : []),
    ...(m.undoneBy ? [['Undone by', `movement ${m.undoneBy}`] as [string, React.ReactNode]] : []),
  ];
  return (
    <SidePanel title={`Movement ${m.id}`} onClose={onClose}>
      <dl>
        {facts.map(([name, value]) => (
          <div key={name} className="flex justify-between gap-3 border-b border-line py-1.5">
            <dt className="text-soft">{name}</dt>
            <dd className="text-right font-semibold">{value}</dd>
          </div>
        ))}
      </dl>
    </SidePanel>
  );
}
