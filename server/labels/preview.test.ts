import { describe, expect, it } from '@jest/globals';
import { houseForTests } from '../testing/house.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });

const lotted = async (): Promise<{ item: number; code: string }> => {
  const [row] = await house.rows<{ item: number; code: string }>(
    `SELECT i.id AS item, i.code
     FROM item i
     JOIN barcode c ON c.item_id = i.id AND c.gtin IS NOT NULL
     WHERE i.tracking IN ('lot', 'lotExpiry') AND i.retired_at IS NULL
     ORDER BY i.id
     LIMIT 1`,
  );
  return row ?? { item: 0, code: '' };
};
type OfItem = { item: number; lot?: string; form?: 'bars' | 'square'; size?: 'small' | 'pallet' };
const see = (wanted: object, who = lead) => who.ask('labels.preview', { query: { wanted: JSON.stringify(wanted) } });
const preview = (of: OfItem, who = lead) => see({ kind: 'item', lot: '', serial: '', ...of }, who);

/** What lay in the queue last, as it was drawn. */
async function lastDrawn(): Promise<string> {
  for (;;) {
    const drawn = house.nextChange('labels');
    const [last] = await house.rows<{ svg: string | null }>(`SELECT svg FROM print_job ORDER BY id DESC LIMIT 1`);
    if (last?.svg) return last.svg;
    await drawn;
  }
}

