import { describe, expect, it } from '@jest/globals';
import { catalogue } from './catalogue.ts';
import { drawItem } from './pictures.ts';

describe('the drawings of the made-up goods', () => {
  const items = catalogue(() => 0.5);
  it('a jar of 30 ml and one of 720 ml look different, and so do two kinds of the same size', () => {
    const [small, large] = ['Round jar, 30 ml', 'Round jar, 720 ml'].map((description) => drawItem({ code: 'JR-1', description }));
    expect(small).not.toBe(large);
    expect(drawItem({ code: 'JR-1', description: 'Squat jar, 30 ml' })).not.toBe(small);
  });
  it('tell every item of the company from every other of its family, but for what differs by its label alone', () => {
    const looks = items.map((item) => `${item.code.slice(0, 2)} ${drawItem(item)}`);
    expect(new Set(looks).size).toBe(items.length);
  });
  it('carry no script, no address and nothing to load', () => {
    for (const item of items) expect(drawItem(item)).not.toMatch(/script|href|url\(|on\w+=|http(?!:\/\/www\.w3\.org\/2000\/svg")/);
  });
});
