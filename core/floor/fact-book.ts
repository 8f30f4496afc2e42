import { addQty, subQty, type Qty } from '#core/base';
import { foldText } from '#core/items';
import type { AnnouncedUnit, BinFact, ContentFact, Facts, ItemFact, LotFact, PackFact, UnitFact } from './facts.ts';
import { foldName } from './name.ts';

/** One stock key: what lies in a bin, in a logistic unit or in none. */
export type BalanceFact = ContentFact & { readonly sscc?: string | null };
/** A change of what lies in a bin that was made on this device and that the server has not counted in yet. `qty` may be negative. */
export type ContentDelta = BalanceFact;

const keyOf = (c: ContentFact): string => JSON.stringify([c.item, c.lot, c.serial, c.condition]);
const asGtin = (code: string): string | null => (/^(\d{8}|\d{12,14})$/.test(code) ? code.padStart(14, '0') : null);

function push<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

function drop<K, V>(map: Map<K, V[]>, key: K, isIt: (value: V) => boolean): void {
  const rest = (map.get(key) ?? []).filter((v) => !isIt(v));
  if (rest.length > 0) map.set(key, rest);
  else map.delete(key);
}

/** What a device knows, in memory, with an index for each question that a scan asks. Rows are put in and taken out one by one, as changes
 *  come. `today` is settable: midnight passes while the book is open; so is what lots the house takes. */
export class FactBook implements Facts {
  today: string;
  onlyLotsThatRead = false;
  private readonly itemRows = new Map<number, ItemFact>();
  private readonly codes = new Map<string, { item: ItemFact; pack: PackFact }[]>();
  private readonly binRows = new Map<number, BinFact>();
  private readonly names = new Map<string, number>();
  private readonly lotRows = new Map<number, LotFact>();
  private readonly lotCodes = new Map<string, LotFact[]>();
  private readonly balances = new Map<number, BalanceFact>();
  private readonly lying = new Map<number, BalanceFact[]>();
  private readonly places = new Map<number, BalanceFact[]>();
  private readonly serials = new Map<string, BalanceFact[]>();
  private readonly units = new Map<string, BalanceFact[]>();
  private readonly notices = new Map<number, readonly AnnouncedUnit[]>();
  private readonly announcedUnits = new Map<string, AnnouncedUnit>();
  private readonly foreign = new Map<number, { name: string; site: string }>();
  private readonly foreignNames = new Map<string, { name: string; site: string }[]>();
  private deltas: readonly ContentDelta[] = [];

  constructor(today: string) {
    this.today = today;
  }

  putItem(item: ItemFact): void {
    this.dropItem(item.id);
    this.itemRows.set(item.id, item);
    for (const [code, pack] of codesOf(item)) push(this.codes, code, { item, pack });
  }
  dropItem(id: number): void {
    const was = this.itemRows.get(id);
    if (!was) return;
    this.itemRows.delete(id);
    for (const [code] of codesOf(was)) drop(this.codes, code, (c) => c.item.id === id);
  }
  putBin(bin: BinFact): void {
    this.dropBin(bin.id);
    this.binRows.set(bin.id, bin);
    for (const name of [foldName(bin.address), ...bin.names]) this.names.set(name, bin.id);
  }
  dropBin(id: number): void {
    const was = this.binRows.get(id);
    if (!was) return;
    this.binRows.delete(id);
    for (const name of [foldName(was.address), ...was.names]) if (this.names.get(name) === id) this.names.delete(name);
  }
  /** A bin of another site: known by its name only, so that whoever scans it is told where it is. */
  putForeignBin(id: number, address: string, site: string): void {
    this.dropForeignBin(id);
    const bin = { name: foldName(address), site };
    this.foreign.set(id, bin);
    push(this.foreignNames, bin.name, bin);
  }
  dropForeignBin(id: number): void {
    const was = this.foreign.get(id);
    if (!was) return;
    this.foreign.delete(id);
    drop(this.foreignNames, was.name, (b) => b === was);
  }
  putLot(lot: LotFact): void {
    this.dropLot(lot.id);
    this.lotRows.set(lot.id, lot);
    push(this.lotCodes, lot.code, lot);
  }
  dropLot(id: number): void {
    const was = this.lotRows.get(id);
    if (!was) return;
    this.lotRows.delete(id);
    drop(this.lotCodes, was.code, (l) => l.id === id);
  }
  putBalance(id: number, content: BalanceFact): void {
    this.dropBalance(id);
    this.balances.set(id, content);
    push(this.lying, content.bin, content);
    push(this.places, content.item, content);
    if (content.serial !== null) push(this.serials, content.serial, content);
    if (content.sscc) push(this.units, content.sscc, content);
  }
  dropBalance(id: number): void {
    const was = this.balances.get(id);
    if (!was) return;
    this.balances.delete(id);
    drop(this.lying, was.bin, (c) => c === was);
    drop(this.places, was.item, (c) => c === was);
    if (was.serial !== null) drop(this.serials, was.serial, (c) => c === was);
    if (was.sscc) drop(this.units, was.sscc, (c) => c === was);
  }
  /** What a supplier announced: its units. */
  putNotice(id: number, units: readonly AnnouncedUnit[]): void {
    this.dropNotice(id);
    this.notices.set(id, units);
    for (const unit of units) this.announcedUnits.set(unit.sscc, unit);
  }
  dropNotice(id: number): void {
    for (const unit of this.notices.get(id) ?? []) if (this.announcedUnits.get(unit.sscc) === unit) this.announcedUnits.delete(unit.sscc);
    this.notices.delete(id);
  }
  /** Says what was done on this device and is not in the rows yet. */
  setDeltas(deltas: readonly ContentDelta[]): void {
    this.deltas = deltas;
  }

