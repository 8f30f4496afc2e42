import { afterAll, describe, expect, it, jest } from '@jest/globals';
import sharp from 'sharp';
import { withCheckDigit } from '#core/items';
import {
  capitalMm,
  composeLabel,
  firstArrangement,
  LABEL_SIZES,
  LEAST_CAPITAL_MM,
  RESOLUTIONS,
  USUAL_CONTENTS,
  type Drawing,
  type LabelContents,
  type LabelFace,
  type LabelRequest,
  type LabelSize,
  type Paper,
} from '#core/labels';
import { LabelReader } from '../testing/read-label.ts';
import { drawPng, greysOf } from './draw.ts';
import { drawingOf, isFault } from './drawing.ts';

jest.setTimeout(3_600_000);
const reader = new LabelReader();
afterAll(() => reader.close());

const GTIN = withCheckDigit('500123000001');
/** What people key, paste and import. */
const HOSTILE: readonly string[] = [
  'HV-10',
  'a b c',
  '100 % pure',
  '007',
  'lower-case.7',
  'W'.repeat(40),
  'brood box with a floor, a roof, two supers, a queen excluder, ten frames each, wired and waxed, and a stand of larch, oiled',
  'ΜΕΛΙ-7',
  'Соты-12',
  'عسل ٧',
  'דבש (12)',
  'Größe Ü7 ß',
  '🐝 bee',
  '%SYSTEM%',
  '-',
  'A(21)X',
  'x'.repeat(48),
  '<b>&"\'',
];
const LOTS = Array.from({ length: 20 }, (_, n) => 'L7/A-(21)x_9*KQ.2:Z?'.slice(0, n + 1));
const item = (over: object): LabelRequest => ({
  ...{ kind: 'item', code: 'HV-10', barcode: null, description: 'Brood box, national', company: 'Quillfen' },
  ...{ price: null, lot: null, expires: null, serial: null },
  ...over,
});
/** Every kind of label, with a hostile text where somebody may have keyed one. */
const KINDS: Readonly<Record<string, (text: string, n: number) => LabelRequest>> = {
  'item by its code': (text) => item({ code: text }),
  'item with EAN-13': (text) => item({ description: text, barcode: GTIN }),
  'item with EAN-8': (text) => item({ description: text, barcode: withCheckDigit('9638507'), price: '€ 12.50' }),
  'item with UPC-A': (text) => item({ company: text, barcode: withCheckDigit('03600029145') }),
  'item with lot': (text, n) => item({ description: text, barcode: GTIN, lot: LOTS[n % LOTS.length] ?? '', expires: '2027-05-31' }),
  'item with lot and serial': (text, n) => item({ description: text, barcode: GTIN, lot: LOTS[n % LOTS.length] ?? '', serial: `S-${n}` }),
  bin: (text, n) => ({
    kind: 'bin',
    // A bin takes no longer name.
    address: text.slice(0, 40).trim(),
    zone: 'Store',
    site: 'Quillfen Yard',
    arrow: (['up', 'down', null] as const)[n % 3] ?? null,
  }),
  shelf: (text) => ({ kind: 'shelf', code: 'HV-10', barcode: GTIN, description: text, price: '€ 1,238.50', bin: 'A-01-1' }),
  order: (text) => ({ kind: 'order', number: 'O-1042', customer: text }),
  tote: (text, n) => ({ kind: 'tote', cart: 'CART-1', slot: n % 40, site: text }),
  parcel: (text, n) => ({
    ...{ kind: 'parcel', order: 'O-1042', customer: text, address: `${text}\nMill Lane 4\nQuarrington`, company: 'Quillfen' },
    ...{ parcel: 1, of: 1 + (n % 3) },
  }),
  badge: (text, n) => ({ kind: 'badge', badge: `B-${n}-${text.slice(0, 20)}`, name: text.slice(0, 60), role: 'hand', company: 'Quillfen' }),
  unit: (text, n) => ({
    ...{ kind: 'unit', sscc: withCheckDigit(`3952000${String(n).padStart(10, '0')}`), company: 'Quillfen' },
    contents: Array.from({ length: n % 9 }, () => text),
  }),
};
const SIZES = Object.keys(LABEL_SIZES) as LabelSize[];
type Case = { kind: string; size: LabelSize; dpi: (typeof RESOLUTIONS)[number]; n: number };
// Where somebody lives has no room on a drawer's label: that is refused by its name, and tried elsewhere.
const hasRoom = (kind: string, size: LabelSize): boolean => !(kind === 'parcel' && size === 'small');
const ALL = Object.keys(KINDS).flatMap((kind) =>
  SIZES.filter((size) => hasRoom(kind, size)).flatMap((size) => RESOLUTIONS.map((dpi) => ({ kind, size, dpi }))),
);
// Every kind, size and resolution in each run, each with another text from day to day; all of them with LABELS=all.
const day = Math.floor(Date.now() / 86_400_000);
const isAll = process.env['LABELS'] === 'all';
const cases: Case[] = isAll
  ? ALL.flatMap((c) => HOSTILE.map((_, n) => ({ ...c, n })))
  : ALL.map((c, i) => ({ ...c, n: (i * 7 + day) % (HOSTILE.length * LOTS.length) }));
