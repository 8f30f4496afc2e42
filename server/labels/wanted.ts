import { moneyText } from '#core/base';
import type { LabelRequest } from '#core/labels';
import type { Role } from '#core/people';
import { query, refuse, type Db, type Trx } from '#server/kernel';
import type { BodyOf, Routes } from '#contract';
import { findItem, selectFirstBarcode } from '#server/items';
import { selectHouse } from '#server/people';
import { takeUnitNumbers } from './store-units.ts';
import { noteBinLabels, noteShelfLabels, priceToday, selectBinFaces, type WantedBins } from './store.ts';

/** How many labels go to the printer in one act. */
export const MOST = 2000;
/** A label that is to be printed: what it says, how many of it, and in which zone it is wanted. */
export type Wanted = { title: string; request: LabelRequest; copies: number; zone: number | null };
type Reads = Pick<Db, 'raw'>;

type Body = BodyOf<Routes['labels.print']>;
/** Who asks, as far as it matters to what they may print. */
type Asker = { readonly role: Role; readonly site: { readonly id: number } };

/** What a print asks for, label by label, in the order in which they come out. Nothing is noted by it: it is what a preview shows, too.
 *  Errors: what is asked for is not there, or not for this person. */
export async function labelsWanted(db: Reads, body: Exclude<Body, { kind: 'unitsAhead' }>, me: Asker, most = MOST): Promise<Wanted[]> {
  const site = me.site.id;
  switch (body.kind) {
    case 'bins':
    case 'zone':
      return binLabels(db, site, body, most);
    case 'shelf':
      return shelfLabels(db, site, body.pairs);
    case 'item':
      return [{ ...(await labelOfItem(db, body)), copies: body.copies }];
    case 'order': {
      const [order] = await query<{ number: string; customer: string }>(
        db,
        `SELECT o.number, c.name AS customer
         FROM customer_order o
         JOIN order_party c ON c.order_id = o.id
         WHERE o.id = ? AND o.site_id = ?`,
        [body.order, site],
      );
      if (!order) return refuse({ code: 'orders.unknownOrder', text: String(body.order) });
      return [{ title: `Order ${order.number}`, request: { kind: 'order', ...order }, copies: 1, zone: null }];
    }
    case 'parcels':
      return parcelLabels(db, site, body.order);
    case 'goods':
      return goodsLabels(db, site, body.order);
    case 'totes': {
      const [bin] = await query<{ cart: string; site: string; zone: number }>(
        db,
        `SELECT b.address AS cart, s.name AS site, b.zone_id AS zone
         FROM bin b
         JOIN site s ON s.id = b.site_id
         WHERE b.id = ? AND b.site_id = ? AND b.use = 'cart'`,
        [body.bin, site],
      );
      if (!bin) return refuse({ code: 'places.unknownBin', text: 'of a cart' });
      const { zone, ...cart } = bin;
      return Array.from({ length: body.slots }, (_, n) => ({
        title: `${cart.cart}, slot ${n + 1}`,
        request: { kind: 'tote', ...cart, slot: n + 1 },
        ...{ copies: 1, zone },
      }));
    }
    case 'badge': {
      if (me.role !== 'lead') refuse({ code: 'people.noRight', role: me.role, act: 'Print badges' });
      const [person] = await query<{ name: string; badge: string | null; role: Role }>(
        db,
        `SELECT name, badge, role FROM person WHERE id = ? AND active`,
        [body.person],
      );
      if (!person) return refuse({ code: 'people.unknownPerson', id: body.person });
      if (person.badge === null) return refuse({ code: 'labels.noBadge', name: person.name });
      const { company } = await selectHouse(db);
      const request: LabelRequest = { kind: 'badge', badge: person.badge, name: person.name, role: person.role, company };
      return [{ title: `Badge of ${person.name}`, request, copies: 1, zone: null }];
    }
    case 'unit': {
      const { sscc, copies } = body;
      const goods = await query<{ code: string; qty: string; unit: string; lot: string | null }>(
        db,
        `SELECT i.code, trim_scale(sum(b.qty))::text AS qty, i.base_unit AS unit, l.code AS lot
         FROM logistic_unit u
         JOIN balance b ON b.unit_id = u.id
         JOIN item i ON i.id = b.item_id
         LEFT JOIN lot l ON l.id = b.lot_id
         WHERE u.sscc = ?
         GROUP BY i.id, l.id
         ORDER BY i.code, l.code`,
        [sscc],
      );
      if (goods.length === 0) refuse({ code: 'stock.unitEmpty', sscc });
      const contents = goods.map((g) => `${g.qty} ${g.unit} ${g.code}${g.lot ? `, lot ${g.lot}` : ''}`);
      const { company } = await selectHouse(db);
      return [{ title: `Unit ${sscc}`, request: { kind: 'unit', sscc, company, contents }, copies, zone: null }];
    }
    case 'delivery': {
      const entries = await query<Pieces>(
        db,
        `SELECT e.item_id AS id, e.lot, max(e.expires) AS expires, e.serial, ceil(sum(e.qty))::int AS copies,
           (SELECT b.zone_id FROM site s JOIN bin b ON b.id = s.arrivals_bin WHERE s.id = d.site_id) AS zone
         FROM delivery_entry e
         JOIN delivery d ON d.id = e.delivery_id
         WHERE d.id = ? AND d.site_id = ? AND e.taken_out_at IS NULL
         GROUP BY e.item_id, e.lot, e.serial, d.site_id
         ORDER BY e.item_id, e.lot, e.serial`,
        [body.delivery, site],
      );
      if (entries.length === 0) refuse({ code: 'receiving.unknownDelivery', id: body.delivery });
      return goodsIn(db, entries);
    }
  }
}

