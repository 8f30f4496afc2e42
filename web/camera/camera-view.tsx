import { useEffect, useRef, useState } from 'react';
import { Button, useSayScan } from '#web/base';
import { openReader, type CodeReader } from './reader.ts';
import { NOTHING_SEEN, stepSight } from './sight.ts';

/** A picture of this width shows the thinnest bars that a phone's camera resolves at arm's length, and is read several times a second. */
const READ_WIDTH = 960;
const STRIP_RATIO = 2;
/** A camera that nobody holds up to anything heats the device and empties it. */
const REST_AFTER_MS = 120_000;

type Standing = { is: 'opening' } | { is: 'looking'; crowded: boolean } | { is: 'resting' } | { is: 'fault'; says: string };

/** What the browser's refusal to give a picture means to the person who holds the device. */
export function cameraFault(error: unknown): string {
  switch (error instanceof Error ? error.name : '') {
    case 'NotAllowedError':
      return 'The browser does not let this page use the camera. Allow it beside the address, then try again.';
    case 'NotFoundError':
    case 'OverconstrainedError':
      return 'This device has no camera that can be used.';
    case 'NotReadableError':
      return 'Something else uses the camera. Close it, then try again.';
    default:
      return 'The camera’s reader is not on this device yet. It is fetched once, with a connection.';
  }
}

/** The camera's picture, and the codes that it finds given to the screen on top as a scanner's would be. */
export function CameraView({ onClose }: { onClose: () => void }) {
  const video = useRef<HTMLVideoElement>(null);
  const say = useSayScan();
  const latestSay = useRef(say);
  useEffect(() => {
    latestSay.current = say;
  });
  const [standing, setStanding] = useState<Standing>({ is: 'opening' });
  const [attempt, setAttempt] = useState(0);
  const [lamp, setLamp] = useState<{ track: MediaStreamTrack; on: boolean } | null>(null);

  useEffect(() => {
    const screen = video.current;
    if (!screen) return;
    let stream: MediaStream | null = null;
    let reader: CodeReader | null = null;
    let ended = false;
    const end = (): void => {
      ended = true;
      for (const track of stream?.getTracks() ?? []) track.stop();
      reader?.close();
    };
    const look = async (): Promise<void> => {
      reader = await openReader();
      if (ended) return end();
      stream = await navigator.mediaDevices.getUserMedia({
        video: { facingMode: 'environment', width: { ideal: 1920 }, height: { ideal: 1080 } },
      });
      if (ended) return end();
      screen.srcObject = stream;
      await screen.play();
      const [track] = stream.getVideoTracks();
      // Not every browser names what its camera can do; the lamp is there where one does.
      const abilities = (track?.getCapabilities?.() ?? {}) as { torch?: boolean };
      // Pulled out, or taken by something else: no picture would ever come again.
      track?.addEventListener('ended', () => {
        if (ended) return;
        end();
        setStanding({ is: 'resting' });
      });
      setLamp(track && abilities.torch ? { track, on: false } : null);
      setStanding({ is: 'looking', crowded: false });
      await watch(screen, reader);
    };
    const watch = async (shown: HTMLVideoElement, with_: CodeReader): Promise<void> => {
      const picture = document.createElement('canvas');
      let sight = NOTHING_SEEN;
      let lastFound = performance.now();
      while (!ended) {
        await nextPicture(shown);
        if (ended) return;
        if (!draw(shown, picture)) continue;
        const seen = await with_.read(picture);
        const now = performance.now();
        const step = stepSight(sight, seen, now);
        sight = step.sight;
        if (seen.length > 0) lastFound = now;
        if (step.take !== null && !ended) latestSay.current(step.take);
        setStanding((was) => (was.is === 'looking' && was.crowded === step.crowded ? was : { is: 'looking', crowded: step.crowded }));
        if (now - lastFound > REST_AFTER_MS) {
          end();
          setStanding({ is: 'resting' });
        }
      }
    };
    look().catch((error: unknown) => {
      if (ended) return;
      end();
      setStanding({ is: 'fault', says: cameraFault(error) });
    });
    const onHidden = (): void => {
      if (!document.hidden || ended) return;
      end();
      setStanding({ is: 'resting' });
    };
    document.addEventListener('visibilitychange', onHidden);
    return () => {
      document.removeEventListener('visibilitychange', onHidden);
      end();
    };
  }, [attempt]);

  const again = (): void => {
    setStanding({ is: 'opening' });
    setAttempt((n) => n + 1);
  };
  const isOff = standing.is === 'fault' || standing.is === 'resting';
  return (
    <section aria-label="Camera" className="sticky top-0 z-10 mx-auto max-w-xl bg-ink text-paper" data-standing={standing.is}>
      <div className={`relative ${isOff ? 'hidden' : ''}`} style={{ aspectRatio: STRIP_RATIO }}>
        <video ref={video} muted playsInline className="size-full object-cover" />
        <span aria-hidden className="absolute inset-x-6 top-1/2 h-0.5 bg-next" />
        <p className="absolute inset-x-0 bottom-0 bg-ink/80 px-3 py-1 text-sm" data-testid="camera-says">
          {standing.is === 'opening' && 'Opening the camera …'}
          {standing.is === 'looking' &&
            (standing.crowded ? 'Several codes in sight: come closer to the one you mean.' : 'Hold one code on the line.')}
        </p>
        {lamp && (
          <Button
            tall
            className="absolute top-2 right-2"
            aria-pressed={lamp.on}
            onClick={() => {
              const wanted = { advanced: [{ torch: !lamp.on } as MediaTrackConstraintSet] };
              void lamp.track.applyConstraints(wanted).then(
                () => setLamp({ ...lamp, on: !lamp.on }),
                () => setLamp(null),
              );
            }}
          >
            {lamp.on ? 'Light off' : 'Light'}
          </Button>
        )}
      </div>
      {isOff && (
        <div className="flex items-center gap-2 p-3">
          <p role="alert" className="flex-1 font-semibold">
            {standing.is === 'fault' ? standing.says : 'The camera rests.'}
          </p>
          <Button tall onClick={again}>
            {standing.is === 'fault' ? 'Try again' : 'Look again'}
          </Button>
          <Button tall onClick={onClose}>
            Close
          </Button>
        </div>
      )}
    </section>
  );
}

function nextPicture(shown: HTMLVideoElement): Promise<void> {
  return new Promise((resolve) => {
    if ('requestVideoFrameCallback' in shown) shown.requestVideoFrameCallback(() => resolve());
    else setTimeout(resolve, 100);
  });
}

// Only what the strip shows is read: a label that nobody sees there must not be taken.
function draw(shown: HTMLVideoElement, picture: HTMLCanvasElement): boolean {
  const { videoWidth, videoHeight } = shown;
  if (videoWidth === 0) return false;
  const width = Math.min(videoWidth, videoHeight * STRIP_RATIO);
  const height = width / STRIP_RATIO;
  const scale = Math.min(1, READ_WIDTH / width);
  picture.width = Math.round(width * scale);
  picture.height = Math.round(height * scale);
  const pen = picture.getContext('2d', { willReadFrequently: true });
  pen?.drawImage(shown, (videoWidth - width) / 2, (videoHeight - height) / 2, width, height, 0, 0, picture.width, picture.height);
  return pen !== null;
}
