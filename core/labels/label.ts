import { writeDay } from '#core/base';
import { expandUpcE, hasValidCheckDigit, unfitForGs1, writeGs1 } from '#core/items';
import { arrangementFor, LABEL_PARTS, partOf, textKey, USUAL_CONTENTS, type LabelContents, type Logo } from './contents.ts';
import type { CellBox } from './grid.ts';
import { LABEL_SIZES, type Paper } from './papers.ts';
import { SYMBOLOGIES, type Reach, type Symbology } from './symbols.ts';
import type { Need } from './texts.ts';

/** The roll on which a kind of label is printed where nobody says another. */
export const USUAL_PAPERS = {
  item: LABEL_SIZES.item,
  bin: LABEL_SIZES.shelf,
  shelf: LABEL_SIZES.item,
  order: LABEL_SIZES.shelf,
  unit: LABEL_SIZES.shelf,
  tote: LABEL_SIZES.shelf,
  parcel: LABEL_SIZES.pallet,
  badge: LABEL_SIZES.item,
} as const;

/** What somebody may choose of a code where both fit: bars in a line, or a square. */
export type LabelForm = 'bars' | 'square';
/** What a label is asked for. Prices only where customers look (D3), so `price` is null elsewhere. `more`: what is known beside it, by the
 *  keys of parts that are not said on every label. */
export type LabelRequest = {
  readonly paper?: Paper;
  readonly form?: LabelForm;
  readonly more?: Readonly<Record<string, string>>;
} & (
  | {
      kind: 'item';
      code: string;
      barcode: string | null;
      description: string;
      company: string;
      price: string | null;
      lot: string | null;
      expires: string | null;
      serial: string | null;
    }
  | { kind: 'bin'; address: string; zone: string; site: string; arrow: 'up' | 'down' | null }
  | { kind: 'shelf'; code: string; barcode: string | null; description: string; price: string; bin: string }
  | { kind: 'order'; number: string; customer: string }
  /** A slot of a cart or a tote in it: its code is that of the cart. */
  | { kind: 'tote'; cart: string; slot: number; site: string }
  /** One of an order's parcels, by its number among them. */
  | { kind: 'parcel'; order: string; customer: string; address: string; company: string; parcel: number; of: number }
  | { kind: 'badge'; badge: string; name: string; role: string; company: string }
  /** A pallet or carton with what is in it, a line each. */
  | { kind: 'unit'; sscc: string; company: string; contents: readonly string[] }
);

/** One way to draw a code. `text` is what a reader gives back: in GS1's codes the element string, with GS (0x1D) where FNC1 stands between
 *  two elements. */
export type SymbolWay = { readonly symbology: Symbology; readonly text: string };
/** The code on a label: the ways to draw it, of which the first that fits is taken, and what stands for it in letters. */
export type LabelCode = { readonly ways: readonly [SymbolWay, ...SymbolWay[]]; readonly caption: string };

/** How loud a text is on a label: what is read from the aisle, what is looked for, what is read when it is in the hand, and the rest. */
export type Voice = 'huge' | 'loud' | 'plain' | 'quiet';
export type LabelField = {
  readonly name: string;
  readonly text: string;
  readonly voice: Voice;
  readonly lines: number;
  readonly need: Need;
};

/** What stands on a label: texts from loudest to quietest, an arrow where several shelves share one beam, and one code. */
export type LabelFace = {
  readonly fields: readonly LabelField[];
  readonly arrow: 'up' | 'down' | null;
  readonly code: LabelCode;
  readonly reach: Reach;
  /** What the code cannot say and why, for the person who prints it; null where it says everything. */
  readonly unsaid: string | null;
  readonly widthMm: number;
  readonly heightMm: number;
  readonly logo?: Logo;
  /** Where everything stands, by parts, if somebody said it for labels of this size; otherwise the rule of the layout does. */
  readonly arranged?: Readonly<Record<string, CellBox>>;
};

const field =
  (need: Need) =>
  (name: string, text: string, voice: Voice, lines = 1): LabelField => ({ name, text, voice, lines, need });
const [whole, must] = [field('whole'), field('must')];
const may = (name: string, text: string, voice: Voice, lines = 1): LabelField[] =>
  text.trim() === '' ? [] : [field(voice === 'quiet' ? 'quiet' : 'may')(name, text, voice, lines)];

/** Says what stands on a label (D1, D2); `layOut` says where.
 *  Shape:  what must stand there and what the house wants there. A lot or serial of an item with a GTIN is told as GS1 elements; a bare
 *          retail code as itself; any other text as itself. Never fails: what a code cannot say is left out of it and said in `unsaid`.
 *  Source: GS1 General Specifications, section 3.2 (01, 10, 17, 21) and figure 7.11-1 (the characters of a lot or serial). */
