import type { HandlerOf } from '#server/kernel';
import type { RouteName } from '#contract';
import { peopleHandlers } from '#server/people';
import { workHandlers } from '#server/work';
import { placesHandlers } from '#server/places';
import { itemsHandlers } from '#server/items';
import { stockHandlers } from '#server/stock';
import { lotsHandlers } from '#server/lots';
import { purchasingHandlers } from '#server/purchasing';
import { receivingHandlers } from '#server/receiving';
import { labelsHandlers } from '#server/labels';
import { movesHandlers } from '#server/moves';
import { ordersHandlers } from '#server/orders';
import { pickingHandlers } from '#server/picking';
import { carryingHandlers } from '#server/carrying';
import { channelHandlers } from '#server/channel';
import { shippingHandlers } from '#server/shipping';
import { countingHandlers } from '#server/counting';
import { handsHandlers } from '#server/hands';
import { deskHandlers } from '#server/desk';

/** Who answers each route. A route of the table without a handler does not compile. */
export const HANDLERS: { readonly [K in RouteName]: HandlerOf<K> } = {
  ...peopleHandlers,
  ...workHandlers,
  ...placesHandlers,
  ...itemsHandlers,
  ...stockHandlers,
  ...lotsHandlers,
  ...purchasingHandlers,
  ...receivingHandlers,
  ...labelsHandlers,
  ...movesHandlers,
  ...ordersHandlers,
  ...pickingHandlers,
  ...carryingHandlers,
  ...shippingHandlers,
  ...channelHandlers,
  ...countingHandlers,
  ...handsHandlers,
  ...deskHandlers,
};
