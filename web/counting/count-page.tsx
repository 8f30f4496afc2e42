import { useState } from 'react';
import { useNavigate, useParams } from 'react-router';
import { toast } from 'sonner';
import type { ReplyOf, Routes } from '#contract';
import { sayMoney, Button, Empty, Field, Plate, Refused, Tag, Trouble, useRead, useSend, ItemName } from '#web/base';
import { Clashes } from '#web/hands';
import { DataTable, type Column } from '#web/table';

type Row = ReplyOf<Routes['counting.differences']>['rows'][number];
const signed = (text: string): string => (text === '0' || text === '0.00' ? '' : text.startsWith('-') ? `−${text.slice(1)}` : `+${text}`);
const signedMoney = (text: string): string =>
  Number(text) === 0 ? '' : `${text.startsWith('-') ? '−' : '+'}${sayMoney(text.replace('-', ''))}`;
const COLUMNS: readonly Column<Row>[] = [
  { id: 'bin', title: 'Bin', value: (r) => r.address, show: (r) => <Plate address={r.address} />, width: 100 },
  {
    id: 'item',
    title: 'Item',
    value: (r) => r.code,
    show: (r) => <ItemName {...r} />,
    width: 240,
  },
  { id: 'lot', title: 'Lot or serial', value: (r) => r.lot ?? r.serial ?? '', width: 110 },
  {
    id: 'expected',
    title: 'Expected',
    value: (r) => Number(r.expected),
    show: (r) => (
      <>
        {r.movedMeanwhile && <Tag>moved meanwhile</Tag>} {r.expected}
      </>
    ),
    number: true,
    width: 160,
  },
  {
    id: 'found',
    title: 'Found',
    value: (r) => (r.found === null ? '' : Number(r.found)),
    show: (r) => (r.found === null ? <span className="text-soft">not counted</span> : r.found),
    number: true,
    width: 100,
  },
  {
    id: 'difference',
    title: 'Difference',
    value: (r) => Number(r.difference),
    show: (r) => (
      <strong className={r.difference === '0' && r.state !== 'lookAgain' ? '' : 'text-wrong'}>
        {r.state === 'lookAgain'
          ? 'moved while counted'
          : r.found !== null && r.difference === '0'
            ? '= as expected'
            : signed(r.difference)}
      </strong>
    ),
    number: true,
    width: 120,
  },
  { id: 'value', title: 'Value', value: (r) => Number(r.value), show: (r) => signedMoney(r.value), number: true, width: 90 },
];

/** The differences of a count: what was found against what should have been there, in pieces and in value; then posted. */
export function CountPage() {
  const id = Number(useParams()['id']);
  const go = useNavigate();
  const { data, error } = useRead('counting.differences', { params: { id } });
  const [only, setOnly] = useState(true);
  const [override, setOverride] = useState('');
  const post = useSend('counting.post', {
    onDone: (r) =>
      toast.success(
        `${r.document}: ${r.adjusted} ${r.adjusted === 1 ? 'adjustment' : 'adjustments'} posted.${
          r.uncounted > 0 ? ` ${r.uncounted} bins stay to be counted.` : ''
        }`,
      ),
  });
  const takeUp = useSend('counting.takeUp', {
    onDone: () => {
      toast.success('The count is taken up again.');
      void go(`/counts/${id}`);
    },
  });
  const throwAway = useSend('counting.throwAway', {
    onDone: () => {
      toast('The count is thrown away; stock is as it was.', {
        action: { label: 'Undo', onClick: () => takeUp.mutate({ params: { id } }) },
      });
      void go('/counts');
    },
  });
  if (!data) return <Trouble error={error} />;
  const { count } = data;
  const again = data.rows.filter((r) => r.state === 'lookAgain');
  const differing = data.rows.filter((r) => r.difference !== '0');
  const rows = only ? [...again, ...differing] : data.rows;
  return (
    <section>
      <Clashes job={`count:${id}`} quiet />
      <div className="mb-2 flex flex-wrap items-start gap-4">
        <div>
          <h1 className="flex items-baseline gap-3">
            <span className="code text-3xl">{count.number}</span>
            <span className="text-xl">{count.zone}</span>
          </h1>
          <p className="text-soft">
            {count.counted} of {count.bins} bins counted
            {count.state === 'open' && count.counted < count.bins ? '; bins that nobody counted stay as they are' : ''}
          </p>
        </div>
        <div className="flex gap-6 pl-6">
          <p>
            <span className="code block text-4xl leading-none">{differing.length}</span>
            <span className="text-sm text-soft">differences</span>
          </p>
          <p>
            <span className="code block text-4xl leading-none">{signedMoney(data.value) || sayMoney('0')}</span>
            <span className="text-sm text-soft">in value</span>
          </p>
        </div>
        <div className="ml-auto flex gap-2">
          {count.state === 'open' ? (
            <>
              <Button look="wrong" onClick={() => throwAway.mutate({ params: { id } })}>
                Throw it away
              </Button>
              {post.error instanceof Refused && post.error.problem.code.startsWith('places.') && (
                <Field label="It lies there all the same, because" value={override} onChange={(e) => setOverride(e.target.value)} />
              )}
              <Button
                look="next"
                disabled={count.counted === 0 || post.isPending}
                onClick={() => post.mutate({ params: { id }, body: override ? { override } : {} })}
              >
                Post {differing.length} {differing.length === 1 ? 'adjustment' : 'adjustments'}
              </Button>
            </>
          ) : (
            <>
              <Tag tone={count.state === 'posted' ? 'settled' : 'plain'}>{count.state === 'posted' ? 'posted' : 'thrown away'}</Tag>
              {count.state === 'thrown' && <Button onClick={() => takeUp.mutate({ params: { id } })}>Take it up again</Button>}
            </>
          )}
        </div>
      </div>
      {again.length > 0 && (
        <p className="mb-2 border-l-4 border-wrong bg-wrong-pale p-2 font-semibold text-wrong">
          {again.length === 1 ? 'One thing' : `${again.length} things`} moved while being counted: nobody can say from which part. Look
          again there; until then nothing of it is posted.
        </p>
      )}
      <label className="flex gap-2">
        <input type="checkbox" className="size-4" checked={only} onChange={(e) => setOnly(e.target.checked)} /> only what differs
      </label>
      {rows.length === 0 ? (
        <Empty title={count.counted === 0 ? 'Nothing was counted yet.' : 'No differences.'}>
          {count.counted === 0
            ? 'Hands count on the handheld; what they find appears here at once.'
            : 'What was counted is as it should be.'}
        </Empty>
      ) : (
        <DataTable
          name="Differences"
          rows={rows}
          columns={COLUMNS}
          keyOf={(r) => `${r.bin}-${r.item}-${r.lot}-${r.serial}`}
          onOpen={(r) => void go(`/bins/${r.bin}`)}
          height="calc(100dvh - 320px)"
        />
      )}
    </section>
  );
}