export function composeLabel(request: LabelRequest, contents: LabelContents = USUAL_CONTENTS[request.kind]): LabelFace {
  const paper = request.paper ?? USUAL_PAPERS[request.kind];
  const { widthMm, heightMm } = paper;
  const content = contentOf(request, paper);
  const arranged = arrangementFor(contents, paper);
  return {
    ...content,
    fields: fieldsFor(request, contents, content.fields),
    code: inForm(content.code, request.form),
    ...{ widthMm, heightMm },
    ...(contents.logo ? { logo: contents.logo } : {}),
    ...(arranged ? { arranged: arranged.boxes } : {}),
  };
}

// What must be said and what is wanted, in the order of the kind; what is known beside it before the rest that is said quietly.
function fieldsFor(request: LabelRequest, { shown, texts }: LabelContents, usual: readonly LabelField[]): LabelField[] {
  const isMust = (key: string): boolean => LABEL_PARTS[request.kind].some((p) => p.key === key && p.must);
  const kept = usual.filter(({ name }) => isMust(partOf(name)) || shown.includes(partOf(name)));
  const extra = shown
    .filter((key) => key !== 'company' && !usual.some(({ name }) => partOf(name) === key))
    .flatMap((key) => may(key, sayMore(key, request.more?.[key] ?? ''), 'plain', 2));
  const words = texts.flatMap((text, n) => may(textKey(n), text, 'plain', 3));
  const company = shown.includes('company') && !usual.some((f) => f.name === 'company') ? (request.more?.['company'] ?? '') : '';
  const at = kept.findIndex((f) => f.voice === 'quiet');
  return [...kept.toSpliced(at < 0 ? kept.length : at, 0, ...extra, ...words), ...may('company', company, 'quiet', 2)];
}

const MORE: Readonly<Record<string, string>> = { supplier: 'From', received: 'Arrived', made: 'Made', printed: 'Printed' };
// A field of the company's own comes with its name.
const sayMore = (key: string, text: string): string => (text.trim() === '' || !MORE[key] ? text : `${MORE[key]} ${text}`);

/** The form that a code has. */
export const formOf = (symbology: Symbology): LabelForm => (SYMBOLOGIES[symbology].shape === 'line' ? 'bars' : 'square');

// Labels so low are for drawers.
const isDrawer = ({ heightMm }: Paper): boolean => heightMm < 35;
// The standard's label for pallets is 105 × 148 mm (A6): what is much smaller is read as a carton's.
// Source: GS1 Logistic Label Guideline, section 3.
const hasLogisticRoom = ({ widthMm, heightMm }: Paper): boolean => widthMm >= 99 && heightMm >= 99;

// What somebody chose is tried first; where it has no room the rule goes on.
function inForm(code: LabelCode, form: LabelForm | undefined): LabelCode {
  const isChosen = ({ symbology }: SymbolWay): boolean => formOf(symbology) === form;
  if (form === undefined) return code;
  const [first = code.ways[0], ...rest] = code.ways.toSorted((a, b) => Number(isChosen(b)) - Number(isChosen(a)));
  return { ...code, ways: [first, ...rest] };
}

function contentOf(request: LabelRequest, paper: Paper): Omit<LabelFace, 'widthMm' | 'heightMm'> {
  switch (request.kind) {
    case 'bin':
      return {
        fields: [
          whole('address', request.address, 'huge', 3),
          // On a drawer only the address has room.
          ...(isDrawer(paper) ? [] : may('place', `${request.zone} · ${request.site}`, 'plain')),
        ],
        arrow: request.arrow,
        code: plainCode(request.address),
        // A drawer is read by a hand that pulls it.
        reach: isDrawer(paper) ? 'hand' : 'aisle',
        unsaid: null,
      };
    case 'order':
      return {
        fields: [whole('number', request.number, 'huge'), ...may('customer', request.customer, 'loud', 2)],
        ...{ arrow: null, code: plainCode(request.number), reach: 'hand', unsaid: null },
      };
    case 'tote':
      return {
        fields: [whole('slot', `${request.cart} · ${request.slot}`, 'huge'), ...may('site', request.site, 'plain')],
        ...{ arrow: null, code: plainCode(request.cart), reach: 'hand', unsaid: null },
      };
    case 'parcel':
      return {
        fields: [
          whole('number', request.order, 'loud'),
          whole('customer', request.customer, 'loud', 4),
          // Where it goes is read by whoever carries it: all of it, or there is no label.
          ...request.address
            .split('\n')
            .filter((line) => line.trim() !== '')
            .map((line, n) => whole(`address ${n + 1}`, line, 'plain', 3)),
          ...(request.of > 1 ? [whole('parcel', `Parcel ${request.parcel} of ${request.of}`, 'plain')] : []),
          ...may('company', `From ${request.company}`, 'quiet', 2),
        ],
        ...{ arrow: null, code: plainCode(request.order), reach: 'carton', unsaid: null },
      };
    case 'badge':
      return {
        fields: [
          whole('name', request.name, 'loud', 3),
          ...may('role', request.role, 'plain'),
          ...may('company', request.company, 'quiet', 2),
        ],
        ...{ arrow: null, code: plainCode(request.badge), reach: 'hand', unsaid: null },
      };
    case 'unit': {
      const { sscc, contents, company } = request;
      return {
        fields: [
          whole('unit', `Unit ${sscc.slice(-6)}`, 'loud'),
          ...contentsOf(contents).flatMap((text, n) => may(`content ${n + 1}`, text, 'plain', 2)),
          ...may('company', company, 'quiet'),
        ],
        arrow: null,
        code: gs1Code([{ ai: '00', data: sscc }]),
        reach: hasLogisticRoom(paper) ? 'logistic' : 'carton',
        unsaid: null,
      };
    }
    case 'shelf':
      return {
        fields: [
          whole('price', request.price, 'huge'),
          ...may('description', request.description, 'loud', 5),
          ...may('code', `${request.code} · ${request.bin}`, 'plain'),
        ],
        ...{ arrow: null, code: retailCode(request.barcode) ?? plainCode(request.barcode ?? request.code), reach: 'hand', unsaid: null },
      };
    case 'item': {
      const details = [
        ['lot', request.lot && `Lot ${request.lot}`],
        ['expires', request.expires && `Expires ${writeDay(request.expires)}`],
        ['serial', request.serial && `Serial ${request.serial}`],
        ['price', request.price],
      ] as const;
      return {
        fields: [
          must('code', request.code, 'loud', 3),
          ...details.flatMap(([name, text]) => (text ? [whole(name, text, 'loud', 3)] : [])),
          ...may('description', request.description, 'plain', 8),
          ...may('company', request.company, 'quiet'),
        ],
        ...{ arrow: null, reach: 'hand' },
        ...itemCode(request),
      };
    }
  }
}

