import type { Request, Response } from 'express';
import type { BodyOf, ParamsOf, QueryOf, ReplyOf, RouteName, Routes } from '#contract';
import type { Me } from '#contract/people';
import type { Db, Trx } from './database.ts';
import type { Outbox } from './outbox.ts';
import type { SharedAnswer } from './shared-answer.ts';

/** What the whole server shares. It holds no state of the warehouse. */
export type House = { readonly db: Db; readonly outbox: Outbox; readonly demo: boolean; readonly version: string };

/** A request, checked and parsed. `me` is the person who is signed in; public routes may find nobody. */
export type Asked<K extends RouteName> = {
  readonly me: Me;
  /** The handheld that the session is on, by the id of that device; null at a desk. */
  readonly handheld: string | null;
  readonly params: ParamsOf<Routes[K]>;
  readonly query: QueryOf<Routes[K]>;
  readonly body: BodyOf<Routes[K]>;
};

/** Reads get the pool, commands their transaction, sign-in the session. Each room answers for its own routes. */
/** What many ask alike may be answered by one `SharedAnswer` of that shape. */
export type Reader<K extends RouteName> = (db: Db, asked: Asked<K>, req: Request) => Promise<ReplyOf<Routes[K]> | SharedAnswer>;
export type Commander<K extends RouteName> = (trx: Trx, asked: Asked<K>) => Promise<ReplyOf<Routes[K]>>;
export type Plain<K extends RouteName> = (house: House, asked: Asked<K>, req: Request, res: Response) => Promise<ReplyOf<Routes[K]>>;

export type HandlerOf<K extends RouteName> = Routes[K] extends { plain: true }
  ? Plain<K>
  : Routes[K]['method'] extends 'GET'
    ? Reader<K>
    : Commander<K>;

/** The handlers of one room: exactly the routes whose names begin with it. */
export type RoomHandlers<Room extends string> = { readonly [K in Extract<RouteName, `${Room}.${string}`>]: HandlerOf<K> };
