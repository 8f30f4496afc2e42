import type { Seen } from './sight.ts';

type Point = { readonly x: number; readonly y: number };
/** A code that was found: its text, the symbology identifier of ISO/IEC 15424 or '' where the reader tells none, and its corners in
 *  pixels. */
export type FoundCode = { readonly text: string; readonly symbology: string; readonly corners: readonly Point[] };
export type ToDecode = { readonly id: number; readonly picture: ImageData };
export type Decoded = { readonly id: number; readonly codes: readonly FoundCode[]; readonly fault: string | null };

/** Reads the codes in a picture. `read` answers one picture after the other. */
export type CodeReader = { read(picture: HTMLCanvasElement): Promise<readonly Seen[]>; close(): void };

/** The browser's own detector, where there is one (WICG Shape Detection); no library types it. */
type OwnDetector = {
  detect(picture: HTMLCanvasElement): Promise<readonly { rawValue: string; format: string; cornerPoints: readonly Point[] }[]>;
};
type OwnDetectorMaker = { new (options: { formats: readonly string[] }): OwnDetector; getSupportedFormats(): Promise<readonly string[]> };

/** What goods and bins carry; a detector that lacks one of these would leave hands before a label that it does not see. */
const NEEDED = ['ean_13', 'ean_8', 'upc_a', 'code_128', 'data_matrix', 'qr_code'];
const WELCOME = [...NEEDED, 'upc_e', 'itf', 'code_39'];

/** Opens the best reader there is: the browser's own detector, else a decoder that is fetched now.
 *  Errors: rejects where that decoder could not be fetched. */
export async function openReader(): Promise<CodeReader> {
  return (await ownReader()) ?? decoderReader();
}

async function ownReader(): Promise<CodeReader | null> {
  const Detector = (globalThis as { BarcodeDetector?: OwnDetectorMaker }).BarcodeDetector;
  if (!Detector) return null;
  const formats = await Detector.getSupportedFormats().catch((): readonly string[] => []);
  if (!NEEDED.every((f) => formats.includes(f))) return null;
  const detector = new Detector({ formats: WELCOME.filter((f) => formats.includes(f)) });
  return {
    read: async (picture) => {
      const found = await detector.detect(picture);
      return found.map((f) => toSeen({ text: f.rawValue, symbology: '', corners: f.cornerPoints }, picture));
    },
    close: () => undefined,
  };
}

function decoderReader(): Promise<CodeReader> {
  const worker = new Worker(new URL('./decoder.worker.ts', import.meta.url), { type: 'module' });
  const waiting = new Map<number, { resolve: (codes: readonly FoundCode[]) => void; reject: (error: Error) => void }>();
  let last = 0;
  worker.addEventListener('message', ({ data }: MessageEvent<Decoded>) => {
    const asked = waiting.get(data.id);
    waiting.delete(data.id);
    if (data.fault === null) asked?.resolve(data.codes);
    else asked?.reject(new Error(data.fault));
  });
  worker.addEventListener('error', () => {
    for (const { reject } of waiting.values()) reject(new Error('The decoder could not be loaded.'));
    waiting.clear();
  });
  const decode = (picture: ImageData): Promise<readonly FoundCode[]> =>
    new Promise((resolve, reject) => {
      last += 1;
      waiting.set(last, { resolve, reject });
      worker.postMessage({ id: last, picture } satisfies ToDecode, [picture.data.buffer]);
    });
  const reader: CodeReader = {
    read: async (picture) => {
      const pen = picture.getContext('2d', { willReadFrequently: true });
      if (!pen) return [];
      const codes = await decode(pen.getImageData(0, 0, picture.width, picture.height));
      return codes.map((code) => toSeen(code, picture));
    },
    close: () => worker.terminate(),
  };
  // An empty picture fetches the decoder now: whether it can be had is known before a label is held up.
  return decode(new ImageData(16, 16)).then(
    () => reader,
    (error: Error) => {
      worker.terminate();
      throw error;
    },
  );
}

/** A found code as the screen needs it. A symbology identifier stays only where it says GS1: what a code is, its text tells otherwise. */
export function toSeen({ text, symbology, corners }: FoundCode, { width, height }: { width: number; height: number }): Seen {
  const middle = (of: (p: Point) => number): number => corners.reduce((sum, p) => sum + of(p), 0) / Math.max(1, corners.length);
  const [x, y] = [middle((p) => p.x) - width / 2, middle((p) => p.y) - height / 2];
  const gs1 = /^\](C1|d2|Q3|e\d)$/.test(symbology) ? symbology : '';
  return { code: gs1 + text, apart: Math.hypot(x, y) / (Math.min(width, height) / 2) };
}
