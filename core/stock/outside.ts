import type { BinId } from '#core/base';

/** The outside world as bins, so that every movement has two ends. Their ids are fixed in the first migration. */
export const OUTSIDE = {
  suppliers: 1 as BinId,
  customers: 2 as BinId,
  adjustments: 3 as BinId,
  scrapped: 4 as BinId,
  jobs: 5 as BinId,
  assembly: 6 as BinId,
  opening: 7 as BinId,
} as const;

/** Bins below this id stand for the outside world and keep no balance. */
export const FIRST_REAL_BIN = 100;

export function isOutside(bin: BinId): boolean {
  return bin < FIRST_REAL_BIN;
}
