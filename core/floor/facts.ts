import type { BinId, ItemId, LotId, Qty } from '#core/base';
import type { Tracking } from '#core/items';
import type { BinRules } from '#core/places';
import type { Condition } from '#core/stock';

/** A way in which an item comes, with the codes on it. `units` in thousandths of the base unit. */
export type PackFact = { readonly id: number; readonly name: string; readonly units: Qty; readonly codes: readonly string[] };

/** What a handheld knows of an item. Costs and prices are never among it. Volume in millilitres and weight in grams of one base unit. */
export type ItemFact = {
  readonly id: ItemId;
  readonly code: string;
  readonly description: string;
  readonly unit: string;
  readonly decimals: number;
  readonly tracking: Tracking;
  /** How long it keeps after it was made, in months. */
  readonly shelfLifeMonths: number | null;
  readonly storageClass: string;
  readonly unitMl: number;
  readonly unitG: number;
  readonly packs: readonly PackFact[];
  readonly homes: readonly { readonly bin: BinId; readonly max: Qty | null }[];
};

export type BinUse = 'shelf' | 'arrivals' | 'packing' | 'quarantine' | 'scrap' | 'transit' | 'cart' | 'unplaced';

/** A bin of the site, with the names under which its labels may still be found; `names` are folded. */
export type BinFact = {
  readonly id: BinId;
  readonly address: string;
  readonly names: readonly string[];
  readonly zone: string;
  readonly purpose: string;
  readonly use: string;
  readonly pickable: boolean;
  readonly walk: number;
  readonly rules: BinRules;
};

/** A lot that is known. `expires` is `YYYY-MM-DD`. */
export type LotFact = { readonly id: LotId; readonly item: ItemId; readonly code: string; readonly expires: string | null };

/** What lies in a bin, in logistic units or beside them. Lot and serial as they stand on the label. Thousandths of the base unit. */
export type ContentFact = {
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serial: string | null;
  readonly condition: Condition;
  readonly qty: Qty;
};

/** A logistic unit that stands at the site, with all that is in it. */
export type UnitFact = { readonly sscc: string; readonly bin: BinId; readonly goods: readonly ContentFact[] };

/** Goods as a supplier announced them. Thousandths of the base unit, days `YYYY-MM-DD`. */
export type AnnouncedGoods = {
  readonly item: ItemId;
  readonly pack: number;
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serial: string | null;
};
/** A logistic unit that a supplier announced: all that is in it, and with which orders it comes. */
export type AnnouncedUnit = {
  readonly sscc: string;
  /** The number of the notice. */
  readonly notice: string;
  readonly supplier: number;
  readonly supplierName: string;
  readonly orders: readonly number[];
  readonly goods: readonly AnnouncedGoods[];
};

/** What the device knows of the site, and answers at once. What lies in the bins is as the server last said, with what was done on this
 *  device since. */
export interface Facts {
  /** Today at the site, `YYYY-MM-DD`. */
  readonly today: string;
  /** Whether the house takes no new lot that the code of a label cannot hold. */
  readonly onlyLotsThatRead: boolean;
  item(id: number): ItemFact | undefined;
  /** Every item that a text may mean, by its code, a barcode, or a GTIN of 14 digits. */
  itemsBy(text: string, gtins: readonly string[]): readonly { readonly item: ItemFact; readonly pack: PackFact }[];
  /** Items whose code or description holds every word, the shortest description first. */
  searchItems(words: string, most: number): readonly ItemFact[];
  bin(id: number): BinFact | undefined;
  binBy(name: string): BinFact | undefined;
  bins(): Iterable<BinFact>;
  /** The names of other sites that have a bin of this name. */
  sitesOf(name: string): readonly string[];
  lot(item: number, code: string): LotFact | undefined;
  lotsBy(code: string): readonly LotFact[];
  contents(bin: number): readonly ContentFact[];
  contentsOf(item: number): readonly ContentFact[];
  serialsBy(code: string): readonly ContentFact[];
  /** A unit that stands here, by the number on its label. */
  unit(sscc: string): UnitFact | undefined;
  /** A unit that is announced and has not come yet. */
  announced(sscc: string): AnnouncedUnit | undefined;
}
