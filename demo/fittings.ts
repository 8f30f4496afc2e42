import { OUTSIDE, type Movement } from '#core/stock';
import { withCheckDigit } from '#core/items';
import { makeDocument, query, type Trx } from '#server/kernel';
import { refreshSearch } from '#server/items';
import { holdStock, post } from '#server/stock';
import type { Company } from './masters.ts';
import { drawPictures } from './pictures.ts';
import type { Random } from '#core/base';

/** What a company that has worked with its stock for a while has besides the stock: rooms and labels of bins, own fields, kits, price
 *  lists, shelf labels (a few of them wrong since Monday), holds, and a barn that has just begun to use bins. */
export async function fitOut(trx: Trx, company: Company, random: Random): Promise<void> {
  await sizeGoods(trx);
  await ownFields(trx, company);
  await makeKits(trx, company);
  await stockCounter(trx, company, random);
  await stockBarn(trx, company, random);
  await priceLists(trx, company, random);
  await layHolds(trx, company);
  await drawPictures(trx, company.items);
  await levelFaces(trx);
  await sizeBins(trx);
  await refreshSearch(trx, null);
}

// Wood and wax swim, glass and metal do not: about 1.6 litres a kilogram, boxed.
async function sizeGoods(trx: Trx): Promise<void> {
  await query(trx, `UPDATE item SET volume_ml = greatest(20, weight_g * 8 / 5)`);
  await query(
    trx,
    `UPDATE pack p SET weight_g = least(i.weight_g * p.units, 100000000)::int FROM item i WHERE i.id = p.item_id AND i.weight_g > 0`,
  );
}

// Twelve pick faces say how many there should be; of every other one less lies there than that, and its reserve has more.
async function levelFaces(trx: Trx): Promise<void> {
  await query(
    trx,
    `WITH faces AS (
       SELECT h.item_id, h.bin_id, f.qty, row_number() OVER (ORDER BY h.item_id) AS n
       FROM home_bin h
       JOIN bin b ON b.id = h.bin_id AND b.site_id = 1
       JOIN zone z ON z.id = b.zone_id AND z.purpose = 'pickFace'
       CROSS JOIN LATERAL (
         SELECT coalesce(sum(x.qty), 0) AS qty FROM balance x WHERE x.bin_id = h.bin_id AND x.item_id = h.item_id) f
       JOIN item i ON i.id = h.item_id AND i.tracking = 'none' AND i.decimals = 0
       WHERE f.qty >= 4 AND (
         SELECT sum(x.qty)
         FROM stock_fact x
         WHERE x.item_id = h.item_id AND x.site_id = 1 AND x.purpose = 'storage' AND x.usable) > f.qty
       ORDER BY h.item_id
       LIMIT 12)
     UPDATE home_bin h
     SET min_qty = ceil(f.qty * CASE WHEN f.n % 2 = 0 THEN 1.2 ELSE 0.4 END), max_qty = ceil(f.qty * 1.8)
     FROM faces f
     WHERE h.item_id = f.item_id AND h.bin_id = f.bin_id`,
  );
}

// After the goods lie there: every shelf has the room that such shelves have, with some to spare for what comes today; a bin of every kind
// is over-full because nobody looked.
async function sizeBins(trx: Trx): Promise<void> {
  await query(
    trx,
    `UPDATE bin SET volume_ml = CASE WHEN bin.id % 83 = 0 AND c.ml > 0 THEN greatest(1000, round(c.ml * 0.8)) ELSE
         (
           SELECT min(r)
           FROM unnest(ARRAY[60000, 120000, 240000, 480000, 960000, 1920000, 3840000, 7680000, 15360000, 99000000]) r
           WHERE r >= greatest(coalesce(c.ml, 0) * 1.6, CASE z.purpose WHEN 'pickFace' THEN 60000 WHEN 'cage' THEN 60000 ELSE 240000 END)
         ) END
     FROM zone z, bin b
     LEFT JOIN LATERAL (SELECT sum(x.qty * i.volume_ml) AS ml FROM balance x JOIN item i ON i.id = x.item_id WHERE x.bin_id = b.id) c
       ON true
     WHERE z.id = bin.zone_id AND b.id = bin.id AND bin.use = 'shelf'`,
  );
  await query(trx, `UPDATE bin SET labelled_at = now_here() - interval '60 days' WHERE id >= 100 AND id % 29 <> 0`);
  // Two lowest shelves share the beam between them.
  await query(
    trx,
    `UPDATE bin SET arrow = CASE right(address, 1) WHEN '1' THEN 'down' WHEN '2' THEN 'up' END WHERE address ~ '^[A-F]-\\d\\d-[12]$'`,
  );
  await query(
    trx,
    `UPDATE bin SET storage_class = 'cold' FROM zone z WHERE z.id = bin.zone_id AND z.purpose = 'cold' AND bin.use = 'shelf'`,
  );
}

async function ownFields(trx: Trx, company: Company): Promise<void> {
  await query(
    trx,
    `INSERT INTO own_field (label, kind, choices)
     VALUES ('Hazard', 'choice', ARRAY['none', 'flammable', 'irritant']), ('Customs number', 'text', '{}')`,
  );
  await query(
    trx,
    `UPDATE item SET own = jsonb_build_object('Customs number', (4400 + id % 37) || '.' || (10 + id % 80)) WHERE id % 4 = 0`,
  );
  await query(trx, `UPDATE item SET own = own || '{"Hazard": "irritant"}' WHERE id = ANY(?::int[])`, [
    company.items.filter((i) => i.tracking === 'lotExpiry').map((i) => i.id),
  ]);
}

// A starter hive is a hive, frames, foundation and a tool; other kits are made of three things of their kind.
async function makeKits(trx: Trx, company: Company): Promise<void> {
  const kits = company.items.filter((i) => i.group === 'Kits');
  const plain = company.items.filter((i) => i.group !== 'Kits' && i.tracking === 'none' && i.decimals === 0);
  for (const [n, kit] of kits.entries()) {
    const parts = [0, 1, 2].map((k) => plain[(n * 11 + k * 37) % plain.length]).filter((p) => p !== undefined);
    await query(
      trx,
      `INSERT INTO kit_part (kit_id, part_id, qty) SELECT ?, p, q FROM unnest(?::int[], ?::numeric[]) AS x(p, q) ON CONFLICT DO NOTHING`,
      [kit.id, parts.map((p) => p.id), parts.map((_, k) => [1, 10, 2][k])],
    );
  }
}

async function enter(
  trx: Trx,
  company: Company,
  site: number,
  lines: readonly { item: number; bin: number; qty: number }[],
): Promise<void> {
  const document = await makeDocument(trx, 'opening', { site, person: company.people['Odile Wrack'] ?? 0 });
  const movements = lines.map((l) => ({
    item: l.item,
    lot: null,
    serial: null,
    qty: l.qty * 1000,
    reason: 'Opening stock',
    from: { bin: OUTSIDE.opening, unit: null, condition: 'sound' },
    to: { bin: l.bin, unit: null, condition: 'sound' },
  }));
  await post(trx, {
    document: document.id as never,
    person: (company.people['Odile Wrack'] ?? 0) as never,
    movements: movements as unknown as Movement[],
  });
}

const siteOf = async (trx: Trx, code: string): Promise<number> =>
  (await query<{ id: number }>(trx, `SELECT id FROM site WHERE code = ?`, [code]))[0]?.id ?? 0;

// The shop: forty items on shelves with price labels; six prices changed since the labels were printed, two items have none yet.
async function stockCounter(trx: Trx, company: Company, random: Random): Promise<void> {
  const shop = await siteOf(trx, 'SHOP');
  const shelves = await query<{ id: number }>(trx, `SELECT id FROM bin WHERE site_id = ? AND use = 'shelf' ORDER BY walk`, [shop]);
  const items = company.items.filter((i) => i.tracking === 'none' && i.decimals === 0 && i.storage === 'dry').slice(0, 40);
  const lines = items.map((item, n) => ({ item: item.id, bin: shelves[n % shelves.length]?.id ?? 0, qty: random.int(3, 18) }));
  await enter(trx, company, shop, lines);
  await query(
    trx,
    `INSERT INTO home_bin (item_id, bin_id, min_qty, max_qty) SELECT i, b, 2, 20 FROM unnest(?::int[], ?::int[]) AS x(i, b)`,
    [lines.map((l) => l.item), lines.map((l) => l.bin)],
  );
  // Whatever lives or lies on a shelf that customers see had its label printed three weeks ago; two were forgotten.
  await query(
    trx,
    `INSERT INTO shelf_label (bin_id, item_id, price, printed_at)
     SELECT x.bin_id, x.item_id, round(amount_on(x.item_id, 'price', now_here()::date), 2), now_here() - interval '20 days'
     FROM
       (SELECT h.bin_id, h.item_id FROM home_bin h UNION SELECT bin_id, item_id FROM balance WHERE qty > 0) x
       JOIN bin b ON b.id = x.bin_id
       JOIN zone z ON z.id = b.zone_id
       WHERE z.shows_price AND x.item_id <> ALL(?::int[])`,
    [lines.slice(0, 2).map((l) => l.item)],
  );
  await query(
    trx,
    `INSERT INTO item_amount (item_id, kind, amount, holds_from, person_id, source)
     SELECT i, 'price', round(amount_on(i, 'price', now_here()::date) * 1.06, 2), now_here()::date - 2, ?, 'Autumn prices'
     FROM unnest(?::int[]) i`,
    [company.people['Odile Wrack'], items.slice(4, 10).map((i) => i.id)],
  );
}

