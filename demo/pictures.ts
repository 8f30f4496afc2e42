import { createHash } from 'node:crypto';
import { query, type Trx } from '#server/kernel';
import { FAMILIES } from './catalogue.ts';
import type { DemoItem } from './masters.ts';

// Plain drawings, one for each thing, on a field of 100 by 100: what it is by its outline, which of its kind by colour and detail, how
// large by how much of the field it fills.
const INK = '#1c1a17';
const FILLS = ['#e8c86a', '#96c4bb', '#d9cfbb', '#c98a5b', '#b7a6c9', '#f3ecdc', '#55978f', '#cf8d9e', '#a9b97c', '#8fa9c4'] as const;

const shape = (d: string, fill: string): string => `<path d="${d}" fill="${fill}"/>`;
const box = (x: number, y: number, w: number, h: number, fill: string, round = 1): string =>
  `<rect x="${x}" y="${y}" width="${w}" height="${h}" rx="${round}" fill="${fill}"/>`;
const disc = (x: number, y: number, r: number, fill: string): string => `<circle cx="${x}" cy="${y}" r="${r}" fill="${fill}"/>`;
const line = (d: string): string => `<path d="${d}" fill="none"/>`;
const bars = (n: number, of: (i: number) => string): string => Array.from({ length: n }, (_, i) => of(i)).join('');

type Looks = { fill: string; kind: number; size: number };
const DRAW: Readonly<Record<string, (l: Looks) => string>> = {
  HV: ({ fill, kind }) =>
    kind === 3 || kind === 4
      ? shape(kind === 3 ? 'M10 55H90V70H10Z' : 'M8 62 50 34 92 62V70H8Z', fill)
      : kind > 4
        ? box(12, 46, 76, 14, fill) + bars(kind - 3, (i) => line(`M${20 + i * 10} 46V60`))
        : box(15, 30 + kind * 8, 70, 54 - kind * 12, fill) + box(40, 42 + kind * 6, 20, 5, INK),
  FR: ({ fill, kind }) => box(16, 26, 68, 54, '#fffdf8') + box(6, 20, 88, 8, fill) + line(`M16 ${40 + kind * 6}H84M50 28V80`),
  WX: ({ fill, kind }) =>
    kind < 4 ? box(14, 22, 72, 56, fill) + bars(5, (i) => line(`M14 ${30 + i * 10}H86`)) : box(22, 36, 56, 36, fill, 6),
  JR: ({ fill, kind }) => {
    const w = [44, 46, 58, 34, 50][kind] ?? 44;
    const h = [58, 56, 42, 72, 52][kind] ?? 58;
    return (
      box(50 - w / 2 + 4, 84 - h - 12, w - 8, 12, INK) +
      box(50 - w / 2, 84 - h, w, h, fill, kind === 1 ? 2 : 10) +
      box(50 - w / 3, 84 - h / 1.6, (w * 2) / 3, h / 3, '#fffdf8')
    );
  },
  LD: ({ fill }) => disc(50, 50, 38, fill) + disc(50, 50, 28, fill) + line('M50 12V20M50 80V88M12 50H20M80 50H88'),
  FD: ({ fill, kind }) =>
    (kind < 3 ? shape('M24 30H76L70 84H30Z', fill) + line('M24 30Q50 4 76 30') : box(20, 40, 60, 36, fill, 14)) + line('M34 54H66'),
  TR: ({ fill, kind, size }) =>
    box(20, 26, 60, 54, '#fffdf8') +
    box(20, 26, 60, 16, fill) +
    bars(Math.min(6, 1 + size * 2), (i) => disc(30 + (i % 3) * 20, 54 + Math.floor(i / 3) * 16, 4 + (kind % 3), fill)),
  QG: ({ fill }) => box(40, 14, 20, 14, INK) + shape('M40 28H60Q72 36 72 50V84H28V50Q28 36 40 28Z', fill) + line('M34 62H66M50 54V70'),
  TL: ({ fill, kind }) =>
    kind === 1
      ? shape('M28 40H64V86H28Z', fill) + shape('M28 40 46 18 64 40Z', fill) + shape('M64 46 90 34V78L64 66Z', '#fffdf8')
      : kind === 2
        ? box(44, 40, 12, 50, fill) + box(14, 18, 72, 14, '#fffdf8') + bars(9, (i) => line(`M${18 + i * 8} 32V42`))
        : shape(`M46 10H${54 + kind}V70L60 90H40L46 70Z`, fill) + disc(50, 20, 3, '#fffdf8'),
  OR: ({ fill, kind }) =>
    kind < 3
      ? shape('M20 20 52 52 44 60Z', '#fffdf8') +
        shape('M80 20 48 52 56 60Z', '#fffdf8') +
        shape('M44 56 34 90H24L36 54Z', fill) +
        shape('M56 56 66 90H76L64 54Z', fill)
      : kind < 6
        ? disc(50, 50, 36, fill) + disc(50, 50, 14, '#fffdf8') + line(`M50 36V14M64 50H${78 + kind}`)
        : box(14, 40, 72, 44, fill) + bars(4, (i) => line(`M14 ${49 + i * 9}H86`)) + line('M28 40V84M72 40V84'),
  CL: ({ fill, kind }) =>
    kind === 2
      ? shape('M34 88V40L28 22H38L42 36V14H52V36L58 18H66L64 48 70 62 60 88Z', fill)
      : kind === 4
        ? shape('M14 50Q50 20 86 50Z', fill) + box(24, 50, 52, 36, '#fffdf8') + bars(5, (i) => line(`M${32 + i * 9} 50V86`))
        : shape('M36 14H64L90 34 80 48 70 42V90H30V42L20 48 10 34Z', fill) + line('M50 20V90'),
  MX: ({ fill, kind }) =>
    box(22, 24, 56, 52, fill, 8) + line('M30 76 24 92M70 76 76 92') + disc(50, 48, 12 + kind, '#fffdf8') + line('M78 34H92V24'),
  SM: ({ fill }) => box(32, 10, 36, 80, fill, 10) + box(38, 20, 24, 22, '#fffdf8') + disc(50, 62, 8, '#fffdf8'),
  MT: ({ fill, size }) => disc(40, 50, 32, fill) + disc(40, 50, 10, '#fffdf8') + bars(2 + size, (i) => line(`M40 ${82 - i * 4}H94`)),
  KT: ({ fill, kind }) =>
    box(16, 38, 68, 48, fill) +
    box(12, 28, 76, 12, fill) +
    line('M50 28V86') +
    line(`M50 28Q${30 - kind} 6 36 26M50 28Q${70 + kind} 6 64 26`),
  PK: ({ fill, kind }) =>
    kind < 2
      ? disc(50, 50, 34, fill) + disc(50, 50, 14, '#fffdf8')
      : box(16, 36, 68, 46, fill) + shape('M16 36 28 20H72L84 36Z', '#fffdf8') + line('M50 36V58'),
};

/** How a thing of the made-up company looks: an SVG of 100 by 100.
 *  Shape:  the same item, the same drawing; two of a kind differ in how much of the field they fill. */
export function drawItem(item: { code: string; description: string }): string {
  const [prefix = ''] = item.code.split('-');
  const family = FAMILIES.find((f) => f.prefix === prefix);
  const [kindName, sizeName] = item.description.split(', ');
  const kind = Math.max(0, family?.kinds.indexOf(kindName ?? '') ?? 0);
  const size = Math.max(0, family?.sizes.indexOf(sizeName ?? '') ?? 0);
  const most = Math.max(1, (family?.sizes.length ?? 1) - 1);
  const scale = 0.62 + 0.38 * (size / most);
  const draw = DRAW[prefix] ?? DRAW['KT'];
  const looks = { fill: FILLS[kind % FILLS.length] as string, kind, size };
  // What is small stands on the same floor as what is large.
  const at = `translate(${((1 - scale) * 50).toFixed(1)} ${((1 - scale) * 88).toFixed(1)}) scale(${scale.toFixed(2)})`;
  return (
    `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"><rect width="100" height="100" fill="#fffdf8"/><path d="M4 94H96" ` +
    `stroke="#cfc6b6" stroke-width="2"/>` +
    `<g transform="${at}" stroke="${INK}" stroke-width="${(2.4 / scale).toFixed(1)}" ` +
    `stroke-linejoin="round">${draw?.(looks) ?? ''}</g></svg>`
  );
}

/** Gives every item its drawing. */
export async function drawPictures(trx: Trx, items: readonly DemoItem[]): Promise<void> {
  const drawn = items.map((item) => ({ item: item.id, name: `${item.code}.svg`, bytes: Buffer.from(drawItem(item)) }));
  await query(
    trx,
    `WITH drawn AS (SELECT * FROM unnest(?::int[], ?::text[], ?::bytea[], ?::text[]) AS d(item, name, bytes, hash)),
     kept AS (
       INSERT INTO file (name, type, size, sha256, bytes)
       SELECT name, 'image/svg+xml', length(bytes), hash, bytes FROM drawn
       RETURNING id, sha256)
     INSERT INTO item_file (item_id, file_id)
     SELECT d.item, k.id FROM drawn d JOIN kept k ON k.sha256 = d.hash`,
    [
      drawn.map((d) => d.item),
      drawn.map((d) => d.name),
      drawn.map((d) => d.bytes),
      drawn.map((d) => createHash('sha256').update(d.name).update('\0').update(d.bytes).digest('hex')),
    ],
  );
}
