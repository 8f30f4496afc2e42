import { beforeAll, describe, expect, it } from '@jest/globals';
import type { BinId, Qty } from '#core/base';
import { meaningBy, type Meaning } from '#core/floor';
import { suggestFor } from '#core/moves';
import { FACT_KINDS, type FactKind } from '#contract/hands';
import type { Scanned } from '#contract/desk';
import { World } from '../../web/hands/world.ts';
import { readFacts } from '../hands/facts.ts';
import { houseForTests } from './house.ts';

// A serial is moved by hand, so that a text means a lot and a serial: the ledger does not know of it.
const { house, hand } = houseForTests({ hand: 'Tobin Sallow' }, { jobs: false, proves: false });
let world: World;
let twice = '';
beforeAll(async () => {
  // A lot and a serial of the same text.
  const [lot] = await house.rows<{ item: number; code: string }>(
    `SELECT item_id AS item, code FROM lot WHERE id IN (SELECT lot_id FROM balance) LIMIT 1`,
  );
  twice = lot?.code ?? '';
  await house.rows(`INSERT INTO serial (item_id, code) SELECT id, ? FROM item WHERE tracking = 'serial' LIMIT 1`, [lot?.code]);
  await house.rows(
    `UPDATE balance
     SET serial_id = (SELECT id FROM serial WHERE code = ? LIMIT 1)
     WHERE id = (SELECT b.id FROM balance b JOIN bin ON bin.id = b.bin_id WHERE b.serial_id IS NOT NULL AND bin.site_id = 1 LIMIT 1)`,
    [lot?.code],
  );
  world = new World('2026-11-26');
  let next: { kind: FactKind; after: number } | null = { kind: FACT_KINDS[0], after: 0 };
  while (next) {
    const page: Awaited<ReturnType<typeof readFacts>> = await readFacts(house.db, { site: 1, since: undefined, ...next });
    world.apply(page.parts);
    next = page.next;
  }
}, 60_000);

/** What both can say of a scan. A device knows a paper by its number alone; of lots of several items the server lists each. */
function ofDevice(m: Meaning): unknown[] {
  switch (m.kind) {
    case 'item':
      return ['item', m.item.code, m.pack.name, m.lot, m.expires, m.serial];
    case 'bin':
      return ['bin', m.bin.address];
    case 'unreadable':
      return ['unreadable', m.fault.code];
    case 'paper':
      return ['paper', m.text];
    case 'elsewhere':
      return ['elsewhere', ...m.sites];
    default:
      return [m.kind];
  }
}
function ofServer(s: Scanned): unknown[] {
  switch (s.kind) {
    case 'item':
      return ['item', s.code, s.pack, s.lot, s.expires, s.serial];
    case 'bin':
      return ['bin', s.address];
    case 'elsewhere':
      return ['elsewhere', ...s.sites];
    case 'order':
    case 'purchaseOrder':
    case 'delivery':
    case 'round':
    case 'count':
    case 'document':
      return ['paper', s.number];
    default:
      return [s.kind];
  }
}

describe('what a scan means', () => {
  it('is the same on the device and on the server, whatever is scanned', async () => {
    const texts = await house.rows<{ text: string }>(
      `(SELECT code AS text FROM barcode ORDER BY md5(code) LIMIT 40) UNION ALL (SELECT code FROM item ORDER BY md5(code) LIMIT 20)
       UNION ALL (SELECT address FROM bin WHERE site_id IS NOT NULL ORDER BY md5(address) LIMIT 30)
       UNION ALL (SELECT lower(name) FROM bin_name WHERE site_id = 1 ORDER BY md5(name) LIMIT 10)
       UNION ALL (
         SELECT s.code
         FROM serial s
         JOIN balance b ON b.serial_id = s.id
         JOIN bin ON bin.id = b.bin_id AND bin.site_id = 1
         ORDER BY md5(s.code)
         LIMIT 10
       )
       UNION ALL (
         SELECT l.code
         FROM lot l
         WHERE id IN (SELECT lot_id FROM balance) AND (SELECT count(*) FROM lot x WHERE x.code = l.code) = 1
         ORDER BY md5(code)
         LIMIT 10
       )
       UNION ALL (SELECT number FROM purchase_order ORDER BY id LIMIT 3) UNION ALL (SELECT number FROM customer_order ORDER BY id LIMIT 3)`,
    );
    const [gtin] = await house.rows<{ gtin: string }>(`SELECT gtin FROM barcode WHERE gtin IS NOT NULL ORDER BY gtin LIMIT 1`);
    const gs1 = [
      `]C101${gtin?.gtin}17291231101L-7`,
      `(01)${gtin?.gtin}(21)S-9`,
      `https://example.org/01/${gtin?.gtin}/10/DL-LOT`,
      ']C11720260231',
      ']C10112',
      ']E09521230006201',
    ];
    const odd = [twice, 'nobody-knows', '   ', '\u00e4\u4e2d', 'x'.repeat(290), '%', '(99)', ']d2'];
    const kinds = new Set<unknown>();
    for (const text of [...texts.map((t) => t.text), ...gs1, ...odd]) {
      const answer = await hand.ask('desk.scan', { query: { code: text } });
      const server = answer.status === 200 ? ofServer(answer.reply) : ['unreadable', answer.problem.code];
      expect([text, ...ofDevice(meaningBy(world.book, text))]).toEqual([text, ...server]);
      kinds.add(server[0]);
    }
    expect([...kinds].sort()).toEqual(['bin', 'elsewhere', 'item', 'lot', 'paper', 'serial', 'several', 'unknown', 'unreadable']);
  });
});

describe('I2 where goods would best go', () => {
  it('the desk and a device say the same bin and the same reason, for many goods of many lots and numbers', async () => {
    const [arrivals] = await house.rows<{ id: BinId }>(`SELECT arrivals_bin AS id FROM site WHERE id = ?`, [1]);
    const goods = await house.rows<{ item: number; code: string; lot: string | null; qty: string }>(
      `SELECT i.id AS item, i.code, l.code AS lot, (1 + i.id * 7 % 90)::text AS qty
       FROM item i
       LEFT JOIN LATERAL (SELECT code FROM lot l WHERE l.item_id = i.id ORDER BY l.id DESC LIMIT 1) l ON true
       WHERE i.retired_at IS NULL
       ORDER BY md5(i.code)
       LIMIT 120`,
    );
    const told = [];
    for (const { item, code, lot, qty } of goods) {
      const fact = world.book.item(item);
      if (!fact || !arrivals) throw new Error(`No device knows ${code}.`);
      const ours = suggestFor({ from: arrivals.id, item: fact, lot, qty: (Number(qty) * 1000) as Qty }, world.book);
      const theirs = (await hand.ask('moves.suggest', { query: { item, qty, ...(lot ? { lot } : {}) } })).reply.suggestion;
      expect([code, theirs?.why, theirs?.address]).toEqual([code, ours?.why, ours ? world.book.bin(ours.bin)?.address : undefined]);
      told.push(theirs?.why);
    }
    expect(new Set(told).size).toBeGreaterThan(2);
  }, 60_000);
});
