import {
  fail,
  formatQty,
  addQty,
  ok,
  ONE,
  parseQty,
  qty,
  readDay,
  sumQty,
  ZERO,
  type BinId,
  type ItemId,
  type Qty,
  type Result,
  type WantedColumn,
} from '#core/base';
import { foldName } from '#core/floor';
import { judgeAmounts, labelText, needsSerialOnArrival, packToBase, readAmount, type DecimalMark, type Tracking } from '#core/items';
import { decideEntry } from './entry.ts';
import { decideFinding, failedOf, type Finding } from './inspect.ts';
import { decideWhereTo, type BinToFill } from './where-to.ts';
import { receivingSentence } from './errors.ts';
import { clashingSerials, serialsOfCell } from './serial-list.ts';

/** The columns of a sheet of received goods (C12). */
export const RECEIPT_COLUMNS: readonly WantedColumn[] = [
  { key: 'item', title: 'Item', required: true, names: ['Code', 'Barcode', 'Part number'] },
  { key: 'qty', title: 'Quantity', required: false, names: ['Qty'] },
  { key: 'pack', title: 'Pack', required: false },
  { key: 'lot', title: 'Lot', required: false },
  { key: 'made', title: 'Made', required: false },
  { key: 'expires', title: 'Expires', required: false, names: ['Expiry'] },
  { key: 'serials', title: 'Serials', required: false, names: ['Serial'] },
  { key: 'bin', title: 'Bin', required: false },
  { key: 'passed', title: 'Passed', required: false },
  { key: 'failed', title: 'Failed', required: false },
  { key: 'reason', title: 'Reason', required: false, names: ['Why'] },
  { key: 'cost', title: 'Cost', required: false, names: ['Unit cost'] },
];

export type ReceivedItem = {
  readonly item: ItemId;
  readonly code: string;
  readonly decimals: number;
  readonly tracking: Tracking;
  readonly isRetired: boolean;
  /** By name in upper case; the smallest first. */
  readonly packs: readonly { readonly id: number; readonly name: string; readonly units: Qty }[];
};
/** What is there before a sheet is judged: items by code, barcode and the supplier's part number, all in upper case; the dates of lots
 *  and the places of serials by “item|label”. */
export type KnownForReceipt = {
  readonly items: ReadonlyMap<string, ReceivedItem>;
  readonly lots: ReadonlyMap<string, string | null>;
  readonly serials: ReadonlyMap<string, string>;
  /** The bins of the site by folded name, also old ones; for what goods fail, by name in upper case. */
  readonly bins: ReadonlyMap<string, BinToFill & { readonly id: BinId }>;
  readonly reasons: ReadonlyMap<string, number>;
  readonly today: string;
};
export type SheetEntry = {
  readonly item: ItemId;
  readonly pack: number;
  readonly qty: Qty;
  readonly lot: string | null;
  readonly expires: string | null;
  readonly made: string | null;
  readonly serial: string | null;
  /** The bin into which it goes; null leaves it at arrivals. */
  readonly bin: BinId | null;
  /** What one base unit of it cost, as a decimal text; null where the sheet says nothing of that. */
  readonly cost: string | null;
  /** What was found of it; null where the sheet says nothing of that. */
  readonly finding: Finding | null;
};
type Verdict = { readonly row: number; readonly verdict: 'new' | 'fault'; readonly name: string; readonly says: string };

/** Judges a sheet of received goods: the entries that it would make, and all that is wrong with each row, by the rules by which a scan is
 *  judged.
 *  Shape:  one entry for each row, or one for each serial of it. Serials may stand without a quantity: then they are counted.
 *  Errors: per row: an item, pack, quantity or day that is none, and what `decideEntry` refuses; a serial that is here or stands in the
 *          sheet already; a lot with another date than in a row above; a bin into which goods cannot go; what passed and failed that
 *          does not add up, or failed for no reason that is known here. */
