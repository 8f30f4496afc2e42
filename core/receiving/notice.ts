/** The key of the n-th entry that one scan of a unit makes: the scan's own key, counted on, so that every device and the house name it
 *  alike.
 *  Shape:  `key` is a UUID; `n` from 0. Its last twelve digits are counted on, and begin again where they end. */
export function entryKey(key: string, n: number): string {
  const tail = (BigInt(`0x${key.slice(-12)}`) + BigInt(n) + 1n) % (1n << 48n);
  return key.slice(0, -12) + tail.toString(16).padStart(12, '0');
}

/** Which of the `many` entries of one scan of a unit this one is, from 0; null where it is none of them. */
export function entryNumber(key: string, entry: string, many: number): number | null {
  const n = Array.from({ length: many }, (_, i) => entryKey(key, i)).indexOf(entry);
  return n < 0 ? null : n;
}
