/** A scan by its key, and its moment (ISO 8601). */
export type Scan = { readonly key: string; readonly at: string };

/** The scans that were made on this device since a screen is open and that it did not see yet, the oldest first.
 *  Shape:  `seen`: what stood there when the screen was opened, and what it saw since. `isMadeHere`: whether it was scanned with this
 *          device: the same person may scan with another one, and what is parted in two was scanned once. No clock is asked: those of a
 *          device and of the house differ. */
export function newScans<S extends Scan>(scans: readonly S[], seen: ReadonlySet<string>, isMadeHere: (key: string) => boolean): S[] {
  return scans.filter((s) => !seen.has(s.key) && isMadeHere(s.key)).toSorted((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
}
