import type { HelperWork } from '#server/kernel';

type Work = HelperWork<never, unknown>;
const files = (): Promise<typeof import('./helper-files.ts')> => import('./helper-files.ts');

/** What helpers do: whatever somebody sent that may be larger, or worse, than it looks, and whatever takes seconds. What the work needs is
 *  read in when it is asked for: who waits for labels does not wait for a database and for readers of sheets. */
export const HELPERS: Readonly<Record<string, () => Promise<Work>>> = {
  sheet: async () => (await files()).readSheet,
  priceList: async () => (await files()).readPriceList,
  picture: async () => (await files()).readPictureFile,
  advice: async () => (await files()).readAdvice,
  orderPaper: async () => (await files()).readOrderPaper,
  labels: async () => (await import('./labels/pdf.ts')).labelsPdf,
};
