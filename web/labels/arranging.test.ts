import { describe, expect, it } from '@jest/globals';
import { firstArrangement, LABEL_SIZES, USUAL_CONTENTS } from '#core/labels';
import type { ContentsBody } from '#contract/labels';
import { arrangedFor, byKey, inTheWay, ofToday, partsOf, withArranged, withoutText, withShown } from './arranging.ts';

const paper = LABEL_SIZES.shelf;
const usual: ContentsBody = { shown: ['place'], texts: [], logo: null, arranged: [] };
const first = firstArrangement('bin', USUAL_CONTENTS.bin, paper);
if (!first) throw new Error('A bin has room on a shelf label.');
const draft = withArranged(usual, paper, first.boxes);

describe('D2 arranging a label', () => {
  it('a size is arranged once, and by the rule again', () => {
    expect(withArranged(draft, paper, first.boxes).arranged).toHaveLength(1);
    expect(arrangedFor(draft, paper)?.boxes).toEqual(first.boxes);
    expect(arrangedFor(draft, LABEL_SIZES.item)).toBeUndefined();
    expect(withArranged(draft, paper, null)).toEqual(usual);
  });
  it('keys move by a cell, and grow with Shift', () => {
    const box = { column: 2, row: 3, across: 4, down: 1 };
    expect(byKey(box, { key: 'ArrowLeft', shiftKey: false })).toEqual({ ...box, column: 1 });
    expect(byKey(box, { key: 'ArrowDown', shiftKey: true })).toEqual({ ...box, down: 2 });
    expect(byKey(box, { key: 'Enter', shiftKey: false })).toBeNull();
  });
  it('says what is in the way: the edge, or another part by its name', () => {
    const parts = partsOf('bin', draft);
    const { address, symbol } = first.boxes;
    if (!address || !symbol) throw new Error('They have a place.');
    expect(inTheWay(parts, first.boxes, 'address', address, paper)).toBeNull();
    expect(inTheWay(parts, first.boxes, 'address', { ...address, column: -1 }, paper)).toBe('the edge of the label');
    expect(inTheWay(parts, first.boxes, 'address', symbol, paper)).toBe('Code to scan');
  });
  it('what is hidden leaves its place, and a logo gets one', () => {
    expect(withShown('bin', draft, { shown: [] }).arranged[0]?.boxes).not.toHaveProperty('place');
    const roomy = withShown('bin', draft, { shown: [] });
    expect(withShown('bin', roomy, { logo: 5 }).arranged[0]?.boxes).toHaveProperty('logo');
  });
  it('words that are taken away leave the others where they are', () => {
    const bare = { ...withShown('bin', draft, { shown: [] }), texts: ['Lift', 'Dry', 'Top'] };
    const boxes = {
      ...bare.arranged[0]?.boxes,
      ...Object.fromEntries([0, 1, 2].map((n) => [`text ${n + 1}`, { column: 3 * n, row: 20, across: 1 + n, down: 1 }])),
    };
    const three = withArranged(bare, paper, boxes);
    for (const [n, left] of [
      [1, 2],
      [0, 2],
      [0, 1],
    ].entries()) {
      const fewer = withoutText('bin', three, n);
      expect(fewer.texts).toEqual(left.map((at) => three.texts[at]));
      const placed = fewer.arranged[0]?.boxes ?? {};
      expect([placed['text 1'], placed['text 2'], placed['text 3']]).toEqual([...left.map((at) => boxes[`text ${at + 1}`]), undefined]);
      expect(placed['address']).toEqual(boxes['address']);
    }
  });
  it('an own field that is given up while a label is arranged leaves the draft, and nothing else does', () => {
    const own = [
      { id: 4, label: 'Warranty' },
      { id: 5, label: 'Colour' },
    ];
    const begun = withShown('item', withArranged({ ...usual, shown: [] }, LABEL_SIZES.pallet, {}), { shown: ['own:4', 'own:5'] });
    expect(begun.arranged[0]?.boxes).toHaveProperty('own:5');
    expect(ofToday('item', begun, own)).toBe(begun);
    const left = ofToday('item', begun, own.slice(0, 1));
    expect(left.shown).toEqual(['own:4']);
    expect(left.arranged[0]?.boxes).toEqual(
      Object.fromEntries(Object.entries(begun.arranged[0]?.boxes ?? {}).filter(([key]) => key !== 'own:5')),
    );
  });
});