const labelOf = ({ kind, size, n }: Case): LabelRequest => ({
  ...(KINDS[kind] as (typeof KINDS)[string])(HOSTILE[n % HOSTILE.length] ?? '', n),
  paper: LABEL_SIZES[size],
});
const nameOf = ({ kind, size, dpi, n }: Case): string =>
  `${kind}, ${size}, ${dpi} dpi, “${(HOSTILE[n % HOSTILE.length] ?? '').slice(0, 24)}” (${n})`;

/** What is wrong with where things stand: texts over each other or over the code, or out of the label; letters that are too small. */
function faultsOf(d: Drawing): string[] {
  const { box } = d.symbol;
  const boxes = [
    ...d.texts.map((t) => ({ name: t.text, left: t.x, right: t.x + t.width, top: t.top, bottom: t.bottom })),
    { name: 'the code', left: box.x, right: box.x + box.width, top: box.y, bottom: box.y + box.height },
    ...[
      { name: 'the arrow', at: d.arrow },
      { name: 'the logo', at: d.logo?.box },
    ].flatMap(({ name, at }) => (at ? [{ name, left: at.x, right: at.x + at.width, top: at.y, bottom: at.y + at.height }] : [])),
  ];
  const out = boxes.filter((b) => b.left < -0.01 || b.top < -0.01 || b.right > d.width + 0.01 || b.bottom > d.height + 0.01);
  const over = boxes.flatMap((a, i) =>
    boxes
      .slice(i + 1)
      .filter((b) => a.left < b.right - 0.01 && b.left < a.right - 0.01 && a.top < b.bottom - 0.01 && b.top < a.bottom - 0.01)
      .map((b) => `${a.name} over ${b.name}`),
  );
  const tiny = d.texts.filter((t) => capitalMm(t, d.dpi) < LEAST_CAPITAL_MM - 1e-6);
  const broken = d.dark.filter((b) => [b.x, b.y, b.width, b.height].some((v) => !Number.isInteger(v)));
  return [
    ...out.map((b) => `${b.name} leaves the label`),
    ...over,
    ...tiny.map((t) => `${t.text} is ${capitalMm(t, d.dpi).toFixed(2)} mm high`),
    ...(broken.length > 0 ? ['bars of broken dots'] : []),
  ];
}

/** As a head that is worn and a glass that is scratched show it: a quarter of a module of blur, two thirds of the contrast. */
const worn = (png: Buffer, module: number): Promise<Buffer> =>
  sharp(png)
    .blur(Math.max(0.3, module / 4))
    .linear(0.6, 60)
    .png()
    .toBuffer();

// A ring on a shaded ground.
const LOGO = await greysOf(
  await sharp(
    Buffer.from(
      '<svg xmlns="http://www.w3.org/2000/svg" width="300" height="120"><rect width="300" height="120" fill="#bbb"/>' +
        '<circle cx="60" cy="60" r="45" fill="none" stroke="#000" stroke-width="15"/></svg>',
    ),
  )
    .png()
    .toBuffer(),
);
const LOGOS = new Map([[1, LOGO]]);
/** With a logo and words of the house, arranged as somebody begins to; by the rule where a size has too few cells. */
function arrangedOf(request: LabelRequest, paper: Paper): LabelFace {
  const wanted: LabelContents = { ...USUAL_CONTENTS[request.kind], texts: ['Keep dry'], logo: { file: 1, width: 300, height: 120 } };
  const first = firstArrangement(request.kind, wanted, paper);
  return composeLabel({ ...request, paper }, { ...wanted, arranged: first ? [first] : [] });
}

/** Reads labels of these cases as strangers do, as they are and as worn print; returns what is wrong, and prints what was read. */
async function readAgain(tried: readonly Case[], faceOf: (c: Case) => LabelFace): Promise<{ wrong: string[]; arranged: number }> {
  const table = new Map<string, { read: number; worn: number; of: number }>();
  const wrong: string[] = [];
  let arranged = 0;
  // All of them take half an hour: each is told when it is found.
  const isWrong = (says: string): void => {
    wrong.push(says);
    if (isAll) process.stdout.write(`${says}\n`);
  };
  const one = async (c: Case): Promise<void> => {
    const face = faceOf(c);
    const d = drawingOf(face, c.dpi);
    if (isFault(d)) return isWrong(`${nameOf(c)}: no room`);
    if (face.arranged && !d.unsaid.some((says) => says.includes('where it was put'))) arranged += 1;
    for (const f of faultsOf(d)) isWrong(`${nameOf(c)}: ${f}`);
    const png = await drawPng(d, LOGOS);
    const [read, old] = [await reader.read(png, d.symbol), await reader.read(await worn(png, d.symbol.module), d.symbol)];
    const expected = d.symbol.symbology === 'upca' ? `0${d.symbol.text}` : d.symbol.text;
    const row = `${d.symbol.symbology.padEnd(15)} ${String(c.dpi)} dpi`;
    const was = table.get(row) ?? { read: 0, worn: 0, of: 0 };
    table.set(row, { read: was.read + Number(read === expected), worn: was.worn + Number(old === expected), of: was.of + 1 });
    if (read !== expected) isWrong(`${nameOf(c)}: ${d.symbol.symbology} of ${d.symbol.module} dots reads ${JSON.stringify(read)}`);
    else if (old !== expected) isWrong(`${nameOf(c)}: worn ${d.symbol.symbology} of ${d.symbol.module} dots reads ${JSON.stringify(old)}`);
  };
  for (let at = 0; at < tried.length; at += 2) await Promise.all(tried.slice(at, at + 2).map(one));
  const lines = [...table]
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([row, t]) => `${row}: ${t.read} of ${t.of} read, ${t.worn} as worn print`);
  process.stdout.write(`${lines.join('\n')}\n`);
  return { wrong, arranged };
}

describe('D1 D2 what is printed is read again', () => {
  it('every kind, size and head, with what people key: read to its very data, also as worn print; nothing is over another', async () => {
    expect((await readAgain(cases, (c) => composeLabel(labelOf(c)))).wrong).toEqual([]);
  });
  it('so is what somebody arranged, with a logo and words of the house: every kind and size, at another head from day to day', async () => {
    const some = isAll
      ? cases
      : cases.filter((c, i) => RESOLUTIONS.indexOf(c.dpi) === (Math.floor(i / RESOLUTIONS.length) + day) % RESOLUTIONS.length);
    const { wrong, arranged } = await readAgain(some, (c) => arrangedOf(labelOf(c), LABEL_SIZES[c.size]));
    expect(wrong).toEqual([]);
    // Most of them stand as they were arranged, or this would say little.
    expect(arranged).toBeGreaterThan(some.length / 3);
  });
});