type Pieces = { id: number; lot: string | null; expires: string | null; serial: string | null; copies: number; zone: number | null };
async function goodsIn(db: Reads, pieces: readonly Pieces[]): Promise<Wanted[]> {
  const labels: Wanted[] = [];
  for (const some of pieces) labels.push(await itemLabel(db, await findItem(db, some.id), some));
  return labels;
}

/** One label for each piece that was picked for an order of this site: what goes to another site arrives labelled (D5). */
async function goodsLabels(db: Reads, site: number, order: number): Promise<Wanted[]> {
  const [known] = await query<{ number: string }>(db, `SELECT number FROM customer_order WHERE id = ? AND site_id = ?`, [order, site]);
  if (!known) return refuse({ code: 'orders.unknownOrder', text: String(order) });
  const pieces = await query<Pieces>(
    db,
    `SELECT p.item_id AS id, l.code AS lot, l.expires::text AS expires, coalesce(s.code, p.serial_out) AS serial,
       ceil(sum(p.qty))::int AS copies, NULL::int AS zone
     FROM picked p
     JOIN order_line x ON x.id = p.line_id
     JOIN item i ON i.id = p.item_id
     LEFT JOIN lot l ON l.id = p.lot_id
     LEFT JOIN serial s ON s.id = p.serial_id
     WHERE x.order_id = ? AND p.returned_at IS NULL AND p.qty > 0
     GROUP BY p.item_id, i.code, l.id, coalesce(s.code, p.serial_out)
     ORDER BY i.code, l.code, serial`,
    [order],
  );
  if (pieces.length === 0) refuse({ code: 'labels.nothingPicked', order: known.number });
  return goodsIn(db, pieces);
}

/** What is to be said of an item. */
export type LabelledItem = {
  readonly item: number;
  readonly lot?: string | undefined;
  readonly serial?: string | undefined;
  readonly bin?: number | undefined;
  readonly expires?: string | undefined;
};

/** The label of an item, of one of its lots or of one of its serials. */
export async function labelOfItem(db: Reads, of: LabelledItem): Promise<Wanted> {
  const { lot, serial, bin } = of;
  const item = await findItem(db, of.item);
  const [known] = lot
    ? await query<{ expires: string | null }>(db, `SELECT expires FROM lot WHERE item_id = ? AND code = ?`, [item.id, lot])
    : [];
  const expires = known ? known.expires : (of.expires ?? null);
  return itemLabel(db, item, { lot: lot || null, expires, serial: serial || null, copies: 1, bin: bin ?? null });
}

/** The label of an item with what is known of this piece. */
export async function itemLabel(
  db: Reads,
  item: { id: number; code: string; description: string },
  of: { lot: string | null; expires: string | null; serial: string | null; copies: number; bin?: number | null; zone?: number | null },
): Promise<Wanted> {
  const barcode = await selectFirstBarcode(db, item.id);
  const { company } = await selectHouse(db);
  const which = of.serial ? ` ${of.serial}` : of.lot ? ` lot ${of.lot}` : '';
  return {
    title: `${item.code}${which}`,
    copies: Math.max(1, of.copies),
    zone: of.bin ? await zoneOf(db, of.bin) : (of.zone ?? null),
    request: {
      kind: 'item',
      code: item.code,
      description: item.description,
      barcode,
      company,
      price: of.bin ? await priceAt(db, item.id, of.bin) : null,
      lot: of.lot,
      expires: of.expires,
      serial: of.serial,
    },
  };
}

