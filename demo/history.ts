import type { BinId, DocumentId, ItemId, LotId, PersonId, Qty, Random, SerialId } from '#core/base';
import { settleLines } from '#core/receiving';
import { compareFirstExpired } from '#core/lots';
import { OUTSIDE, type Movement } from '#core/stock';
import { asQty, dbQty, makeDocument, query, type DocumentKind, type Trx } from '#server/kernel';
import { post } from '#server/stock';
import type { Company, DemoItem } from './masters.ts';

type Piece = { bin: number; lot: number | null; expires: string | null; serial: number | null; qty: number };

const DAYS = 90;
const STEP = 1000;
// Machines come a few at a time.
const MOST_SERIALS = 6;

/** Lets ninety days go by: deliveries, put-aways, refills, orders picked, packed and shipped, counts. Every change goes through
 *  `stock.post`. */
export class History {
  readonly stock = new Map<number, Piece[]>();
  /** Lots that nobody sells while the days go by. */
  readonly kept = new Set<number>();
  private readonly trx: Trx;
  private readonly company: Company;
  private readonly random: Random;
  private readonly now: number;
  private lots = 0;
  private serials = 0;
  private last = 0;
  private readonly tellers: number[];

  constructor(trx: Trx, company: Company, random: Random, now: Date) {
    this.trx = trx;
    this.company = company;
    this.random = random;
    this.now = now.getTime();
    this.tellers = Object.values(company.people);
  }

  at(daysAgo: number, hour: number): Date {
    return new Date(this.now - daysAgo * 86_400_000 - (14 - hour) * 3_600_000);
  }

  date(daysAhead: number): string {
    return new Date(this.now + daysAhead * 86_400_000).toISOString().slice(0, 10);
  }

  /** Lets the days go by; `besides` is done on its days, in the order of time like everything else. */
  async run(besides: Readonly<Record<number, () => Promise<void>>> = {}): Promise<void> {
    await this.open();
    for (let day = DAYS; day >= 1; day -= 1) {
      if (day % 2 === 0) await this.receive(day);
      await besides[day]?.();
      await this.sell(day);
      if (day === 24) await this.countZone('COLD', day);
      if (day === 41) await this.countZone('CAGE', day);
      if (day % 7 === 3) await this.moveSome(day);
    }
  }

  private async open(): Promise<void> {
    const { items, bins } = this.company;
    const movements: Movement[] = [];
    for (const item of items) {
      // One item in twelve begins with nothing: new lines, and lines that ran out.
      if (this.random.chance(1 / 12)) continue;
      const amount = Math.max(2, Math.round(item.max * (0.5 + this.random.next() * 0.5)));
      movements.push(...(await this.arrive(item, amount, item.home, OUTSIDE.opening, 'Opening balance', this.random.int(40, 400))));
      if (item.reserve)
        movements.push(...(await this.arrive(item, amount, item.reserve, OUTSIDE.opening, 'Opening balance', this.random.int(120, 500))));
    }
    await this.post('opening', DAYS + 1, 8, movements);
    for (const code of ['BARN', 'SHOP']) {
      const shelves = [...bins].filter(([address]) => new RegExp(`^${code}:[LMNTU]-\\d`).test(address)).map(([, id]) => id);
      const some = items
        .filter((i) => i.tracking === 'none')
        .filter(() => this.random.chance(0.25))
        .slice(0, shelves.length);
      await this.post(
        'opening',
        DAYS + 1,
        9,
        some.map((item, i) =>
          this.movement(
            item,
            { bin: 0, lot: null, expires: null, serial: null, qty: this.random.int(5, 60) },
            OUTSIDE.opening,
            shelves[i] ?? 0,
            'Opening balance',
          ),
        ),
        undefined,
        undefined,
        this.company.sites.get(code),
      );
    }
  }

  private async receive(day: number): Promise<void> {
    const supplierIndex = this.random.int(0, this.company.suppliers.length - 1);
    const low = this.company.items.filter((i) => i.supplier === supplierIndex && this.onHand(i) < i.max * 0.5).slice(0, 14);
    if (low.length === 0) return;
    const supplier = this.company.suppliers[supplierIndex];
    const hand = this.teller();
    const [order] = await query<{ id: number; number: string }>(
      this.trx,
      `INSERT INTO purchase_order (number, supplier_id, site_id, due, state, at, approved_at)
       VALUES ('PO-' || nextval('number_po'), ?, ?, ?, 'closed', ?, ?)
       RETURNING id, number`,
      [supplier, this.company.site, this.date(-day), this.at(day + 9, 10), this.at(day + 9, 11)],
    );
    const amounts = low.map((i) => Math.max(1, Math.round(i.max * (0.5 + this.random.next() * 0.5))));
    await query(
      this.trx,
      `INSERT INTO purchase_line (purchase_order_id, item_id, qty, cost, part_no)
       SELECT ?, x.i, x.q, coalesce(s.cost, 0), coalesce(s.part_no, '')
       FROM unnest(?::int[], ?::numeric[]) AS x(i, q)
       LEFT JOIN item_supplier s ON s.item_id = x.i AND s.supplier_id = ?
       ORDER BY x.i`,
      [
        order?.id,
        low.map((i) => i.id),
        low.map((i, n) => (i.tracking === 'serial' ? Math.min(amounts[n] ?? 1, MOST_SERIALS) : amounts[n])),
        supplier,
      ],
    );
    const [delivery] = await query<{ id: number }>(
      this.trx,
      `WITH made AS (
         INSERT INTO delivery (number, site_id, supplier_id, supplier_doc, state, started_by, at, touched)
         VALUES ('DL-' || nextval('number_dl'), ?, ?, ?, 'posted', ?, ?, ?)
         RETURNING id)
       INSERT INTO delivery_order (delivery_id, purchase_order_id, open) SELECT id, ?, false FROM made RETURNING delivery_id AS id`,
      [this.company.site, supplier, `INV ${20000 + day}`, hand, this.at(day, 9), this.at(day, 10), order?.id],
    );
    const movements: Movement[] = [];
    for (const [n, item] of low.entries())
      movements.push(
        ...(await this.arrive(
          item,
          amounts[n] ?? 1,
          this.company.arrivals,
          OUTSIDE.suppliers,
          `Received on ${order?.number}`,
          day < 20 ? this.random.int(60, 500) : this.random.int(120, 600),
        )),
      );
    const entries = movements.map((m) => ({ m, pack: low.find((i) => i.id === m.item)?.basePack }));
    await query(
      this.trx,
      `INSERT INTO delivery_entry (delivery_id, item_id, pack_id, qty, lot, expires, serial, person_id, at)
       SELECT ?, x.i, x.p, x.q, l.code, l.expires, s.code, ?, ?
       FROM unnest(?::int[], ?::int[], ?::numeric[], ?::int[], ?::int[]) AS x(i, p, q, l, s)
       LEFT JOIN lot l ON l.id = x.l
       LEFT JOIN serial s ON s.id = x.s`,
      [
        delivery?.id,
        hand,
        this.at(day, 9),
        entries.map((e) => e.m.item),
        entries.map((e) => e.pack),
        entries.map((e) => e.m.qty / STEP),
        entries.map((e) => e.m.lot),
        entries.map((e) => e.m.serial),
      ],
    );
    const receipt = await this.post('receipt', day, 10, movements, delivery?.id);
    await query(this.trx, `UPDATE delivery SET receipt_id = ? WHERE id = ?`, [receipt, delivery?.id]);
    await this.settle(delivery?.id ?? 0, order?.id ?? 0);
    await this.shift(
      'putAway',
      day,
      12,
      low.flatMap((item) =>
        this.pieces(item)
          .filter((p) => p.bin === this.company.arrivals)
          .map((p) => ({ item, piece: p, qty: p.qty, to: item.home })),
      ),
      'Put away',
    );
  }

  /** Notes what a receipt met and gave to the lines of its order. */
  async settle(delivery: number, order: number): Promise<void> {
    const arrived = await query<{ item: ItemId; qty: string }>(
      this.trx,
      `SELECT item_id AS item, sum(qty) AS qty FROM delivery_entry WHERE delivery_id = ? GROUP BY 1`,
      [delivery],
    );
    const lines = await query<{ line: number; item: ItemId; open: string }>(
      this.trx,
      `SELECT id AS line, item_id AS item, qty - received AS open FROM purchase_line WHERE purchase_order_id = ? ORDER BY id`,
      [order],
    );
    const settled = settleLines(
      lines.map((l) => ({ ...l, open: asQty(l.open) })),
      new Map(arrived.map((a) => [a.item, asQty(a.qty)])),
    );
    await query(
      this.trx,
      `WITH x AS (SELECT * FROM unnest(?::int[], ?::int[], ?::numeric[], ?::numeric[]) AS x(line, item, expected, received)),
       met AS (INSERT INTO delivery_expected (delivery_id, purchase_line_id, item_id, expected, received) SELECT ?, * FROM x)
       UPDATE purchase_line l SET received = l.received + x.received FROM x WHERE l.id = x.line`,
      [
        settled.map((l) => l.line),
        settled.map((l) => l.item),
        settled.map((l) => dbQty(l.expected)),
        settled.map((l) => dbQty(l.received)),
        delivery,
      ],
    );
  }

