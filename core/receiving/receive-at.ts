import type { Qty } from '#core/base';
import type { ItemFact, PackFact, Stepped } from '#core/floor';
import type { Carried } from '#core/items';
import type { ReceiveDoes } from './delivery-job.ts';
import type { Finding } from './inspect.ts';
import type { ReceivingSaid } from './said.ts';

/** Goods that were scanned, and what their code or a hand said of them. */
export type Goods = { readonly item: ItemFact; readonly pack: PackFact } & Carried & { readonly takeAnyway: boolean };
/** What the step waits for. It decides what a scan means. */
export type ReceiveAsks =
  | { what: 'goods' }
  | { what: 'lot'; goods: Goods; doubted?: string }
  | { what: 'date'; goods: Goods; lot: string }
  | { what: 'whichDate'; goods: Goods; lot: string; known: string; given: string }
  | { what: 'serial'; goods: Goods; doubted?: string }
  | { what: 'notOrdered'; goods: Goods }
  | { what: 'howMany'; entry: string; code: string }
  /** A bin is wanted for so many of an entry; null: for all of it. `sscc`: for the whole unit in which it came. */
  | { what: 'whereTo'; entry: string; item: number; code: string; qty: Qty | null; sscc: string | null }
  /** `reason`: the one of which the next number says how many failed. */
  | { what: 'inspect'; entry: string; item: number; code: string; finding: Finding; reason: number | null }
  | { what: 'sure'; entry: string; code: string; qty: Qty; expected: Qty };
/** `lots`: the lot that was said last of each item; further scans are of it until another is said. */
type SaidLot = { lot: string; expires: string | null; made: string | null };
/** `unit`: the logistic unit into which goods are scanned that nobody announced; null: they come loose. */
export type ReceiveAt = {
  readonly asks: ReceiveAsks;
  readonly lots: Readonly<Record<number, SaidLot>>;
  readonly unit: string | null;
};
export const RECEIVE_BEGINS: ReceiveAt = { asks: { what: 'goods' }, lots: {}, unit: null };

/** What a hand chooses on the screen. */
export type ReceiveChoice =
  | { what: 'takeAnyway' }
  | { what: 'setAside' }
  | { what: 'goods'; item: number; pack?: number }
  | { what: 'date'; date: string }
  /** So many months from the day it was made, or from today where that is not known. */
  | { what: 'life'; months: number }
  | { what: 'made'; date: string }
  | { what: 'serials'; codes: readonly string[] }
  | { what: 'change'; entry: string }
  | { what: 'paper'; doc: string; date: string | null }
  | { what: 'whereTo'; entry: string }
  /** Left at arrivals after all. */
  | { what: 'later'; entry: string }
  | { what: 'inspect'; entry: string }
  /** One more failed for a reason; a number that is keyed then says how many in all. */
  | { what: 'failed'; reason: number }
  | { what: 'sample'; checked: Qty }
  | { what: 'note'; note: string }
  | { what: 'inspected' }
  | { what: 'photo'; entry: string; jpeg: string }
  | { what: 'knownDate' }
  | { what: 'anotherLot' }
  /** Nothing more is in the unit. */
  | { what: 'closeUnit' }
  | { what: 'sure' }
  | { what: 'notSure' }
  | { what: 'goOn' }
  | { what: 'finish' };

export const GOODS: ReceiveAsks = { what: 'goods' };

/** What a step of receiving comes to. */
export type Stepping = Stepped<ReceiveAt, ReceivingSaid, ReceiveDoes>;

/** A step that only says something. */
export const say = (at: ReceiveAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });
