import { beforeAll, describe, expect, it } from '@jest/globals';
import type { RouteName } from '#contract';
import { ITEM_SORTS } from '#contract/items';
import { WRONG_LABEL_SORTS } from '#contract/labels';
import { LOT_SORTS } from '#contract/lots';
import { PURCHASE_SORTS } from '#contract/purchasing';
import { ORDER_SORTS } from '#contract/orders';
import { BIN_SORTS } from '#contract/places';
import { HOLD_SORTS, LEDGER_SORTS, STOCK_SORTS } from '#contract/stock';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Ines Farrow' }, { jobs: false });
beforeAll(async () => {
  // Holds of things that are alike in all but their number, and one without a day.
  const [item] = await house.rows<{ id: number }>(
    `SELECT item_id AS id FROM stock_fact WHERE usable AND site_id = 1 GROUP BY 1 HAVING sum(qty) > 9 LIMIT 1`,
  );
  for (let n = 0; n < 5; n += 1)
    await lead.ask('stock.hold', {
      body: { item: item?.id ?? 0, qty: 1000 as never, reason: 'Look again', ...(n % 2 ? { until: '2030-01-31' } : {}) },
    });
  await house.rows(`UPDATE zone SET shows_price = true WHERE site_id = 1 AND code = 'STORE'`);
});

type Page = { rows: readonly Record<string, unknown>[]; next: string | null };
type List = { sorts: readonly string[]; read: (query: { sort: string; after?: string; limit: number }) => Promise<Page> };

const listOf = (sorts: readonly string[], name: RouteName, rows: string, query: Record<string, string | number> = {}): List => ({
  sorts,
  read: async (asked) => {
    const { status, reply } = await lead.ask(name, { query: { ...query, ...asked } });
    if (status !== 200) throw new Error(`${name} by ${asked.sort}: ${JSON.stringify(reply)}`);
    const page = reply as unknown as Record<string, unknown>;
    return { rows: page[rows] as Page['rows'], next: page['next'] as string | null };
  },
});
const LISTS: Readonly<Record<string, List>> = {
  bins: listOf(BIN_SORTS, 'places.bins', 'bins'),
  orders: listOf(ORDER_SORTS, 'orders.list', 'orders', { state: 'all' }),
  lots: listOf(LOT_SORTS, 'lots.list', 'lots'),
  'purchase orders': listOf(PURCHASE_SORTS, 'purchasing.list', 'orders'),
  items: listOf(ITEM_SORTS, 'items.search', 'items'),
  'items that are free': listOf(ITEM_SORTS, 'items.search', 'items', { free: 'yes' }),
  'wrong labels': listOf(WRONG_LABEL_SORTS, 'labels.wrong', 'labels'),
  stock: listOf(STOCK_SORTS, 'stock.list', 'rows'),
  'stock by place': listOf(STOCK_SORTS, 'stock.list', 'rows', { by: 'place' }),
  holds: listOf(HOLD_SORTS, 'stock.holds', 'holds'),
  ledger: listOf(LEDGER_SORTS, 'stock.movements', 'movements'),
};

const MOST = 400;
async function readAll(list: List, sort: string, limit: number): Promise<string[]> {
  const rows: string[] = [];
  let after: string | undefined;
  do {
    const page = await list.read({ sort, limit, ...(after ? { after } : {}) });
    rows.push(...page.rows.map((r) => JSON.stringify(r)));
    after = page.next ?? undefined;
  } while (after !== undefined && rows.length < MOST);
  return rows.slice(0, MOST);
}

