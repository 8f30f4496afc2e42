import { gridOf, isOnGrid, overlap, type CellBox } from './grid.ts';
import { isSamePaper, type Paper } from './papers.ts';

export const LABEL_KINDS = ['item', 'bin', 'shelf', 'order', 'unit', 'tote', 'parcel', 'badge'] as const;
export type LabelKind = (typeof LABEL_KINDS)[number];

/** Something that may stand on a kind of label. `must`: without it the label is worth nothing. */
export type LabelPart = { readonly key: string; readonly says: string; readonly must: boolean };

/** The picture of a company, by the file that it is kept in, in pixels. */
export type Logo = { readonly file: number; readonly width: number; readonly height: number };
/** Where everything stands on labels of a size, by the key of a part; `symbol`: the code, `arrow`: that of a shelf, `logo`: the picture. */
export type Arrangement = Paper & { readonly boxes: Readonly<Record<string, CellBox>> };

/** What a house wants on one kind of label (D2), beside what must stand there.
 *  Shape:  `shown`: keys of parts; `own:` and a number is a field of the company's own. `texts`: words of the house. `arranged`: for some
 *          sizes, where everything stands; on others the rule says it. */
export type LabelContents = {
  readonly shown: readonly string[];
  readonly texts: readonly string[];
  readonly logo: Logo | null;
  readonly arranged: readonly Arrangement[];
};

const must = (key: string, says: string): LabelPart => ({ key, says, must: true });
const may = (key: string, says: string): LabelPart => ({ key, says, must: false });
const company = may('company', 'Company');
const printed = may('printed', 'Day of print');
const ofItem = [may('supplier', 'Supplier'), may('received', 'Day of arrival')];

/** What may stand on each kind of label, beside its code: own fields of an item and words of the house come to it. */
export const LABEL_PARTS: Readonly<Record<LabelKind, readonly LabelPart[]>> = {
  item: [
    ...[must('code', 'Item code'), must('lot', 'Lot'), must('expires', 'Expiry'), must('serial', 'Serial')],
    ...[may('price', 'Price'), may('description', 'Description'), ...ofItem, may('made', 'Day of making'), printed, company],
  ],
  bin: [must('address', 'Address'), may('place', 'Zone and site'), company],
  shelf: [must('price', 'Price'), may('description', 'Description'), may('code', 'Item code and bin'), ...ofItem, printed, company],
  order: [must('number', 'Number'), may('customer', 'Customer'), printed, company],
  unit: [must('unit', 'Number'), may('content', 'What is in it'), printed, company],
  tote: [must('slot', 'Slot'), may('site', 'Site'), company],
  parcel: [
    ...[must('number', 'Number'), must('customer', 'Customer'), must('address', 'Where it goes'), must('parcel', 'Which parcel')],
    ...[printed, company],
  ],
  badge: [must('name', 'Name'), may('role', 'Role'), company],
};

const usual = (...shown: string[]): LabelContents => ({ shown, texts: [], logo: null, arranged: [] });
/** What stands on labels where a house said nothing. */
export const USUAL_CONTENTS: Readonly<Record<LabelKind, LabelContents>> = {
  item: usual('price', 'description', 'company'),
  bin: usual('place'),
  shelf: usual('description', 'code'),
  order: usual('customer'),
  unit: usual('content', 'company'),
  tote: usual('site'),
  parcel: usual('company'),
  badge: usual('role', 'company'),
};

/** Fields of the company's own stand on what is of an item. */
export const hasOwnFields = (kind: LabelKind): boolean => kind === 'item' || kind === 'shelf';
const OWN = 'own:';
/** A field of the company's own: known by its number, so that it may be renamed. */
export type OwnPart = { readonly id: number; readonly label: string };
export const ownKey = (id: number): string => `${OWN}${id}`;
export const isOwn = (key: string): boolean => key.startsWith(OWN);

export const MOST_TEXTS = 3;
/** The key of the words of the house, the first, the second or the third of them. */
export const textKey = (n: number): string => `text ${n + 1}`;

/** The part that a field of a label belongs to: lines of an address and of what is in a pallet are one. */
export const partOf = (field: string): string => field.replace(/^(address|content) \d+$/, '$1');

/** Everything that has a place on a label of a kind: texts in the order in which the rule sets them, the code, the arrow and the logo.
 *  Shape:  `own`: what the company's own fields are called, where it is said. */
export function placedParts(kind: LabelKind, contents: LabelContents, own: readonly OwnPart[] = []): LabelPart[] {
  const { shown, texts, logo } = contents;
  const called = (key: string): string => own.find((o) => ownKey(o.id) === key)?.label ?? key;
  return [
    ...LABEL_PARTS[kind].filter((p) => p.must || shown.includes(p.key)),
    ...shown.filter(isOwn).map((key) => may(key, called(key))),
    ...texts.map((text, n) => may(textKey(n), text)),
    must('symbol', 'Code to scan'),
    ...(kind === 'bin' ? [must('arrow', 'Arrow')] : []),
    ...(logo ? [may('logo', 'Logo')] : []),
  ];
}

/** The arrangement of a size, where somebody made one. */
export const arrangementFor = (contents: LabelContents, paper: Paper): Arrangement | undefined =>
  contents.arranged.find((a) => isSamePaper(a, paper));

export type ContentsError =
  | { code: 'labels.unknownPart'; part: string }
  | { code: 'labels.tooManyTexts'; most: number }
  | { code: 'labels.notPlaced'; part: string; widthMm: number; heightMm: number }
  | { code: 'labels.offGrid'; part: string }
  | { code: 'labels.partsOverlap'; part: string; over: string };

/** What is wrong with contents that somebody keyed or dragged together; null where nothing is.
 *  Shape:  `own`: the company's own fields. */
export function contentsFault(kind: LabelKind, contents: LabelContents, own: readonly OwnPart[]): ContentsError | null {
  const { shown, texts, arranged } = contents;
  const known = new Set([...LABEL_PARTS[kind].map((p) => p.key), ...(hasOwnFields(kind) ? own.map((o) => ownKey(o.id)) : [])]);
  const unknown = shown.find((key) => !known.has(key));
  if (unknown !== undefined) return { code: 'labels.unknownPart', part: unknown };
  if (texts.length > MOST_TEXTS) return { code: 'labels.tooManyTexts', most: MOST_TEXTS };
  for (const arrangement of arranged) {
    const fault = arrangementFault(kind, contents, arrangement, own);
    if (fault) return fault;
  }
  return null;
}

/** What is wrong with one arrangement: something has no place, stands beside the label or over something else. */
export function arrangementFault(
  kind: LabelKind,
  contents: LabelContents,
  { boxes, ...paper }: Arrangement,
  own: readonly OwnPart[] = [],
): ContentsError | null {
  const [grid, parts] = [gridOf(paper), placedParts(kind, contents, own)];
  for (const [n, { key, says }] of parts.entries()) {
    const box = boxes[key];
    if (!box) return { code: 'labels.notPlaced', part: says, ...paper };
    if (!isOnGrid(box, grid)) return { code: 'labels.offGrid', part: says };
    const over = parts.slice(0, n).find((p) => overlap(boxes[p.key] as CellBox, box));
    if (over) return { code: 'labels.partsOverlap', part: says, over: over.says };
  }
  const strange = Object.keys(boxes).find((key) => !parts.some((p) => p.key === key));
  return strange === undefined ? null : { code: 'labels.unknownPart', part: strange };
}

// A part has one row, and by its weight a share of those that are left.
const WEIGHTS: Readonly<Record<string, number>> = {
  ...{ code: 2, address: 3, price: 2, number: 2, name: 2, slot: 3, unit: 2 },
  ...{ lot: 2, expires: 2, serial: 2, description: 2, customer: 2, content: 3 },
};

/** Where everything stands when somebody begins to arrange a size: texts below each other, two in a row where rows are few, and the code
 *  under them, or beside them on a low label; null where the label has too few cells for so much. */
