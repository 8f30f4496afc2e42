import {
  arrangementFor,
  gridOf,
  isOnGrid,
  isSamePaper,
  overlap,
  placedParts,
  textKey,
  withoutGivenUp,
  withPlaces,
  type Arrangement,
  type CellBox,
  type LabelContents,
  type LabelKind,
  type OwnPart,
  type Paper,
} from '#core/labels';
import type { ContentsBody } from '#contract/labels';

// Where a logo stands is asked before its file is opened: that it is one is enough.
const asContents = ({ logo, ...draft }: ContentsBody): LabelContents => ({
  ...draft,
  logo: logo === null ? null : { file: logo, width: 1, height: 1 },
});
const asBody = (draft: ContentsBody, { arranged }: LabelContents): ContentsBody => ({
  ...draft,
  arranged: arranged.map((a) => ({ ...a, boxes: { ...a.boxes } })),
});

export const partsOf = (kind: LabelKind, draft: ContentsBody, own: readonly OwnPart[] = []) => placedParts(kind, asContents(draft), own);
export const arrangedFor = (draft: ContentsBody, paper: Paper): Arrangement | undefined => arrangementFor(asContents(draft), paper);

/** A draft with something shown or hidden: arranged sizes keep their places. */
export const withShown = (kind: LabelKind, draft: ContentsBody, over: Partial<ContentsBody>): ContentsBody => {
  const changed = { ...draft, ...over };
  return asBody(changed, withPlaces(kind, asContents(changed)));
};

/** A draft without own fields that were given up while it was made. */
export function ofToday(kind: LabelKind, draft: ContentsBody, own: readonly OwnPart[]): ContentsBody {
  const contents = asContents(draft);
  const live = withoutGivenUp(kind, contents, own);
  return live === contents ? draft : asBody({ ...draft, shown: [...live.shown] }, live);
}

/** A draft without some words of the house: the others stay where they are. */
export function withoutText(kind: LabelKind, draft: ContentsBody, n: number): ContentsBody {
  const at = (key: string): string | null => {
    const place = draft.texts.findIndex((_, other) => textKey(other) === key);
    return place === n ? null : place > n ? textKey(place - 1) : key;
  };
  const arranged = draft.arranged.map(({ boxes, ...paper }) => ({
    ...paper,
    boxes: Object.fromEntries(Object.entries(boxes).flatMap(([key, box]) => (at(key) === null ? [] : [[at(key), box] as const]))),
  }));
  return withShown(kind, { ...draft, arranged }, { texts: draft.texts.toSpliced(n, 1) });
}

/** A draft with one size arranged so, or laid out by the rule again where `boxes` is null. */
export function withArranged(draft: ContentsBody, { widthMm, heightMm }: Paper, boxes: Arrangement['boxes'] | null): ContentsBody {
  const others = draft.arranged.filter((a) => !isSamePaper(a, { widthMm, heightMm }));
  return { ...draft, arranged: boxes ? [...others, { widthMm, heightMm, boxes: { ...boxes } }] : others };
}

/** What keeps a part from standing there: the edge of the label, or the name of another part; null where nothing does. */
export function inTheWay(
  parts: readonly { key: string; says: string }[],
  boxes: Arrangement['boxes'],
  key: string,
  box: CellBox,
  paper: Paper,
): string | null {
  if (!isOnGrid(box, gridOf(paper))) return 'the edge of the label';
  return parts.find((p) => p.key !== key && boxes[p.key] && overlap(boxes[p.key] as CellBox, box))?.says ?? null;
}

const KEYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
/** Where a part comes to stand by a key: an arrow moves it by a cell, with Shift it grows or shrinks; null for other keys. */
export function byKey(box: CellBox, { key, shiftKey }: { key: string; shiftKey: boolean }): CellBox | null {
  const [x, y] = KEYS[key] ?? [0, 0];
  if (x === 0 && y === 0) return null;
  return shiftKey ? { ...box, across: box.across + x, down: box.down + y } : { ...box, column: box.column + x, row: box.row + y };
}
