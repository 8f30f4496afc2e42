import { registerSW } from 'virtual:pwa-register';

// A new version is taken between two jobs, never in the middle of one: where nothing is begun and nothing is typed.
const BETWEEN_JOBS = ['/h', '/', '/bench'];

/** Keeps the application on the device, so that it opens without a server, and takes a new version when the hand stands between two
 *  jobs. */
export function takeNewVersions(): void {
  if (!('serviceWorker' in navigator)) return;
  let ready = false;
  const update = registerSW({
    onNeedRefresh: () => {
      ready = true;
    },
    onRegisteredSW: (_url, registration) => {
      setInterval(() => void registration?.update().catch(() => undefined), 15 * 60_000);
    },
  });
  setInterval(() => {
    const typing = document.activeElement instanceof HTMLInputElement && document.activeElement.value !== '';
    if (!ready || typing || !BETWEEN_JOBS.includes(window.location.pathname)) return;
    ready = false;
    void update(true);
  }, 3000);
}
