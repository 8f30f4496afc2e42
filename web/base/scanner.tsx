import { createContext, useCallback, useContext, useEffect, useRef, type ReactNode } from 'react';
import { EMPTY_WEDGE, stepWedge, type Wedge } from './wedge.ts';

type Handler = (code: string) => void;
type Scanner = { listen(handler: Handler, under: boolean): () => void; say(code: string): void };
const ScannerContext = createContext<Scanner | null>(null);

/** Catches the scanner wherever the focus is, and gives the code to the screen on top. */
export function ScannerProvider({ children }: { children: ReactNode }) {
  const handlers = useRef<Handler[]>([]);
  const say = useCallback((code: string) => handlers.current.at(-1)?.(code), []);
  const scanner = useRef<Scanner>({
    listen: (handler, under) => {
      if (under) handlers.current.unshift(handler);
      else handlers.current.push(handler);
      return () => {
        handlers.current = handlers.current.filter((h) => h !== handler);
      };
    },
    say,
  });
  useEffect(() => {
    let wedge: Wedge = EMPTY_WEDGE;
    let before = '';
    const onKey = (event: KeyboardEvent): void => {
      if (event.ctrlKey || event.altKey || event.metaKey) return;
      const field = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement ? event.target : null;
      // The scan line sends what stands in it by itself.
      if (field?.dataset['scanline'] !== undefined) return;
      const step = stepWedge(wedge, event.key, event.timeStamp);
      if (step.state.typed.length === 1) before = field?.value ?? '';
      wedge = step.state;
      if (step.scan === null) return;
      event.preventDefault();
      event.stopPropagation();
      // A field that takes a code takes the scan; any other gets back what it held before the scanner typed into it.
      if (field?.dataset['takesCode'] !== undefined) return restore(field, step.scan);
      if (field) restore(field, before);
      say(step.scan);
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [say]);
  return <ScannerContext.Provider value={scanner.current}>{children}</ScannerContext.Provider>;
}

function restore(field: HTMLInputElement | HTMLTextAreaElement, value: string): void {
  const prototype = field instanceof HTMLInputElement ? HTMLInputElement.prototype : HTMLTextAreaElement.prototype;
  Object.getOwnPropertyDescriptor(prototype, 'value')?.set?.call(field, value);
  field.dispatchEvent(new Event('input', { bubbles: true }));
}

/** Hands scans to this screen while it is shown. The newest screen gets them; `under` is for the frame around the screens, which
 *  gets those that no screen wants, whichever of the two was drawn first. */
export function useScanner(handler: Handler, { under = false } = {}): { say: Handler } {
  const scanner = useContext(ScannerContext);
  const latest = useRef(handler);
  useEffect(() => {
    latest.current = handler;
  });
  useEffect(() => scanner?.listen((code) => latest.current(code), under), [scanner, under]);
  return { say: scanner?.say ?? (() => undefined) };
}
