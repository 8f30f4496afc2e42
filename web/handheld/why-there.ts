import type { PutAwayWhy } from '#core/moves';

/** Why a bin is proposed for goods, as a hand reads it beside the bin. */
export const WHY_THERE: Readonly<Record<PutAwayWhy, string>> = {
  home: 'its home',
  sameLot: 'the same lot lies there',
  sameItem: 'the same item lies there',
  empty: 'nearest empty bin',
};
