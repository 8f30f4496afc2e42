import type { Scanned } from '#contract/desk';

/** The desk screen that shows what was scanned; null where there is a choice to make or nothing is known. */
export function pathOfScan(found: Scanned): string | null {
  switch (found.kind) {
    case 'item':
      return `/items/${found.item}`;
    case 'lot':
      return `/lots?q=${encodeURIComponent(found.lot)}`;
    case 'serial':
      return `/items/${found.item}/serials/${encodeURIComponent(found.serial)}`;
    case 'unit':
      return `/units/${found.sscc}`;
    case 'bin':
      return `/bins/${found.bin}`;
    case 'order':
      return `/orders/${found.order}`;
    case 'purchaseOrder':
      return `/expected?q=${found.number}`;
    case 'delivery':
      return `/deliveries/${found.delivery}`;
    case 'round':
      return `/rounds/${found.round}`;
    case 'carry':
      return `/carries/${found.carry}`;
    case 'count':
      return `/counts/${found.count}`;
    case 'document':
      return `/ledger?document=${found.document}`;
    case 'elsewhere':
    case 'several':
    case 'unknown':
      return null;
  }
}
