import { useState } from 'react';
import { useNavigate } from 'react-router';
import { toast } from 'sonner';
import { REFILL_WHY } from '#core/carrying';
import type { FaceRow } from '#contract/carrying';
import { Button, counted, Empty, ItemName, Plate, Tag, Trouble, useMe, useRead, useSend } from '#web/base';
import { DataTable, type Column } from '#web/table';
import { CarryFrame } from './frame.tsx';

const keyOf = (r: FaceRow): string => `${r.item}-${r.bin}`;
const COLUMNS: readonly Column<FaceRow>[] = [
  { id: 'bin', title: 'Pick face', value: (r) => r.address, show: (r) => <Plate address={r.address} to={`/bins/${r.bin}`} />, width: 120 },
  { id: 'item', title: 'Item', value: (r) => r.code, show: (r) => <ItemName {...r} />, width: 240 },
  { id: 'there', title: 'There', value: (r) => Number(r.there), number: true, width: 80 },
  { id: 'coming', title: 'Comes', value: (r) => Number(r.coming), number: true, width: 80 },
  { id: 'min', title: 'Minimum', value: (r) => (r.min === null ? '' : Number(r.min)), number: true, width: 90 },
  { id: 'max', title: 'Maximum', value: (r) => (r.max === null ? '' : Number(r.max)), number: true, width: 90 },
  { id: 'needed', title: 'Orders need', value: (r) => Number(r.needed), number: true, width: 100 },
  {
    id: 'wants',
    title: 'Bring',
    value: (r) => Number(r.wants),
    show: (r) => (
      <strong>
        {r.wants} <span className="font-normal text-soft">{r.unit}</span>
      </strong>
    ),
    number: true,
    width: 110,
  },
  {
    id: 'reserve',
    title: 'In reserve',
    value: (r) => Number(r.reserve),
    show: (r) =>
      Number(r.reserve) === 0 ? <Tag tone="wrong">none</Tag> : Number(r.reserve) < Number(r.wants) ? <Tag>{r.reserve}</Tag> : r.reserve,
    number: true,
    width: 100,
  },
  { id: 'why', title: 'Because', value: (r) => REFILL_WHY[r.why], width: 230 },
];

/** Pick faces that want more (I5): below their minimum, or short of what tonight's orders need; marked ones, or all, become a round. */
export function RefillPage() {
  const go = useNavigate();
  const { me } = useMe();
  const { data, error } = useRead('carrying.faces', {});
  const [picked, setPicked] = useState<ReadonlySet<string | number>>(new Set());
  const make = useSend('carrying.refill', {
    onDone: (made) => {
      const missing = made.missing.map((m) => `${m.qty} ${m.code} for ${m.bin}`);
      toast.success(
        `${made.number}: ${counted(made.lines, 'line', 'lines')}.${
          missing.length > 0 ? ` No reserve for ${missing.slice(0, 4).join(', ')}${missing.length > 4 ? ' …' : ''}.` : ''
        }`,
      );
      void go(`/carries/${made.id}`);
    },
  });
  const faces = data?.faces ?? [];
  const chosen = faces.filter((f) => picked.has(keyOf(f)));
  const can = (chosen.length > 0 ? chosen : faces).some((f) => Number(f.reserve) > 0);
  const may = me?.role === 'lead' || me?.role === 'hand';
  return (
    <CarryFrame
      title="Pick faces to fill"
      act={
        may &&
        faces.length > 0 && (
          <Button
            look="next"
            disabled={make.isPending || !can}
            onClick={() => make.mutate({ body: chosen.length === 0 ? {} : { only: chosen.map((f) => ({ item: f.item, bin: f.bin })) } })}
          >
            {chosen.length === 0 ? 'Make a refill round of all' : `Make a refill round of ${chosen.length}`}
          </Button>
        )
      }
    >
      <Trouble error={error} />
      {data && faces.length === 0 && (
        <Empty title="Every pick face has enough.">
          A face comes here when less lies there than its minimum, or when orders need more than lies on the faces. Say minimum and maximum
          at an item’s home bins.
        </Empty>
      )}
      {faces.length > 0 && (
        <>
          {!can && <p className="mb-2 font-semibold text-wrong">Nothing of them lies in reserve: they wait for what is to come.</p>}
          <DataTable
            name="Pick faces to fill"
            keep="faces"
            rows={faces}
            columns={COLUMNS}
            keyOf={keyOf}
            picked={picked}
            onPick={setPicked}
          />
        </>
      )}
    </CarryFrame>
  );
}