const MOST_CONTENTS = 6;
// The first of what is in a pallet, and how much more there is.
function contentsOf(contents: readonly string[]): string[] {
  const rest = contents.length - MOST_CONTENTS;
  return rest > 0 ? [...contents.slice(0, MOST_CONTENTS - 1), `and ${rest + 1} more`] : [...contents];
}

const isGtin = (code: string | null): code is string =>
  code !== null && /^(\d{8}|\d{12}|\d{13}|\d{14})$/.test(code) && hasValidCheckDigit(code);

/** The GTIN of a stored code, 14 digits: of a retail code with a right check digit, or of a UPC-E; null of anything else. */
function gtinOf(barcode: string | null): string | null {
  if (isGtin(barcode)) return barcode.padStart(14, '0');
  return barcode === null ? null : (expandUpcE(barcode)?.padStart(14, '0') ?? null);
}

function retailCode(barcode: string | null): LabelCode | null {
  if (barcode === null) return null;
  const upcA = isGtin(barcode) ? null : expandUpcE(barcode);
  const text = upcA ?? barcode;
  if (upcA === null && (!isGtin(barcode) || barcode.length === 14)) return null;
  const line = text.length === 8 ? 'ean8' : text.length === 12 ? 'upca' : 'ean13';
  const square = writeGs1([{ ai: '01', data: text.padStart(14, '0') }]);
  return {
    ways: [
      { symbology: line, text },
      { symbology: 'gs1-datamatrix', text: square },
    ],
    caption: text,
  };
}

/** A text that is a code by itself: printable ASCII as bars, or as a square where bars have no room. Other letters as a QR code: readers
 *  take its bytes for UTF-8, and those of a DataMatrix for one alphabet or the other. */
function plainCode(text: string): LabelCode {
  const bars: LabelCode['ways'] = [
    { symbology: 'code128', text },
    { symbology: 'datamatrix', text },
  ];
  return { ways: /^[ -~]+$/.test(text) ? bars : [{ symbology: 'qrcode', text }], caption: text };
}

function gs1Code(elements: readonly { ai: string; data: string }[]): LabelCode {
  const text = writeGs1(elements);
  return {
    ways: [
      { symbology: 'gs1-128', text },
      { symbology: 'gs1-datamatrix', text },
    ],
    caption: elements.map((e) => `(${e.ai})${e.data}`).join(' '),
  };
}

function itemCode(request: Extract<LabelRequest, { kind: 'item' }>): Pick<LabelFace, 'code' | 'unsaid'> {
  const { barcode, lot, expires, serial } = request;
  const gtin = gtinOf(barcode);
  const bare = retailCode(barcode) ?? plainCode(barcode ?? request.code);
  if (!lot && !serial) return { code: bare, unsaid: null };
  const faults = [['Lot', lot] as const, ['Serial', serial] as const].flatMap(([what, text]) => {
    const why = text ? unfitForGs1(text) : null;
    return why === null ? [] : [`${what} ${text} ${why}`];
  });
  if (gtin === null || faults.length > 0)
    return {
      code: bare,
      unsaid: `${faults.length > 0 ? faults.join('; ') : `${request.code} has no GTIN`}: the code names the item only.`,
    };
  const elements = [
    { ai: '01', data: gtin },
    ...(expires ? [{ ai: '17', data: expires.slice(2, 4) + expires.slice(5, 7) + expires.slice(8, 10) }] : []),
    ...(lot ? [{ ai: '10', data: lot }] : []),
    ...(serial ? [{ ai: '21', data: serial }] : []),
  ];
  return { code: gs1Code(elements), unsaid: null };
}
