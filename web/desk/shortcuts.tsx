import { lazy, Suspense, useEffect, useState } from 'react';
import { useNavigate } from 'react-router';

const Keys = lazy(() => import('./keys.tsx'));

// Single letters, only where nobody is typing; none that the browser uses.
const KEYS: Readonly<Record<string, { path: string; says: string }>> = {
  e: { path: '/expected', says: 'Expected' },
  d: { path: '/deliveries', says: 'Deliveries at the dock' },
  a: { path: '/put-away', says: 'To put away' },
  o: { path: '/orders', says: 'Orders' },
  n: { path: '/orders/new', says: 'A new order' },
  r: { path: '/rounds', says: 'Rounds' },
  b: { path: '/bench', says: 'The bench' },
  c: { path: '/counts', says: 'Counts' },
  i: { path: '/items', says: 'Items' },
  p: { path: '/places', says: 'Places' },
  f: { path: '/places/plan', says: 'The plan of the floor' },
  v: { path: '/stock', says: 'Stock and its value' },
  l: { path: '/ledger', says: 'The ledger' },
  h: { path: '/', says: 'Home' },
};

// A scanner types letters too: a key is a shortcut only when no other key came just before it or follows at once.
const ALONE_MS = 120;

/** Shortcuts of our own; `?` shows them. */
export function Shortcuts() {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | null = null;
    let lastAt = -Infinity;
    const onKey = (event: KeyboardEvent): void => {
      const isAlone = event.timeStamp - lastAt > ALONE_MS;
      lastAt = event.timeStamp;
      if (timer) clearTimeout(timer);
      timer = null;
      // The last letter of a label, too: what closes a scan is taken by whoever the scan is for, and is not heard here.
      if (!isAlone) return;
      const typing =
        event.target instanceof HTMLElement &&
        event.target.closest('input, textarea, [role=grid], [role=listbox], [aria-haspopup=listbox]') !== null;
      if (typing || event.ctrlKey || event.altKey || event.metaKey) return;
      const { key } = event;
      if (key !== '?' && key !== '/' && !(key in KEYS)) return;
      timer = setTimeout(() => {
        timer = null;
        if (key === '?') setOpen(true);
        else if (key === '/') document.querySelector<HTMLInputElement>('[data-scanline]')?.focus();
        else void go(KEYS[key]?.path ?? '/');
      }, ALONE_MS);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [go]);
  if (!open) return null;
  return (
    <Suspense fallback={null}>
      <Keys
        keys={[['/', 'To the scan line'], ...Object.entries(KEYS).map(([k, v]) => [k, v.says] as const)]}
        onClose={() => setOpen(false)}
      />
    </Suspense>
  );
}
