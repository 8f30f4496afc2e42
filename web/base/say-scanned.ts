import type { ScannedOne } from '#contract/desk';

const NAMES: Readonly<Record<ScannedOne['kind'], string>> = {
  item: 'the item',
  bin: 'the bin',
  lot: 'lot',
  serial: 'serial',
  unit: 'unit',
  order: 'order',
  purchaseOrder: 'purchase order',
  delivery: 'delivery',
  round: 'round',
  carry: 'put-away or refill round',
  count: 'count',
  document: 'document',
};

/** What a scan stands for, in words: “the item HV-10”. */
export function sayScanned(found: ScannedOne): string {
  const what = NAMES[found.kind];
  switch (found.kind) {
    case 'item':
      return `${what} ${found.code}`;
    case 'bin':
      return `${what} ${found.address}`;
    case 'lot':
      return `${what} ${found.lot} of ${found.code}`;
    case 'serial':
      return `${what} ${found.serial} of ${found.code}`;
    case 'unit':
      return `${what} ${found.sscc}`;
    default:
      return `${what} ${found.number}`;
  }
}
