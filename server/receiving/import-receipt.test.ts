import { describe, expect, it } from '@jest/globals';
import type { Client } from '../testing/client.ts';
import { emptyBins, lyingOf } from '../testing/goods.ts';
import { houseForTests } from '../testing/house.ts';
import { dryRun, goAhead, jobEnd, upload } from '../testing/sheets.ts';

const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Jory Penhale' });

let made = 0;
async function newItem(tracking: 'none' | 'lotExpiry' | 'serial' = 'none'): Promise<{ id: number; code: string }> {
  made += 1;
  const code = `SHT-${made}`;
  const { reply } = await lead.ask('items.make', {
    body: { code, description: code, group: 'Test', unit: 'each', decimals: 0, tracking },
  });
  return { id: reply.id, code };
}
/** An approved purchase order of an item, at site 1 from supplier 1. */
async function ordered(item: number, qty: number): Promise<{ id: number; number: string }> {
  made += 1;
  const [order] = await house.rows<{ id: number; number: string }>(
    `WITH o AS (
       INSERT INTO purchase_order (number, supplier_id, site_id, due) VALUES ('PO-S${made}', 1, 1, today_at(1) + 3) RETURNING id, number
     ), l AS (INSERT INTO purchase_line (purchase_order_id, item_id, qty) SELECT id, ?, ? FROM o)
     SELECT id, number FROM o`,
    [item, qty],
  );
  return order ?? { id: 0, number: '' };
}
const deliveryOf = (result: Record<string, unknown> | null): number => Number(result?.['delivery']);