  private async moveSome(day: number): Promise<void> {
    const refills = this.company.items
      .filter((i) => i.reserve && this.random.chance(0.3))
      .flatMap((item) =>
        this.pieces(item)
          .filter((p) => p.bin === item.reserve && p.qty > 4)
          .slice(0, 1)
          .map((piece) => ({ item, piece, qty: Math.ceil(piece.qty / 3), to: item.home })),
      );
    await this.shift('move', day, 15, refills, 'Refill');
  }

  private async sell(day: number): Promise<void> {
    const { company, random } = this;
    for (let n = random.int(5, 8); n > 0; n -= 1) {
      const lines: { item: DemoItem; piece: Piece; qty: number }[] = [];
      for (let l = random.int(1, 5); l > 0; l -= 1) {
        const item = random.pick(company.items);
        if (random.next() > 0.25 + item.popularity || lines.some((x) => x.item === item)) continue;
        const today = this.date(-day);
        const piece = this.pieces(item)
          .filter((p) => p.bin !== company.arrivals && p.qty >= 1 && !this.kept.has(p.lot ?? 0) && (!p.expires || p.expires >= today))
          .sort((a, b) => compareFirstExpired({ expires: a.expires, arrived: null }, { expires: b.expires, arrived: null }))[0];
        if (piece)
          lines.push({
            item,
            piece,
            qty: piece.serial ? 1 : Math.min(piece.qty, Math.max(1, Math.round(item.max * 0.08 * (0.3 + random.next())))),
          });
      }
      if (lines.length > 0) await this.shipOrder(day, lines);
    }
  }

  private async shipOrder(day: number, lines: { item: DemoItem; piece: Piece; qty: number }[]): Promise<void> {
    const { trx, company } = this;
    const hand = this.teller();
    const [order] = await query<{ id: number; number: string }>(
      trx,
      `INSERT INTO customer_order (number, site_id, customer_id, state, due, at, changed, parcels)
       VALUES ('CO-' || nextval('number_co'), ?, ?, 'shipped', ?, ?, ?, 1)
       RETURNING id, number`,
      [company.site, this.random.pick(company.customers), this.date(-day), this.at(day + 2, 11), this.at(day, 16)],
    );
    await query(
      trx,
      `INSERT INTO order_line (order_id, item_id, qty, shipped) SELECT ?, i, q, q FROM unnest(?::int[], ?::numeric[]) AS x(i, q)`,
      [order?.id, lines.map((l) => l.item.id), lines.map((l) => l.qty)],
    );
    const cart = company.bins.get('CART-1') ?? 0;
    const bench = company.bins.get('BENCH-1') ?? 0;
    const picks = lines.map((l) =>
      this.movement(l.item, { ...l.piece, qty: l.qty }, l.piece.bin as BinId, cart, `Picked for ${order?.number}`),
    );
    const downs = picks.map((m) => ({ ...m, from: m.to, to: { ...m.to, bin: bench as BinId }, reason: 'Put down' }));
    await this.post('round', day, 13, [...picks, ...downs], undefined, hand);
    const leaves = downs.map((m) => ({ ...m, from: m.to, to: { ...m.to, bin: OUTSIDE.customers }, reason: `Shipped on ${order?.number}` }));
    const document = await this.post('shipment', day, 16, leaves, order?.id);
    await query(trx, `INSERT INTO shipment (number, order_id, document_id, at) SELECT number, ?, id, at FROM document WHERE id = ?`, [
      order?.id,
      document,
    ]);
    for (const line of lines) this.take(line.item, line.piece, line.qty);
  }

  private async countZone(zone: string, day: number): Promise<void> {
    const { trx, company } = this;
    const lead = company.people['Maren Oake'];
    const [count] = await query<{ id: number; number: string }>(
      trx,
      `INSERT INTO stock_count (number, site_id, zone_id, blind, state, made_by, at, starts_after, posted_at)
       SELECT 'CT-' || nextval('number_ct'), ?, id, true, 'posted', ?, ?, 0, ?
       FROM zone
       WHERE site_id = ? AND code = ?
       RETURNING id, number`,
      [company.site, lead, this.at(day, 9), this.at(day, 15), company.site, zone],
    );
    await query(
      trx,
      `INSERT INTO count_bin (count_id, bin_id, open, verdict, verdict_at, counted_at)
       SELECT ?, bin.id, false, 'asExpected', x.at, x.at
       FROM (SELECT ?::timestamptz AS at) x, bin
       JOIN zone z ON z.id = bin.zone_id
       WHERE z.code = ? AND z.site_id = ?`,
      [count?.id, this.at(day, 15), zone, company.site],
    );
    const found = company.items
      .filter((i) => i.storage === (zone === 'COLD' ? 'cold' : 'locked') && i.tracking === 'lotExpiry')
      .slice(0, 2);
    const movements = found.flatMap((item) =>
      this.pieces(item)
        .filter((p) => p.qty > 2)
        .slice(0, 1)
        .map((p) => {
          this.take(item, p, 1);
          return this.movement(item, { ...p, qty: 1 }, p.bin as BinId, OUTSIDE.adjustments, `Counted in ${count?.number}`);
        }),
    );
    if (movements.length > 0)
      await query(trx, `UPDATE stock_count SET document_id = ? WHERE id = ?`, [
        await this.post('count', day, 15, movements, count?.id),
        count?.id,
      ]);
  }

