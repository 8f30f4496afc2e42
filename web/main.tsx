import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { Activity, lazy, StrictMode, Suspense, useEffect, useMemo, useRef } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, Route, RouterProvider, Routes, useLocation, useRouteError } from 'react-router';
import { Toaster } from 'sonner';
import {
  Button,
  forgetSite,
  Refused,
  sayWhoIsHere,
  ScannerProvider,
  settleAt,
  takeAskedSite,
  Unreached,
  UnsavedGuard,
  useChanges,
  useRead,
  WhoIsHere,
} from '#web/base';
import type { Me } from '#contract/people';
import { openFloor, theFloor } from '#web/hands';
import { Door } from '#web/door';
import { takeNewVersions } from './versions.ts';
import './theme.css';

// Desk and handheld are loaded apart: a handheld on bad wireless never waits for the desk's tables.
const Desk = lazy(() => import('#web/desk').then((room) => ({ default: room.Desk })));
const Handheld = lazy(() => import('#web/handheld').then((room) => ({ default: room.Handheld })));

const client = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 20_000,
      // Without a connection nothing is asked again and again: it is said, and read as soon as there is one.
      retry: (times, error) => !(error instanceof Refused) && navigator.onLine && times < 4,
      networkMode: 'always',
      refetchOnReconnect: true,
      refetchOnWindowFocus: true,
    },
    mutations: { networkMode: 'always' },
  },
});

function House() {
  const { data, isPending, error, failureReason, refetch } = useRead('people.me', {});
  const { pathname } = useLocation();
  // Taken off the site at which this tab worked: it begins anew at one where its person still works.
  const lostSite = error instanceof Refused && error.problem.code === 'people.notAtSite';
  useEffect(() => {
    if (!lostSite) return;
    forgetSite();
    void refetch();
  }, [lostSite, refetch]);
  useEffect(() => {
    const look = (): void => void refetch();
    window.addEventListener('dockrow:signedOut', look);
    return () => window.removeEventListener('dockrow:signedOut', look);
  }, [refetch]);
  const isIn = Boolean(data?.me);
  useEffect(() => (isIn ? sayWhoIsHere() : undefined), [isIn]);
  // A handheld shows neither the row nor home.
  useChanges(isIn, !/^\/h(\/|$)/.test(pathname));
  // Without a connection a handheld or a bench is whoever's it was: what they do is kept under their name.
  const kept = /^\/(h|bench)(\/|$)/.test(pathname) && !data && (failureReason ?? error) instanceof Unreached ? theFloor().get().me : null;
  // A desk that was closed because nobody was at it stays as it is behind the door, deaf and unseen: what was typed is there for whoever
  // typed it.
  const last = useRef<{ me: Me | null; closed: string | null }>({ me: null, closed: null });
  if (data?.me) last.current = { me: data.me, closed: null };
  // Once closed it is so until somebody signs in, also while the session that told why is given up for theirs.
  else if (data) last.current = { ...last.current, closed: data.closed ?? last.current.closed };
  if (data && !data.me && last.current.closed === null) last.current.me = null;
  const me = data?.me ?? kept;
  const behind = me ?? last.current.me;
  const here = useMemo(() => ({ me: behind }), [behind]);
  // Nobody was signed out: it is only not known who is here.
  if (!data && !kept && (failureReason ?? error) instanceof Unreached) return <Away onAgain={refetch} />;
  if (isPending && !kept) return null;
  if (me) settleAt(me.site, data?.currency);
  return (
    <>
      {!me && <Door closed={last.current.closed} name={behind?.name ?? ''} />}
      {behind && (
        <Activity key={behind.id} mode={me ? 'visible' : 'hidden'}>
          <Suspense fallback={<p className="p-6 text-soft">One moment …</p>}>
            <WhoIsHere value={here}>
              <Routes>
                <Route path="/h/*" element={<Handheld me={behind} />} />
                <Route path="/*" element={isHandheld() && behind.role === 'hand' ? <Navigate to="/h" replace /> : <Desk me={behind} />} />
              </Routes>
            </WhoIsHere>
          </Suspense>
        </Activity>
      )}
    </>
  );
}

const AGAIN_MS = 5000;

/** What stands there while the server cannot be asked who is here: that, and nothing that looks like the door. */
function Away({ onAgain }: { onAgain: () => Promise<unknown> }) {
  useEffect(() => {
    const timer = setInterval(() => void onAgain(), AGAIN_MS);
    return () => clearInterval(timer);
  }, [onAgain]);
  return (
    <main className="mx-auto max-w-xl space-y-4 p-8">
      <h1 className="code text-3xl">Dock Row</h1>
      <p role="alert" className="text-xl font-bold text-wrong">
        The server cannot be reached.
      </p>
      <p>You are still signed in, and nothing is lost. This page opens by itself as soon as there is a connection again.</p>
      <Button look="next" onClick={() => void onAgain()}>
        Try again
      </Button>
    </main>
  );
}

function isHandheld(): boolean {
  return window.innerWidth < 700;
}

/** What stands there when a screen itself fails: what happened, and the way back. Nothing was sent by it. */
function Broken() {
  const error = useRouteError();
  return (
    <main className="mx-auto max-w-xl space-y-4 p-8">
      <h1 className="text-2xl font-bold">This screen cannot be shown.</h1>
      <p>Stock is as it was: what was saved is saved, and nothing else was sent.</p>
      <p className="flex gap-3">
        <Button look="next" onClick={() => window.location.reload()}>
          Load it again
        </Button>
        <Button onClick={() => window.location.assign('/')}>Go to home</Button>
      </p>
      <p className="text-sm text-soft">{error instanceof Error ? error.message : String(error)}</p>
    </main>
  );
}

takeAskedSite();
// One route for everything: the rooms name their own paths. A router of this kind can hold somebody back who would lose what is not saved.
const router = createBrowserRouter([
  {
    path: '*',
    errorElement: <Broken />,
    element: (
      <ScannerProvider>
        <House />
        <UnsavedGuard />
        <Toaster
          position="top-center"
          toastOptions={{
            className: 'font-sans',
            style: {
              background: 'var(--color-sheet)',
              color: 'var(--color-ink)',
              border: '2px solid var(--color-ink)',
              fontSize: '16px',
            },
          }}
        />
      </ScannerProvider>
    ),
  },
]);

const root = document.getElementById('root');
if (!root) throw new Error('The page has no root.');
// What was kept on this device is known before anything is drawn: a reload without a server shows the same work.
void openFloor().then(() =>
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        {/* A page is drawn in one go: cut into slices that wait for each other it takes twice as long, and nobody can do anything
           between them. */}
        <RouterProvider router={router} useTransitions={false} />
      </QueryClientProvider>
    </StrictMode>,
  ),
);
takeNewVersions();
