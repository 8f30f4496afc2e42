import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useEffect } from 'react';
import { useBlocker } from 'react-router';
import { Button } from './parts.tsx';

// What is not saved just now. One guard for the whole page asks: a router knows one only.
const unsaved = new Set<string>();

/** Says that something on this screen is not saved: whoever goes away (a link, back, a scan that opens something, a closed tab) is asked first. */
export function Unsaved({ when, what }: { when: boolean; what: string }) {
  useEffect(() => {
    if (!when) return;
    unsaved.add(what);
    const onLeave = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', onLeave);
    return () => {
      unsaved.delete(what);
      window.removeEventListener('beforeunload', onLeave);
    };
  }, [when, what]);
  return null;
}

/** Asks before anybody leaves a screen with something unsaved on it. Stands once, around all screens. */
export function UnsavedGuard() {
  const blocker = useBlocker(({ currentLocation, nextLocation }) => unsaved.size > 0 && currentLocation.pathname !== nextLocation.pathname);
  if (blocker.state !== 'blocked') return null;
  return (
    <Dialog open onClose={() => blocker.reset()} className="relative z-50">
      <div className="fixed inset-0 grid place-items-center bg-ink/50 p-4">
        <DialogPanel className="w-[28rem] rounded border-4 border-ink bg-sheet p-4">
          <DialogTitle className="mb-2 text-lg font-bold">{[...unsaved].join(', ')}: not saved yet.</DialogTitle>
          <p className="mb-4">If you go on, what you changed is lost.</p>
          <div className="flex justify-end gap-2">
            <Button look="wrong" onClick={() => blocker.proceed()}>
              Go on without saving
            </Button>
            <Button look="next" autoFocus onClick={() => blocker.reset()}>
              Stay here
            </Button>
          </div>
        </DialogPanel>
      </div>
    </Dialog>
  );
}
