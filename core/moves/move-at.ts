import type { BinId, ItemId, Qty } from '#core/base';
import type { ContentFact, ItemFact, Meaning, Stepped, UnitFact } from '#core/floor';
import type { Condition } from '#core/stock';
import type { MoveDoubt } from './doubt.ts';
import type { PutAwayWhy } from './put-away.ts';

/** What a hand does when it carries goods. Lot and serial as on the label; `over` is why they lie there although something speaks against
 *  it. */
export type MoveDoes =
  | {
      kind: 'move.put';
      from: BinId;
      to: BinId;
      item: ItemId;
      lot: string | null;
      serial: string | null;
      condition: Condition;
      qty: Qty;
      over: string | null;
      /** The number that they have from then on, with its tie to the old one; null where they keep theirs. */
      newLot: string | null;
    }
  /** A whole logistic unit, with all that is in it. */
  | { kind: 'move.unit'; sscc: string; from: BinId; to: BinId; over: string | null }
  | { kind: 'move.undo'; act: string };

/** Goods in the hand, and how many the record says lie where they were taken from. */
export type Carried = {
  readonly from: BinId;
  readonly item: ItemFact;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serial: string | null;
  readonly condition: Condition;
  readonly qty: Qty;
  readonly there: Qty;
  /** The lot number that they get with this move. */
  readonly newLot: string | null;
  /** A number that was doubted; keyed once more it is meant. */
  readonly doubted: Qty | null;
};

/** Where goods are taken from: a bin that is scanned, or what lies at arrivals, or what has no bin yet. */
export type MoveSource = 'bin' | 'arrivals' | 'unplaced';
export type MoveAt =
  | { step: 'from' }
  | { step: 'goods'; from: BinId | null }
  | { step: 'lot'; from: BinId | null; item: ItemFact; qty: Qty; lots: readonly ContentFact[] }
  | { step: 'serial'; from: BinId | null; item: ItemFact; serials: readonly ContentFact[] }
  /** The record knows none of it here, and yet it was scanned. */
  | { step: 'absent'; hand: Carried }
  /** A new lot number is wanted for what is in the hand. */
  | { step: 'newLot'; hand: Carried }
  | { step: 'to'; hand: Carried }
  | { step: 'sure'; hand: Carried; to: BinId; doubt: MoveDoubt }
  /** A logistic unit in the hands, whole. */
  | { step: 'unit'; unit: UnitFact }
  | { step: 'unitSure'; unit: UnitFact; to: BinId; doubt: MoveDoubt };

export type MoveChoice =
  | { what: 'from'; bin: BinId }
  | { what: 'content'; content: ContentFact }
  | { what: 'lot'; lot: string | null }
  /** It lies there all the same; a lead says why. */
  | { what: 'sure'; reason?: string }
  | { what: 'newLot' }
  | { what: 'back' };

export type MovesSaid =
  | { said: 'moves.from'; bin: string; holds: number }
  | {
      said: 'moves.inHand';
      code: string;
      qty: Qty;
      lot: string | null;
      serial: string | null;
      to: string | null;
      why: PutAwayWhy | null;
      more: boolean;
    }
  | { said: 'moves.whichNewLot'; code: string; lot: string }
  | { said: 'moves.newLot'; code: string; lot: string; newLot: string }
  | { said: 'moves.lotUnread'; text: string; why: string }
  | { said: 'moves.sameLot'; lot: string }
  | { said: 'moves.moreThanThere'; code: string; qty: Qty; there: Qty; bin: string }
  | { said: 'moves.keyAgain'; code: string; qty: Qty; there: Qty }
  | { said: 'moves.put'; code: string; qty: Qty; to: string }
  | { said: 'moves.unitInHand'; sscc: string; things: number; bin: string; to: string | null; why: PutAwayWhy | null }
  | { said: 'moves.unitPut'; sscc: string; to: string }
  | { said: 'moves.unitUnknown'; sscc: string }
  | { said: 'moves.unitElsewhere'; sscc: string; source: MoveSource }
  | { said: 'moves.undone' }
  | { said: 'moves.nothingToUndo' }
  | { said: 'moves.whichLot'; lot: string | null; lots: number }
  | { said: 'moves.noSuchLot'; text: string; lots: readonly string[] }
  | { said: 'moves.whichSerial'; code: string }
  | { said: 'moves.absent'; code: string; bin: string }
  | { said: 'moves.notAtSource'; code: string; source: MoveSource }
  | { said: 'moves.handIsFull'; code: string; qty: Qty; scanned: string }
  | { said: 'moves.sameBin'; bin: string }
  | { said: 'moves.ordersBin'; bin: string }
  | { said: 'moves.doubt'; doubt: MoveDoubt }
  | { said: 'moves.isNot'; meaning: Meaning; wanted: 'from' | 'goods' | 'to' | 'lot' | 'serial' }
  | { said: 'moves.badNumber'; text: string; code: string; decimals: number }
  | { said: 'moves.firstGoods' }
  | { said: 'moves.firstBin' }
  | { said: 'moves.laidBack' };

/** What a step of carrying comes to. */
export type Stepping = Stepped<MoveAt, MovesSaid, MoveDoes>;
