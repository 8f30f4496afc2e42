import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader';
import wasm from 'zxing-wasm/reader/zxing_reader.wasm?url';
import type { Decoded, ToDecode } from './reader.ts';

// The decoder comes from this house's own server, never from a network of its maker's.
prepareZXingModule({ overrides: { locateFile: () => wasm } });

/** Those that stand on goods, bins and papers; fewer kinds are fewer misread pictures. */
const FORMATS = ['EANUPC', 'Code128', 'ITF', 'Code39', 'DataBar', 'DataMatrix', 'QRCode'] as const;

addEventListener('message', ({ data: { id, picture } }: MessageEvent<ToDecode>) => {
  const answer = (decoded: Omit<Decoded, 'id'>): void => postMessage({ id, ...decoded } satisfies Decoded);
  readBarcodes(picture, { formats: [...FORMATS], tryHarder: true, maxNumberOfSymbols: 6, textMode: 'Plain' }).then(
    (found) =>
      answer({
        codes: found
          .filter((f) => f.isValid)
          .map((f) => ({
            text: f.text,
            symbology: f.symbologyIdentifier,
            corners: [f.position.topLeft, f.position.topRight, f.position.bottomRight, f.position.bottomLeft].map(({ x, y }) => ({ x, y })),
          })),
        fault: null,
      }),
    (error: unknown) => answer({ codes: [], fault: String(error) }),
  );
});
