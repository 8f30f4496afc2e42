import { useEffect } from 'react';
import { Link } from 'react-router';
import { shortSscc } from '#core/floor';
import { PUT_AWAY_WHY } from '#core/moves';
import type { PutAwayRow } from '#contract/moves';
import { ago, Empty, Plate, Trouble, useRead, sayDay, ItemName } from '#web/base';
import { PlacesFrame } from '#web/places';
import { DataTable, type Column } from '#web/table';

const COLUMNS: readonly Column<PutAwayRow>[] = [
  { id: 'from', title: 'Lies at', value: (r) => r.from, show: (r) => <Plate address={r.from} />, width: 120 },
  {
    id: 'item',
    title: 'Item',
    value: (r) => r.code,
    show: (r) => <ItemName {...r} />,
    width: 260,
  },
  { id: 'lot', title: 'Lot or serial', value: (r) => r.lot ?? r.serial ?? '', width: 120 },
  {
    id: 'unit',
    title: 'In unit',
    value: (r) => r.sscc ?? '',
    show: (r) =>
      r.sscc && (
        <Link className="underline" to={`/units/${r.sscc}`}>
          {shortSscc(r.sscc)}
        </Link>
      ),
    width: 80,
  },
  { id: 'expires', title: 'Expires', value: (r) => r.expires ?? '', show: (r) => r.expires && sayDay(r.expires), width: 110 },
  {
    id: 'qty',
    title: 'Quantity',
    value: (r) => Number(r.qty),
    show: (r) => (
      <strong>
        {r.qty} <span className="font-normal text-soft">{r.unit}</span>
      </strong>
    ),
    number: true,
    width: 100,
  },
  {
    id: 'to',
    title: 'Goes to',
    value: (r) => r.suggestion?.address ?? '',
    show: (r) => (r.suggestion ? <Plate address={r.suggestion.address} /> : <span className="text-wrong">no bin has room</span>),
    width: 120,
  },
  { id: 'why', title: 'Because', value: (r) => (r.suggestion ? PUT_AWAY_WHY[r.suggestion.why] : ''), width: 140 },
  {
    id: 'round',
    title: 'Round',
    value: (r) => r.round?.number ?? '',
    show: (r) =>
      r.round && (
        <Link className="underline" to={`/carries/${r.round.id}`}>
          {r.round.number}
        </Link>
      ),
    width: 80,
  },
  { id: 'since', title: 'Waits since', value: (r) => r.since, show: (r) => `${ago(r.since)}`, width: 90 },
];

/** Stock that has no bin yet (A7): never hidden, worked off from here. */
export function Unplaced() {
  return (
    <PlacesFrame>
      <p className="mb-2 max-w-2xl text-soft">
        What is here and has no bin yet: an opening balance, a site that has just begun to use bins. It is promised like any other stock.
        Hands put it away on the handheld under “Put away unplaced”.
      </p>
      <PutAwayRows from="unplaced" name="Unplaced" title="Everything has its bin.">
        Opening stock without a bin is entered into UNPLACED and comes here.
      </PutAwayRows>
    </PlacesFrame>
  );
}

/** One thing that waits, told from the others. */
export const putAwayKey = (r: PutAwayRow): string => `${r.bin}-${r.item}-${r.lot}-${r.serial}-${r.condition}-${r.sscc}`;

/** What waits for its bin, with where it goes and why. `onRows`: told what is in sight. */
export function PutAwayRows({
  from,
  name,
  title,
  children,
  onRows,
  ...picking
}: {
  from: 'arrivals' | 'unplaced';
  name: string;
  title: string;
  children: string;
  picked?: ReadonlySet<string | number>;
  onPick?: (keys: ReadonlySet<string | number>) => void;
  onRows?: (rows: readonly PutAwayRow[]) => void;
}) {
  const { data, error } = useRead('moves.putAway', { query: { from } });
  const rows = data?.rows;
  useEffect(() => {
    if (rows) onRows?.(rows);
  }, [rows, onRows]);
  return (
    <>
      <Trouble error={error} />
      {rows?.length === 0 && <Empty title={title}>{children}</Empty>}
      {rows && rows.length > 0 && <DataTable name={name} rows={rows} columns={COLUMNS} keyOf={putAwayKey} {...picking} />}
    </>
  );
}
