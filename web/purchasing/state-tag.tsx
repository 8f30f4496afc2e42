import type { PurchaseRow } from '#contract/purchasing';
import { Tag } from '#web/base';

export const PURCHASE_STATE: Readonly<Record<PurchaseRow['state'], string>> = {
  draft: 'draft',
  open: 'approved',
  closed: 'closed',
  cancelled: 'cancelled',
};

/** Where a purchase order stands, in a word. */
export function PurchaseTag({ order }: { order: Pick<PurchaseRow, 'state' | 'sent' | 'partly' | 'openLines'> }) {
  if (order.state !== 'open')
    return (
      <Tag tone={order.state === 'draft' ? 'strong' : 'plain'}>
        {order.state === 'closed' && order.openLines > 0 ? 'closed short' : PURCHASE_STATE[order.state]}
      </Tag>
    );
  return <Tag tone="settled">{order.partly ? 'partly here' : order.sent ? 'sent' : 'approved, not sent'}</Tag>;
}
