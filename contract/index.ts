import { peopleRoutes } from './people/index.ts';
import { placesRoutes } from './places/index.ts';
import { itemsRoutes } from './items/index.ts';
import { stockRoutes } from './stock/index.ts';
import { lotsRoutes } from './lots/index.ts';
import { purchasingRoutes } from './purchasing/index.ts';
import { receivingRoutes } from './receiving/index.ts';
import { labelsRoutes } from './labels/index.ts';
import { movesRoutes } from './moves/index.ts';
import { ordersRoutes } from './orders/index.ts';
import { pickingRoutes } from './picking/index.ts';
import { carryingRoutes } from './carrying/index.ts';
import { channelRoutes } from './channel/index.ts';
import { shippingRoutes } from './shipping/index.ts';
import { countingRoutes } from './counting/index.ts';
import { workRoutes } from './work/index.ts';
import { handsRoutes } from './hands/index.ts';
import { deskRoutes } from './desk/index.ts';

/** The one table of routes: the server mounts and checks from it, the web's client is typed by it, OpenAPI is made of it. */
export const ROUTES = {
  ...peopleRoutes,
  ...workRoutes,
  ...placesRoutes,
  ...itemsRoutes,
  ...stockRoutes,
  ...lotsRoutes,
  ...purchasingRoutes,
  ...receivingRoutes,
  ...labelsRoutes,
  ...movesRoutes,
  ...ordersRoutes,
  ...pickingRoutes,
  ...carryingRoutes,
  ...shippingRoutes,
  ...channelRoutes,
  ...countingRoutes,
  ...handsRoutes,
  ...deskRoutes,
} as const;
export type Routes = typeof ROUTES;
export type RouteName = keyof Routes;
export { BYTE_ROUTES, type ByteRoute, type ByteRouteName } from './bytes.ts';
export type { RouteSpec, ParamsOf, QueryOf, BodyOf, ParamsIn, QueryIn, BodyIn, ReplyOf } from './base/index.ts';

/** An RFC 9457 problem document. The members beside these five are the refusal's own facts. */
export type Problem = {
  readonly type: string;
  readonly title: string;
  readonly status: number;
  readonly code: string;
  readonly detail: string;
} & Readonly<Record<string, unknown>>;
