/** A bin address as a door plate shows it: the levels apart, the last one loudest. */
export type AddressParts = { readonly levels: readonly string[]; readonly separators: readonly string[] };

/** Splits an address such as `A-04-2` into its levels. An address without separators is one level. */
export function splitAddress(address: string): AddressParts {
  const levels = address.split(/[-./ ]/);
  const separators = [...address.matchAll(/[-./ ]/g)].map((match) => match[0]);
  return { levels, separators };
}

/** Compares two addresses as a person walking would: numbers by size, letters by alphabet, level by level. */
export function addressOrder(a: string, b: string): number {
  const left = splitAddress(a).levels;
  const right = splitAddress(b).levels;
  for (let i = 0; i < Math.max(left.length, right.length); i += 1) {
    const difference = compareLevel(left[i] ?? '', right[i] ?? '');
    if (difference !== 0) return difference;
  }
  return a < b ? -1 : a > b ? 1 : 0;
}

function compareLevel(a: string, b: string): number {
  if (/^\d+$/.test(a) && /^\d+$/.test(b)) return Number(a) - Number(b);
  return a < b ? -1 : a > b ? 1 : 0;
}

/** Whether a text is a bin address: 1 to 5 levels of letters or digits, at most 40 characters. */
export function isAddress(text: string): boolean {
  return text.length <= 40 && /^[A-Z0-9]+([-./ ][A-Z0-9]+){0,4}$/i.test(text);
}
