import { ONE, qty, type Qty } from '#core/base';
import { packToBase } from './packs.ts';
import type { ScanReading } from './scan.ts';

/** What a code carries besides the item: from a GS1 code, else all null. */
export type Carried = {
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serial: string | null;
  /** The logistic unit in which it is. */
  readonly sscc: string | null;
  /** How much of the base unit the code itself says there is, (02) with (37), or (30). */
  readonly labelled: Qty | null;
};

/** What a code carries that names goods and says nothing more. */
export const NOTHING_CARRIED: Carried = { lot: null, expires: null, made: null, serial: null, sscc: null, labelled: null };

/** What a scan is looked up by. */
export type ScanKeys = { readonly text: string; readonly gtins: readonly string[] };

/** Everything that a scan was found to be, whoever looked it up. `packUnits` is of the pack whose code it is. */
export type Found<Item, Bin, Named> = {
  readonly bin: Bin | undefined;
  readonly items: readonly { readonly item: Item; readonly id: number; readonly packUnits: Qty }[];
  /** Papers, lots and serials of that text. */
  readonly named: readonly Named[];
};

/** One answer for a scan, or the choice. */
export type Resolved<Item, Bin, Named> =
  | { kind: 'bin'; bin: Bin }
  | { kind: 'item'; item: Item; carried: Carried }
  | { kind: 'named'; named: Named }
  | { kind: 'several'; bin: Bin | undefined; items: readonly Item[]; named: readonly Named[] }
  | { kind: 'unknown' };

/** The texts and GTINs by which a reading is looked up. */
export function keysOf(reading: ScanReading): ScanKeys {
  if (reading.kind === 'text') return { text: reading.text, gtins: [] };
  const gtins = [reading.gtin, reading.kind === 'gtin' ? reading.orGtin : null].filter((g) => g !== null);
  return { text: reading.text, gtins };
}

/** What a code says besides naming an item that comes so many units to the pack. */
export function carriedBy(reading: ScanReading, packUnits: Qty): Carried {
  if (reading.kind !== 'elements') return NOTHING_CARRIED;
  const { lot, expires, made, serial, sscc, contents, pieces } = reading;
  const counted = contents === null ? null : packToBase(qty(Number(contents) * ONE), { name: '', units: packUnits });
  return { lot, expires, made, serial, sscc, labelled: counted ?? (pieces === null ? null : qty(Number(pieces) * ONE)) };
}

/** Decides what a scan means, the same on the server and on a device: each gives what it found. A code that names several things is
 *  answered with the choice, never with the first of them. */
export function resolveScan<Item, Bin, Named>(
  reading: ScanReading,
  { bin, items, named }: Found<Item, Bin, Named>,
): Resolved<Item, Bin, Named> {
  // Several packs of one item may carry one code; the largest is meant, as the caller ordered them.
  const distinct = [...new Map(items.toReversed().map((i) => [i.id, i])).values()].toReversed();
  const choices = (bin === undefined ? 0 : 1) + distinct.length + named.length;
  if (choices > 1) return { kind: 'several', bin, items: distinct.map((i) => i.item), named };
  if (bin !== undefined) return { kind: 'bin', bin };
  const [item] = distinct;
  if (item) return { kind: 'item', item: item.item, carried: carriedBy(reading, item.packUnits) };
  const [one] = named;
  return one === undefined ? { kind: 'unknown' } : { kind: 'named', named: one };
}
