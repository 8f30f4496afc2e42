import { parseQty, ZERO, type Qty } from '#core/base';
import type { Facts, ItemFact } from '#core/floor';
import type { DeliveryJob, HandEntry } from './delivery-job.ts';
import { decideFinding, failedOf, type Finding } from './inspect.ts';
import { GOODS, say, type ReceiveAsks, type ReceiveAt, type Stepping } from './receive-at.ts';

type Inspecting = Extract<ReceiveAsks, { what: 'inspect' }>;

// The entry that is being looked at, and its item, as they stand now.
function inspected(asks: Inspecting, job: DeliveryJob, facts: Facts): { entry: HandEntry; item: ItemFact } | null {
  const entry = job.entries.find((e) => e.key === asks.entry);
  const item = entry?.item ? facts.item(entry.item) : undefined;
  return entry && item ? { entry, item } : null;
}

/** A finding is judged while it is made (C11): what cannot be true is said at once, and what stood before stays. */
export function found(at: ReceiveAt, asks: Inspecting, finding: Finding, job: DeliveryJob, facts: Facts): Stepping {
  const looked = inspected(asks, job, facts);
  if (!looked) return say({ ...at, asks: GOODS }, { tone: 'look', said: 'receiving.nothingYet' });
  const { entry, item } = looked;
  const decided = decideFinding(finding, { item: item.code, decimals: item.decimals, arrived: entry.qty, isReason: () => true });
  if (!decided.ok) return say(at, { tone: 'wrong', said: 'receiving.refused', error: decided.error });
  // The note is trimmed when it is kept, not while it is written.
  const kept = { ...decided.value, note: finding.note };
  return say(
    { ...at, asks: { ...asks, finding: kept } },
    { tone: 'look', said: 'receiving.found', code: item.code, failed: failedOf(kept), checked: kept.checked },
  );
}

/** A finding with another number of those that failed for a reason. */
export function withReason(finding: Finding, reason: number, to: (was: Qty) => Qty): Finding {
  const was = finding.failed.find((f) => f.reason === reason);
  if (!was) return { ...finding, failed: [...finding.failed, { reason, qty: to(ZERO) }] };
  return { ...finding, failed: finding.failed.map((f) => (f === was ? { reason, qty: to(f.qty) } : f)) };
}

/** A number says how many failed, for the reason that was pressed last. */
export function stepFailed(at: ReceiveAt, asks: Inspecting, text: string, job: DeliveryJob, facts: Facts): Stepping {
  const looked = inspected(asks, job, facts);
  const { decimals = 0, code = asks.code } = looked?.item ?? {};
  const read = parseQty(text.replace(',', '.'), decimals);
  const { reason } = asks;
  if (!read.ok || read.value < 0) return say(at, { tone: 'wrong', said: 'receiving.badNumber', text, code, decimals });
  if (reason === null) return say(at, { tone: 'look', said: 'receiving.whyFailed', code });
  return found(
    at,
    asks,
    withReason(asks.finding, reason, () => read.value),
    job,
    facts,
  );
}