export function judgeReceiptSheet(
  columns: ReadonlyMap<string, number>,
  rows: readonly { readonly row: number; readonly cells: readonly string[] }[],
  known: KnownForReceipt,
): { verdicts: readonly Verdict[]; entries: readonly SheetEntry[] } {
  const [verdicts, entries]: [Verdict[], SheetEntry[]] = [[], []];
  const dates = new Map(known.lots);
  const serialRows = new Map<string, number>();
  const { decimal } = judgeAmounts(rows.map((r) => r.cells[columns.get('cost') ?? -1] ?? ''));
  for (const { row, cells } of rows) {
    const cell = (key: string): string => (cells[columns.get(key) ?? -1] ?? '').trim();
    const item = known.items.get(cell('item').toUpperCase());
    const read = item ? readRow(cell, item, known, decimal) : fail([`There is no item “${cell('item')}”.`]);
    const faults: string[] = read.ok ? [] : [...read.error];
    const own: SheetEntry[] = [];
    if (item && read.ok) {
      const { lot, expires, made, pack } = read.value;
      const serials = read.value.serials.length > 0 ? read.value.serials : [null];
      const placeOf = (serial: string): string | null => {
        const above = serialRows.get(`${item.item}|${serial}`);
        return above === undefined ? (known.serials.get(`${item.item}|${serial}`) ?? null) : `row ${above} of this sheet`;
      };
      for (const clash of clashingSerials(read.value.serials, placeOf)) faults.push(`Serial ${clash.code}: ${clash.place}.`);
      for (const serial of serials) {
        const decided = decideEntry(
          { qty: serial === null ? read.value.qty : ONE, lot, expires, made, serial, takeAnyway: true },
          {
            itemCode: item.code,
            decimals: item.decimals,
            tracking: item.tracking,
            ordered: true,
            isReturn: false,
            today: known.today,
            knownLotExpires: lot === null ? null : (dates.get(`${item.item}|${lot}`) ?? null),
            serialPlace: null,
          },
        );
        if (!decided.ok) {
          faults.push(receivingSentence(decided.error));
          break;
        }
        const { bin, failed, reason, isFound } = read.value;
        const { value: entry } = decided;
        if (bin) {
          const placed = decideWhereTo(entry.qty, {
            item: item.code,
            decimals: item.decimals,
            arrived: entry.qty,
            isFound,
            expired: entry.expired,
            bin,
          });
          if (!placed.ok) {
            faults.push(receivingSentence(placed.error));
            break;
          }
        }
        const bad = serial === null ? failed : failed > 0 ? ONE : ZERO;
        const finding = decideFinding(
          { checked: entry.qty, failed: [{ reason, qty: bad }], note: '' },
          { item: item.code, decimals: item.decimals, arrived: entry.qty, isReason: () => true },
        );
        if (!finding.ok) {
          faults.push(receivingSentence(finding.error));
          break;
        }
        own.push({
          item: item.item,
          pack,
          qty: entry.qty,
          lot: entry.lot,
          expires: entry.expires,
          made: entry.made,
          serial: entry.serial,
          bin: bin?.id ?? null,
          cost: read.value.cost,
          finding: isFound ? finding.value : null,
        });
      }
      for (const serial of read.value.serials) serialRows.set(`${item.item}|${serial}`, row);
    }
    const [first] = own;
    const name = item?.code ?? cell('item');
    if (faults.length > 0 || !first) {
      verdicts.push({ row, verdict: 'fault', name, says: [...new Set(faults)].join(' ') });
      continue;
    }
    if (first.lot !== null && !dates.get(`${first.item}|${first.lot}`)) dates.set(`${first.item}|${first.lot}`, first.expires);
    entries.push(...own);
    verdicts.push({ row, verdict: 'new', name, says: sayEntries(own, cell('bin')) });
  }
  return { verdicts, entries };
}

// What a row brings, so that a quantity in the wrong pack or a swapped day and month is seen before it is let in.
function sayEntries(own: readonly SheetEntry[], bin: string): string {
  const [first] = own;
  if (!first) return '';
  const bad = sumQty(own.map((e) => failedOf(e.finding)));
  const parts = [
    `${formatQty(sumQty(own.map((e) => e.qty)))} in base units`,
    first.serial !== null && `serials ${own.map((e) => e.serial).join(', ')}`,
    first.lot !== null && `lot ${first.lot}`,
    first.expires !== null && `expires ${first.expires}`,
    bad > 0 && `${formatQty(bad)} failed`,
    first.cost !== null && `at ${first.cost} each`,
    first.bin !== null && `into ${bin.toUpperCase()}`,
  ];
  return `${parts.filter((part) => part !== false).join(', ')}.`;
}

