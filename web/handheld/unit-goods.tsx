import { formatQty, type Qty } from '#core/base';
import { theFloor } from '#web/hands';

type InUnit = { readonly item: number | null; readonly lot: string | null; readonly serial: string | null; readonly qty: Qty };
const MOST_GOODS = 6;

/** What is in a pallet or carton, a line each. */
export function UnitGoods({ goods }: { goods: readonly InUnit[] }) {
  const { facts } = theFloor();
  return (
    <ul aria-label="What is in it" className="rounded border border-line bg-sheet px-3 py-1">
      {goods.slice(0, MOST_GOODS).map((g, n) => (
        <li key={n} className="flex items-baseline gap-3">
          <span className="code w-12 text-right text-xl">{formatQty(g.qty)}</span>
          <span className="min-w-0 flex-1 truncate">
            <span className="code">{facts.item(g.item ?? 0)?.code}</span> {facts.item(g.item ?? 0)?.description}
            {g.lot && `, lot ${g.lot}`}
            {g.serial && `, ${g.serial}`}
          </span>
        </li>
      ))}
      {goods.length > MOST_GOODS && <li className="text-soft">and {goods.length - MOST_GOODS} more</li>}
    </ul>
  );
}
