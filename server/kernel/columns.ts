import { formatQty, parseQty, type Qty } from '#core/base';

/** Reads a numeric(18,3) column. */
export function asQty(text: string | null): Qty {
  const parsed = parseQty(text ?? '0');
  if (!parsed.ok) throw new Error(`Not a quantity in the database: ${text}`);
  return parsed.value;
}

/** Writes a quantity for a numeric(18,3) column. */
export const dbQty = formatQty;