async function zoneOf(db: Reads, bin: number): Promise<number | null> {
  const [row] = await query<{ zone: number }>(db, `SELECT zone_id AS zone FROM bin WHERE id = ?`, [bin]);
  return row?.zone ?? null;
}

// The price of an item in a bin, in the words of a label; null where no customer looks (D3), and of what has none.
export async function priceAt(db: Reads, item: number, bin: number): Promise<string | null> {
  const [row] = await query<{ price: string | null }>(
    db,
    `SELECT ${priceToday('?')}::text AS price
     FROM bin b
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = z.site_id
     WHERE b.id = ? AND z.shows_price`,
    [item, bin],
  );
  return row?.price ? moneyText(row.price, (await selectHouse(db)).currency) : null;
}

async function binLabels(trx: Reads, site: number, wanted: WantedBins, most: number): Promise<Wanted[]> {
  const bins = await selectBinFaces(trx, site, wanted);
  if (bins.length === 0) refuse(wanted.bins ? { code: 'places.unknownBin', text: wanted.bins.join(', ') } : { code: 'labels.noBins' });
  if (bins.length > most) refuse({ code: 'labels.tooMany', asked: bins.length, most });
  return bins.map(({ id: _, zoneId, ...b }) => ({ title: `Bin ${b.address}`, request: { kind: 'bin', ...b }, copies: 1, zone: zoneId }));
}

async function shelfLabels(trx: Reads, site: number, pairs: readonly { bin: number; item: number }[]): Promise<Wanted[]> {
  const rows = await query<{ code: string; description: string; barcode: string | null; price: string; bin: string; zone: number }>(
    trx,
    `SELECT z.id AS zone, i.code, i.description, b.address AS bin,
       first_barcode(i.id) AS barcode,
       ${priceToday('i.id')}::text AS price
     FROM unnest(?::int[], ?::int[]) AS x(bin, item)
     JOIN item i ON i.id = x.item
     JOIN bin b ON b.id = x.bin
     JOIN zone z ON z.id = b.zone_id
     JOIN site s ON s.id = z.site_id
     WHERE z.shows_price AND b.site_id = ? AND ${priceToday('i.id')} IS NOT NULL
     ORDER BY b.walk, b.id, i.code`,
    [pairs.map((p) => p.bin), pairs.map((p) => p.item), site],
  );
  const { currency } = await selectHouse(trx);
  return rows.map(({ zone, ...r }) => ({
    title: `Price of ${r.code} in ${r.bin}`,
    request: { kind: 'shelf', ...r, price: moneyText(r.price, currency) },
    copies: 1,
    zone,
  }));
}

/** One label for each parcel of an order at this site, with where it goes. */
async function parcelLabels(db: Reads, site: number, order: number): Promise<Wanted[]> {
  const [packed] = await query<{ number: string; customer: string; address: string; parcels: number | null }>(
    db,
    `SELECT o.number, p.name AS customer, p.address, o.parcels
     FROM customer_order o
     JOIN order_party p ON p.order_id = o.id
     WHERE o.id = ? AND o.site_id = ?`,
    [order, site],
  );
  if (!packed) return refuse({ code: 'orders.unknownOrder', text: String(order) });
  const { number, customer, address } = packed;
  if (packed.parcels === null) return refuse({ code: 'labels.notPacked', order: number });
  const { company } = await selectHouse(db);
  const of = packed.parcels;
  return Array.from({ length: of }, (_, n) => ({
    title: `Parcel ${n + 1} of ${of}, ${number}`,
    request: { kind: 'parcel', order: number, customer, address, company, parcel: n + 1, of },
    ...{ copies: 1, zone: null },
  }));
}

/** Labels for pallets and cartons that come without one, each with a number of the house that nobody else gets. */
export async function unitsAhead(trx: Trx, count: number): Promise<Wanted[]> {
  const { company } = await selectHouse(trx);
  const numbers = await takeUnitNumbers(trx, count);
  return numbers.map((sscc) => ({
    title: `Unit ${sscc}`,
    request: { kind: 'unit', sscc, company, contents: [] },
    ...{ copies: 1, zone: null },
  }));
}

/** Notes what labels say of bins and shelves from now on. */
export async function noteWanted(trx: Trx, body: Body, site: number): Promise<void> {
  if (body.kind === 'bins' || body.kind === 'zone') await noteBinLabels(trx, await selectBinFaces(trx, site, body));
  if (body.kind === 'shelf') await noteShelfLabels(trx, site, body.pairs);
}
