import { withCheckDigit } from '#core/items';
import { composeLabel, LABEL_SIZES, type LabelRequest, type LabelSize } from '#core/labels';
import { askHelper } from '#server/kernel';
import { drawLabel, type PdfRequest } from '#server/labels';
import { quantile } from './ask.ts';
import type { Row } from './places-and-items.ts';

const LATIN = 'brood box smoker hive jar lid stand super frame veil queen wax'.split(' ');
const WORDS = [...LATIN, ...'κηρύθρα соты כוורת خلية'.split(' ')];
const SIZES = Object.keys(LABEL_SIZES) as LabelSize[];

/** A label as a house prints them, no two alike. */
function made(n: number, vocabulary: readonly string[] = WORDS): LabelRequest {
  const paper = LABEL_SIZES[SIZES[n % SIZES.length] as LabelSize];
  const words = Array.from({ length: 3 + (n % 9) }, (_, i) => vocabulary[(n * 7 + i * 3) % vocabulary.length]).join(' ');
  const barcode = withCheckDigit(String(952_123_000_000 + n));
  const goods = { code: `HV-${n}`, barcode, description: `${words} ${n}` };
  const item = { ...goods, kind: 'item', company: 'Quillfen', price: null, expires: null, serial: null } as const;
  switch (n % 5) {
    case 0:
      return { kind: 'bin', address: `A-${n}-3`, zone: 'Store', site: 'Quillfen Yard', arrow: 'up', paper };
    case 1:
      return { ...item, lot: null, paper };
    case 2:
      return { ...item, lot: `L-${n}`, paper };
    case 3:
      return { kind: 'shelf', ...goods, price: '€ 38.50', bin: `T-${n}-1`, paper };
    default: {
      const sscc = withCheckDigit(`3952000${String(n).padStart(10, '0')}`);
      return { kind: 'unit', sscc, company: 'Quillfen', contents: [words], paper };
    }
  }
}

/** Labels of five kinds on five rolls: as a preview and a queue draw them, and as one PDF, by the helper that a house
 *  has it drawn by, from its beginning on. Without a database. */
export async function labelRows(): Promise<Row[]> {
  const times: number[] = [];
  for (let n = 0; n < 500; n += 1) {
    const begun = performance.now();
    drawLabel(composeLabel(made(n)));
    times.push(performance.now() - begun);
  }
  return [
    { name: 'a label laid out and drawn, none met before: p50', value: quantile(times, 0.5), unit: 'ms' },
    { name: 'a label laid out and drawn, none met before: p95', value: quantile(times, 0.95), unit: 'ms', aim: '<= 100 ms' },
    await onePdf('in five alphabets', WORDS),
    await onePdf('in Latin letters', LATIN),
  ];
}

async function onePdf(letters: string, vocabulary: readonly string[]): Promise<Row> {
  const faces = Array.from({ length: 1000 }, (_, n) => composeLabel(made(10_000 + n, vocabulary)));
  const request: PdfRequest = { faces, sheet: null, first: 0 };
  // What is broken off takes its helper along: each is timed from the beginning of one.
  const over = new AbortController();
  const broken = askHelper('labels', request, { what: 'Drawing the labels', signal: over.signal });
  over.abort(new Error('broken off'));
  await broken.catch(() => undefined);
  const begun = performance.now();
  const { faults } = await askHelper<{ faults: string[] }>('labels', request, { what: 'Drawing the labels' });
  const value = (performance.now() - begun) / 1000;
  return { name: `1000 labels ${letters} as one PDF, ${faults.length} of them without room`, value, unit: 's', aim: '<= 5 s' };
}
