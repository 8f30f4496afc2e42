import { useEffect, type ReactNode } from 'react';
import { Button } from './parts.tsx';

/** Detail beside a list, rather than a dialog over it: the list stays in sight and can be walked on. Escape closes it. */
export function SidePanel({ title, onClose, children }: { title: ReactNode; onClose: () => void; children: ReactNode }) {
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') onClose();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [onClose]);
  return (
    <aside aria-label="Detail" className="w-96 shrink-0 border-l-4 border-ink pl-4">
      <div className="mb-2 flex items-start justify-between gap-2 border-b-2 border-ink pb-1">
        <h2 className="text-lg font-bold">{title}</h2>
        <Button look="quiet" onClick={onClose}>
          Close
        </Button>
      </div>
      {children}
    </aside>
  );
}
