import { useState } from 'react';
import { Link, useParams, useSearchParams } from 'react-router';
import { toast } from 'sonner';
import { Button, Plate, Tag, Trouble, useMe, useRead, useSend, ItemPicture } from '#web/base';
import { ItemLabels, sayLabelsSent } from '#web/labels';
import { Equation } from './item-equation.tsx';
import { Files } from './item-files.tsx';
import { Kit } from './item-kit.tsx';
import { Prices } from './item-prices.tsx';
import { CopyItem, RecordForm } from './item-record.tsx';
import { AdjustStock } from './adjust.tsx';
import { HoldItem, OpeningStock, TrackingChange } from './item-stock.tsx';
import { Packs } from './item-packs.tsx';

/** An item: its stock equation first, every figure opening into what makes it; then its record, and what can be done with it. */
export function ItemPage() {
  const id = Number(useParams()['id']);
  const [search] = useSearchParams();
  const { data: item, error } = useRead('items.item', { params: { id } });
  // Asked for at once, not only when the record has come: the equation is what one opens an item for.
  useRead('stock.equation', { params: { id } });
  const me = useMe();
  const [act, setAct] = useState<'change' | 'copy' | 'adjust' | 'opening' | 'hold' | 'tracking' | 'labels' | null>(
    search.get('act') === 'opening' ? 'opening' : null,
  );
  const print = useSend('labels.print', { onDone: (r) => sayLabelsSent(r) });
  const retire = useSend('items.retire', { onDone: (i) => toast.success(i.retired ? 'The item is retired.' : 'The item is back.') });
  if (!item) return <Trouble error={error} />;
  const office = me?.me?.role === 'lead' || me?.me?.role === 'office';
  const lead = me?.me?.role === 'lead';
  const picture = item.files.find((f) => f.type.startsWith('image/'));
  const done = (): void => setAct(null);
  const toggle = (name: NonNullable<typeof act>, label: string) => (
    <Button aria-expanded={act === name} onClick={() => setAct(act === name ? null : name)}>
      {label}
    </Button>
  );
  return (
    <article>
      <div className="flex items-start gap-4">
        {picture ? (
          <a href={`/api/files/${picture.id}`} target="_blank" rel="noreferrer" aria-label={`The picture of ${item.code}, in full`}>
            <ItemPicture item={item.id} size="record" />
          </a>
        ) : (
          <ItemPicture item={item.id} size="record" />
        )}
        <div>
          <h1 className="flex items-baseline gap-3">
            <span className="code shrink-0 text-3xl">{item.code}</span>
            <span className="text-xl">{item.description}</span>
            {item.retired && <Tag tone="strong">retired</Tag>}
          </h1>
          <p className="text-soft">
            {item.group} · unit {item.unit} · {TRACKED[item.tracking]}
            {item.homes.length > 0 && (
              <>
                {' '}
                · home{' '}
                {item.homes.map((h) => (
                  <span key={h.bin} title={`${h.site}, ${h.role}${h.min || h.max ? `, ${h.min ?? 0} to ${h.max ?? 'any'}` : ''}`}>
                    <Plate address={h.address} to={`/bins/${h.bin}`} />{' '}
                  </span>
                ))}
              </>
            )}
          </p>
          {item.note && <p>{item.note}</p>}
        </div>
        <div className="ml-auto flex shrink-0 items-start gap-2">
          <Button onClick={() => print.mutate({ body: { kind: 'item', item: id, copies: 1 } })}>Print a label</Button>
          <Link to={`/ledger?item=${id}`} className="rounded border-2 border-ink/70 bg-sheet px-3 py-1">
            Every movement
          </Link>
        </div>
      </div>
      <div className="mt-3 flex flex-wrap gap-2">
        {office && toggle('change', 'Change the record')}
        {office && toggle('copy', 'Copy')}
        {office && toggle('adjust', 'Adjust')}
        {office && toggle('opening', 'Opening stock')}
        {me?.me?.role !== 'office' && toggle('hold', 'Hold')}
        {lead && toggle('tracking', 'Change tracking')}
        {toggle('labels', 'Labels')}
        {office && (
          <Button look="quiet" onClick={() => retire.mutate({ params: { id }, body: { retired: !item.retired } })}>
            {item.retired ? 'Bring it back' : 'Retire'}
          </Button>
        )}
      </div>
      {act === 'change' && <RecordForm item={item} onDone={done} />}
      {act === 'copy' && <CopyItem item={item} />}
      {act === 'opening' && <OpeningStock item={item} onDone={done} />}
      {act === 'adjust' && <AdjustStock item={item} onDone={done} />}
      {act === 'hold' && <HoldItem item={item} onDone={done} />}
      {act === 'tracking' && <TrackingChange item={item} onDone={done} />}
      {act === 'labels' && <ItemLabels item={item} onDone={done} />}
      <Equation item={item} />
      <div className="mt-6 grid grid-cols-1 gap-8 lg:grid-cols-3">
        <section>
          <Packs item={item} mayChange={office} />
        </section>
        <section>
          <Prices item={item} mayChange={office} />
        </section>
        <section className="space-y-5">
          <Kit item={item} mayChange={office} />
          <Files item={item} mayChange={office} />
          <Facts item={item} />
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

function Facts({ item }: { item: Parameters<typeof Packs>[0]['item'] }) {
  const own = Object.entries(item.own);
  return (
    <div>
      <h2 className="mb-1 border-b-2 border-ink font-bold">Facts</h2>
      <p className="flex flex-wrap gap-1 py-1">
        <Tag>storage: {item.storageClass}</Tag>
        {item.shelfLifeMonths && <Tag>shelf life {item.shelfLifeMonths} months</Tag>}
        <Tag>count class {item.countClass}</Tag>
        {item.weightGrams > 0 && <Tag>{item.weightGrams} g</Tag>}
        {item.volumeMl > 0 && <Tag>{item.volumeMl / 1000} litres</Tag>}
      </p>
      <dl>
        {own.map(([label, value]) => (
          <div key={label} className="flex justify-between border-b border-line py-1">
            <dt className="text-soft">{label}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
    </div>
  );
}
