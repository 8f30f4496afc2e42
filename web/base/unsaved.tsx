import { lazy, Suspense, useEffect } from 'react';
import { useBlocker } from 'react-router';

const AskUnsaved = lazy(() => import('./ask-unsaved.tsx'));

// What is not saved just now. One guard for the whole page asks: a router knows one only.
const unsaved = new Set<string>();

/** Says that something on this screen is not saved: whoever goes away (a link, back, a scan that opens something, a closed tab) is asked
 *  first. */
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
    <Suspense fallback={null}>
      <AskUnsaved what={[...unsaved].join(', ')} onStay={() => blocker.reset()} onLeave={() => blocker.proceed()} />
    </Suspense>
  );
}
