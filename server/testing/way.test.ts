import { beforeAll, describe, expect, it } from '@jest/globals';
import { stopsOf } from '#core/picking';
import type { FloorPlan } from '#core/places';
import { FACT_KINDS, type FactKind } from '#contract/hands';
import { World } from '../../web/hands/world.ts';
import { readFacts } from '../hands/facts.ts';
import { houseForTests } from './house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });
let goods: { item: number; bin: string }[];
beforeAll(async () => {
  // Goods that lie in one bin each, all over the building.
  goods = await house.rows(
    `SELECT f.item_id AS item, min(f.address) AS bin FROM stock_fact f JOIN item i ON i.id = f.item_id
     WHERE f.site_id = 1 AND f.use = 'shelf' AND f.pickable AND f.promisable AND f.condition = 'sound' AND i.tracking = 'none'
     GROUP BY f.item_id HAVING count(*) = 1 AND min(f.qty) > 20
       AND min(f.qty) > (SELECT coalesce(sum(p.qty), 0) + 5 FROM promise p WHERE p.item_id = f.item_id)
     ORDER BY md5(min(f.address))
     LIMIT 14`,
  );
});

async function round(): Promise<number> {
  const lines = goods.map(({ item }) => ({ item, qty: '1' }));
  const order = (await lead.ask('orders.make', { body: { customer: 1, due: '2027-01-10', lines } })).reply.id;
  await lead.ask('orders.promise', { body: { orders: [order], mode: 'whole' } });
  const made = await hand.ask('picking.make', { body: { orders: [order] } });
  expect(made.status).toBe(200);
  return made.reply.id;
}
async function onDevice(id: number): Promise<string[]> {
  const world = new World('2026-11-26');
  let next: { kind: FactKind; after: number } | null = { kind: FACT_KINDS[0], after: 0 };
  while (next) {
    const page: Awaited<ReturnType<typeof readFacts>> = await readFacts(house.db, { site: 1, since: undefined, ...next });
    world.apply(page.parts);
    next = page.next;
  }
  const job = world.round(id);
  return job ? stopsOf(job, world.book).map((s) => s.bin.address) : [];
}
const away = (id: number) => lead.ask('picking.throwAway', { params: { id } });

describe('G2 the way of a round', () => {
  it('is as far as it says, no farther than plain walking order, and the same at the desk and on a device', async () => {
    const id = await round();
    const { stopList, metres, plain, unreached } = (await lead.ask('picking.round', { params: { id } })).reply;
    expect(stopList.length).toBeGreaterThan(8);
    expect(unreached).toEqual([]);
    expect(metres).toBeGreaterThan(0);
    expect(metres).toBeLessThanOrEqual(plain ?? 0);
    expect(await onDevice(id)).toEqual(stopList.map((s) => s.address));
    await away(id);
  });

  it('is drawn: one path from the cart to the bench through every stop, as long as it is far; asked again, the same', async () => {
    const id = await round();
    const { stopList, metres } = (await lead.ask('picking.round', { params: { id } })).reply;
    const { plan, parts, stops, bench } = (await lead.ask('picking.map', { params: { id } })).reply;
    expect(stops.map((s) => s.bin)).toEqual(stopList.map((s) => s.bin));
    const [path = [], ...more] = parts;
    expect([more, path.at(-1)]).toEqual([[], bench]);
    const cells = path.slice(1).reduce((sum, c, i) => sum + Math.abs(c.x - (path[i]?.x ?? 0)) + Math.abs(c.y - (path[i]?.y ?? 0)), 0);
    expect(cells * plan.cell).toBeCloseTo(metres ?? 0, 0);
    const isOn = (s: { x: number; y: number }): boolean =>
      path.slice(1).some((to, i) => {
        const from = path[i] ?? to;
        const [x, y] = [(n: number) => (n - from.x) * (n - to.x) <= 0, (n: number) => (n - from.y) * (n - to.y) <= 0];
        return x(s.x) && y(s.y);
      });
    expect(stops.filter((s) => !isOn(s))).toEqual([]);
    expect((await lead.ask('picking.map', { params: { id } })).reply.parts).toEqual(parts);
    expect((await lead.ask('picking.map', { params: { id: 999_999 } })).problem.code).toBe('picking.unknownRound');
    await away(id);
  });

  it('a bin that is walled in is named and stands last, the others are walked; nothing is refused for it', async () => {
    const { reply } = await lead.ask('places.plan', {});
    const plan = reply.layout as FloorPlan;
    const walled = goods[0]?.bin ?? '';
    const aisle = plan.aisles.find((a) => a.bays.some((bay) => walled.startsWith(`${a.name}-${bay}`) || walled.startsWith(`${bay}-`)));
    const lane = aisle ?? plan.aisles[0];
    if (!lane) throw new Error('The demo has no aisle.');
    const length = Math.ceil(lane.bays.length / lane.sides);
    const ends = [-1, length].map((at) =>
      lane.along === 'y' ? { x: lane.x - 1, y: lane.y + at, w: 3, h: 1 } : { x: lane.x + at, y: lane.y - 1, w: 1, h: 3 },
    );
    const layout = { ...plan, things: [...plan.things, ...ends.map((box) => ({ kind: 'wall' as const, name: 'Wall', ...box }))] };
    const saved = await lead.ask('places.savePlan', { body: { revision: reply.revision, layout } });
    expect([saved.status, saved.problem?.detail]).toEqual([200, undefined]);
    const id = await round();
    const after = (await lead.ask('picking.round', { params: { id } })).reply;
    expect(after.unreached.length).toBeGreaterThan(0);
    expect(
      after.stopList
        .slice(-after.unreached.length)
        .map((s) => s.address)
        .toSorted(),
    ).toEqual(after.unreached.toSorted());
    expect(after.metres).toBeGreaterThan(0);
    await away(id);
  });
});
