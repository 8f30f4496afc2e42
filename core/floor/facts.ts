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

/** What lies in a bin: one stock key. Lot and serial as they stand on the label. Thousandths of the base unit. */
export type ContentFact = {
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly serial: string | null;
  readonly condition: Condition;
  readonly qty: Qty;
};

/** What the device knows of the site, and answers at once. What lies in the bins is as the server last said, with what was done on this
 *  device since. */
export interface Facts {
  /** Today at the site, `YYYY-MM-DD`. */
  readonly today: string;
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
}