export function firstArrangement(kind: LabelKind, contents: LabelContents, paper: Paper): Arrangement | null {
  const { columns, rows } = gridOf(paper);
  const parts = placedParts(kind, contents);
  const keys = parts.map((p) => p.key).filter((key) => !CORNER.includes(key) && key !== 'symbol');
  const corner = parts.map((p) => p.key).filter((key) => CORNER.includes(key));
  const code = Math.max(2, Math.ceil(rows * 0.42));
  const below = { column: 0, row: 0, across: columns, down: rows - code };
  const beside = { column: rows, row: 0, across: columns - rows, down: rows };
  const tries: readonly [readonly (readonly string[])[], CellBox, CellBox][] = [
    [keys.map((key) => [key]), below, { column: 0, row: rows - code, across: columns, down: code }],
    [inPairs(keys), below, { column: 0, row: rows - code, across: columns, down: code }],
    [inPairs(keys), beside, { column: 0, row: 0, across: rows, down: rows }],
  ];
  for (const [lines, area, symbol] of tries) {
    const boxes = inRows(lines, area, corner);
    if (boxes) return { ...paper, boxes: { ...boxes, symbol } };
  }
  return null;
}

const CORNER = ['arrow', 'logo'];
// The first stands alone, and a last one that is left.
const inPairs = ([first = '', ...rest]: readonly string[]): string[][] => [
  [first],
  ...Array.from({ length: Math.ceil(rest.length / 2) }, (_, n) => rest.slice(2 * n, 2 * n + 2)),
];

// Lines of parts in an area, higher ones where much depends on them; what stands in the corner beside them at the right.
function inRows(lines: readonly (readonly string[])[], area: CellBox, corner: readonly string[]): Record<string, CellBox> | null {
  const aside = corner.length > 0 ? Math.max(1, Math.floor(area.across / 4)) : 0;
  const width = area.across - aside;
  const all = area.down - lines.length;
  if (all < 0 || width < 4 || corner.length > area.down) return null;
  const weights = lines.map((line) => Math.max(...line.map((key) => WEIGHTS[key] ?? 1)));
  const total = Math.max(
    1,
    weights.reduce((sum, w) => sum + w, 0),
  );
  const boxes: Record<string, CellBox> = {};
  let [row, spare] = [area.row, all];
  for (const [n, line] of lines.entries()) {
    const more = Math.min(spare, Math.round((all * (weights[n] ?? 0)) / total));
    spare -= more;
    const edges = [...line, ''].map((_, at) => area.column + Math.floor((at * width) / line.length));
    for (const [at, key] of line.entries())
      boxes[key] = { column: edges[at] ?? 0, row, across: (edges[at + 1] ?? 0) - (edges[at] ?? 0), down: 1 + more };
    row += 1 + more;
  }
  for (const [n, key] of corner.entries()) {
    const [from, to] = [n, n + 1].map((c) => area.row + Math.floor((c * area.down) / corner.length)) as [number, number];
    boxes[key] = { column: area.column + width, row: from, across: aside, down: to - from };
  }
  return boxes;
}

/** Contents whose arrangements have what is shown, and no more: what is new gets the first free row; a size that has no room for it is laid
 *  out by the rule again. */
export function withPlaces(kind: LabelKind, contents: LabelContents): LabelContents {
  const parts = placedParts(kind, contents);
  return {
    ...contents,
    arranged: contents.arranged.flatMap(({ boxes, ...paper }) => {
      const kept: Record<string, CellBox> = {};
      for (const { key } of parts) if (boxes[key]) kept[key] = boxes[key];
      for (const { key } of parts) {
        const free = kept[key] ?? freePlace(Object.values(kept), gridOf(paper));
        if (!free) return [];
        kept[key] = free;
      }
      return [{ ...paper, boxes: kept }];
    }),
  };
}

/** Contents without fields of the company's own that it gave up: they stand on no label from then on, and keep no place there.
 *  Shape:  `own`: those that it has. */
export function withoutGivenUp(kind: LabelKind, contents: LabelContents, own: readonly OwnPart[]): LabelContents {
  const shown = contents.shown.filter((key) => !isOwn(key) || own.some((o) => ownKey(o.id) === key));
  return shown.length === contents.shown.length ? contents : withPlaces(kind, { ...contents, shown });
}

// The widest place of one row that nothing stands in, the uppermost of those.
function freePlace(taken: readonly CellBox[], { columns, rows }: { columns: number; rows: number }): CellBox | null {
  for (let across = columns; across >= 1; across -= 1)
    for (let row = 0; row < rows; row += 1)
      for (let column = 0; column + across <= columns; column += 1) {
        const box = { column, row, across, down: 1 };
        if (!taken.some((other) => overlap(other, box))) return box;
      }
  return null;
}
