import { isSscc, keysOf, labelText, readScan, resolveScan, unfitForGs1, type Carried, type ScanFault, type ScanReading } from '#core/items';
import type { AnnouncedUnit, BinFact, ContentFact, Facts, ItemFact, LotFact, PackFact, UnitFact } from './facts.ts';
import { foldName, numberedKind, type NumberedKind } from './name.ts';

/** What a scan means to a hand at work. */
export type Meaning =
  | ({ kind: 'item'; text: string; item: ItemFact; pack: PackFact } & Carried)
  | { kind: 'bin'; text: string; bin: BinFact }
  | { kind: 'lot'; text: string; lots: readonly LotFact[] }
  | { kind: 'serial'; text: string; serials: readonly ContentFact[] }
  | { kind: 'paper'; text: string; paper: NumberedKind }
  /** The label of a logistic unit: one that stands here, one that is announced, or one that nobody knows. */
  | { kind: 'unit'; text: string; sscc: string; here: UnitFact | null; announced: AnnouncedUnit | null }
  | {
      kind: 'several';
      text: string;
      names: readonly string[];
      lots: readonly LotFact[];
      serials: readonly ContentFact[];
      onlyLabels: boolean;
    }
  | { kind: 'elsewhere'; text: string; sites: readonly string[] }
  /** `looksLikeGoods`: a retail code with a right check digit. */
  | { kind: 'unknown'; text: string; looksLikeGoods: boolean }
  | { kind: 'unreadable'; text: string; fault: ScanFault };

type FactNamed =
  { what: 'lot'; lots: readonly LotFact[] } | { what: 'serial'; serials: readonly ContentFact[] } | { what: 'paper'; paper: NumberedKind };

/** Reads a scan and resolves it by what the device knows.
 *  Shape:  the raw text; one meaning. Never throws: a code that breaks its standard is `unreadable`, with what is wrong. */
export function meaningBy(facts: Facts, raw: string): Meaning {
  const read = readScan(raw, Number(facts.today.slice(0, 4)));
  if (!read.ok) return { kind: 'unreadable', text: raw.trim(), fault: read.error };
  const reading = read.value;
  const unit = unitOf(facts, reading);
  if (unit) return unit;
  const keys = keysOf(reading);
  const items = facts.itemsBy(keys.text, keys.gtins);
  const lots = facts.lotsBy(keys.text);
  const serials = facts.serialsBy(keys.text);
  const bin = facts.binBy(foldName(keys.text));
  // A device knows a paper by the look of its number only: goods whose code looks so are goods.
  const isGoods = bin !== undefined || items.length + lots.length + serials.length > 0;
  const paper = isGoods ? null : numberedKind(keys.text);
  const named: FactNamed[] = [
    ...(lots.length > 0 ? [{ what: 'lot' as const, lots }] : []),
    ...(serials.length > 0 ? [{ what: 'serial' as const, serials }] : []),
    ...(paper ? [{ what: 'paper' as const, paper }] : []),
  ];
  const found = {
    bin,
    items: items.map((i) => ({ item: i, id: i.item.id, packUnits: i.pack.units })),
    named,
  };
  const resolved = resolveScan(reading, found);
  const text = keys.text;
  switch (resolved.kind) {
    case 'bin':
      return { kind: 'bin', text, bin: resolved.bin };
    case 'item':
      return { kind: 'item', text, item: resolved.item.item, pack: resolved.item.pack, ...resolved.carried };
    case 'named':
      return resolved.named.what === 'lot'
        ? { kind: 'lot', text, lots: resolved.named.lots }
        : resolved.named.what === 'serial'
          ? { kind: 'serial', text, serials: resolved.named.serials }
          : { kind: 'paper', text, paper: resolved.named.paper };
    case 'several':
      return {
        kind: 'several',
        text,
        lots,
        serials,
        onlyLabels: resolved.bin === undefined && resolved.items.length === 0,
        names: [
          ...(resolved.bin ? [`bin ${resolved.bin.address}`] : []),
          ...resolved.items.map((i) => i.item.code),
          ...resolved.named.map((n) => (n.what === 'paper' ? `${n.paper} ${text}` : `${n.what} ${text}`)),
        ],
      };
    case 'unknown': {
      const sites = facts.sitesOf(foldName(text));
      return sites.length > 0
        ? { kind: 'elsewhere', text, sites }
        : { kind: 'unknown', text, looksLikeGoods: reading.kind === 'gtin' && text.length >= SHORTEST_GTIN };
    }
  }
}

