import { Link } from 'react-router';
import type { Missing } from '#contract/orders';
import { Button, counted } from '#web/base';

/** What could not be promised: how many of what for which order, and what would mend it. Stays until it was read. */
export function MissingPanel({ promised, missing, onClose }: { promised: number; missing: readonly Missing[]; onClose: () => void }) {
  return (
    <section aria-label="Not promised" className="mb-4 border-2 border-wrong p-3">
      <div className="flex items-baseline gap-3">
        <h2 className="font-bold text-wrong">
          ◐ {counted(missing.length, 'line', 'lines')} could not be promised in full
          {promised > 0 && `; ${counted(promised, 'line', 'lines')} got more`}
        </h2>
        <Button look="quiet" className="ml-auto" onClick={onClose}>
          Seen
        </Button>
      </div>
      <ul className="max-h-72 overflow-y-auto">
        {missing.map((m) => (
          <li key={`${m.order} ${m.code}`} className="flex flex-wrap items-baseline gap-x-3 border-t border-line py-1">
            <Link className="code underline decoration-line underline-offset-4" to={`/orders/${m.orderId}`}>
              {m.order}
            </Link>
            <span>
              <strong>{m.qty}</strong> <span className="code">{m.code}</span>
            </span>
            <span className="text-soft">{m.why.join('; ')}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
