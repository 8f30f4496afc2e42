import { hash } from '@node-rs/argon2';
import { withCheckDigit } from '#core/items';
import { zoneDefaults } from '#core/places';
import { query, type Trx } from '#server/kernel';
import { refreshSearch } from '#server/items';
import { DEMO_PEOPLE } from '#server/people';
import { SITES } from './building.ts';
import { catalogue, COMPANY, CUSTOMERS, SUPPLIERS, type CatalogueItem } from './catalogue.ts';
import type { Random } from '#core/base';

export type DemoItem = CatalogueItem & {
  id: number;
  home: number;
  reserve: number | null;
  max: number;
  popularity: number;
  basePack: number;
};
export type Company = {
  site: number;
  sites: Map<string, number>;
  people: Record<string, number>;
  items: DemoItem[];
  suppliers: number[];
  customers: number[];
  arrivals: number;
  bins: Map<string, number>;
};

// Who works at some sites only; the others work at all of them.
const WORKS_AT: Readonly<Record<string, readonly string[]>> = {
  'Tobin Sallow': ['MAIN', 'BARN'],
  'Ines Farrow': ['MAIN', 'SHOP'],
  'Jory Penhale': ['MAIN'],
};

/** Makes everything that does not move: places, people, items, partners. */
export async function makeMasters(trx: Trx, random: Random): Promise<Company> {
  // 952 is what the standard keeps for examples.
  await query(trx, `INSERT INTO setting (name, value) VALUES ('company', ?), ('unit prefix', '"9520099"')`, [JSON.stringify(COMPANY)]);
  const { site, sites, bins } = await makePlaces(trx);
  const people: Record<string, number> = {};
  for (const person of DEMO_PEOPLE) {
    const [row] = await query<{ id: number }>(
      trx,
      `INSERT INTO person (name, role, badge, password_hash, pin_hash, site_id) VALUES (?, ?, ?, ?, ?, ?) RETURNING id`,
      [person.name, person.role, person.badge, await hash(person.password), await hash(person.pin), site],
    );
    people[person.name] = row?.id ?? 0;
    await query(trx, `INSERT INTO person_site SELECT ?, id FROM site WHERE code = ANY(?::text[])`, [
      row?.id,
      WORKS_AT[person.name] ?? [...sites.keys()],
    ]);
  }
  const suppliers = (
    await query<{ id: number }>(
      trx,
      `INSERT INTO supplier (code, name, address) SELECT * FROM unnest(?::text[], ?::text[], ?::text[]) RETURNING id`,
      [
        SUPPLIERS.map((s) => s[0]),
        SUPPLIERS.map((s) => s[1]),
        SUPPLIERS.map((_, i) => `${2 * i + 4} ${['Millrace Yard', 'Kiln Lane', 'Cooper Wharf'][i % 3]}, Saltholm`),
      ],
    )
  ).map((r) => r.id);
  const customers = (
    await query<{ id: number }>(
      trx,
      `INSERT INTO customer (code, name, address) SELECT * FROM unnest(?::text[], ?::text[], ?::text[]) RETURNING id`,
      [
        CUSTOMERS.map((_, i) => `C${1001 + i}`),
        [...CUSTOMERS],
        CUSTOMERS.map((_, i) => `${i + 3} ${['Comb Lane', 'Skep Row', 'Wax Row', 'Smoker Street'][i % 4]}, Quillholm`),
      ],
    )
  ).map((r) => r.id);
  const items = await makeItems(trx, random, suppliers, bins);
  await refreshSearch(trx, null);
  return { site, sites, people, items, suppliers, customers, arrivals: bins.get('ARRIVALS') ?? 0, bins };
}

async function makePlaces(trx: Trx): Promise<{ site: number; sites: Map<string, number>; bins: Map<string, number> }> {
  const bins = new Map<string, number>();
  const sites = new Map<string, number>();
  let main = 0;
  for (const site of SITES) {
    const [made] = await query<{ id: number }>(
      trx,
      `INSERT INTO site (code, name, time_zone, address) VALUES (?, ?, 'Europe/London', ?) RETURNING id`,
      [site.code, site.name, site.address],
    );
    const siteId = made?.id ?? 0;
    sites.set(site.code, siteId);
    main ||= siteId;
    let walk = 0;
    for (const zone of site.zones) {
      const powers = zoneDefaults(zone.purpose);
      const [row] = await query<{ id: number }>(
        trx,
        `INSERT INTO zone (site_id, code, name, purpose, promisable, pickable, shows_price) VALUES (?, ?, ?, ?, ?, ?, ?) RETURNING id`,
        [siteId, zone.code, zone.name, zone.purpose, powers.promisable, powers.pickable, powers.showsPrice],
      );
      const start = walk;
      const rows = await query<{ id: number; address: string }>(
        trx,
        `INSERT INTO bin (site_id, zone_id, address, use, walk, one_item)
         SELECT ?, ?, *
         FROM unnest(?::text[], ?::text[], ?::int[], ?::boolean[])
         RETURNING id, address`,
        [
          siteId,
          row?.id,
          zone.bins.map((b) => b.address),
          zone.bins.map((b) => b.use),
          zone.bins.map((_, i) => start + i + 1),
          zone.bins.map((b) => b.oneItem ?? false),
        ],
      );
      walk += zone.bins.length;
      for (const bin of rows) bins.set(siteId === main ? bin.address : `${site.code}:${bin.address}`, bin.id);
    }
    await query(
      trx,
      `UPDATE site SET ${['arrivals', 'packing', 'quarantine', 'scrap', 'transit']
        .map(
          (use) => `${use}_bin = (SELECT min(id)
        FROM bin WHERE site_id = site.id AND use = '${use}')`,
        )
        .join(', ')} WHERE id = ?`,
      [siteId],
    );
  }
  return { site: main, sites, bins };
}

