import { useMemo, useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { toast } from 'sonner';
import type { ReorderRow } from '#contract/purchasing';
import { Button, counted, Empty, Field, sayMoney, SidePanel, Tag, Trouble, useFilters, useRead, useSend } from '#web/base';
import { ChoiceField, Select, usePicked } from '#web/forms';
import { DataTable, type Column } from '#web/table';
import { PurchasingFrame } from './frame.tsx';

const REASON = { waiting: 'orders wait', least: 'below the least', use: 'runs out before more comes' } as const;

const columnsOf = (wanted: ReadonlyMap<number, string>): readonly Column<ReorderRow>[] => [
  { id: 'code', title: 'Item', value: (r) => r.code, show: (r) => <span className="code text-lg">{r.code}</span>, width: 90 },
  { id: 'description', title: 'Description', value: (r) => r.description, width: 230 },
  {
    id: 'buy',
    title: 'Buy',
    value: (r) => Number(wanted.get(r.item) ?? r.buy),
    show: (r) => <strong>{wanted.get(r.item) ?? r.buy}</strong>,
    number: true,
    width: 80,
  },
  { id: 'packs', title: 'In packs', value: (r) => r.buyPacks, show: (r) => `${r.buyPacks} ${r.pack.name}`, width: 110 },
  {
    id: 'supplier',
    title: 'Supplier',
    value: (r) => r.supplier?.name ?? '',
    show: (r) => r.supplier?.name ?? <Tag tone="wrong">nobody</Tag>,
    width: 170,
  },
  {
    id: 'reason',
    title: 'Because',
    value: (r) => (r.reason ? REASON[r.reason] : ''),
    show: (r) => (r.reason ? <Tag tone={r.reason === 'waiting' ? 'wrong' : 'plain'}>{REASON[r.reason]}</Tag> : ''),
    width: 190,
  },
  { id: 'position', title: 'Here and coming', value: (r) => Number(r.position), number: true, width: 120 },
  { id: 'level', title: 'Should be', value: (r) => Number(r.level), number: true, width: 90 },
  {
    id: 'worth',
    title: 'Amount',
    value: (r) => Number(wanted.get(r.item) ?? r.buy) * Number(r.supplier?.cost ?? 0),
    show: (r) => sayMoney((Number(wanted.get(r.item) ?? r.buy) * Number(r.supplier?.cost ?? 0)).toFixed(2)),
    number: true,
    width: 100,
  },
];

/** What to buy (B11): of each item how much, and why, with the whole reckoning beside it; marked ones become drafts, one for each
 *  supplier. */
export function Reorder() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const [supplier, setSupplier] = usePicked('supplier', of('supplier'), (id) => set('supplier', id));
  const { data, error } = useRead('purchasing.reorder', { query: of('supplier') ? { supplier: Number(of('supplier')) } : {} });
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const [wanted, setWanted] = useState<ReadonlyMap<number, string>>(new Map());
  const draft = useSend('purchasing.draft', {
    onDone: ({ orders }) => {
      setPicked(new Set());
      setWanted(new Map());
      const [one] = orders;
      toast.success(
        `${counted(orders.length, 'draft', 'drafts')}: ${orders
          .slice(0, 4)
          .map((o) => `${o.number} ${o.supplier}`)
          .join(', ')}${orders.length > 4 ? ' …' : ''}`,
      );
      void go(orders.length === 1 && one ? `/purchasing/${one.id}` : '/purchasing?state=draft');
    },
  });
  const rows = data?.rows ?? [];
  const asked = Number(of('item')) || 0;
  const { data: one } = useRead('purchasing.reorder', { query: { item: asked } }, { enabled: asked > 0 });
  const open = rows.find((r) => r.item === asked) ?? one?.rows[0];
  const columns = useMemo(() => columnsOf(wanted), [wanted]);
  const chosen = rows.filter((r) => picked.has(r.item));
  const nobody = chosen.filter((r) => r.supplier === null);
  return (
    <PurchasingFrame
      act={
        chosen.length > 0 && (
          <>
            {nobody.length > 0 && (
              <span className="font-semibold text-wrong">{nobody.map((r) => r.code).join(', ')}: nobody sells it.</span>
            )}
            <Button
              look="next"
              disabled={draft.isPending || nobody.length > 0}
              onClick={() =>
                draft.mutate({
                  body: {
                    lines: chosen.map((r) => ({ item: r.item, supplier: r.supplier?.id ?? null, qty: wanted.get(r.item) ?? r.buy })),
                  },
                })
              }
            >
              Make drafts of {chosen.length}
            </Button>
          </>
        )
      }
    >
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <div className="w-60">
          <ChoiceField kind="supplier" label="Supplier" placeholder="Every supplier" value={supplier} onChange={setSupplier} />
        </div>
        {rows.length > 0 && chosen.length === 0 && (
          <p className="pb-1 text-soft">Mark what is to be bought; each supplier gets a draft. Open a row for its reckoning.</p>
        )}
      </div>
      <Trouble error={error} />
      {data && rows.length === 0 && (
        <Empty title="Nothing has to be bought.">
          {data.levels === 0
            ? 'No item says yet how much of it there should be: say it on an item’s page. What orders wait for stands here all the same.'
            : 'There is enough of everything, here and on its way.'}
        </Empty>
      )}
      <div className="flex gap-4">
        <div className="min-w-0 flex-1">
          {rows.length > 0 && (
            <DataTable
              name="What to buy"
              keep="reorder"
              rows={rows}
              columns={columns}
              keyOf={(r) => r.item}
              onOpen={(r) => set('item', String(r.item))}
              openKey={open?.item}
              picked={picked}
              onPick={setPicked}
            />
          )}
        </div>
        {open && (
          <SidePanel
            title={
              <>
                <span className="code text-xl">{open.code}</span> {open.description}
              </>
            }
            onClose={() => set('item', '')}
          >
            <Field
              label={`Buy how many ${open.unit}`}
              value={wanted.get(open.item) ?? open.buy}
              inputMode="decimal"
              onChange={(e) => setWanted(new Map(wanted).set(open.item, e.target.value.replace(',', '.')))}
            />
            <Reckoning row={open} days={data?.days ?? 0} />
            <Levels key={open.item} row={open} />
            <p className="pt-3">
              <Link className="underline" to={`/items/${open.item}`}>
                Open {open.code}
              </Link>
            </p>
          </SidePanel>
        )}
      </div>
    </PurchasingFrame>
  );
}

