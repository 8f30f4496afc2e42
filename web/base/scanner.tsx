import { createContext, useCallback, useContext, useEffect, useLayoutEffect, useRef, useSyncExternalStore, type ReactNode } from 'react';
import { EMPTY_WEDGE, GS, keyedNumber, stepWedge, type Wedge } from './wedge.ts';

/** What reaches a screen: a code that was scanned, with the number that a hand typed just before it. `whole`: the two as one code, where
 *  they came so close that they may be one. */
export type Scan = { readonly code: string; readonly number: string | null; readonly whole: string | null };
type Handler = (code: string, scan: Scan) => void;
type NumberHandler = (text: string) => void;
type Listener = { readonly onScan: Handler; readonly onNumber: NumberHandler | null };
type Scanner = {
  listen(listener: Listener, under: boolean): () => void;
  /** Gives a code that something else read to the screen on top. */
  say(code: string): void;
  /** Gives every key to somebody who asks which one is pressed, and to nobody else; null ends that. */
  grab(onKey: ((key: string) => void) | null): void;
  /** Types a key as a hand does: the pad on the screen. */
  key(key: string): void;
  keyed: { watch(watcher: () => void): () => void; get(): string };
};
const ScannerContext = createContext<Scanner | null>(null);
const GS_KEY = 'dockrow.separatorKey';

/** The key that a scanner types for a separator, where it cannot type the character; set on the device. */
export function separatorKey(): string | null {
  try {
    return localStorage.getItem(GS_KEY);
  } catch {
    return null;
  }
}
export function setSeparatorKey(key: string | null): void {
  try {
    if (key) localStorage.setItem(GS_KEY, key);
    else localStorage.removeItem(GS_KEY);
  } catch {
    // Private browsing without storage: the character itself and Ctrl with ] still are one.
  }
}

