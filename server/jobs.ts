import { importHomes, importItems, importPrices } from '#server/items';
import { drawLabels } from '#server/labels';
import type { JobWork } from '#server/kernel';
import { importBins } from '#server/places';
import { importOrders } from '#server/orders';
import { importPurchases } from '#server/purchasing';
import { importReceipt } from '#server/receiving';

/** Who does each kind of job. */
export const JOBS: Readonly<Record<string, JobWork>> = {
  'places.importBins': importBins,
  'items.importPrices': importPrices,
  'items.importItems': importItems,
  'items.importHomes': importHomes,
  'purchasing.import': importPurchases,
  'orders.import': importOrders,
  'receiving.import': importReceipt,
  'labels.pdf': drawLabels,
};
