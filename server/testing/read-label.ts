import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';

const run = promisify(execFile);

/** Reads labels as a stranger's scanner would: by independent programs, from pixels. */
export class LabelReader {
  private readonly folder = mkdtempSync(path.join(tmpdir(), 'dock-row-labels-'));
  private count = 0;

  /** What the code on a picture says, null where nothing can be read. In GS1's codes with GS (0x1D) where FNC1 stands between two elements.
   *  `square`: how many pixels a module of a DataMatrix has, null for another code; its reader looks at large ones from farther away, as a
   *  camera does. */
  async read(png: Buffer, square: number | null): Promise<string | null> {
    const file = path.join(this.folder, `${(this.count += 1)}.png`);
    writeFileSync(file, png);
    try {
      // FNC1 in the first place says that it is GS1's; the reader gives it as a GS.
      if (square !== null) {
        const shrunk = Math.max(1, Math.round(square / 6));
        return (await run('dmtxread', ['-N1', '-m30000', '-G29', `-S${shrunk}`, file])).stdout.replace(/^\u001d/, '');
      }
      return (await run('zbarimg', ['-q', '--raw', '--nodbus', file])).stdout.replace(/\n$/, '');
    } catch {
      return null;
    } finally {
      rmSync(file);
    }
  }

  close(): void {
    rmSync(this.folder, { recursive: true });
  }
}
