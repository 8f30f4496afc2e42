import { TRACKINGS, type Tracking } from '#core/items';

/** How an item is tracked, in words. */
export const TRACKING_WORDS: Readonly<Record<Tracking, string>> = {
  none: 'not at all',
  lot: 'by lot',
  lotExpiry: 'by lot with expiry',
  serial: 'by serial from arrival',
  serialOut: 'by serial, noted when it ships',
};

/** The ways to track, as a field offers them. */
export const TRACKING_OPTIONS = TRACKINGS.map((t) => [t, TRACKING_WORDS[t]] as const);