describe('C12 received goods from a sheet', () => {
  it('become a delivery to review, with packs, lots, dates and serials; no stock before it is posted', async () => {
    const [plain, dated, serial] = [await newItem(), await newItem('lotExpiry'), await newItem('serial')];
    const csv = [
      'Item,Quantity,Lot,Expires,Serials',
      `${plain.code},12,,,`,
      `${dated.code},5,L1,2031-05-31,`,
      `${dated.code},7,L1,,`,
      `${serial.code},,,,S1 S2 S3`,
    ].join('\n');
    const run = await dryRun(house, lead, 'receiving.import', 'came.csv', csv);
    expect(run.rows.filter((r) => r.verdict === 'fault')).toEqual([]);
    const stock = async (): Promise<unknown> =>
      (
        await house.rows(`SELECT coalesce(sum(qty), 0)::int AS n FROM balance WHERE item_id = ANY(?)`, [[plain.id, dated.id, serial.id]])
      )[0];
    const done = await goAhead(house, lead, run.job);
    expect(done).toMatchObject({ state: 'done', result: { entries: 6 } });
    expect(await stock()).toEqual({ n: 0 });
    const { reply } = await lead.ask('receiving.delivery', { params: { id: deliveryOf(done.result) } });
    expect(reply).toMatchObject({ state: 'review', supplier: null });
    await lead.ask('receiving.post', { params: { id: reply.id }, body: {} });
    expect(await stock()).toEqual({ n: 27 });
    const dates = await house.rows(`SELECT code, expires FROM lot WHERE item_id = ?`, [dated.id]);
    expect(dates).toEqual([{ code: 'L1', expires: '2031-05-31' }]);
    await house.expectCleanAudit();
  }, 60_000);

  it('the same sheet is received once, also when two people let it go ahead at once; thrown away, it may come again', async () => {
    const { code } = await newItem();
    const csv = `Item,Quantity\n${code},4\n`;
    const runs = [await dryRun(house, lead, 'receiving.import', 'a.csv', csv), await dryRun(house, lead, 'receiving.import', 'b.csv', csv)];
    const ends = await Promise.all(runs.map((r) => goAhead(house, lead, r.job)));
    expect(ends.map((e) => e.state).sort()).toEqual(['done', 'failed']);
    expect(ends.find((e) => e.state === 'failed')?.said).toMatch(
      /Row 2: This sheet was received before, as DL-\d+\. Nothing was imported\./,
    );
    const first = deliveryOf(ends.find((e) => e.state === 'done')?.result ?? null);
    await lead.ask('receiving.throwAway', { params: { id: first } });
    const again = await dryRun(house, lead, 'receiving.import', 'a.csv', csv);
    expect(again.rows).toMatchObject([{ verdict: 'new' }]);
    expect((await goAhead(house, lead, again.job)).state).toBe('done');
    const { problem } = await lead.ask('receiving.takeUp', { params: { id: first } });
    expect(problem.code).toBe('receiving.begunAgain');
  }, 60_000);

  it('a serial that is scanned at the dock between the dry run and the going ahead undoes all of it', async () => {
    const item = await newItem('serial');
    const run = await dryRun(house, lead, 'receiving.import', 's.csv', `Item,Serials\n${item.code},Z1\n${item.code},Z2\n`);
    expect(run.rows.map((r) => r.verdict)).toEqual(['new', 'new']);
    const { id } = (await hand.ask('receiving.start', { body: {} })).reply;
    await hand.ask('receiving.scan', { params: { id }, body: { code: item.code, serial: 'Z2' } });
    const end = await goAhead(house, lead, run.job);
    expect(end).toMatchObject({ state: 'failed' });
    expect(end.said).toContain('Row 3: Serial Z2: scanned in delivery');
    expect(await house.rows(`SELECT 1 FROM delivery_entry WHERE item_id = ? AND serial = 'Z1'`, [item.id])).toEqual([]);
  }, 60_000);

  it('of orders: joins the delivery in which a hand receives one of them, and leaves it to the hand', async () => {
    const item = await newItem();
    const order = await ordered(item.id, 10);
    const open = (await hand.ask('receiving.start', { body: { purchaseOrder: order.number } })).reply;
    await hand.ask('receiving.scan', { params: { id: open.id }, body: { code: item.code, packs: '4' } });
    const { id: file } = await upload(lead, 'rest.csv', `Item,Quantity\n${item.code},6\n`);
    const { reply } = await lead.ask('receiving.import', { body: { file, orders: [order.id] } });
    await jobEnd(house, lead, reply.job);
    const done = await goAhead(house, lead, reply.job);
    expect(deliveryOf(done.result)).toBe(open.id);
    const read = (await lead.ask('receiving.delivery', { params: { id: open.id } })).reply;
    expect(read.state).toBe('scanning');
    await hand.ask('receiving.finish', { params: { id: open.id } });
    expect((await lead.ask('receiving.post', { params: { id: open.id }, body: {} })).reply.pieces).toBe('10');
    const [line] = await house.rows(`SELECT received::int AS received FROM purchase_line WHERE purchase_order_id = ?`, [order.id]);
    expect(line).toEqual({ received: 10 });
    await house.expectCleanAudit();
  }, 60_000);

  it('a sheet of 2,000 rows is judged and written; a fault in the last one keeps all out', async () => {
    const { code, id } = await newItem();
    const rows = Array.from({ length: 2000 }, (_, n) => `${code},${n + 1}`);
    const bad = await dryRun(house, lead, 'receiving.import', 'big.csv', ['Item,Quantity', ...rows.slice(1), `${code},x`].join('\n'));
    expect(bad.result).toMatchObject({ rows: 2000, faults: 1 });
    expect((await goAhead(house, lead, bad.job)).state).toBe('checked');
    expect(await house.rows(`SELECT 1 FROM delivery_entry WHERE item_id = ?`, [id])).toEqual([]);
    const good = await dryRun(house, lead, 'receiving.import', 'big.csv', ['Item,Quantity', ...rows].join('\n'));
    expect(await goAhead(house, lead, good.job)).toMatchObject({ state: 'done', result: { entries: 2000 } });
    const [sum] = await house.rows(`SELECT sum(qty)::int AS n FROM delivery_entry WHERE item_id = ?`, [id]);
    expect(sum).toEqual({ n: 2_001_000 });
  }, 60_000);

  it('hands may not; an empty sheet and one without its columns say so', async () => {
    expect((await hand.ask('receiving.import', { body: { file: 1 } })).status).toBe(403);
    expect((await dryRun(house, lead, 'receiving.import', 'none.csv', 'Thing,Much\nA,1\n')).said).toContain('Item');
  }, 60_000);

  it('says into which bins goods go, and what passed and failed: posted, all of it lies where the sheet says', async () => {
    const plain = await newItem();
    const [bin] = await emptyBins(house, 1, 1);
    const csv = [
      'Item,Quantity,Bin,Passed,Failed,Reason',
      `${plain.code},10,${bin?.address.toLowerCase()},,3,Damaged`,
      `${plain.code},,,4,1,dirty`,
      `${plain.code},2,,,,`,
    ].join('\n');
    const run = await dryRun(house, lead, 'receiving.import', 'looked-at.csv', csv);
    expect(run.rows.filter((r) => r.verdict === 'fault')).toEqual([]);
    const done = await goAhead(house, lead, run.job);
    const posted = await lead.ask('receiving.post', { params: { id: deliveryOf(done.result) }, body: {} });
    expect(posted.reply).toMatchObject({ pieces: '17', failed: '4' });
    expect(await lyingOf(house, plain.id)).toEqual({ ARRIVALS: 6, QUARANTINE: 4, [bin?.address ?? '']: 7 });
    await house.expectCleanAudit();
  });

  it('says what goods cost: no hand reads it, and from the posting on it is their cost', async () => {
    const [a, b] = [await newItem(), await newItem()];
    const csv = `Item;Quantity;Cost\n${a.code};10;1,50\n${a.code};5;1,75\n${b.code};1;`;
    const run = await dryRun(house, lead, 'receiving.import', 'cost.csv', csv);
    const delivery = deliveryOf((await goAhead(house, lead, run.job)).result);
    const costs = async (who: Client) =>
      (await who.ask('receiving.delivery', { params: { id: delivery } })).reply.entryList.map((e) => e.cost).toReversed();
    expect(await costs(lead)).toEqual(['1.5', '1.75', null]);
    expect(await costs(hand)).toEqual([null, null, null]);
    const cost = (item: number) => house.rows<{ cost: string | null }>(`SELECT amount_on(?, 'cost', today_at(1))::text AS cost`, [item]);
    const before = await cost(b.id);
    await lead.ask('receiving.post', { params: { id: delivery }, body: {} });
    expect(Number((await cost(a.id))[0]?.cost)).toBe(1.75);
    expect(await cost(b.id)).toEqual(before);
  });
});
