import { QueryClient, QueryClientProvider } from '@tanstack/react-query';
import { lazy, StrictMode, Suspense } from 'react';
import { createRoot } from 'react-dom/client';
import { BrowserRouter, Navigate, Route, Routes } from 'react-router';
import { Toaster } from 'sonner';
import { Refused, ScannerProvider, useChanges, useRead } from '#web/base';
import { Door } from '#web/people';
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
  const { data, isPending } = useRead('people.me', {});
  useChanges(Boolean(data?.me));
  if (isPending) return null;
  const me = data?.me;
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

const root = document.getElementById('root');
if (!root) throw new Error('The page has no root.');
createRoot(root).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <BrowserRouter>
        <ScannerProvider>
          <House />
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
      </BrowserRouter>
    </QueryClientProvider>
  </StrictMode>,
);
