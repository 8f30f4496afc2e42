/** The mark before the decimals. The other one, spaces and apostrophes may part thousands. */
export type DecimalMark = '.' | ',';

/** What the amounts of one column say about how they are written, taken together.
 *  `decimal` is the mark that some of them prove, and null where none does or they contradict each other; `unclear` is the first that can
 *  be read both ways while nothing proves one: a person must say. */
export type AmountColumn = { readonly decimal: DecimalMark | null; readonly unclear: string | null };

const bareOf = (text: string): string => text.replace(/[\s\u00a0\u202f£$€'’]/g, '');
const otherMark = (mark: DecimalMark): DecimalMark => (mark === '.' ? ',' : '.');

// What one amount proves: its mark, that it can be read both ways, or nothing.
function proofOf(bare: string): DecimalMark | 'unclear' | null {
  const marks = bare.replace(/[^.,]/g, '');
  if (!/^\d*[.,\d]*\d$/.test(bare) || marks === '') return null;
  const last = marks.at(-1) as DecimalMark;
  if (marks.includes('.') && marks.includes(',')) return last;
  if (marks.length > 1) return otherMark(last);
  const [head = '', tail = ''] = bare.split(last);
  if (tail.length !== 3) return last;
  // No thousands begin with a zero or with nothing, and none have four digits before the mark.
  return head === '' || head.startsWith('0') || head.length > 3 ? last : 'unclear';
}

/** Judges how a column of a sheet writes its amounts. One `0,125` among them shows that `1,234` is one and a bit: cell by cell it would be
 *  read a thousand times too large. */
export function judgeAmounts(texts: Iterable<string>): AmountColumn {
  const proofs = new Set<DecimalMark>();
  let unclear: string | null = null;
  for (const text of texts) {
    const proof = proofOf(bareOf(text));
    if (proof === 'unclear') unclear ??= text.trim();
    else if (proof) proofs.add(proof);
  }
  const [one] = proofs;
  if (proofs.size === 1 && one) return { decimal: one, unclear: null };
  return { decimal: null, unclear };
}

const MOST_DIGITS = 10;
const PLACES = 4;

/** An amount as lists write it: `1,234.50`, `1.234,50`, `£12.5`, `12,50`; null where it is none, or where it can be read both ways.
 *  Shape:  `decimal` is the mark of its column, where that is known; an amount that breaks it is none.
 *          The result is a decimal text with at most four places. More places are the noise of floating point (3.3000000000000003) or no
 *          amount. */
export function readAmount(text: string, decimal: DecimalMark | null = null): string | null {
  const bare = bareOf(text);
  const proof = proofOf(bare);
  const mark = decimal ?? (proof === 'unclear' ? null : (proof ?? '.'));
  if (mark === null) return null;
  const thousands = mark === '.' ? ',' : '\\.';
  const point = mark === '.' ? '\\.' : ',';
  const match = new RegExp(`^(\\d+|[1-9]\\d{0,2}(?:${thousands}\\d{3})+)?(?:${point}(\\d+))?$`).exec(bare);
  if (!match || bare === '') return null;
  const whole = (match[1] ?? '0').replace(/[.,]/g, '');
  const fraction = match[2] ?? '';
  if (whole.length > MOST_DIGITS) return null;
  if (fraction.length <= PLACES) return fraction === '' ? whole : `${whole}.${fraction}`;
  const rounded = Number(`${whole}.${fraction}`).toFixed(PLACES);
  const isNoise = Math.abs(Number(rounded) - Number(`${whole}.${fraction}`)) < 1e-9;
  return isNoise ? rounded.replace(/0+$/, '').replace(/\.$/, '') : null;
}
