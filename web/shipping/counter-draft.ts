import { addQty, formatQty, parseQty } from '#core/base';

/** Where goods that are handed over may be taken from: what is free in a bin, by lot or serial. */
export type CounterSource = { readonly bin: string; readonly lot: string | null; readonly serial: string | null; readonly qty: string };
export type CounterLine = {
  readonly key: number;
  readonly item: number;
  readonly code: string;
  readonly description: string;
  readonly unit: string;
  readonly tracking: string;
  /** What stands in the field, right or wrong. */
  readonly qty: string;
  /** The chosen source by its place among those of the item; null where nothing lies anywhere. */
  readonly from: CounterSource | null;
  /** The serial that is noted only when goods leave. */
  readonly serialOut: string;
};
export type ScannedGoods = Omit<CounterLine, 'key' | 'from' | 'serialOut'> & {
  readonly lot: string | null;
  readonly serial: string | null;
};

const isOne = (tracking: string): boolean => tracking === 'serial' || tracking === 'serialOut';

/** The source that is meant: in the bin that was scanned last if some lies there, of the lot or serial on the label, else the first, which
 *  is what expires first. A serial that is on the list already is not meant again. */
export function sourceFor(
  goods: Pick<ScannedGoods, 'lot' | 'serial' | 'tracking'>,
  sources: readonly CounterSource[],
  at: string | null,
  taken: readonly string[],
): CounterSource | null {
  const matching = sources.filter(
    (s) =>
      (goods.lot === null || s.lot === goods.lot) &&
      (goods.tracking !== 'serial' || goods.serial === null || s.serial === goods.serial) &&
      (s.serial === null || !taken.includes(s.serial)),
  );
  return matching.find((s) => s.bin === at) ?? matching[0] ?? null;
}

/** Puts scanned goods on the list: the same goods out of the same place are so many more, what goes by serial is a line of its own. */
export function addScanned(
  lines: readonly CounterLine[],
  goods: ScannedGoods,
  from: CounterSource | null,
  key: number,
): readonly CounterLine[] {
  const { lot: _, serial, ...rest } = goods;
  const same = isOne(goods.tracking)
    ? undefined
    : lines.find((l) => l.item === goods.item && l.from?.bin === from?.bin && l.from?.lot === from?.lot);
  if (!same) return [...lines, { ...rest, key, qty: isOne(goods.tracking) ? '1' : goods.qty, from, serialOut: serial ?? '' }];
  const [was, more] = [parseQty(same.qty.replace(',', '.')), parseQty(goods.qty)];
  const qty = was.ok && more.ok ? formatQty(addQty(was.value, more.value)) : goods.qty;
  return lines.map((l) => (l === same ? { ...l, qty } : l));
}

/** What is wrong with a line, in words, or null. */
export function counterFault(line: CounterLine): string | null {
  const qty = parseQty(line.qty.replace(',', '.'));
  if (!qty.ok || qty.value <= 0) return 'Key how many, such as 2.';
  if (line.from === null) return 'None of it is free here.';
  if (line.tracking === 'serialOut' && line.serialOut.trim() === '') return 'Scan or key its serial.';
  const there = parseQty(line.from.qty);
  return there.ok && qty.value > there.value ? `Only ${line.from.qty} lie in ${line.from.bin}.` : null;
}

/** The lines as the command takes them. */
export function handOverLines(lines: readonly CounterLine[]) {
  return lines.map((l) => ({
    bin: l.from?.bin ?? '',
    code: l.code,
    qty: l.qty.replace(',', '.'),
    ...(l.from?.lot ? { lot: l.from.lot } : {}),
    ...(l.tracking === 'serial' && l.from?.serial ? { serial: l.from.serial } : {}),
    ...(l.tracking === 'serialOut' ? { serial: l.serialOut.trim() } : {}),
  }));
}
