// UN/ECE Recommendation 20, "Codes for Units of Measure Used in International Trade", revision 17: those in which goods here are kept.
const CODES: Readonly<Record<string, string>> = {
  each: 'EA',
  piece: 'H87',
  pair: 'PR',
  set: 'SET',
  m: 'MTR',
  metre: 'MTR',
  cm: 'CMT',
  mm: 'MMT',
  m2: 'MTK',
  kg: 'KGM',
  kilogram: 'KGM',
  g: 'GRM',
  gram: 'GRM',
  t: 'TNE',
  l: 'LTR',
  litre: 'LTR',
  ml: 'MLT',
  dozen: 'DZN',
  roll: 'RO',
  sheet: 'ST',
};
/** One of whatever it is. */
const ONE_OF_IT = 'C62';
// What others write for one piece.
const ONES = ['C62', 'EA', 'H87', 'PCE', 'XPP', 'NAR'];

/** The code of a base unit in papers that other programs read. */
export function unitCodeOf(unit: string): string {
  return CODES[unit.toLowerCase()] ?? ONE_OF_IT;
}

/** Whether a code in another's paper means this base unit. A unit that has no code of its own is counted, and is one of it. */
export function isUnitCode(code: string, unit: string): boolean {
  const own = unitCodeOf(unit);
  return code === own || (ONES.includes(code) && (own === ONE_OF_IT || ONES.includes(own)));
}
