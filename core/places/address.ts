/** A bin address as a door plate shows it: the levels apart, the last one loudest. */
export type AddressParts = { readonly levels: readonly string[]; readonly separators: readonly string[] };

/** Splits an address such as `A-04-2` into its levels. An address without separators is one level. */
export function splitAddress(address: string): AddressParts {
  const levels = address.split(/[-./ ]/);
  const separators = [...address.matchAll(/[-./ ]/g)].map((match) => match[0]);
  return { levels, separators };
}

/** Compares two addresses as a person walking would, level by level: numbers by size, letters as the columns of a sheet (Z before AA), `2`
 *  before `10` before `10A`, numbers before letters. A total order: whatever is sorted by it comes out one way. */
export function addressOrder(a: string, b: string): number {
  const left = splitAddress(a).levels;
  const right = splitAddress(b).levels;
  for (let i = 0; i < Math.max(left.length, right.length); i += 1) {
    const difference = compareLevel(left[i] ?? '', right[i] ?? '');
    if (difference !== 0) return difference;
  }
  return compareText(a, b);
}

const compareText = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

// A level is cut into runs of digits and of letters, which are compared in turn; what ends first comes first.
function compareLevel(a: string, b: string): number {
  const runs = (level: string): readonly string[] => level.match(/\d+|\D+/g) ?? [];
  const [left, right] = [runs(a), runs(b)];
  for (let i = 0; i < Math.max(left.length, right.length); i += 1) {
    const difference = compareRun(left[i] ?? '', right[i] ?? '');
    if (difference !== 0) return difference;
  }
  return 0;
}

function compareRun(a: string, b: string): number {
  const [left, right] = [runKind(a), runKind(b)];
  if (left !== right) return left - right;
  if (left === RUN.number) {
    const [m, n] = [a, b].map((digits) => digits.replace(/^0+(?=\d)/, '')) as [string, string];
    return m.length - n.length || compareText(m, n);
  }
  return left === RUN.letters ? a.length - b.length || compareText(a, b) : compareText(a, b);
}

const RUN = { none: 0, number: 1, letters: 2, word: 3 } as const;
// One or two letters count on like columns; anything longer is a word and stands in the alphabet.
const runKind = (run: string): number => (run === '' ? RUN.none : /^\d/.test(run) ? RUN.number : run.length <= 2 ? RUN.letters : RUN.word);

/** Whether a text is a bin address: 1 to 5 levels of letters or digits, at most 40 characters. */
export function isAddress(text: string): boolean {
  return text.length <= 40 && /^[A-Z0-9]+([-./ ][A-Z0-9]+){0,4}$/i.test(text);
}
