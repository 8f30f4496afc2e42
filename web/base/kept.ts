import { useCallback, useState } from 'react';

const PREFIX = 'dockrow.';

/** What this browser keeps under a name; null where it keeps nothing, or nothing that can be read. */
export function keptAs(name: string): unknown {
  try {
    return JSON.parse(localStorage.getItem(PREFIX + name) ?? 'null') as unknown;
  } catch {
    return null;
  }
}

/** Keeps a value under a name, over reloads and closed tabs; null forgets it. In a browser that keeps nothing it does nothing. */
export function keepAs(name: string, value: unknown): void {
  try {
    if (value === null) localStorage.removeItem(PREFIX + name);
    else localStorage.setItem(PREFIX + name, JSON.stringify(value));
  } catch {
    // Private browsing, or no room left: what was keyed lasts as long as the page.
  }
}

type Keyed<T> = Readonly<Record<number, T>>;

/** What somebody keys on a sheet, by the number of its line: kept under a name until it is forgotten, so that leaving the page, a reload or
 *  a flat battery costs no line. */
export function useKeptSheet<T>(name: string): readonly [Keyed<T>, (line: number, to: T) => void, () => void] {
  const [keyed, setKeyed] = useState<Keyed<T>>(() => sheetOf<T>(keptAs(name)));
  const set = useCallback(
    (line: number, to: T): void =>
      setKeyed((was) => {
        const next = { ...was, [line]: to };
        keepAs(name, next);
        return next;
      }),
    [name],
  );
  const forget = useCallback((): void => keepAs(name, null), [name]);
  return [keyed, set, forget];
}

const sheetOf = <T>(kept: unknown): Keyed<T> =>
  typeof kept === 'object' && kept !== null && !Array.isArray(kept) ? (kept as Keyed<T>) : {};
