import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, StrictMode, Suspense, useEffect } from 'react';
import { createRoot } from 'react-dom/client';
import { createBrowserRouter, Navigate, Route, RouterProvider, Routes, useLocation, useRouteError } from 'react-router';
import { Toaster } from 'sonner';
import {
  Button,
  forgetSite,
  Refused,
  ScannerProvider,
  settleAt,
  takeAskedSite,
  Unreached,
  UnsavedGuard,
  useChanges,
  useRead,
} from '#web/base';
import { openFloor, theFloor } from '#web/hands';
import { Door } from '#web/people';
import { takeNewVersions } from './versions.ts';
import './theme.css';

// Desk and handheld are loaded apart: a handheld on bad wireless never waits for the desk's tables.
const Desk = lazy(() => import('#web/desk').then((room) => ({ default: room.Desk })));
const Handheld = lazy(() => import('#web/handheld').then((room) => ({ default: room.Handheld })));

const client = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 20_000, retry: (times, error) => !(error instanceof Refused) && times < 4, refetchOnWindowFocus: true },
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
  // A handheld shows neither the row nor home.
  useChanges(Boolean(data?.me), !/^\/h(\/|$)/.test(pathname));
  // Without a connection a handheld or a bench is whoever's it was: what they do is kept under their name.
  const kept = /^\/(h|bench)(\/|$)/.test(pathname) && !data && (failureReason ?? error) instanceof Unreached ? theFloor().get().me : null;
  if (isPending && !kept) return null;
  const me = data?.me ?? kept;
  if (me) settleAt(me.site);
  return (
    <Suspense fallback={<p className="p-6 text-soft">One moment …</p>}>
      <Routes>
        {!me && <Route path="*" element={<Door />} />}
        {me && <Route path="/h/*" element={<Handheld me={me} />} />}
        {me && <Route path="/*" element={isHandheld() && me.role === 'hand' ? <Navigate to="/h" replace /> : <Desk me={me} />} />}
      </Routes>
    </Suspense>
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
        <RouterProvider router={router} />
      </QueryClientProvider>
    </StrictMode>,
  ),
);
takeNewVersions();
