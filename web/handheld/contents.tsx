import { formatQty } from '#core/base';
import type { ContentFact, Facts } from '#core/floor';
import { sayDay } from '#web/base';

/** What lies in a bin, by the records; a press says which of it is meant. */
export function Contents({
  rows,
  facts,
  onChoose,
}: {
  rows: readonly ContentFact[];
  facts: Facts;
  onChoose: (content: ContentFact) => void;
}) {
  return (
    <ul aria-label="What lies here">
      {rows.map((c) => (
        <li key={`${c.bin}-${c.item}-${c.lot}-${c.serial}-${c.condition}`}>
          <button
            type="button"
            onClick={() => onChoose(c)}
            className="flex min-h-16 w-full items-center gap-3 border-b border-line text-left"
          >
            <span className="code w-16 text-right text-3xl">{formatQty(c.qty)}</span>
            <span className="min-w-0 flex-1">
              <span className="code block text-lg leading-tight">{facts.item(c.item)?.code}</span>
              <span className="block truncate text-soft">
                {facts.item(c.item)?.description}
                {c.lot && `, lot ${c.lot}`}
                {c.expires && ` until ${sayDay(c.expires)}`}
                {c.serial && `, ${c.serial}`}
                {c.condition !== 'sound' && `, ${c.condition}`}
              </span>
            </span>
          </button>
        </li>
      ))}
      {rows.length === 0 && <li className="py-3 text-lg text-soft">By the records the bin is empty.</li>}
    </ul>
  );
}
