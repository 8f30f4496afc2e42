import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  contentsFault,
  firstArrangement,
  LABEL_KINDS,
  LABEL_PARTS,
  ownKey,
  placedParts,
  USUAL_CONTENTS,
  withPlaces,
  type Arrangement,
  type LabelContents,
  type LabelKind,
} from './contents.ts';
import { RESOLUTIONS, mmOf } from './dots.ts';
import { dotsOfCells, gridOf, overlap, type Box, type CellBox } from './grid.ts';
import { layOutArranged } from './arranged.ts';
import { composeLabel } from './label.ts';
import { layOut } from './layout.ts';
import { capitalMm, LEAST_CAPITAL_MM } from './page.ts';
import { LABEL_SIZES, type LabelSize } from './papers.ts';
import { checkSamples, sampleLabels } from './samples.ts';
import { SYMBOLOGIES } from './symbols.ts';
import { evenTools } from './testing.ts';

const HOUSE = { company: 'Quillfen', currency: 'EUR' };
const LOGO = { file: 7, width: 300, height: 120 };
const everything = (kind: LabelKind): LabelContents => ({
  shown: [...LABEL_PARTS[kind].filter((p) => !p.must).map((p) => p.key), ...(kind === 'item' ? [ownKey(4)] : [])],
  texts: ['Keep dry'],
  logo: LOGO,
  arranged: [],
});
const arranged = (kind: LabelKind, contents = USUAL_CONTENTS[kind], size: LabelSize = 'pallet'): LabelContents => {
  const first = firstArrangement(kind, contents, LABEL_SIZES[size]);
  if (!first) throw new Error(`${kind} has no room on ${size}`);
  return { ...contents, arranged: [first] };
};
const sample = (kind: LabelKind, contents: LabelContents, size: LabelSize = 'pallet') =>
  composeLabel({ ...(sampleLabels(kind, contents, HOUSE)[0]?.request as object), paper: LABEL_SIZES[size] } as never, contents);
const meet = (a: Box, b: Box): boolean => a.x < b.x + b.width && b.x < a.x + a.width && a.y < b.y + b.height && b.y < a.y + a.height;

describe('D2 what stands on a kind of label is data', () => {
  it.each(LABEL_KINDS.map((kind) => [kind] as const))('%s: all that may stand on it stands there, each once', (kind) => {
    const contents = everything(kind);
    const names = sample(kind, contents).fields.map((f) => f.name);
    expect(new Set(names).size).toBe(names.length);
    for (const key of contents.shown) expect([key, names.some((n) => n === key || n.startsWith(`${key} `))]).toEqual([key, true]);
    expect(names).toContain('text 1');
  });
  it.each(LABEL_KINDS.map((kind) => [kind] as const))('%s: with nothing chosen it says what it is for, and no more', (kind) => {
    const bare: LabelContents = { shown: [], texts: [], logo: null, arranged: [] };
    const must = LABEL_PARTS[kind].filter((p) => p.must).map((p) => p.key);
    const names = sample(kind, bare).fields.map((f) => f.name.replace(/ \d+$/, ''));
    expect(names.length).toBeGreaterThan(0);
    expect(names.filter((n) => !must.includes(n))).toEqual([]);
  });
  it('an own field says its name, and nothing where the item has no word for it', () => {
    const contents = { ...USUAL_CONTENTS.item, shown: [ownKey(4), 'supplier'] };
    const says = (more: Record<string, string>): string[] =>
      composeLabel({ ...(sampleLabels('item', contents, HOUSE)[0]?.request as object), more } as never, contents).fields.map((f) => f.text);
    expect(says({ [ownKey(4)]: 'Warranty 2 years', supplier: 'Larkmere Joinery' })).toEqual(
      expect.arrayContaining(['Warranty 2 years', 'From Larkmere Joinery']),
    );
    expect(says({ [ownKey(4)]: '  ' }).join()).not.toContain('Warranty');
  });
  it.each<[string, Partial<LabelContents>, object]>([
    ['a part that the kind has not', { shown: ['arrow'] }, { code: 'labels.unknownPart', part: 'arrow' }],
    ['an own field that nobody made', { shown: [ownKey(9)] }, { code: 'labels.unknownPart', part: 'own:9' }],
    ['four texts', { texts: ['a', 'b', 'c', 'd'] }, { code: 'labels.tooManyTexts', most: 3 }],
  ])('%s is refused by name', (_, over, fault) => {
    expect(contentsFault('item', { ...USUAL_CONTENTS.item, ...over }, [{ id: 4, label: 'Warranty' }])).toEqual(fault);
  });
});

