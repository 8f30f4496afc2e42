import type { BinId, ItemId, LotId, SerialId, UnitId } from '#core/base';

export const CONDITIONS = ['sound', 'inspect', 'held', 'failed'] as const;
export type Condition = (typeof CONDITIONS)[number];

/** What one row of the balance is about. */
export type StockKey = {
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: LotId | null;
  readonly serial: SerialId | null;
  readonly unit: UnitId | null;
  readonly condition: Condition;
};

/** The text by which a stock key is looked up in a map. Two keys are the same stock exactly when their texts are equal. */
export function keyText(key: StockKey): string {
  return `${key.bin}|${key.item}|${key.lot ?? ''}|${key.serial ?? ''}|${key.unit ?? ''}|${key.condition}`;
}

/** The one order in which keys are locked. Any total order would do; it must only be the same everywhere. */
export function compareKeys(a: StockKey, b: StockKey): number {
  return (
    a.item - b.item ||
    a.bin - b.bin ||
    (a.lot ?? 0) - (b.lot ?? 0) ||
    (a.serial ?? 0) - (b.serial ?? 0) ||
    (a.unit ?? 0) - (b.unit ?? 0) ||
    (a.condition < b.condition ? -1 : a.condition > b.condition ? 1 : 0)
  );
}
