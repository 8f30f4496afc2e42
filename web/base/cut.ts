import { useEffect, useState } from 'react';

const CUT = 'dockrow:cut';
/** A connection that is back within that time was never seen to be gone. */
const NOTICED_MS = 1500;

/** Says that the stream of news is cut, or there again. */
export const sayCut = (isCut: boolean): void => void window.dispatchEvent(new CustomEvent<boolean>(CUT, { detail: isCut }));

/** Whether the server cannot be reached: the browser has no connection, or the stream of news is cut. */
export function useIsCut(): boolean {
  const [isCut, setCut] = useState(() => !navigator.onLine);
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let heard = !navigator.onLine;
    const hear = (cut: boolean, afterMs: number): void => {
      // Told again and again while it is tried in vain: the first word counts.
      if (cut === heard) return;
      heard = cut;
      clearTimeout(timer);
      timer = setTimeout(() => setCut(cut), afterMs);
    };
    const onCut = (event: Event): void => {
      const { detail } = event as CustomEvent<boolean>;
      hear(detail, detail ? NOTICED_MS : 0);
    };
    const onOffline = (): void => hear(true, 0);
    // The stream says when it is there again; without one the browser's word has to do.
    const onOnline = (): void => hear(false, NOTICED_MS);
    window.addEventListener(CUT, onCut);
    window.addEventListener('offline', onOffline);
    window.addEventListener('online', onOnline);
    return () => {
      clearTimeout(timer);
      window.removeEventListener(CUT, onCut);
      window.removeEventListener('offline', onOffline);
      window.removeEventListener('online', onOnline);
    };
  }, []);
  return isCut;
}