describe('D2 a lead arranges a label on a safe grid', () => {
  const moved = (key: string, over: Partial<CellBox> | null): Arrangement[] => {
    const [first] = arranged('item').arranged as [Arrangement];
    const { [key]: box, ...others } = first.boxes;
    return [{ ...first, boxes: over ? { ...others, [key]: { ...(box as CellBox), ...over } } : others }];
  };
  it.each<[string, Arrangement[], object]>([
    ['beside the label', moved('code', { column: 24 }), { code: 'labels.offGrid', part: 'Item code' }],
    ['of no size', moved('code', { down: 0 }), { code: 'labels.offGrid', part: 'Item code' }],
    ['over another', moved('lot', { row: 0 }), { code: 'labels.partsOverlap', part: 'Lot', over: 'Item code' }],
    ['nowhere', moved('lot', null), { code: 'labels.notPlaced', part: 'Lot' }],
    ['that does not stand there', moved('customer', { column: 0 }), { code: 'labels.unknownPart', part: 'customer' }],
  ])('a part %s is refused by name', (_, arrangedSo, fault) => {
    expect(contentsFault('item', { ...USUAL_CONTENTS.item, arranged: arrangedSo }, [])).toMatchObject(fault);
  });
  it.each(LABEL_KINDS.map((kind) => [kind] as const))('%s: begins with everything in its place, and reads at every head', (kind) => {
    for (const contents of [USUAL_CONTENTS[kind], everything(kind)]) {
      const made = arranged(kind, contents);
      expect(contentsFault(kind, made, [{ id: 4, label: 'Warranty' }])).toBeNull();
      const checks = checkSamples(kind, made, LABEL_SIZES.pallet, HOUSE, evenTools);
      let next = checks.next();
      while (!next.done) next = checks.next();
      const [usual] = next.value;
      expect(usual).toMatchObject({ misses: [], dpi: [...RESOLUTIONS], isLabel: true });
    }
  });
  it('keeps its places when something is shown or hidden: what is new gets a free row, or the rule lays the size out', () => {
    const made = arranged('item');
    const [box] = made.arranged as [Arrangement];
    const texts = Object.entries(box.boxes).flatMap(([key, b]) => (key === 'symbol' ? [] : [b.row + b.down]));
    const symbol = { column: 0, row: Math.max(...texts), across: 24, down: gridOf(box).rows - Math.max(...texts) };
    const full = { ...made, arranged: [{ ...box, boxes: { ...box.boxes, symbol } }] };
    expect(contentsFault('item', full, [])).toBeNull();
    expect(withPlaces('item', { ...full, shown: [...full.shown, 'supplier'] }).arranged).toEqual([]);
    const less = withPlaces('item', { ...made, shown: made.shown.filter((k) => k !== 'description') });
    expect(less.arranged[0]?.boxes).not.toHaveProperty('description');
    const again = withPlaces('item', { ...less, shown: [...less.shown, 'supplier'] });
    expect(contentsFault('item', again, [])).toBeNull();
    expect(again.arranged[0]?.boxes['code']).toEqual(box.boxes['code']);
  });
  it('whatever is shown and hidden in any order, every arrangement that is left is whole', () => {
    const toggle = fc.oneof(
      fc.nat(9).map((part) => ({ part })),
      fc.constantFrom('Keep dry', 'This side up').map((text) => ({ text })),
      fc.constant({ logo: true }),
    );
    fc.assert(
      fc.property(
        fc.constantFrom(...LABEL_KINDS),
        fc.constantFrom(...(Object.keys(LABEL_SIZES) as LabelSize[])),
        fc.array(toggle, { maxLength: 12 }),
        (kind, size, toggles) => {
          const first = firstArrangement(kind, USUAL_CONTENTS[kind], LABEL_SIZES[size]);
          let now: LabelContents = { ...USUAL_CONTENTS[kind], arranged: first ? [first] : [] };
          const flip = <T>(all: readonly T[], one: T): T[] => (all.includes(one) ? all.filter((x) => x !== one) : [...all, one]);
          for (const t of toggles) {
            const may = LABEL_PARTS[kind].filter((p) => !p.must);
            const key = 'part' in t ? may[t.part % may.length]?.key : undefined;
            now = withPlaces(kind, {
              ...now,
              shown: key ? flip(now.shown, key) : now.shown,
              texts: 'text' in t ? flip(now.texts, t.text) : now.texts,
              logo: 'logo' in t ? (now.logo ? null : LOGO) : now.logo,
            });
            expect(contentsFault(kind, now, [])).toBeNull();
            // Doing it twice moves nothing.
            expect(withPlaces(kind, now)).toEqual(now);
          }
        },
      ),
      { numRuns: 400 },
    );
  });
  it('whatever stands where: no two things meet, all lie on the label, letters and modules are never too small', () => {
    const one = fc.constantFrom(...LABEL_KINDS).chain((kind) =>
      fc.record({
        kind: fc.constant(kind),
        size: fc.constantFrom(...(Object.keys(LABEL_SIZES) as LabelSize[])),
        dpi: fc.constantFrom(...RESOLUTIONS),
        cuts: fc.array(fc.tuple(fc.nat(40), fc.nat(40), fc.integer({ min: 1, max: 30 }), fc.integer({ min: 1, max: 30 })), {
          maxLength: 14,
        }),
        isFull: fc.boolean(),
      }),
    );
    let fitted = 0;
    fc.assert(
      fc.property(one, ({ kind, size, dpi, cuts, isFull }) => {
        const contents = isFull ? everything(kind) : USUAL_CONTENTS[kind];
        const paper = LABEL_SIZES[size];
        const { columns, rows } = gridOf(paper);
        const boxes: Record<string, CellBox> = {};
        for (const [n, { key }] of placedParts(kind, contents).entries()) {
          const [c = 0, r = 0, a = columns, d = Math.max(1, Math.floor(rows / 4))] = cuts[n] ?? [0, n * 3];
          const [column, row] = [c % columns, r % rows];
          const box = { column, row, across: Math.min(a, columns - column), down: Math.min(d, rows - row) };
          if (!Object.values(boxes).some((other) => overlap(other, box))) boxes[key] = box;
        }
        const face = sample(kind, { ...contents, arranged: [{ ...paper, boxes }] }, size);
        const made = layOut(face, dpi, evenTools);
        if ('code' in made) return;
        const isSo = made.unsaid.every((says) => !says.includes('where it was put'));
        const ink: Box[] = [
          ...made.texts.map((t) => ({ x: t.x, y: t.top, width: t.width, height: t.bottom - t.top })),
          made.symbol.box,
          ...(made.arrow ? [made.arrow] : []),
          ...(made.logo ? [made.logo.box] : []),
        ];
        for (const [n, a] of ink.entries()) {
          expect(a.x >= 0 && a.y >= 0 && a.x + a.width <= made.width + 0.01 && a.y + a.height <= made.height + 0.01).toBe(true);
          expect(ink.slice(0, n).filter((b) => meet({ ...a, width: a.width - 0.01, height: a.height - 0.01 }, b))).toEqual([]);
        }
        for (const t of made.texts) expect(capitalMm(t, dpi)).toBeGreaterThanOrEqual(LEAST_CAPITAL_MM - 0.01);
        expect(mmOf(made.symbol.module, dpi)).toBeGreaterThanOrEqual(SYMBOLOGIES[made.symbol.symbology].least[face.reach] - 0.001);
        if (!isSo) return;
        fitted += 1;
        // Everything is inside its own box.
        const home = dotsOfCells(boxes['symbol'] as CellBox, paper, dpi);
        expect(made.symbol.box.x >= home.x && made.symbol.box.x + made.symbol.box.width <= home.x + home.width).toBe(true);
        expect(made.symbol.box.y >= home.y && made.symbol.box.y + made.symbol.box.height <= home.y + home.height).toBe(true);
      }),
      { numRuns: 600 },
    );
    expect(fitted).toBeGreaterThan(5);
  });
  it('a label that has no room where it was put is laid out by the rule, and says so', () => {
    const made = arranged('item', USUAL_CONTENTS.item, 'item');
    const [, , long] = sampleLabels('item', made, HOUSE);
    const face = composeLabel({ ...(long?.request as object), paper: LABEL_SIZES.item } as never, {
      ...made,
      arranged: made.arranged.map((a) => ({ ...a, boxes: { ...a.boxes, lot: { column: 0, row: 0, across: 2, down: 1 } } })),
    });
    const drawn = layOut(face, 203, evenTools);
    expect('unsaid' in drawn && drawn.unsaid).toContain(
      '“Lot LOT-2207/B-000000041” has no room where it was put: this label is laid out by the rule.',
    );
    expect('texts' in drawn && drawn.texts.map((t) => t.text).join(' ')).toContain('LOT-2207/B-000000041');
  });
  it('what a square holds and its box has no room to say in letters is told', () => {
    const made = arranged('item', USUAL_CONTENTS.item, 'shelf');
    const [first] = made.arranged as [Arrangement];
    const symbol = { column: 0, row: (first.boxes['symbol'] as CellBox).row, across: 3, down: 2 };
    const face = sample('item', { ...made, arranged: [{ ...first, boxes: { ...first.boxes, symbol } }] }, 'shelf');
    const drawn = layOut(face, 203, evenTools);
    expect('symbol' in drawn && drawn.symbol.symbology).toBe('gs1-datamatrix');
    expect('texts' in drawn && drawn.texts.some((t) => t.field === 'caption')).toBe(false);
    expect('unsaid' in drawn && drawn.unsaid).toContain(`“${face.code.caption}” has no room on this label.`);
  });
  it('who arranges a label sees it as it is arranged, without what has no room', () => {
    const made = arranged('item', USUAL_CONTENTS.item, 'item');
    const [first] = made.arranged as [Arrangement];
    for (const part of ['lot', 'symbol']) {
      const boxes = { ...first.boxes, [part]: { ...(first.boxes[part] as CellBox), across: 1 } };
      const { drawing, noRoom } = layOutArranged(sample('item', made, 'item'), boxes, 203, evenTools);
      expect(noRoom).toEqual([part]);
      expect([drawing.texts.some((t) => t.field === 'lot'), drawing.dark.length > 0]).toEqual([part !== 'lot', part !== 'symbol']);
      expect(drawing.texts.some((t) => t.field === 'code')).toBe(true);
    }
  });
  it('a logo gives way before the code changes its form', () => {
    const forms = [null, LOGO].map((logo) => {
      const face = sample('item', { ...USUAL_CONTENTS.item, logo }, 'small');
      const made = layOut(face, 203, evenTools);
      return 'symbol' in made ? made.symbol.symbology : null;
    });
    expect(forms[0]).toBe(forms[1]);
    const made = layOut(sample('item', { ...USUAL_CONTENTS.item, logo: LOGO }), 203, evenTools);
    const box = 'logo' in made ? made.logo?.box : undefined;
    expect((box?.width ?? 0) / (box?.height ?? 1)).toBeCloseTo(2.5, 0);
  });
});