describe('D1 a label before it is printed', () => {
  it('is the drawing that is printed, for a hand as for a lead', async () => {
    const { item } = await lotted();
    for (const chosen of [{ lot: 'L-77' }, { lot: 'L-77', form: 'square' as const }, { lot: 'L'.repeat(20), size: 'small' as const }]) {
      const seen = (await preview({ item, ...chosen }, hand)).reply;
      await hand.ask('labels.print', { body: { kind: 'item', item, copies: 1, serial: '', ...chosen } });
      expect(await lastDrawn()).toBe(seen.svg);
    }
  });
  it('has the form that somebody chose where it fits, and says what it has', async () => {
    const { item } = await lotted();
    const form = async (of: { lot: string; form?: 'bars' | 'square' }): Promise<unknown> => {
      const { form: has, forms, moduleMm } = (await preview({ item, ...of })).reply;
      expect(moduleMm).toBeGreaterThanOrEqual(0.25);
      return [has, forms];
    };
    const both = ['bars', 'square'];
    expect(await form({ lot: 'L-77' })).toEqual(['bars', both]);
    expect(await form({ lot: 'L-77', form: 'square' })).toEqual(['square', expect.arrayContaining(both)]);
    expect(await form({ lot: 'L'.repeat(20), form: 'bars' })).toEqual(['square', both]);
  });
  it('says what the code cannot hold, before anything is printed', async () => {
    const { item } = await lotted();
    const before = await house.rows(`SELECT count(*) FROM print_job`);
    expect((await preview({ item, lot: 'LOT 7' })).reply.unsaid).toEqual([
      'Lot LOT 7 has a space in it, which a code cannot hold: the code names the item only.',
    ]);
    expect(await house.rows(`SELECT count(*) FROM print_job`)).toEqual(before);
  });
  it('knows how many labels the goods want here, of all and of a lot', async () => {
    const { item } = await lotted();
    const [known] = await house.rows<{ lot: string; here: number; all: number }>(
      `SELECT min(l.code) AS lot, ceil(sum(b.qty) FILTER (WHERE l.code = x.lot))::float8 AS here, ceil(sum(b.qty))::float8 AS all
       FROM balance b
       JOIN bin ON bin.id = b.bin_id AND bin.site_id = 1
       LEFT JOIN lot l ON l.id = b.lot_id
       CROSS JOIN (
         SELECT min(l.code) AS lot FROM balance b JOIN bin ON bin.id = b.bin_id AND bin.site_id = 1 JOIN lot l ON l.id = b.lot_id
         WHERE b.item_id = ?) x
       WHERE b.item_id = ?`,
      [item, item],
    );
    expect((await preview({ item })).reply.onHand).toBe(known?.all);
    expect((await preview({ item, lot: known?.lot ?? '' })).reply.onHand).toBe(known?.here);
    expect((await preview({ item, lot: 'NONE-SUCH' })).reply.onHand).toBe(0);
  });
  it('an item that does not exist, and a form and a roll that nobody has, are refused', async () => {
    expect((await preview({ item: 999_999 })).status).toBe(404);
    for (const wrong of [{ form: 'round' }, { size: 'huge' }])
      expect((await preview({ item: (await lotted()).item, ...(wrong as object) })).status).toBe(400);
  });
  it('a label that is asked for and cannot be is said in the queue, and the others are printed', async () => {
    const { item } = await lotted();
    await hand.ask('labels.print', { body: { kind: 'item', item, copies: 1, lot: '', serial: '' } });
    await lastDrawn();
    // As an older program left it: nothing of it can be laid out.
    const [old] = await house.rows<{ id: number }>(
      `INSERT INTO print_job (title, face, copies, person_id) VALUES ('Old', '{"lines": []}', 1, 1) RETURNING id`,
    );
    await hand.ask('labels.print', { body: { kind: 'item', item, copies: 1, lot: 'L-78', serial: '' } });
    expect(await lastDrawn()).toContain('L-78');
    expect(await house.rows(`SELECT state, said FROM print_job WHERE id = ?`, [old?.id ?? 0])).toEqual([
      { state: 'failed', said: 'This label was asked for by an older program: ask for it again.' },
    ]);
  });
  it('of every kind there is one to be seen, and seeing notes nothing and takes no number', async () => {
    const one = async (sql: string): Promise<number> => (await house.rows<{ id: number }>(sql))[0]?.id ?? 0;
    const bin = await one(`SELECT id FROM bin WHERE site_id = 1 AND labelled_at IS NULL LIMIT 1`);
    const packed = await one(`SELECT id FROM customer_order WHERE site_id = 1 ORDER BY id LIMIT 1`);
    await house.rows(`UPDATE customer_order SET parcels = 3 WHERE id = ?`, [packed]);
    const numbers = (await lead.ask('labels.units', {})).reply.left;
    const cart = await one(`SELECT id FROM bin WHERE site_id = 1 AND use = 'cart' LIMIT 1`);
    const badged = await one(`SELECT id FROM person WHERE badge IS NOT NULL LIMIT 1`);
    for (const [wanted, labels] of [
      [{ kind: 'bins', bins: [bin] }, 1],
      [{ kind: 'order', order: packed }, 1],
      [{ kind: 'parcels', order: packed }, 3],
      [{ kind: 'totes', bin: cart, slots: 6 }, 6],
      [{ kind: 'badge', person: badged }, 1],
      [{ kind: 'unitsAhead', count: 9 }, 1],
    ] as const) {
      const seen = await see(wanted);
      expect([wanted.kind, seen.status, seen.reply.labels, seen.reply.svg?.slice(0, 4)]).toEqual([wanted.kind, 200, labels, '<svg']);
    }
    expect(await house.rows(`SELECT labelled_at FROM bin WHERE id = ?`, [bin])).toEqual([{ labelled_at: null }]);
    expect((await lead.ask('labels.units', {})).reply.left).toBe(numbers);
  });
  it('a parcel, a slot and a badge are printed for who may have them, and refused where there are none', async () => {
    const one = async (sql: string): Promise<number> => (await house.rows<{ id: number }>(sql))[0]?.id ?? 0;
    const order = await one(`SELECT id FROM customer_order WHERE site_id = 1 AND parcels IS NULL ORDER BY id LIMIT 1`);
    const shelf = await one(`SELECT id FROM bin WHERE site_id = 1 AND use = 'shelf' LIMIT 1`);
    const badged = await one(`SELECT id FROM person WHERE badge IS NOT NULL LIMIT 1`);
    const bare = await one(`UPDATE person SET badge = NULL WHERE name = 'Odile Wrack' RETURNING id`);
    const print = async (body: object, who = lead): Promise<string> =>
      ((await who.ask('labels.print', { body: body as never })).problem as { code?: string } | undefined)?.code ?? 'printed';
    expect(await print({ kind: 'parcels', order })).toBe('labels.notPacked');
    expect(await print({ kind: 'parcels', order: 999_999 })).toBe('orders.unknownOrder');
    expect(await print({ kind: 'totes', bin: shelf, slots: 4 })).toBe('places.unknownBin');
    expect(await print({ kind: 'totes', bin: shelf, slots: 0 })).toBe('request.fields');
    expect(await print({ kind: 'badge', person: bare })).toBe('labels.noBadge');
    expect(await print({ kind: 'badge', person: 999_999 })).toBe('people.unknownPerson');
    // Whoever prints the badge of somebody could come in as them.
    expect(await print({ kind: 'badge', person: badged }, hand)).toBe('people.noRight');
    expect((await see({ kind: 'badge', person: badged }, hand)).problem.code).toBe('people.noRight');
    await house.rows(`UPDATE customer_order SET parcels = 2 WHERE id = ?`, [order]);
    expect(await print({ kind: 'parcels', order }, hand)).toBe('printed');
    expect(await print({ kind: 'badge', person: badged })).toBe('printed');
    await lastDrawn();
    const shown = async (who: typeof lead) =>
      (await who.ask('labels.jobs', { query: { show: 'waiting', limit: 500 } })).reply.jobs.filter((j) => j.title.startsWith('Badge of'));
    const [[seen], [hidden]] = [await shown(lead), await shown(hand)];
    expect([seen?.svg?.slice(0, 4), hidden?.svg, hidden?.forLeads]).toEqual(['<svg', null, true]);
    expect((await hand.ask('labels.again', { params: { id: seen?.id ?? 0 } })).problem.code).toBe('people.noRight');
    expect((await lead.ask('labels.again', { params: { id: seen?.id ?? 0 } })).status).toBe(200);
    const titles = (await house.rows<{ title: string }>(`SELECT title FROM print_job ORDER BY id DESC LIMIT 3`)).map((j) => j.title);
    expect(titles).toEqual([
      expect.stringMatching(/^Badge of /),
      expect.stringMatching(/^Parcel 2 of 2/),
      expect.stringMatching(/^Parcel 1 of 2/),
    ]);
    await house.rows(`UPDATE customer_order SET parcels = NULL WHERE parcels IS NOT NULL AND packed_at IS NULL`);
  });
  it('nonsense for a label is refused', async () => {
    for (const wanted of ['', '{', '[]', '{"kind":"flag"}', 'null'])
      expect((await lead.ask('labels.preview', { query: { wanted } })).status).toBe(400);
  });
});

