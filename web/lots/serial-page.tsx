import { Link, useParams } from 'react-router';
import type { SerialLife } from '#contract/lots';
import { ItemPicture, Plate, sayMoment, Tag, Trouble, useRead } from '#web/base';

const WHAT: Readonly<Record<SerialLife['events'][number]['what'], string>> = {
  received: 'came',
  entered: 'entered as opening stock',
  putAway: 'put away',
  moved: 'moved',
  picked: 'picked',
  shipped: 'left',
  adjusted: 'adjusted',
  scrapped: 'scrapped',
  held: 'held or released',
  returned: 'put back',
  undone: 'taken back',
};

/** The life of one piece (E8): where it is, and event by event how it came there. */
export function SerialPage() {
  const params = useParams();
  const { data: life, error } = useRead('lots.serial', { params: { id: Number(params['id']), serial: params['serial'] ?? '' } });
  if (!life) return <Trouble error={error} />;
  return (
    <article>
      <div className="flex items-start gap-4">
        <ItemPicture item={life.item} size="record" />
        <div>
          <h1 className="flex items-baseline gap-3">
            <span className="text-xl">serial</span>
            <span className="code text-3xl">{life.serial}</span>
          </h1>
          <p>
            <Link className="underline" to={`/items/${life.item}`}>
              <span className="code text-lg">{life.code}</span> {life.description}
            </Link>
          </p>
        </div>
        <div className="ml-auto text-right">
          {life.where ? (
            <>
              <Plate address={life.where.address} size="door" to={`/bins/${life.where.bin}`} />
              <p className="pt-1">
                {life.where.site}
                {life.where.condition !== 'sound' && (
                  <>
                    {' '}
                    <Tag tone="wrong">{life.where.heldFor ? `held: ${life.where.heldFor}` : life.where.condition}</Tag>
                  </>
                )}
              </p>
            </>
          ) : (
            <Tag tone="strong">not in stock</Tag>
          )}
        </div>
      </div>
      <h2 className="mt-6 border-b-2 border-ink font-bold">Its life</h2>
      <ol aria-label="Its life">
        {life.events.map((e) => (
          <li key={e.movement} className="grid grid-cols-[9rem_11rem_1fr_10rem] items-center gap-3 border-b border-line py-1.5">
            <span className="text-soft">{sayMoment(e.at)}</span>
            <strong>
              {WHAT[e.what]} {e.undone && <Tag>undone</Tag>}
            </strong>
            <span>
              {e.who ?? e.from} → {e.what === 'shipped' && e.who ? 'customer' : e.to}
              <span className="block text-sm text-soft">{e.reason}</span>
            </span>
            <span className="text-right">
              <Link className="underline" to={`/ledger?document=${e.document.id}`}>
                {e.document.number}
              </Link>
              <span className="block text-sm text-soft">{e.by}</span>
            </span>
          </li>
        ))}
      </ol>
    </article>
  );
}