  /** Movements that bring so much of an item in, with lots or serials made for it, and notes the pieces. `life` is days until a lot
   *  expires. */
  async arrive(item: DemoItem, amount: number, bin: number, from: BinId, reason: string, life: number): Promise<Movement[]> {
    const pieces: Piece[] = [];
    if (item.tracking === 'serial') {
      for (let n = 0; n < Math.min(amount, MOST_SERIALS); n += 1) {
        this.serials += 1;
        const [serial] = await query<{ id: number }>(this.trx, `INSERT INTO serial (item_id, code) VALUES (?, ?) RETURNING id`, [
          item.id,
          `${item.code.replace('-', '')}-${String(40000 + this.serials)}`,
        ]);
        pieces.push({ bin, lot: null, expires: null, serial: serial?.id ?? 0, qty: 1 });
      }
    } else if (item.tracking === 'lot' || item.tracking === 'lotExpiry') {
      this.lots += 1;
      const expires = item.tracking === 'lotExpiry' ? this.date(life) : null;
      const [lot] = await query<{ id: number }>(
        this.trx,
        `INSERT INTO lot (item_id, code, expires, arrived) VALUES (?, ?, ?, ?) RETURNING id`,
        [item.id, `L${2400 + this.lots}`, expires, this.at(Math.max(0, 100 - this.lots / 3), 9)],
      );
      pieces.push({ bin, lot: lot?.id ?? 0, expires, serial: null, qty: amount });
    } else pieces.push({ bin, lot: null, expires: null, serial: null, qty: amount });
    for (const piece of pieces) this.add(item, piece);
    return pieces.map((p) => this.movement(item, p, from, bin, reason));
  }

  async post(
    kind: DocumentKind,
    day: number,
    hour: number,
    movements: readonly Movement[],
    subject?: number,
    person = this.teller(),
    site = this.company.site,
  ): Promise<number> {
    // The ledger is written in the order of time: what would come before the last movement comes right after it.
    const at = new Date(Math.max(this.at(day, hour).getTime(), this.last + 1000));
    this.last = at.getTime();
    const document = await makeDocument(this.trx, kind, {
      site,
      person,
      at,
      ...(subject === undefined ? {} : { subject }),
    });
    await post(this.trx, { document: document.id as DocumentId, person: person as PersonId, at, movements });
    return document.id;
  }

  pieces(item: DemoItem): Piece[] {
    return this.stock.get(item.id) ?? [];
  }

  private async shift(
    kind: DocumentKind,
    day: number,
    hour: number,
    wanted: readonly { item: DemoItem; piece: Piece; qty: number; to: number }[],
    reason: string,
  ): Promise<void> {
    if (wanted.length === 0) return;
    await this.post(
      kind,
      day,
      hour,
      wanted.map((w) => this.movement(w.item, { ...w.piece, qty: w.qty }, w.piece.bin as BinId, w.to, reason)),
    );
    for (const w of wanted) {
      this.take(w.item, w.piece, w.qty);
      this.add(w.item, { ...w.piece, bin: w.to, qty: w.qty });
    }
  }

  private movement(item: DemoItem, p: Piece, from: BinId, to: number, reason: string): Movement {
    return {
      item: item.id as ItemId,
      lot: p.lot as LotId | null,
      serial: p.serial as SerialId | null,
      qty: (p.qty * STEP) as Qty,
      reason,
      from: { bin: from, unit: null, condition: 'sound' },
      to: { bin: to as BinId, unit: null, condition: 'sound' },
    };
  }

  private add(item: DemoItem, piece: Piece): void {
    const pieces = this.pieces(item);
    const same = pieces.find((p) => p.bin === piece.bin && p.lot === piece.lot && p.serial === piece.serial);
    if (same) same.qty += piece.qty;
    else pieces.push({ ...piece });
    this.stock.set(item.id, pieces);
  }

  private take(item: DemoItem, piece: Piece, amount: number): void {
    piece.qty -= amount;
    this.stock.set(
      item.id,
      this.pieces(item).filter((p) => p.qty > 0),
    );
  }

  private onHand(item: DemoItem): number {
    return this.pieces(item).reduce((sum, p) => sum + p.qty, 0);
  }

  private teller(): number {
    return this.random.pick(this.tellers);
  }
}
