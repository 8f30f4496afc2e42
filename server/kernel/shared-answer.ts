import { promisify } from 'node:util';
import { gzip } from 'node:zlib';

const WORTH_PACKING = 1024;
/** An answer is read once: packing it well takes longer than it saves on the way. */
export const QUICK_LEVEL = 1;

/** An answer that many are given: written as JSON and packed once. `gzip` is null where packing it saves nothing. */
export class SharedAnswer {
  readonly plain: Buffer;
  readonly gzip: Buffer | null;

  private constructor(plain: Buffer, gzip: Buffer | null) {
    this.plain = plain;
    this.gzip = gzip;
  }

  /** An answer by its JSON. */
  static async of(json: string): Promise<SharedAnswer> {
    const plain = Buffer.from(json);
    return new SharedAnswer(plain, plain.length < WORTH_PACKING ? null : await promisify(gzip)(plain, { level: QUICK_LEVEL }));
  }
}
