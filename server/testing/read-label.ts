import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { promisify } from 'node:util';
import sharp from 'sharp';

const run = promisify(execFile);

/** Reads labels as a stranger's scanner would: by independent programs, from pixels. */
export class LabelReader {
  private readonly folder = mkdtempSync(path.join(tmpdir(), 'dock-row-labels-'));
  private count = 0;

  /** What the code on a picture says, null where nothing can be read. In GS1's codes with GS (0x1D) where FNC1 stands between two elements.
   *  `module`: how many pixels the least square or bar has; squares that are large are looked at from farther away, as a camera does. */
  async read(png: Buffer, { symbology, module }: { symbology: string; module: number }): Promise<string | null> {
    const file = path.join(this.folder, `${(this.count += 1)}.png`);
    const shrunk = Math.max(1, Math.round(module / 6));
    writeFileSync(file, symbology === 'qrcode' && shrunk > 1 ? await smaller(png, shrunk) : png);
    try {
      // FNC1 in the first place says that it is GS1's; the reader gives it as a GS.
      if (symbology.endsWith('datamatrix')) {
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

async function smaller(png: Buffer, times: number): Promise<Buffer> {
  const { width } = await sharp(png).metadata();
  return sharp(png)
    .resize({ width: Math.round(width / times) })
    .png()
    .toBuffer();
}