describe('D3 a price on a label', () => {
  const SHOP = 3;
  const priced = async (): Promise<{ bin: number; item: number }> => {
    const [pair] = await house.rows<{ bin: number; item: number }>(
      `SELECT min(b.id) AS bin, (SELECT min(item_id) FROM item_amount WHERE kind = 'price' AND amount > 0) AS item
       FROM bin b
       JOIN zone z ON z.id = b.zone_id AND z.shows_price AND z.site_id = ${SHOP}`,
    );
    return pair ?? { bin: 0, item: 0 };
  };
  it('is in the money of the house, also after a lead says another; only a lead says it', async () => {
    const wanted = JSON.stringify({ kind: 'shelf', pairs: [await priced()] });
    const price = async (): Promise<string> =>
      /aria-label="([^,]+),/.exec((await lead.ask('labels.preview', { query: { wanted }, site: SHOP })).reply.svg ?? '')?.[1] ?? '';
    const before = await price();
    expect((await hand.ask('items.setCurrency', { body: { currency: 'JPY' } })).problem.code).toBe('people.noRight');
    await lead.ask('items.setCurrency', { body: { currency: 'JPY' } });
    expect(await price()).toBe(before.replace(/^\D+/, '¥'));
    expect(before).toMatch(/^€\d/);
    await lead.ask('items.setCurrency', { body: { currency: 'EUR' } });
  });
  it('of a shelf of another site is none of ours, and one without a price is none: nothing is printed, nor noted as right', async () => {
    const pair = await priced();
    const [bare] = await house.rows<{ item: number }>(
      `DELETE FROM item_amount WHERE kind = 'price' AND item_id = (SELECT max(item_id) FROM item_amount WHERE kind = 'price')
       RETURNING item_id AS item`,
    );
    const noted = (): Promise<unknown[]> => house.rows(`SELECT * FROM shelf_label WHERE bin_id = ? ORDER BY item_id`, [pair.bin]);
    const before = await noted();
    const print = async (site: number, item: number): Promise<number | string> => {
      const { reply, problem, status } = await lead.ask('labels.print', {
        body: { kind: 'shelf', pairs: [{ bin: pair.bin, item }] },
        site,
      });
      return status === 200 ? reply.labels : problem.code;
    };
    expect(await print(1, pair.item)).toBe('labels.nothing');
    expect(bare).toBeDefined();
    expect(await print(SHOP, bare?.item ?? 0)).toBe('labels.nothing');
    expect(await noted()).toEqual(before);
    expect(await print(SHOP, pair.item)).toBe(1);
    expect(await noted()).not.toEqual(before);
  });
});

describe('D5 the goods of an order', () => {
  it('one label for each piece that was picked, with its lot or serial; none before, and none of another site', async () => {
    const [order] = await house.rows<{ id: number; labels: number }>(
      `SELECT id, sum(copies)::int AS labels
       FROM (
         SELECT x.order_id AS id, ceil(sum(p.qty)) AS copies
         FROM picked p
         JOIN order_line x ON x.id = p.line_id
         JOIN customer_order o ON o.id = x.order_id AND o.site_id = 1
         WHERE p.returned_at IS NULL AND p.qty > 0
         GROUP BY x.order_id, p.item_id, p.lot_id, coalesce(p.serial_id::text, p.serial_out)) g
       GROUP BY id
       ORDER BY labels DESC
       LIMIT 1`,
    );
    const seen = (await see({ kind: 'goods', order: order?.id })).reply;
    expect(order?.labels).toBeGreaterThan(1);
    expect([seen.labels, seen.svg === null]).toEqual([order?.labels, false]);
    const [none] = await house.rows<{ id: number; number: string }>(
      `SELECT o.id, o.number FROM customer_order o
       WHERE o.site_id = 1 AND NOT EXISTS (SELECT 1 FROM picked p JOIN order_line x ON x.id = p.line_id WHERE x.order_id = o.id)
       ORDER BY o.id LIMIT 1`,
    );
    expect((await see({ kind: 'goods', order: none?.id })).problem.detail).toBe(
      `Nothing was picked for ${none?.number} yet: its goods have no labels.`,
    );
    const wanted = JSON.stringify({ kind: 'goods', order: order?.id });
    expect((await lead.ask('labels.preview', { query: { wanted }, site: 2 })).problem.code).toBe('orders.unknownOrder');
  });
});