/** How a proposal came about, figure by figure. */
export function Reckoning({ row, days }: { row: ReorderRow; days: number }) {
  const lines: readonly (readonly [sign: string, figure: string, words: string])[] = [
    ['', row.here, 'here, usable or to inspect'],
    ['+', row.coming, 'on approved orders'],
    ['+', row.drafted, 'on drafts'],
    ['−', row.promised, 'promised'],
    ['−', row.waiting, 'orders wait for beyond that'],
    ['=', row.position, 'here and coming'],
  ];
  const should: readonly (readonly [sign: string, figure: string, words: string])[] = [
    ['', row.least ?? '–', 'the least'],
    ['', row.leadUse, `used in the ${row.leadDays} days until more can come (${row.used} in the last ${days})`],
    ['=', row.level, 'should be here and coming: the larger of the two'],
    ['', row.upTo, row.most === null ? 'bought up to, as no most is said' : 'the most, bought up to'],
    ['', row.buy, `${row.pack.units === '1' ? 'to buy' : `to buy: ${row.buyPacks} ${row.pack.name} of ${row.pack.units}`}`],
  ];
  const table = (rows: typeof lines, label: string) => (
    <table aria-label={label} className="mt-3 w-full">
      <tbody>
        {rows.map(([sign, figure, words]) => (
          <tr key={words} className={sign === '=' ? 'border-t-2 border-ink font-bold' : ''}>
            <td className="w-4 text-soft">{sign}</td>
            <td className="code w-16 pr-3 text-right text-lg">{figure}</td>
            <td>{words}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
  return (
    <>
      {table(lines, 'What there is')}
      {table(should, 'What there should be')}
    </>
  );
}

/** How much of an item this site wants, and in which pack it is bought. */
export function Levels({ row }: { row: Pick<ReorderRow, 'item' | 'least' | 'most' | 'pack' | 'packs' | 'unit'> }) {
  const [least, setLeast] = useState(row.least ?? '');
  const [most, setMost] = useState(row.most ?? '');
  const [pack, setPack] = useState(row.pack.id);
  const save = useSend('purchasing.setLevel', { quiet: true, onDone: () => toast.success('Saved.') });
  const amount = (text: string): string | null => (text.trim() === '' ? null : text.replace(',', '.'));
  const isSame = least === (row.least ?? '') && most === (row.most ?? '') && pack === row.pack.id;
  return (
    <form
      aria-label="How much there should be"
      className="mt-4 space-y-2 border-t-2 border-ink pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate({ body: { item: row.item, least: amount(least), most: amount(most), pack } });
      }}
    >
      <div className="grid grid-cols-2 gap-2">
        <Field label={`Least, ${row.unit}`} value={least} inputMode="decimal" onChange={(e) => setLeast(e.target.value)} />
        <Field label={`Most, ${row.unit}`} value={most} inputMode="decimal" onChange={(e) => setMost(e.target.value)} />
      </div>
      <Select
        label="Bought by"
        value={pack}
        onChange={setPack}
        options={row.packs.map((p) => [p.id, p.units === '1' ? p.name : `${p.name} of ${p.units}`] as const)}
      />
      <Trouble error={save.error} />
      <Button type="submit" disabled={save.isPending || isSame}>
        Save
      </Button>
    </form>
  );
}