type ReadRow = {
  qty: Qty;
  pack: number;
  lot: string | null;
  expires: string | null;
  made: string | null;
  serials: readonly string[];
  bin: (BinToFill & { readonly id: BinId }) | null;
  cost: string | null;
  isFound: boolean;
  failed: Qty;
  reason: number;
};

function readRow(
  cell: (key: string) => string,
  item: ReceivedItem,
  { today, bins, reasons }: KnownForReceipt,
  decimal: DecimalMark | null,
): Result<ReadRow, readonly string[]> {
  const [smallest] = item.packs;
  const pack = cell('pack') === '' ? smallest : item.packs.find((p) => p.name.toUpperCase() === cell('pack').toUpperCase());
  const isSerial = needsSerialOnArrival(item.tracking);
  const lot = labelText(cell('lot'));
  const serials = isSerial ? serialsOfCell(cell('serials')) : [];
  const partOf = (key: string): Qty | null => (cell(key) === '' ? ZERO : parsedQty(cell(key)));
  const [passed, failing] = [partOf('passed'), partOf('failed')];
  const isFound = cell('passed') !== '' || cell('failed') !== '';
  const found = passed !== null && failing !== null ? addQty(passed, failing) : ZERO;
  const packs =
    cell('qty') !== '' ? parsedQty(cell('qty')) : isSerial ? qty(serials.length * 1000) : cell('passed') !== '' ? found : parsedQty('');
  const units = cell('pack') === '' ? ONE : (pack?.units ?? ONE);
  const amount = pack && packs !== null ? packToBase(packs, { name: pack.name, units }) : null;
  const bin = cell('bin') === '' ? null : bins.get(foldName(cell('bin')));
  const reason = reasons.get(cell('reason').toUpperCase());
  const failed = failing === null ? null : packToBase(failing, { name: pack?.name ?? '', units });
  const dayOf = (key: string): string | null | undefined => (cell(key) === '' ? null : (readDay(cell(key), today) ?? undefined));
  const [made, expires] = [dayOf('made'), dayOf('expires')];
  const cost = cell('cost') === '' ? null : (readAmount(cell('cost'), decimal) ?? undefined);
  const faults = [
    item.isRetired && `${item.code} is retired.`,
    !pack && `${item.code} does not come by “${cell('pack')}”.`,
    (packs === null || packs <= 0) && `“${cell('qty')}” is no quantity.`,
    made === undefined && `“${cell('made')}” under Made is no day.`,
    expires === undefined && `“${cell('expires')}” under Expires is no day.`,
    lot.length > 40 && `A lot has at most 40 letters; this one has ${lot.length}.`,
    isSerial && amount !== null && amount !== serials.length * ONE && `For ${cell('qty')}, ${serials.length} serials are named.`,
    cost === undefined && `“${cell('cost')}” under Cost is no amount, or can be read two ways.`,
    cell('bin') !== '' && !bin && `There is no bin “${cell('bin')}” here.`,
    passed === null && `“${cell('passed')}” under Passed is no quantity.`,
    failing === null && `“${cell('failed')}” under Failed is no quantity.`,
    cell('passed') !== '' &&
      packs !== null &&
      packs !== found &&
      `${cell('passed')} passed and ${cell('failed') || '0'} failed are not ${cell('qty')}.`,
    failing !== null && packs !== null && failing > 0 && failing > packs && `${cell('failed')} cannot have failed of ${cell('qty')}.`,
    failing !== null &&
      failing > 0 &&
      reason === undefined &&
      `Under Reason, say why: ${[...reasons.keys()].map((r) => r.toLowerCase()).join(', ')}.`,
    isSerial &&
      serials.length > 1 &&
      failing !== null &&
      failing > 0 &&
      failing !== packs &&
      'Say in a row of its own which serial failed.',
  ].filter((f) => typeof f === 'string');
  if (faults.length > 0 || !pack || amount === null || failed === null || bin === undefined) return fail(faults);
  return ok({
    qty: amount,
    pack: pack.id,
    lot: lot || null,
    expires: expires ?? null,
    made: made ?? null,
    serials,
    bin,
    cost: cost ?? null,
    isFound,
    failed,
    reason: reason ?? 0,
  });
}

function parsedQty(text: string): Qty | null {
  const read = parseQty(text.replace(',', '.'));
  return read.ok ? read.value : null;
}