describe('a list in an order that somebody chose', () => {
  it.each(Object.keys(LISTS))(
    '%s: by every column and both ways nothing comes twice or is left out between two pages',
    async (name) => {
      const list = LISTS[name] as List;
      for (const id of list.sorts)
        for (const sort of [id, `-${id}`]) {
          const whole = await readAll(list, sort, MOST);
          const pages = await readAll(list, sort, 97);
          expect({ sort, rows: pages }).toEqual({ sort, rows: whole });
          expect({ sort, twice: whole.length - new Set(whole).size }).toEqual({ sort, twice: 0 });
          expect({ sort, rows: whole.length }).not.toEqual({ sort, rows: 0 });
        }
    },
    60_000,
  );

  it('the whole list is ordered, not the part of it that was read: the most of all comes first', async () => {
    const [most] = await house.rows<{ code: string }>(
      `SELECT i.code FROM stock_fact f JOIN item i ON i.id = f.item_id WHERE f.site_id = 1 GROUP BY i.id
        ORDER BY sum(f.qty) DESC, i.id DESC LIMIT 1`,
    );
    const { rows } = await (LISTS['items'] as List).read({ sort: '-onHand', limit: 3 });
    expect(rows[0]?.['code']).toBe(most?.code);
    expect(Number(rows[0]?.['onHand'])).toBeGreaterThanOrEqual(Number(rows[1]?.['onHand']));
  });

  it('words are in the order in which people read them, and the other way round is the other way round', async () => {
    const orders = LISTS['orders'] as List;
    const names = (await readAll(orders, 'customer', MOST)).map((r) => (JSON.parse(r) as { customer: string }).customer.toLowerCase());
    expect(names).toEqual([...names].sort());
    const [up, down] = [await readAll(orders, 'pieces', MOST), await readAll(orders, '-pieces', MOST)];
    if (up.length < MOST) expect(down).toEqual([...up].reverse());
  });

  it('F6 what can be picked whole comes page by page, and no page is empty before the last', async () => {
    for (const sort of [undefined, 'customer', '-due']) {
      const query = { ready: 'yes', limit: 1, ...(sort ? { sort } : {}) };
      const all = (await lead.ask('orders.list', { query: { ...query, limit: 500 } })).reply.orders.map((o) => o.number);
      const paged: string[] = [];
      let after: string | null = '';
      while (after !== null) {
        const page: { orders: { number: string }[]; next: string | null } = (
          await lead.ask('orders.list', { query: { ...query, ...(after ? { after } : {}) } })
        ).reply;
        if (page.next !== null) expect(page.orders).toHaveLength(1);
        paged.push(...page.orders.map((o) => o.number));
        after = page.next;
      }
      expect(all.length).toBeGreaterThan(3);
      expect(paged).toEqual(all);
    }
  });

  it('a place in one order is no place in another, and no junk is', async () => {
    const { next } = await (LISTS['bins'] as List).read({ sort: 'address', limit: 5 });
    const made = (values: unknown[]): string => Buffer.from(JSON.stringify(values)).toString('base64url');
    for (const after of [next ?? '', 'junk', made(['infinity', 1]), made(['1e9', 1]), made(['1', '1']), made(["1'; --", 1])]) {
      const { status, problem } = await lead.ask('places.bins', { query: { sort: 'items', after } });
      expect([after, status, problem.detail]).toEqual([after, 400, expect.stringContaining('Begin again')]);
    }
    for (const after of [
      made(['2026-13-45 10:00:00+00', 1]),
      made(['2026-02-30 10:00:00+00', 1]),
      made(['2026-02-20 25:00:00+00', 1]),
      made(['now', 1]),
    ])
      expect((await lead.ask('places.bins', { query: { sort: 'count', after } })).status).toBe(400);
    expect((await lead.ask('places.bins', { query: { sort: 'walk desc' } })).status).toBe(400);
  });

  it('I11 a hand that may not read costs does not learn them from an order either', async () => {
    for (const [name, sort] of [
      ['stock.list', 'cost'],
      ['stock.list', '-value'],
      ['items.search', '-cost'],
    ] as const) {
      // prettier-ignore
      const { status, problem } = await hand.ask(name, { query: { sort } });
      expect([sort, status, problem.code]).toEqual([sort, 403, 'people.noRight']);
    }
    expect((await hand.ask('items.search', { query: { sort: 'price' } })).status).toBe(200);
  });
});
