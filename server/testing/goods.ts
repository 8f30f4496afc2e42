import type { BodyIn, Routes } from '#contract';
import type { Client } from './client.ts';
import type { Hand } from './hand.ts';
import type { TestHouse } from './house.ts';

type Tracking = BodyIn<Routes['items.make']>['tracking'];
type Lying = { qty: string; lot?: string; expires?: string; serials?: string[] };

/** A new item of the test's own, with goods in empty shelf bins of a site, one bin for each `lying`. */
export async function shelved(
  house: TestHouse,
  lead: Client,
  of: { code: string; tracking?: Tracking; decimals?: number; site?: number; lying: readonly Lying[] },
): Promise<{ id: number; bins: { id: number; address: string }[] }> {
  const { code, tracking = 'none', decimals = 0, site = 1 } = of;
  const made = await lead.ask('items.make', {
    body: { code, description: `Test ${code}`, group: 'Test', unit: 'each', decimals, tracking },
  });
  const bins = await emptyBins(house, site, of.lying.length);
  if (of.lying.length > 0) {
    const entered = await lead.ask('stock.opening', {
      params: { id: made.reply.id },
      body: { lines: of.lying.map((l, i) => ({ bin: bins[i]?.address ?? '', serials: [], ...l })) },
      site,
    });
    if (entered.status !== 200) throw new Error(`${code}: ${entered.problem.detail}`);
  }
  return { id: made.reply.id, bins };
}

/** Shelf bins of a site in which nothing lies and whose rules let anything in. */
export function emptyBins(house: TestHouse, site: number, many: number): Promise<{ id: number; address: string }[]> {
  return house.rows<{ id: number; address: string }>(
    `SELECT b.id, b.address
     FROM bin b
     JOIN zone z ON z.id = b.zone_id
     WHERE b.site_id = ? AND b.use = 'shelf' AND b.retired_at IS NULL AND z.pickable AND z.promisable AND b.storage_class IS NULL
       AND NOT EXISTS (SELECT 1 FROM balance x WHERE x.bin_id = b.id) AND NOT EXISTS (SELECT 1 FROM home_bin h WHERE h.bin_id = b.id)
     ORDER BY b.id
     LIMIT ?`,
    [site, many],
  );
}

/** How much of an item lies where, by the address of the bin; bins without any are left out. */
export async function lyingOf(house: TestHouse, item: number): Promise<Readonly<Record<string, number>>> {
  const rows = await house.rows<{ address: string; qty: number }>(
    `SELECT address, sum(qty)::float AS qty FROM stock_fact WHERE item_id = ? GROUP BY address HAVING sum(qty) <> 0`,
    [item],
  );
  return Object.fromEntries(rows.map((r) => [r.address, r.qty]));
}

/** A pallet of new goods that arrived and stands in an empty shelf bin: so many of each item, of a lot where it is counted by lot. */
export async function palletOf(
  house: TestHouse,
  lead: Client,
  hand: Hand,
  of: { sscc: string; goods: readonly { item: number; qty: number; lot?: string }[]; site?: number },
): Promise<{ bin: number; address: string }> {
  const { site = 1 } = of;
  const { id: delivery } = (await lead.ask('receiving.start', { body: { supplier: 1 }, site })).reply;
  const goods = [];
  for (const g of of.goods) {
    const [pack] = await house.rows<{ id: number }>(`SELECT id FROM pack WHERE item_id = ? ORDER BY units LIMIT 1`, [g.item]);
    const labels = { lot: g.lot ?? null, expires: null, made: null, serial: null };
    goods.push({ item: g.item, pack: pack?.id ?? 0, qty: g.qty * 1000, ...labels });
  }
  const told = await hand.tells({ kind: 'receive.unit', delivery, sscc: of.sscc, goods });
  if (told.outcome !== 'done') throw new Error(told.says ?? told.outcome);
  const posted = await lead.ask('receiving.post', { params: { id: delivery }, body: {}, site });
  if (posted.status !== 200) throw new Error(posted.problem.detail);
  const [bin] = await emptyBins(house, site, 1);
  const moved = await lead.ask('moves.unit', { params: { sscc: of.sscc }, body: { to: bin?.address ?? '' }, site });
  if (moved.status !== 200) throw new Error(moved.problem.detail);
  return { bin: bin?.id ?? 0, address: bin?.address ?? '' };
}
