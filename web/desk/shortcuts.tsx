import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import { Button } from '#web/base';

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

// A scanner types letters too: a key is a shortcut only when no other key follows at once.
const ALONE_MS = 120;

/** Shortcuts of our own; `?` shows them. */
export function Shortcuts() {
  const [open, setOpen] = useState(false);
  const go = useNavigate();
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | null = null;
    const onKey = (event: KeyboardEvent): void => {
      if (timer) {
        clearTimeout(timer);
        timer = null;
        return;
      }
      const typing = event.target instanceof HTMLElement && event.target.closest('input, textarea, select, [role=grid]') !== null;
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
  return (
    <Dialog open={open} onClose={() => setOpen(false)} className="relative z-50">
      <div className="fixed inset-0 grid place-items-center bg-ink/50 p-4">
        <DialogPanel className="w-96 rounded border-4 border-ink bg-sheet p-4">
          <DialogTitle className="mb-2 text-lg font-bold">Keys</DialogTitle>
          <dl className="grid grid-cols-[3rem_1fr] gap-y-1">
            {[['/', 'To the scan line'], ...Object.entries(KEYS).map(([k, v]) => [k, v.says])].map(([k, says]) => (
              <div key={k} className="contents">
                <dt>
                  <kbd className="code rounded-sm border border-ink px-2">{k}</kbd>
                </dt>
                <dd>{says}</dd>
              </div>
            ))}
          </dl>
          <Button className="mt-3" onClick={() => setOpen(false)}>
            Close
          </Button>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