async function makeItems(trx: Trx, random: Random, suppliers: readonly number[], bins: ReadonlyMap<string, number>): Promise<DemoItem[]> {
  const wanted = catalogue(() => random.next());
  const shelves = (prefix: RegExp): number[] => [...bins].filter(([address]) => prefix.test(address)).map(([, id]) => id);
  const faces = shelves(/^[PRS]-/);
  const store = shelves(/^[A-F]-\d/);
  const cold = shelves(/^X-/);
  const cage = shelves(/^K-/);
  const items: DemoItem[] = [];
  // GS1 keeps 952 for examples: nobody's goods carry these.
  let barcode = 952123000000;
  for (const [i, item] of wanted.entries()) {
    const [row] = await query<{ id: number }>(
      trx,
      `INSERT INTO item (code, description, item_group, base_unit, decimals, tracking, shelf_life_months, storage_class, weight_g)
       VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)
       RETURNING id`,
      [item.code, item.description, item.group, item.unit, item.decimals, item.tracking, item.shelfLifeMonths, item.storage, item.grams],
    );
    const id = row?.id ?? 0;
    await query(
      trx,
      `INSERT INTO item_amount (item_id, kind, amount, holds_from, source)
       VALUES (?, 'price', ?, DATE '2000-01-01', 'first'), (?, 'cost', ?, DATE '2000-01-01', 'first')`,
      [id, item.price, id, item.cost],
    );
    let basePack = 0;
    for (const [p, [name, units]] of item.packs.entries()) {
      const [pack] = await query<{ id: number }>(trx, `INSERT INTO pack (item_id, name, units) VALUES (?, ?, ?) RETURNING id`, [
        id,
        name,
        units,
      ]);
      if (p === 0) basePack = pack?.id ?? 0;
      barcode += 1;
      const code = p === 0 ? withCheckDigit(String(barcode)) : withCheckDigit(`1${String(barcode)}`);
      await query(trx, `INSERT INTO barcode (code, gtin, item_id, pack_id) VALUES (?, lpad(?, 14, '0'), ?, ?)`, [code, code, id, pack?.id]);
    }
    await query(trx, `INSERT INTO item_supplier (item_id, supplier_id, part_no, cost, lead_days) VALUES (?, ?, ?, ?, ?)`, [
      id,
      suppliers[item.supplier],
      String(9000 + i),
      item.cost,
      random.int(3, 21),
    ]);
    // A few sell most: popularity falls with the square of the rank in a shuffled order.
    const popularity = random.next() ** 3;
    const home =
      item.storage === 'cold'
        ? cold[i % cold.length]
        : item.storage === 'locked'
          ? cage[i % cage.length]
          : popularity > 0.05
            ? faces[i % faces.length]
            : store[i % store.length];
    const reserve = item.storage === 'dry' && popularity > 0.15 ? (store[(i * 7) % store.length] ?? null) : null;
    const serial = item.tracking === 'serial' || item.tracking === 'serialOut';
    const max = serial
      ? random.int(3, 8)
      : item.decimals > 0
        ? random.int(60, 200)
        : item.cost < 1
          ? random.int(300, 1200)
          : random.int(20, 120);
    await query(trx, `INSERT INTO home_bin (item_id, bin_id) VALUES (?, ?)`, [id, home]);
    // Two of three have a level; the others are bought when orders ask for them.
    if (i % 3 !== 2)
      await query(
        trx,
        `INSERT INTO reorder_level (item_id, site_id, least, most, pack_id)
         SELECT ?, 1, ?, ?, (SELECT id FROM pack WHERE item_id = ? AND units <= ? ORDER BY units DESC LIMIT 1)`,
        [id, Math.ceil(max * 0.35), max, id, Math.max(1, max / 4)],
      );
    items.push({ ...item, id, home: home ?? 0, reserve, max, popularity, basePack });
  }
  return items;
}
