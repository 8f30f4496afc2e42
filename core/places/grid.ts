import { fail, ok, type Result } from '#core/base';

/** One level of an address: a range of letters (A … Z, AA …) or of numbers padded with zeros. `skip` names values that are left out. */
export type GridLevel =
  | { readonly kind: 'letters'; readonly from: string; readonly to: string; readonly skip: readonly string[] }
  | {
      readonly kind: 'numbers';
      readonly from: number;
      readonly to: number;
      readonly digits: number;
      readonly step: number;
      readonly skip: readonly string[];
    };

/** A grid of bins (A3): 1 to 5 levels, the separators between them, and how the walk goes through the aisles (the first level).
 *  `serpentine` turns round at the end of every aisle; `oneWay` walks every aisle from its first bay. `turned` aisles go the other way. */
export type BinGrid = {
  readonly levels: readonly GridLevel[];
  readonly separators: readonly string[];
  readonly walk: 'serpentine' | 'oneWay';
  readonly turned: readonly string[];
};
export type GridBin = { readonly address: string; readonly walk: number };

export type GridFault =
  | { code: 'places.gridLevels'; levels: number }
  | { code: 'places.gridSeparator'; text: string }
  | { code: 'places.gridRange'; level: number; from: string; to: string }
  | { code: 'places.gridDigits'; level: number; to: string; digits: number }
  | { code: 'places.gridEmpty'; level: number }
  | { code: 'places.gridTooMany'; total: number; most: number };

export const MOST_BINS_AT_ONCE = 50_000;
export const SEPARATORS = ['-', '.', '/', ' '] as const;

// Letters count like the columns of a sheet: A … Z, AA, AB …
function letterNumber(letters: string): number {
  return [...letters].reduce((sum, c) => sum * 26 + c.charCodeAt(0) - 64, 0);
}
function lettersOf(n: number): string {
  let text = '';
  for (let rest = n; rest > 0; rest = Math.floor((rest - 1) / 26)) text = String.fromCharCode(65 + ((rest - 1) % 26)) + text;
  return text;
}

/** The values of a level in order, skips left out. */
export function levelValues(level: GridLevel): string[] {
  const values: string[] = [];
  const skip = new Set(level.skip.map((s) => s.toUpperCase()));
  if (level.kind === 'letters') {
    const end = letterNumber(level.to);
    for (let n = letterNumber(level.from); n <= end; n += 1) values.push(lettersOf(n));
  } else {
    for (let n = level.from; n <= level.to; n += level.step) values.push(String(n).padStart(level.digits, '0'));
  }
  return values.filter((v) => !skip.has(v) && !skip.has(v.replace(/^0+(?=\d)/, '')));
}

/** How many bins a grid has: the product of its levels, skips left out. Nothing is built for it. */
export function countGrid(grid: BinGrid): number {
  return grid.levels.reduce((product, level) => product * levelValues(level).length, 1);
}

/** Whether a grid can be built; the first fault if not. */
export function checkGrid(grid: BinGrid): GridFault | null {
  if (grid.levels.length < 1 || grid.levels.length > 5) return { code: 'places.gridLevels', levels: grid.levels.length };
  const separators = grid.separators.slice(0, grid.levels.length - 1);
  const strange = separators.find((s) => !(SEPARATORS as readonly string[]).includes(s));
  if (strange !== undefined || separators.length < grid.levels.length - 1) return { code: 'places.gridSeparator', text: strange ?? '' };
  for (const [i, level] of grid.levels.entries()) {
    const range = { code: 'places.gridRange', level: i + 1, from: String(level.from), to: String(level.to) } as const;
    if (level.kind === 'letters') {
      if (!/^[A-Z]{1,2}$/.test(level.from) || !/^[A-Z]{1,2}$/.test(level.to) || letterNumber(level.from) > letterNumber(level.to))
        return range;
    } else {
      const whole = [level.from, level.to, level.digits, level.step].every(Number.isInteger);
      if (!whole || level.from < 0 || level.to > 99_999 || level.from > level.to || level.step < 1) return range;
      if (level.digits < 1 || level.digits > 5 || String(level.to).length > level.digits)
        return { code: 'places.gridDigits', level: i + 1, to: String(level.to), digits: level.digits };
    }
    if (levelValues(level).length === 0) return { code: 'places.gridEmpty', level: i + 1 };
  }
  const total = countGrid(grid);
  return total > MOST_BINS_AT_ONCE ? { code: 'places.gridTooMany', total, most: MOST_BINS_AT_ONCE } : null;
}

/** Builds the bins of a grid in walking order; `walk` counts from 1.
 *  Shape:  within a bay the shelves and positions follow each other; along an aisle the bays go up or down as the walk does.
 *  Errors: those of `checkGrid`. */
export function buildGrid(grid: BinGrid): Result<GridBin[], GridFault> {
  const fault = checkGrid(grid);
  if (fault) return fail(fault);
  const values = grid.levels.map(levelValues);
  const bins: GridBin[] = [];
  const turned = new Set(grid.turned.map((t) => t.toUpperCase()));
  const fill = (level: number, address: string, backward: boolean): void => {
    if (level === values.length) {
      bins.push({ address, walk: bins.length + 1 });
      return;
    }
    const here = values[level] as string[];
    // Only bays are walked along; shelves and positions are reached where one stands.
    const ordered = level === 1 && backward ? here.toReversed() : here;
    for (const value of ordered) fill(level + 1, `${address}${grid.separators[level - 1] ?? ''}${value}`, backward);
  };
  for (const [i, aisle] of (values[0] as string[]).entries()) {
    const backward = (grid.walk === 'serpentine' && i % 2 === 1) !== turned.has(aisle);
    fill(1, aisle, backward);
  }
  return ok(bins);
}