// The barn has counted what stands on its floor and begins to give it bins.
async function stockBarn(trx: Trx, company: Company, random: Random): Promise<void> {
  const barn = await siteOf(trx, 'BARN');
  const [unplaced] = await query<{ id: number }>(trx, `SELECT id FROM bin WHERE site_id = ? AND use = 'unplaced'`, [barn]);
  const items = company.items.filter((i) => i.tracking === 'none' && i.decimals === 0 && i.grams > 2000).slice(0, 9);
  await enter(
    trx,
    company,
    barn,
    items.map((i) => ({ item: i.id, bin: unplaced?.id ?? 0, qty: random.int(4, 30) })),
  );
}

const KINDS = [
  'Smoker',
  'Veil',
  'Hive strap',
  'Frame grip',
  'Honey gate',
  'Wax melter',
  'Pollen trap',
  'Queen cage',
  'Jar tong',
  'Grafting tool',
];
const MAKES = ['plain', 'steel', 'copper', 'oak', 'folding', 'long', 'short', 'double'];

// What is stocked stands on its supplier's list; beside it each list has forty articles that nobody stocks yet.
async function priceLists(trx: Trx, company: Company, random: Random): Promise<void> {
  await query(
    trx,
    `INSERT INTO price_row (supplier_id, part_no, description, barcode, gtin, cost, price, holds_from, item_id)
     SELECT x.supplier_id, x.part_no, i.description, c.code, c.gtin, x.cost, round(amount_on(i.id, 'price', now_here()::date), 2),
       now_here()::date - 40, i.id
     FROM item_supplier x
     JOIN item i ON i.id = x.item_id
     LEFT JOIN LATERAL (
       SELECT b.code, b.gtin FROM barcode b JOIN pack p ON p.id = b.pack_id WHERE b.item_id = i.id ORDER BY p.units LIMIT 1
     ) c ON true`,
  );
  // GS1 keeps 952 for examples.
  let barcode = 952777000000;
  for (const [s, supplier] of company.suppliers.entries()) {
    for (let n = 0; n < 40; n += 1) {
      const cost = random.int(120, 9800) / 100;
      const code = withCheckDigit(String((barcode += 1)));
      await query(
        trx,
        `INSERT INTO price_row (supplier_id, part_no, description, barcode, gtin, cost, price, holds_from)
         VALUES (?, ?, ?, ?, lpad(?, 14, '0'), ?, ?, now_here()::date - 40)`,
        [
          supplier,
          `${'KLMNPQRS'[s]}${4100 + n}`,
          `${KINDS[(n + s) % KINDS.length]}, ${MAKES[n % MAKES.length]}, size ${1 + (n % 5)}`,
          code,
          code,
          cost,
          (cost * 1.7).toFixed(2),
        ],
      );
    }
  }
  await query(trx, `UPDATE price_row SET words = search_words(concat_ws(' ', part_no, bare_code(part_no), description, barcode))`);
  await query(
    trx,
    `INSERT INTO price_list (supplier_id, columns, imported_at, file_name, rows)
     SELECT supplier_id,
       '{"partNo": "Part no", "description": "Description", "barcode": "EAN", "cost": "Net", "price": "Retail"}',
       now_here() - interval '40 days', 'prices-autumn.xlsx', count(*)
     FROM price_row
     GROUP BY 1`,
  );
  await query(trx, `INSERT INTO search_word SELECT DISTINCT w FROM price_row, spelled_words(description) w ON CONFLICT DO NOTHING`);
}

async function layHolds(trx: Trx, company: Company): Promise<void> {
  const person = company.people['Maren Oake'] ?? 0;
  const shelf = await query<{ item: number; bin: number }>(
    trx,
    `SELECT DISTINCT ON (f.item_id) f.item_id AS item, f.bin_id AS bin
     FROM stock_fact f
     JOIN item i ON i.id = f.item_id
     WHERE f.site_id = ? AND f.use = 'shelf' AND f.condition = 'sound' AND f.qty > 12 AND i.tracking = 'none' AND i.decimals = 0
       AND NOT EXISTS (SELECT 1 FROM promise p WHERE p.item_id = f.item_id)
         AND NOT EXISTS (SELECT 1 FROM round_pick k WHERE k.item_id = f.item_id)
       ORDER BY f.item_id
       LIMIT 2`,
    [company.site],
  );
  const [first, second] = shelf;
  const [until] = await query<{ day: string }>(trx, `SELECT now_here()::date - 1 AS day`);
  if (first)
    await holdStock(trx, {
      site: company.site,
      person,
      item: first.item,
      bin: first.bin,
      qty: 6000 as never,
      reason: 'Lids look warped; the supplier sends somebody',
      ...(until ? { until: until.day } : {}),
    });
  if (second)
    await holdStock(trx, {
      site: company.site,
      person,
      item: second.item,
      bin: second.bin,
      qty: 10_000 as never,
      reason: 'Kept for the October fair',
    });
}
