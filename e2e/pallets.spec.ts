import { expect, test, type Page } from '@playwright/test';
import { withCheckDigit } from '#core/items';
import type { SentAdvice } from '../devices/supplier/write-advice.ts';
import { houseForTests, key, scan, scanFor } from './house.ts';

const house = houseForTests();

type Ordered = {
  id: number;
  number: string;
  supplier: { code: string; name: string };
  lines: { code: string; qty: number; item: number }[];
};
/** An open order of goods without lots and serials that nobody receives and nobody announced. */
async function openOrder(): Promise<Ordered> {
  const [order] = await house.rows<Ordered>(
    `SELECT o.id, o.number, json_build_object('code', s.code, 'name', s.name) AS supplier,
       json_agg(json_build_object('code', i.code, 'qty', (l.qty - l.received)::int, 'item', i.id) ORDER BY l.id) AS lines
     FROM purchase_order o
     JOIN supplier s ON s.id = o.supplier_id
     JOIN purchase_line l ON l.purchase_order_id = o.id AND l.received < l.qty
     JOIN item i ON i.id = l.item_id AND i.tracking = 'none' AND i.decimals = 0 AND i.base_unit = 'each'
     WHERE o.state = 'open' AND o.site_id = 1 AND NOT EXISTS (SELECT 1 FROM delivery_order x WHERE x.purchase_order_id = o.id)
       AND NOT EXISTS (SELECT 1 FROM notice_line n WHERE n.purchase_order_id = o.id)
     GROUP BY o.id, s.id
     HAVING count(*) > 1
     ORDER BY o.id
     LIMIT 1`,
  );
  if (!order) throw new Error('The demo expects nothing.');
  return order;
}
const send = (advice: SentAdvice) =>
  fetch(`${house.supplier}/send`, { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(advice) });
const emptyShelves = () =>
  house.rows<{ address: string }>(
    `SELECT b.address
     FROM bin b
     JOIN zone z ON z.id = b.zone_id AND z.pickable AND z.promisable
     WHERE b.site_id = 1 AND b.use = 'shelf' AND b.storage_class IS NULL AND NOT b.one_item AND b.capacity IS NULL
       AND NOT EXISTS (SELECT 1 FROM balance x WHERE x.bin_id = b.id)
     ORDER BY b.volume_ml DESC NULLS FIRST, b.weight_g DESC NULLS FIRST, b.walk
     LIMIT 3`,
  );
const standsIn = async (lead: Page, sscc: string, address: string): Promise<void> => {
  await lead.goto(`/units/${sscc}`);
  await expect(lead.getByRole('article').getByText(address, { exact: true }).first()).toBeVisible();
};

test('C1 C15 a pallet that its supplier announced is received by one scan without a connection, and carried whole', async ({ browser }) => {
  const order = await openOrder();
  const [sscc, other] = ['39520077000000001', '39520077000000002'].map(withCheckDigit) as [string, string];
  const [first, second] = order.lines;
  if (!first || !second) throw new Error('Two lines were asked for.');
  const goods = (no: number, line: Ordered['lines'][number], qty: number) => ({
    ...{ no: String(no), qty: String(qty), unitCode: 'EA', name: line.code, buyerCode: line.code },
  });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries/notices');
  // First a file that means nothing here: it is told, and nothing is taken in.
  await send({
    ...{ reference: 'DN-BAD', issued: '2026-11-20', supplier: order.supplier, buyer: 'Us', order: order.number },
    units: [{ sscc, goods: [{ ...goods(1, first, 1), unitCode: 'ZZZ' }] }],
  });
  await expect(lead.getByRole('alert').filter({ hasText: 'DN-BAD.xml was not taken in' })).toContainText('“ZZZ” is no unit', {
    timeout: 60_000,
  });
  await lead.getByRole('button', { name: 'Seen' }).click();
  await expect(lead.getByRole('alert')).toBeHidden();
  await send({
    ...{ reference: 'DN-4711', issued: '2026-11-20', due: '2031-01-31', supplier: order.supplier, buyer: 'Us', order: order.number },
    units: [
      { sscc, goods: [goods(1, first, first.qty), goods(2, second, 1)] },
      { sscc: other, goods: [goods(2, second, second.qty - 1)] },
    ],
  });
  await expect(lead.getByRole('row', { name: /DN-4711/ })).toContainText(order.number);

  const hand = await house.packed(browser, 'Tobin Sallow');
  await hand.context().setOffline(true);
  // Anybody’s first scan of the day: no order was looked for, none was chosen.
  await scan(hand, `]C100${sscc}`);
  await expect(hand.getByRole('heading', { name: `Receive ${order.number}` })).toBeVisible();
  await expect(hand.getByLabel('Last entry')).toContainText('2 things, as announced');
  process.stdout.write('acts: a pallet that was announced: 1 scans, 0 numbers, 0 presses\n');
  await scanFor(hand, `00${sscc}`, 'has come already');
  await key(hand, '2');
  await expect(hand.getByRole('status')).toContainText('A number says how many of one thing');
  await hand.reload();
  await expect(hand.getByLabel('Last entry')).toContainText('2 things, as announced');
  // The second pallet was announced to nobody here that can be trusted to be asked: it is scanned like the first.
  await scanFor(hand, `]C100${other}`, '1 thing');
  const [shelf, next] = await emptyShelves();
  await scanFor(hand, shelf?.address ?? '', `goes into ${shelf?.address}`);
  // Somebody who meets a pallet that has come is led to where it came.
  await hand.getByRole('link', { name: 'Back' }).click();
  await scan(hand, `]C100${other}`);
  await expect(hand.getByRole('heading', { name: `Receive ${order.number}` })).toBeVisible();
  await expect(hand.getByRole('status')).toContainText('has come already');
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await hand.context().setOffline(false);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });

  await lead.goto('/deliveries?show=review');
  await lead.getByRole('row', { name: new RegExp(order.number) }).dblclick();
  await lead.getByRole('button', { name: 'Post 3 entries to stock' }).dblclick();
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible();
  await standsIn(lead, other, shelf?.address ?? '');
  await standsIn(lead, sscc, 'ARRIVALS');
  await lead.getByRole('button', { name: 'Print its label' }).click();
  await expect.poll(async () => (await house.printed()).map((s) => s.title)).toContain(`Unit ${sscc}`);

  // Put away whole: the label and the bin, nothing else; the label scanned twice is one pallet.
  await hand.getByRole('link', { name: 'Put away' }).click();
  await expect(hand.getByText(first.code, { exact: true }).first()).toBeVisible({ timeout: 40_000 });
  await scanFor(hand, `]C100${sscc}`, 'with 2 things, from ARRIVALS');
  await scanFor(hand, `]C100${sscc}`, 'with 2 things, from ARRIVALS');
  await scanFor(hand, next?.address ?? '', `is in ${next?.address}`);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  await standsIn(lead, sscc, next?.address ?? '');
  // Taken back on the handheld, carried again at the desk, and taken back there.
  await hand.getByRole('button', { name: 'Undo' }).first().click();
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  await standsIn(lead, sscc, 'ARRIVALS');
  const where = lead.getByRole('combobox', { name: 'Carry it whole to' });
  await where.click();
  await where.fill(next?.address ?? '');
  await lead
    .getByRole('option')
    .filter({ hasText: next?.address ?? '' })
    .first()
    .click();
  await expect(lead.getByText(`the unit is in ${next?.address}`)).toBeVisible();
  const lies = await house.rows<{ qty: number }>(
    `SELECT sum(f.qty)::int AS qty FROM stock_fact f WHERE f.item_id = $1 AND f.address = $2`,
    [first.item, next?.address],
  );
  expect(lies).toEqual([{ qty: first.qty }]);
  await lead.goto('/deliveries/notices?state=arrived');
  await expect(lead.getByRole('row', { name: /DN-4711/ })).toBeVisible();
});

