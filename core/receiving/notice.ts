/** The key of the n-th entry that one scan of a unit makes: the scan's own key, counted on, so that every device and the house name it
 *  alike.
 *  Shape:  `key` is a UUID; `n` from 0. Its last twelve digits are counted on, and begin again where they end. */
export function entryKey(key: string, n: number): string {
  const tail = (BigInt(`0x${key.slice(-12)}`) + BigInt(n) + 1n) % (1n << 48n);
  return key.slice(0, -12) + tail.toString(16).padStart(12, '0');
}
