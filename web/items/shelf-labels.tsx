import { useState } from 'react';
import { useNavigate } from 'react-router';
import { WRONG_LABEL_SORTS, type WrongLabel } from '#contract/labels';
import { Button, Empty, Plate, Trouble, useFilters, useReadPages, useSend, sayDay, sayMoney } from '#web/base';
import { DateField } from '#web/forms';
import { LabelPanel, sayLabelsSent } from '#web/labels';
import { DataTable, rowsOf, type Column, useSort } from '#web/table';
import { ItemsFrame } from './frame.tsx';

const COLUMNS: readonly Column<WrongLabel>[] = [
  { id: 'bin', title: 'Shelf', value: (r) => r.address, show: (r) => <Plate address={r.address} />, width: 110 },
  { id: 'code', title: 'Item', value: (r) => r.code, show: (r) => <span className="code text-lg">{r.code}</span>, width: 90 },
  { id: 'description', title: 'Description', value: (r) => r.description, width: 260 },
  {
    id: 'on',
    title: 'Label says',
    value: (r) => Number(r.onLabel ?? -1),
    show: (r) => (r.onLabel === null ? <span className="text-soft">no label yet</span> : sayMoney(r.onLabel)),
    number: true,
    width: 110,
  },
  { id: 'now', title: 'It costs', value: (r) => Number(r.now), show: (r) => <strong>{sayMoney(r.now)}</strong>, number: true, width: 90 },
  {
    id: 'since',
    title: 'Since',
    value: (r) => (r.since > '2000-01-01' ? r.since : ''),
    show: (r) => (r.since > '2000-01-01' ? sayDay(r.since) : ''),
    width: 100,
  },
];
const keyOf = (r: WrongLabel): string => `${r.bin}-${r.item}`;

/** Shelf labels that are wrong today, or will be on a day (D4): printed again in walking order. */
export function ShelfLabels() {
  const { of, set } = useFilters();
  const go = useNavigate();
  const day = of('day');
  const { pages, more, error, readAll } = useReadPages('labels.wrong', {
    query: { ...(day ? { day } : {}), sort: useSort('wrong', WRONG_LABEL_SORTS), limit: 500 },
  });
  const rows = pages.flatMap((p) => p.labels);
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const print = useSend('labels.print', {
    onDone: (r) => {
      setPicked(new Set());
      sayLabelsSent(r, 'shelf', 'in walking order');
    },
  });
  const chosen = picked.size > 0 ? rows.filter((r) => picked.has(keyOf(r))) : rows;
  const pairs = chosen.map((r) => ({ bin: r.bin, item: r.item }));
  // What was chosen when it was opened: labels that a PDF has are wrong no more, and leave the list while it still lies here.
  const [panel, setPanel] = useState<{ of: string; pairs: typeof pairs } | null>(null);
  return (
    <ItemsFrame>
      <div className="mb-2 flex items-end gap-4">
        <DateField label="As prices will be on" value={day} onChange={(to) => set('day', to)} />
        <p className="max-w-xl pb-1 text-soft">Wherever customers look: shelves whose label shows another price than the one that holds.</p>
        {rows.length > 0 && panel === null && (
          <span className="ml-auto flex gap-2" title={day ? 'Labels are printed with today’s price; come back on that day.' : ''}>
            <Button disabled={day !== ''} onClick={() => setPanel({ of: `${chosen[0]?.code} in ${chosen[0]?.address}`, pairs })}>
              Look, or as PDF …
            </Button>
            <Button look="next" disabled={print.isPending || day !== ''} onClick={() => print.mutate({ body: { kind: 'shelf', pairs } })}>
              Print {picked.size > 0 ? chosen.length : `all ${rows.length}${more ? ' shown' : ''}`}{' '}
              {chosen.length === 1 ? 'label' : 'labels'}
            </Button>
          </span>
        )}
      </div>
      {panel && <LabelPanel of={panel.of} kind="shelf" wanted={{ kind: 'shelf', pairs: panel.pairs }} onDone={() => setPanel(null)} />}
      <Trouble error={error} />
      {pages.length > 0 && rows.length === 0 && (
        <Empty title={day ? 'No label will be wrong then.' : 'Every shelf label is right.'}>
          Zones say under Places whether labels there show a price. After a price change the labels to print again are here.
        </Empty>
      )}
      {rows.length > 0 && (
        <DataTable
          sorts={WRONG_LABEL_SORTS}
          keep="wrong"
          name="Wrong labels"
          rows={rows}
          columns={COLUMNS}
          keyOf={keyOf}
          picked={picked}
          onPick={setPicked}
          more={more}
          readAll={rowsOf(readAll, (page) => page.labels)}
          onOpen={(r) => void go(`/items/${r.item}`)}
        />
      )}
    </ItemsFrame>
  );
}