test('C15 a pallet without a label gets one of the house, and is filled by scans; pieces taken from it leave the rest together', async ({
  browser,
}) => {
  const labels = async (): Promise<string[]> => {
    return (await house.printed()).flatMap(({ title }) => /^Unit (09520099\d{10})$/.exec(title)?.[1] ?? []);
  };
  const [item] = await house.rows<{ code: string; barcode: string }>(
    `SELECT code, first_barcode(id) AS barcode FROM item
     WHERE tracking = 'none' AND decimals = 0 AND first_barcode(id) IS NOT NULL ORDER BY code LIMIT 1`,
  );
  const hand = await house.packed(browser, 'Jory Penhale');
  await hand.getByRole('link', { name: 'New delivery' }).click();
  await hand.getByRole('button', { name: 'Nobody knows from whom' }).click();
  await hand.getByRole('button', { name: 'Print a label for a pallet without one' }).click();
  await expect(hand.getByText('It waits at the printer')).toBeVisible();
  await expect.poll(async () => (await labels()).length).toBe(1);
  const [sscc] = await labels();
  await hand.getByRole('link', { name: 'Back' }).click();
  await scanFor(hand, `]C100${sscc}`, 'Nobody announced it');
  await hand.getByRole('link', { name: /nobody knows from whom/ }).click();
  await scanFor(hand, `]C100${sscc}`, 'was not announced');
  await scanFor(hand, item?.barcode ?? '', `${item?.code}: 1`);
  await key(hand, '8');
  await expect(hand.getByLabel('Open unit')).toContainText('1 thing in it');
  await hand.getByRole('button', { name: 'That is all' }).click();
  await expect(hand.getByLabel('Open unit')).toBeHidden();
  await hand.getByRole('button', { name: 'All scanned' }).click();
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  const lead = await house.desk(browser, 'Maren Oake');
  await lead.goto('/deliveries?show=review');
  await lead
    .getByRole('row', { name: /not said yet/ })
    .first()
    .dblclick();
  await lead.getByRole('button', { name: 'Post 1 entry to stock' }).click();
  await expect(lead.getByText('Posted. The goods are in stock')).toBeVisible();
  const [shelf] = await emptyShelves();
  // The device has heard of it when it is among what is to be put away.
  await hand.getByRole('link', { name: 'Put away' }).click();
  await expect(hand.getByText(item?.code ?? '', { exact: true }).first()).toBeVisible({ timeout: 40_000 });
  await hand.getByRole('link', { name: 'Back' }).click();
  await hand.getByRole('link', { name: 'Move goods' }).click();
  await scanFor(hand, 'ARRIVALS', 'From ARRIVALS');
  await scanFor(hand, item?.barcode ?? '', `1 ${item?.code}`);
  await key(hand, '3');
  await scanFor(hand, shelf?.address ?? '', `3 ${item?.code} is in ${shelf?.address}`);
  await expect(hand.getByTestId('waiting')).toBeHidden({ timeout: 40_000 });
  await lead.goto(`/units/${sscc}`);
  await expect(lead.getByLabel('What is in it')).toContainText('5');
  await expect(lead.getByLabel('What became of it')).toContainText('Taken out of this unit');
});
