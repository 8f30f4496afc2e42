/** A scan by its key, and its moment by this device's clock (ISO 8601). */
export type Scan = { readonly key: string; readonly at: string };

/** The scans that were made since a screen is open and that it did not see yet, the oldest first.
 *  Shape:  what comes back to the top because a later one was undone was seen, or is older than the screen: it is no new scan.
 *  Units:  `openedAt` in milliseconds since 1970. */
export function newScans<S extends Scan>(scans: readonly S[], seen: ReadonlySet<string>, openedAt: number): S[] {
  return scans.filter((s) => !seen.has(s.key) && Date.parse(s.at) >= openedAt).toSorted((a, b) => (a.at < b.at ? -1 : a.at > b.at ? 1 : 0));
}

const MOST_SEEN = 200;
/** The keys of scans that are remembered over a reload: more than a screen shows. */
export const lastSeen = (seen: ReadonlySet<string>): string[] => [...seen].slice(-MOST_SEEN);
