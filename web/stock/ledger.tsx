import { useCallback, useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { LEDGER_SORTS, type MovementRow } from '#contract/stock';
import {
  Button,
  counted,
  Empty,
  ItemName,
  Plate,
  sayMoment,
  SearchBox,
  SidePanel,
  Tag,
  Trouble,
  useFilters,
  useMe,
  useReadPages,
  useSend,
} from '#web/base';
import { ChoiceField, DateField, usePicked } from '#web/forms';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';

const PATHS = { delivery: '/deliveries/', order: '/orders/', round: '/rounds/', count: '/counts/' } as const;
const conditionWord = (condition: string): string => (condition === 'inspect' ? 'to inspect' : condition);
/** Where the paper behind a movement stands; a document that has none is its own movements. */
const paperPath = ({ document: { id, paper } }: MovementRow): string =>
  paper ? `${PATHS[paper.what]}${paper.id}` : `/ledger?document=${id}`;
const changesCondition = (r: MovementRow): boolean => r.from.condition !== r.to.condition;
const conditionText = (r: MovementRow): string =>
  changesCondition(r) ? `${conditionWord(r.from.condition)} → ${conditionWord(r.to.condition)}` : conditionWord(r.to.condition);

const COLUMNS: readonly Column<MovementRow>[] = [
  { id: 'at', title: 'When', value: (r) => r.at, show: (r) => sayMoment(r.at), width: 165 },
  {
    id: 'item',
    title: 'Item',
    value: (r) => r.item.code,
    show: (r) => (
      <>
        <span className="code">{r.item.code}</span> <span className="text-soft">{r.item.description}</span>
      </>
    ),
    width: 210,
  },
  { id: 'qty', title: 'Quantity', value: (r) => Number(r.qty), show: (r) => <strong>{r.qty}</strong>, number: true, width: 80 },
  { id: 'from', title: 'From', value: (r) => r.from.address, show: (r) => <Plate address={r.from.address} />, width: 120 },
  { id: 'to', title: 'To', value: (r) => r.to.address, show: (r) => <Plate address={r.to.address} />, width: 120 },
  {
    id: 'condition',
    title: 'Condition',
    value: conditionText,
    show: (r) => (changesCondition(r) ? <strong>{conditionText(r)}</strong> : <span className="text-soft">{conditionText(r)}</span>),
    width: 105,
  },
  { id: 'lot', title: 'Lot or serial', value: (r) => r.lot ?? r.serial ?? '', width: 100 },
  {
    id: 'document',
    title: 'Document',
    value: (r) => r.document.number,
    show: (r) => (
      <Link className="underline decoration-line underline-offset-4" to={paperPath(r)} onClick={(e) => e.stopPropagation()}>
        {r.document.number}
      </Link>
    ),
    width: 90,
  },
  {
    id: 'reason',
    title: 'Reason',
    value: (r) => r.reason,
    show: (r) => (
      <>
        {r.undoneBy && <Tag>undone</Tag>} {r.reason}
      </>
    ),
    width: 150,
  },
  { id: 'person', title: 'Who', value: (r) => r.person, width: 100 },
];
const FILTERS = ['item', 'bin', 'document', 'person', 'reason', 'from', 'to', 'lot', 'serial'] as const;

/** The ledger: every movement, newest first, of an item, a bin, a document, a person, a reason or some days. Nothing here is ever
 *  edited. */
export function Ledger() {
  const { of, set, clear } = useFilters();
  const [open, setOpen] = useState<MovementRow | null>(null);
  const close = useCallback(() => setOpen(null), []);
  const [item, setItem] = usePicked('item', of('item'), (id) => set('item', id));
  const [bin, setBin] = usePicked('bin', of('bin'), (id) => set('bin', id));
  const [document, setDocument] = usePicked('document', of('document'), (id) => set('document', id));
  const [person, setPerson] = usePicked('person', of('person'), (id) => set('person', id));
  const number = (name: string): number | undefined => (/^\d+$/.test(of(name)) ? Number(of(name)) : undefined);
  const sort = useSort('ledger', LEDGER_SORTS);
  const { pages, more, error, isPending, readAll } = useReadPages('stock.movements', {
    query: {
      item: number('item'),
      bin: number('bin'),
      document: number('document'),
      person: number('person'),
      lot: of('lot') || undefined,
      serial: of('serial') || undefined,
      reason: of('reason') || undefined,
      from: of('from') || undefined,
      to: of('to') || undefined,
      sort,
      limit: 300,
    },
  });
  const rows = pages.flatMap((p) => p.movements);
  const isFiltered = FILTERS.some((name) => of(name) !== '');
  return (
    <section>
      <div className="mb-2 flex items-center gap-4">
        <h1 className="code text-3xl">Ledger</h1>
        <p className="text-soft">
          Every movement of stock, {sort === 'at' ? 'from the first one on' : 'newest first'}. Nothing here is ever changed: what was wrong
          is reversed.
        </p>
        {isFiltered && (
          <Button look="quiet" className="ml-auto" onClick={() => clear(FILTERS)}>
            Show everything
          </Button>
        )}
      </div>
      <div
        className="mb-3 grid grid-cols-4 items-start gap-x-3 gap-y-1
          lg:grid-cols-[2fr_1.2fr_1.2fr_1.3fr_1.3fr_minmax(10rem,1fr)_minmax(10rem,1fr)]"
      >
        <ChoiceField kind="item" label="Item" placeholder="Any item" value={item} onChange={setItem} />
        <ChoiceField kind="bin" label="Bin" placeholder="Any bin" value={bin} onChange={setBin} />
        <ChoiceField kind="document" label="Document" placeholder="Any document" value={document} onChange={setDocument} />
        <ChoiceField kind="person" label="Who" placeholder="Anybody" value={person} onChange={setPerson} />
        <label className="block">
          <span className="block text-sm text-soft">Reason</span>
          <SearchBox label="Reason" className="w-full" value={of('reason')} onChange={(e) => set('reason', e.target.value)} />
        </label>
        <DateField label="From" value={of('from')} onChange={(day) => set('from', day)} />
        <DateField label="To" value={of('to')} onChange={(day) => set('to', day)} />
      </div>
      {(of('lot') || of('serial')) && (
        <p className="mb-2">
          Only {of('lot') ? `lot ${of('lot')}` : `serial ${of('serial')}`}.{' '}
          <Button look="quiet" onClick={() => clear(['lot', 'serial'])}>
            Every {of('lot') ? 'lot' : 'serial'}
          </Button>
        </p>
      )}
      <Trouble error={error} />
      {!isPending && rows.length === 0 && !error && (
        <Empty title={isFiltered ? 'No movement fits.' : 'Nothing was ever moved.'}>
          {isFiltered ? 'Take one of the filters away.' : 'What is received, moved, picked, shipped and counted is written here.'}
        </Empty>
      )}
      {rows.length > 0 && (
        <div className="flex gap-4">
          <div className="min-w-0 flex-1">
            <DataTable
              sorts={LEDGER_SORTS}
              name="Ledger"
              keep="ledger"
              rows={rows}
              columns={COLUMNS}
              keyOf={(r) => r.id}
              onOpen={setOpen}
              openKey={open?.id}
              more={more}
              readAll={rowsOf(readAll, (page) => page.movements)}
            />
          </div>
          {open && <Movement movement={rows.find((r) => r.id === open.id) ?? open} onClose={close} />}
        </div>
      )}
    </section>
  );
}

/** One movement, with everything that explains it, and its document taken back where that can be. */
function Movement({ movement: m, onClose }: { movement: MovementRow; onClose: () => void }) {
  const me = useMe();
  const undo = useSend('stock.undo', {
    onDone: (r) => toast.success(`${counted(r.movements, 'movement is', 'movements are')} undone by ${r.document}.`),
  });
  const facts: [string, React.ReactNode][] = [
    ['Quantity', m.qty],
    ['Lot or serial', m.lot ?? m.serial ?? 'none'],
    ['From', <BinOf key="f" end={m.from} />],
    ['To', <BinOf key="t" end={m.to} />],
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
  const { paper } = m.document;
  return (
    <SidePanel title={`Movement ${m.id}`} onClose={onClose}>
      <p className="mb-2">
        <ItemName item={m.item.id} code={m.item.code} description={m.item.description} />
      </p>
      <dl>
        {facts.map(([name, value]) => (
          <div key={name} className="flex justify-between gap-3 border-b border-line py-1.5">
            <dt className="text-soft">{name}</dt>
            <dd className="text-right font-semibold">{value}</dd>
          </div>
        ))}
      </dl>
      <div className="mt-3 space-y-2">
        {m.document.undoable && me?.me?.role === 'lead' && (
          <Button
            look="wrong"
            className="w-full"
            disabled={undo.isPending}
            onClick={() => undo.mutate({ params: { id: m.document.id }, body: { reason: 'Undone at the desk' } })}
          >
            Undo {m.document.number}
          </Button>
        )}
        {paper && (
          <p className="text-sm text-soft">
            It is put right on{' '}
            <Link className="underline" to={paperPath(m)}>
              the {paper.what}’s page
            </Link>
            .
          </p>
        )}
      </div>
    </SidePanel>
  );
}

const FIRST_REAL_BIN = 100;
function BinOf({ end }: { end: MovementRow['from'] }) {
  return (
    <>
      {end.id < FIRST_REAL_BIN ? (
        end.address
      ) : (
        <Link className="underline" to={`/bins/${end.id}`}>
          {end.address}
        </Link>
      )}
      , {conditionWord(end.condition)}
    </>
  );
}