// A label that says what is in a unit beside its number is that unit as soon as anybody knows it; until then it is the goods, in the unit.
function unitOf(facts: Facts, reading: ScanReading): Extract<Meaning, { kind: 'unit' }> | null {
  const sscc = reading.kind === 'elements' ? reading.sscc : reading.kind === 'text' && isSscc(reading.text) ? reading.text : null;
  if (sscc === null) return null;
  const [here, announced] = [facts.unit(sscc) ?? null, facts.announced(sscc) ?? null];
  const isAlone = reading.kind === 'elements' && reading.gtin === null;
  return here || announced || isAlone ? { kind: 'unit', text: sscc, sscc, here, announced } : null;
}

// Eight digits with a right check digit are as often a serial.
const SHORTEST_GTIN = 12;
const LONGEST_LABEL = 40;

/** The lot or serial that a scan is, where one of an item is asked for; null where it is something else, or no label bears such a text.
 *  Shape:  what nobody knows may be a new one; a lot of another item may bear the same text and is this one's all the same; a serial of
 *          another item is that thing and no other. A text that is a lot and a serial is the one that was asked for. */
export function labelFor(meaning: Meaning, wanted: 'lot' | 'serial', item: number): string | null {
  const text = labelText(meaning.text);
  if (text === '' || text.length > LONGEST_LABEL || /[\u0000-\u001f\u007f]/.test(text)) return null;
  const isIts = (serials: readonly ContentFact[]): boolean => serials.some((s) => s.item === item);
  switch (meaning.kind) {
    case 'unknown':
      return text;
    case 'lot':
      return wanted === 'lot' ? text : null;
    case 'serial':
      return wanted === 'serial' && isIts(meaning.serials) ? text : null;
    case 'several':
      return meaning.onlyLabels && (wanted === 'lot' ? meaning.lots.length > 0 : isIts(meaning.serials)) ? text : null;
    default:
      return null;
  }
}

/** Why a new lot of an item is not taken, where the house takes only lots that the code of a label can hold; null where it is. A lot that
 *  the house has already is one, whatever it is called. */
export function lotUnread(facts: Facts, item: number, lot: string): string | null {
  return facts.onlyLotsThatRead && !facts.lot(item, lot) ? unfitForGs1(lot) : null;
}

/** What is said where a lot is not taken. */
export const lotUnreadSentence = ({ text, why }: { text: string; why: string }): string =>
  `Lot ${text} ${why}. This house takes only lots that a label can hold: give it another number.`;

/** Whether a label is asked about before it is taken: a code of goods that nobody knows, scanned where a lot or serial is asked for, is
 *  more often the wrong barcode of the box. Scanned once more it is meant. */
export function isDoubtful(meaning: Meaning, doubted: string | undefined): boolean {
  return meaning.kind === 'unknown' && meaning.looksLikeGoods && doubted !== meaning.text.trim();
}

/** Which goods a serial by itself means: those that alone bear it, else those that alone bear it here. Null where several do, or none: two
 *  kinds of goods may count their serials alike, and the wrong one must never be taken by chance. `isHere`: whether a bin is where the
 *  hand stands. */
export function goodsOfSerial(serials: readonly ContentFact[], isHere: (bin: number) => boolean): number | null {
  const only = (of: readonly ContentFact[]): number | null => {
    const items = new Set(of.map((s) => s.item as number));
    return items.size === 1 ? ([...items][0] ?? null) : null;
  };
  return only(serials) ?? only(serials.filter((s) => isHere(s.bin)));
}

/** Fewer digits than these are more often how many than a serial: one that nobody knows is not made of them. */
const SHORTEST_KEYED_SERIAL = 4;

/** What digits are that a hand keyed and closed itself where a lot or serial is asked for: that label, known or new. Null where they are
 *  none: the next scan closed them, so that they say how many, or they are too few for a serial. */
export function keyedLabel(
  facts: Facts,
  keyed: { readonly text: string; readonly closedBy?: 'scan' },
  wanted: 'lot' | 'serial',
): Meaning | null {
  if (keyed.closedBy === 'scan') return null;
  const text = labelText(keyed.text);
  const meaning = meaningBy(facts, text);
  if (meaning.kind === wanted || (meaning.kind === 'several' && meaning.onlyLabels)) return meaning;
  if (wanted === 'serial' && text.length < SHORTEST_KEYED_SERIAL) return null;
  return { kind: 'unknown', text, looksLikeGoods: false };
}
