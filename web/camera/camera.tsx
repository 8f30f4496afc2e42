import { Camera } from 'lucide-react';
import { lazy, Suspense, useSyncExternalStore } from 'react';

// Whoever scans by camera does so all day: it stays on from screen to screen, and for the tab.
const KEY = 'dockrow.camera';
const watchers = new Set<() => void>();
let on = kept();

function kept(): boolean {
  try {
    return sessionStorage.getItem(KEY) === 'on';
  } catch {
    return false;
  }
}

function turn(to: boolean): void {
  on = to;
  try {
    sessionStorage.setItem(KEY, to ? 'on' : 'off');
  } catch {
    // Without storage it is off after a reload.
  }
  for (const watcher of watchers) watcher();
}

function useCameraOn(): boolean {
  return useSyncExternalStore(
    (watcher) => {
      watchers.add(watcher);
      return () => watchers.delete(watcher);
    },
    () => on,
  );
}

// A browser gives its camera only to a page that came encrypted, or from this very machine.
const possible = (): boolean => typeof navigator.mediaDevices?.getUserMedia === 'function';

const CameraView = lazy(() => import('./camera-view.tsx').then((file) => ({ default: file.CameraView })));

/** Opens and closes the camera, beside the scan line. Not there where the browser gives no camera to this page. */
export function CameraButton() {
  const isOn = useCameraOn();
  if (!possible()) return null;
  return (
    <button
      type="button"
      aria-label={isOn ? 'Close the camera' : 'Scan by camera'}
      aria-pressed={isOn}
      onClick={() => turn(!isOn)}
      className={`grid size-14 shrink-0 place-items-center rounded border-2 border-ink ${isOn ? 'bg-ink text-paper' : 'bg-sheet'}`}
    >
      <Camera aria-hidden size={28} />
    </button>
  );
}

/** The camera's picture above every screen of the handheld, while it is on. */
export function CameraStrip() {
  if (!useCameraOn() || !possible()) return null;
  return (
    <Suspense fallback={<p className="bg-ink p-3 text-center text-paper">Opening the camera …</p>}>
      <CameraView onClose={() => turn(false)} />
    </Suspense>
  );
}