  item(id: number): ItemFact | undefined {
    return this.itemRows.get(id);
  }
  itemsBy(text: string, gtins: readonly string[]): readonly { item: ItemFact; pack: PackFact }[] {
    const found = [text.toUpperCase(), ...gtins.map((g) => `gtin ${g}`)].flatMap((key) => this.codes.get(key) ?? []);
    return [...new Set(found)].sort((a, b) => a.item.id - b.item.id || b.pack.units - a.pack.units);
  }
  searchItems(words: string, most: number): readonly ItemFact[] {
    const wanted = foldText(words)
      .split(/\s+/)
      .filter((w) => w !== '');
    if (wanted.length === 0) return [];
    const hits: ItemFact[] = [];
    for (const item of this.itemRows.values()) {
      const text = foldText(`${item.code} ${item.description}`);
      if (wanted.every((w) => text.includes(w))) hits.push(item);
    }
    return hits.sort((a, b) => a.description.length - b.description.length || a.id - b.id).slice(0, most);
  }
  bin(id: number): BinFact | undefined {
    return this.binRows.get(id);
  }
  binBy(name: string): BinFact | undefined {
    return this.binRows.get(this.names.get(name) ?? 0);
  }
  bins(): Iterable<BinFact> {
    return this.binRows.values();
  }
  sitesOf(name: string): readonly string[] {
    return [...new Set((this.foreignNames.get(name) ?? []).map((b) => b.site))];
  }
  lot(item: number, code: string): LotFact | undefined {
    return this.lotCodes.get(code)?.find((l) => l.item === item);
  }
  lotsBy(code: string): readonly LotFact[] {
    return this.lotCodes.get(code) ?? [];
  }
  contents(bin: number): readonly ContentFact[] {
    return withDeltas(
      this.lying.get(bin) ?? [],
      this.deltas.filter((d) => d.bin === bin),
    );
  }
  contentsOf(item: number): readonly ContentFact[] {
    return withDeltas(
      this.places.get(item) ?? [],
      this.deltas.filter((d) => d.item === item),
    );
  }
  serialsBy(code: string): readonly ContentFact[] {
    return withDeltas(
      this.serials.get(code) ?? [],
      this.deltas.filter((d) => d.serial === code),
    );
  }
  unit(sscc: string): UnitFact | undefined {
    const goods = withDeltas(
      this.units.get(sscc) ?? [],
      this.deltas.filter((d) => d.sscc === sscc),
    );
    const [first] = goods;
    return first && { sscc, bin: first.bin, goods };
  }
  /** What lies in a unit as the house told it, without what was done here since. */
  unitAsTold(sscc: string): readonly BalanceFact[] {
    return this.units.get(sscc) ?? [];
  }
  announced(sscc: string): AnnouncedUnit | undefined {
    return this.announcedUnits.get(sscc);
  }
  announcedAll(): Iterable<AnnouncedUnit> {
    return this.announcedUnits.values();
  }
}

function codesOf(item: ItemFact): [string, PackFact][] {
  const [smallest] = [...item.packs].sort((a, b) => a.units - b.units || a.id - b.id);
  const named: [string, PackFact][] = smallest ? [[item.code.toUpperCase(), smallest]] : [];
  for (const pack of item.packs)
    for (const code of pack.codes) {
      named.push([code.toUpperCase(), pack]);
      const gtin = asGtin(code);
      if (gtin !== null) named.push([`gtin ${gtin}`, pack]);
    }
  return named;
}

// What was done here may have emptied a place or filled another; and what is in a unit lies in the bin like what is beside it: one entry
// for each thing, none that comes to nothing.
function withDeltas(rows: readonly BalanceFact[], deltas: readonly ContentDelta[]): readonly ContentFact[] {
  if (deltas.length === 0 && !rows.some((r) => r.sscc)) return rows;
  const byKey = new Map<string, ContentFact>();
  for (const c of [...rows, ...deltas]) {
    const key = `${c.bin}|${keyOf(c)}`;
    const seen = byKey.get(key);
    byKey.set(key, seen ? { ...seen, expires: seen.expires ?? c.expires, qty: addQty(seen.qty, c.qty) } : c);
  }
  return [...byKey.values()].filter((c) => c.qty > 0);
}

/** What moving goods does to two bins, as the device reckons it until the server has. */
export function moveDeltas(goods: Omit<BalanceFact, 'bin' | 'qty'> & { readonly qty: Qty }, from: number, to: number): ContentDelta[] {
  return [
    { ...goods, bin: from as ContentFact['bin'], qty: subQty(0 as Qty, goods.qty) },
    { ...goods, bin: to as ContentFact['bin'], qty: goods.qty },
  ];
}