/** Catches the scanner wherever the focus is, and gives the code to the screen on top. */
export function ScannerProvider({ children }: { children: ReactNode }) {
  const listeners = useRef<Listener[]>([]);
  const wedge = useRef<Wedge>(EMPTY_WEDGE);
  const watchers = useRef(new Set<() => void>());
  const grabbed = useRef<((key: string) => void) | null>(null);
  const set = useCallback((next: Wedge): void => {
    wedge.current = next;
    for (const watcher of watchers.current) watcher();
  }, []);
  const say = useCallback(
    (code: string) => {
      // A number that was keyed belongs to the scan that follows it, whatever reads that.
      const number = keyedNumber(wedge.current) || null;
      set(EMPTY_WEDGE);
      listeners.current.at(-1)?.onScan(code, { code, number, whole: null });
    },
    [set],
  );
  const scanner = useRef<Scanner>({
    listen: (listener, under) => {
      if (under) listeners.current.unshift(listener);
      else listeners.current.push(listener);
      return () => {
        listeners.current = listeners.current.filter((l) => l !== listener);
      };
    },
    say,
    grab: (onKey) => {
      grabbed.current = onKey;
    },
    key: (key) => {
      // A finger is never as fast as a scanner: each key stands by itself.
      const step = stepWedge(wedge.current, key, performance.now());
      const { run, keyed } = step.state;
      set(run.length > 0 && key.length === 1 ? { run: [], keyed: keyed + run.map((s) => s.key).join('') } : step.state);
      if (step.number !== null) listeners.current.at(-1)?.onNumber?.(step.number);
    },
    keyed: {
      watch: (watcher) => {
        watchers.current.add(watcher);
        return () => watchers.current.delete(watcher);
      },
      get: () => keyedNumber(wedge.current),
    },
  });
  useEffect(() => {
    let before = '';
    let rested: ReturnType<typeof setTimeout> | null = null;
    const onKey = (event: KeyboardEvent): void => {
      if (grabbed.current) {
        event.preventDefault();
        return grabbed.current(event.key);
      }
      const isSeparator = (event.ctrlKey && event.key === ']') || event.key === separatorKey();
      if (!isSeparator && (event.ctrlKey || event.altKey || event.metaKey)) return;
      const field = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement ? event.target : null;
      const step = stepWedge(wedge.current, isSeparator ? GS : event.key, event.timeStamp);
      if (isSeparator) event.preventDefault();
      if (step.state.run.length === 1) before = field?.value ?? '';
      // In a field a hand's digits are what the field is for.
      wedge.current = field ? { ...step.state, keyed: '' } : step.state;
      if (rested !== null) clearTimeout(rested);
      // Whether digits are a hand's is known when no key follows at once.
      rested = setTimeout(() => set(wedge.current), 120);
      if (step.scan === null) {
        if (step.number === null || field) return;
        const { onNumber } = listeners.current.at(-1) ?? {};
        if (!onNumber) return;
        event.preventDefault();
        set(wedge.current);
        onNumber(step.number);
        return;
      }
      event.preventDefault();
      event.stopPropagation();
      set(wedge.current);
      // A field that takes a code takes the scan; any other gets back what it held before the scanner typed into it.
      if (field?.dataset['takesCode'] !== undefined) return restore(field, step.scan);
      const inLine = field?.dataset['scanline'] !== undefined;
      if (field) restore(field, inLine ? '' : before);
      const typed = inLine && /^\d{1,9}([.,]\d{1,3})?$/.test(before) ? before : null;
      listeners.current
        .at(-1)
        ?.onScan(step.scan, { code: step.scan, number: field ? typed : step.number, whole: field ? null : step.whole });
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [say, set]);
  return <ScannerContext.Provider value={scanner.current}>{children}</ScannerContext.Provider>;
}

function restore(field: HTMLInputElement | HTMLTextAreaElement, value: string): void {
  const prototype = field instanceof HTMLInputElement ? HTMLInputElement.prototype : HTMLTextAreaElement.prototype;
  Object.getOwnPropertyDescriptor(prototype, 'value')?.set?.call(field, value);
  field.dispatchEvent(new Event('input', { bubbles: true }));
}

/** Hands scans to this screen while it is shown. The newest screen gets them; `under` is for the frame around the screens, which
 *  gets those that no screen wants, whichever of the two was drawn first. `onNumber` gets what a hand types and closes with Enter. */
export function useScanner(handler: Handler, { under = false, onNumber }: { under?: boolean; onNumber?: NumberHandler } = {}): void {
  const scanner = useContext(ScannerContext);
  const latest = useRef({ handler, onNumber });
  useLayoutEffect(() => {
    latest.current = { handler, onNumber };
  });
  const takesNumbers = onNumber !== undefined;
  // With the screen itself, and not a moment after it: what is scanned is for the screen that is seen.
  useLayoutEffect(
    () =>
      scanner?.listen(
        {
          onScan: (code, scan) => latest.current.handler(code, scan),
          onNumber: takesNumbers ? (text) => latest.current.onNumber?.(text) : null,
        },
        under,
      ),
    [scanner, under, takesNumbers],
  );
}

/** While it is `asked`, tells which key is pressed next, instead of anything that the key would do. */
export function useNextKey(asked: boolean, onKey: (key: string) => void): void {
  const scanner = useContext(ScannerContext);
  const latest = useRef(onKey);
  useEffect(() => {
    latest.current = onKey;
  });
  useEffect(() => {
    if (!asked) return;
    scanner?.grab((key) => latest.current(key));
    return () => scanner?.grab(null);
  }, [scanner, asked]);
}

/** Gives a code to the screen on top as the scanner would: what the camera read. */
export function useSayScan(): (code: string) => void {
  return useContext(ScannerContext)?.say ?? (() => undefined);
}

/** The number that is being keyed, digit by digit, and the keys of a pad on the screen. */
export function useKeyed(): { keyed: string; press: (key: string) => void } {
  const scanner = useContext(ScannerContext);
  const keyed = useSyncExternalStore(
    (watcher) => scanner?.keyed.watch(watcher) ?? (() => undefined),
    () => scanner?.keyed.get() ?? '',
  );
  return { keyed, press: (key) => scanner?.key(key) };
}
