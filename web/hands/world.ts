import { qty, type BinId, type ItemId, type LotId, type Qty } from '#core/base';
import type { CarryJob } from '#core/carrying';
import type { CountJob } from '#core/counting';
import { FactBook, type AnnouncedUnit, type ContentFact, type PackFact } from '#core/floor';
import type { RoundJob } from '#core/picking';
import {
  linesOfOrders,
  type DeliveryJob,
  type DeliveryRef,
  type ExpectedOrder,
  type HandEntry,
  type SentShipment,
  type Tolerance,
} from '#core/receiving';
import type { BenchOrder } from '#core/shipping';
import type { FactKind, FactPart } from '#contract/hands';

/** A row of facts as it travels and as it is kept: the first value is its id. server/hands/facts.ts writes them, and names each column. */
export type Row = readonly unknown[];
type Table = Map<number, Row>;

const amount = (steps: unknown): Qty => qty(Number(steps));
const amountOrNull = (steps: unknown): Qty | null => (steps === null ? null : amount(steps));

/** Everything that a device knows of a site: the facts that scans are looked up in, and the papers at which hands work. Rows come and go
 *  as the server tells them; what was done on the device itself is folded over them elsewhere. */
export class World {
  readonly book: FactBook;
  private readonly tables = new Map<FactKind, Table>();
  private readonly deliveryKeys = new Map<string, number>();
  private entriesOf = new Map<number, Map<number, HandEntry>>();
  private talliesOf = new Map<number, Map<number, CountJob['tallies'][number]>>();
  private binsOf = new Map<number, Map<number, CountJob['bins'][number] & { walk: number }>>();

  constructor(today: string) {
    this.book = new FactBook(today);
  }

  /** The rows of a kind, by id. */
  table(kind: FactKind): Table {
    const found = this.tables.get(kind);
    if (found) return found;
    const made: Table = new Map();
    this.tables.set(kind, made);
    return made;
  }

  /** Takes rows in and others out. */
  apply(parts: readonly FactPart[]): void {
    for (const { kind, rows, gone } of parts) {
      const table = this.table(kind);
      for (const row of rows) {
        const id = row[0] as number;
        this.drop(kind, table.get(id));
        table.set(id, row);
        this.put(kind, row);
      }
      for (const id of gone) {
        this.drop(kind, table.get(id));
        table.delete(id);
      }
    }
  }

  private put(kind: FactKind, r: Row): void {
    switch (kind) {
      case 'item':
        return this.book.putItem({
          id: r[0] as ItemId,
          code: r[1] as string,
          description: r[2] as string,
          unit: r[3] as string,
          decimals: r[4] as number,
          tracking: r[5] as 'none',
          shelfLifeMonths: (r[11] as number | null | undefined) ?? null,
          storageClass: r[6] as string,
          unitMl: Number(r[7]),
          unitG: Number(r[8]),
          packs: (r[9] as unknown[][]).map((p): PackFact => ({
            id: p[0] as number,
            name: p[1] as string,
            units: amount(p[2]),
            codes: p[3] as string[],
          })),
          homes: (r[10] as unknown[][]).map((h) => ({ bin: h[0] as BinId, max: amountOrNull(h[1]) })),
        });
      case 'bin': {
        const [id, address] = [r[0] as BinId, r[1] as string];
        return this.book.putBin({
          id,
          address,
          names: r[2] as string[],
          zone: r[3] as string,
          purpose: r[4] as string,
          use: r[5] as string,
          pickable: r[6] as boolean,
          walk: r[7] as number,
          rules: {
            bin: id,
            address,
            oneItem: r[8] as boolean,
            oneLot: r[9] as boolean,
            storageClass: r[10] as string | null,
            units: amountOrNull(r[11]),
            volumeMl: r[12] as number | null,
            weightG: r[13] as number | null,
          },
        });
      }
      case 'foreignBin':
        return this.book.putForeignBin(r[0] as number, r[1] as string, r[2] as string);
      case 'lot':
        return this.book.putLot({ id: r[0] as LotId, item: r[1] as ItemId, code: r[2] as string, expires: r[3] as string | null });
      case 'balance':
        return this.book.putBalance(r[0] as number, {
          bin: r[1] as BinId,
          item: r[2] as ItemId,
          lot: r[3] as string | null,
          expires: r[4] as string | null,
          serial: r[5] as string | null,
          condition: r[6] as ContentFact['condition'],
          qty: amount(r[7]),
          sscc: (r[8] as string | null | undefined) ?? null,
        });
      case 'entry':
        inner(this.entriesOf, r[1] as number).set(r[0] as number, {
          key: r[2] as string,
          item: r[3] as ItemId,
          code: '',
          qty: amount(r[4]),
          lot: r[5] as string | null,
          expires: r[6] as string | null,
          serial: r[7] as string | null,
          person: r[8] as number,
          at: new Date(r[9] as string).toISOString(),
          settled: r[10] as boolean,
          made: (r[11] as string | null | undefined) ?? null,
          finding: findingOf(r[12] as unknown[] | null | undefined),
          photos: (r[13] as number | undefined) ?? 0,
          bin: (r[14] as BinId | null | undefined) ?? null,
          sscc: (r[15] as string | null | undefined) ?? null,
        });
        return;
      case 'tally':
        inner(this.talliesOf, r[1] as number).set(r[0] as number, {
          key: r[2] as string,
          bin: r[3] as BinId,
          item: r[4] as ItemId,
          lot: r[5] as string | null,
          serial: r[6] as string | null,
          qty: amount(r[7]),
          person: r[8] as number,
          at: new Date(r[9] as string).toISOString(),
          sscc: (r[10] as string | null | undefined) ?? null,
        });
        return;
      case 'countBin':
        inner(this.binsOf, r[1] as number).set(r[0] as number, {
          bin: r[2] as BinId,
          address: r[3] as string,
          walk: r[4] as number,
          verdict: r[5] as 'none' | 'asExpected' | null,
        });
        return;
      case 'delivery':
        for (const key of r[6] as string[]) this.deliveryKeys.set(key, r[0] as number);
        return;
      case 'notice':
        return this.book.putNotice(r[0] as number, announcedOf(r));
      case 'supplier':
      case 'purchaseOrder':
      case 'round':
      case 'carry':
      case 'order':
      case 'count':
      case 'failureReason':
      case 'shipment':
        return;
    }
  }

  private drop(kind: FactKind, row: Row | undefined): void {
    if (!row) return;
    const id = row[0] as number;
    switch (kind) {
      case 'item':
        return this.book.dropItem(id);
      case 'bin':
        return this.book.dropBin(id);
      case 'foreignBin':
        return this.book.dropForeignBin(id);
      case 'lot':
        return this.book.dropLot(id);
      case 'balance':
        return this.book.dropBalance(id);
      case 'entry':
        this.entriesOf.get(row[1] as number)?.delete(id);
        return;
      case 'tally':
        this.talliesOf.get(row[1] as number)?.delete(id);
        return;
      case 'countBin':
        this.binsOf.get(row[1] as number)?.delete(id);
        return;
      case 'delivery':
        for (const key of row[6] as string[]) this.deliveryKeys.delete(key);
        return;
      case 'notice':
        return this.book.dropNotice(id);
      case 'supplier':
      case 'purchaseOrder':
      case 'round':
      case 'carry':
      case 'order':
      case 'count':
      case 'failureReason':
      case 'shipment':
        return;
    }
  }

  /** A delivery by its number in the house, or by a key under which a device began it. */
  delivery(ref: DeliveryRef): DeliveryJob | undefined {
    const id = typeof ref === 'number' ? ref : this.deliveryKeys.get(ref);
    const r = id === undefined ? undefined : this.table('delivery').get(id);
    if (!r || id === undefined) return undefined;
    const begun = this.begunDelivery({
      delivery: ref,
      supplier: r[3] as number | null,
      orders: r[5] as number[],
      back: r[9] ? { shipment: r[10] as number | null } : null,
    });
    return {
      ...begun,
      number: r[1] as string,
      state: r[2] as DeliveryJob['state'],
      paper: { doc: r[7] as string, date: r[8] as string | null },
      back: begun.back && { ...begun.back, customer: (r[11] as string | null) ?? begun.back.customer },
      entries: [...(this.entriesOf.get(id)?.values() ?? [])],
    };
  }

  /** A delivery of which the house has not heard yet: what it was begun with. */
  begunDelivery(of: {
    delivery: DeliveryRef;
    supplier: number | null;
    orders: readonly number[];
    back: { readonly shipment: number | null } | null;
  }): DeliveryJob {
    const shipment = of.back?.shipment ? this.shipments().find((s) => s.id === of.back?.shipment) : undefined;
    const orders = of.orders.flatMap((id) => {
      const row = this.table('purchaseOrder').get(id);
      return row ? [orderOf(row)] : [];
    });
    return {
      id: of.delivery,
      number: null,
      state: 'scanning',
      supplier: of.supplier === null ? null : this.supplierName(of.supplier),
      ...(of.supplier === null ? {} : { agreed: this.agreedWith(of.supplier) }),
      orders: orders.map((o) => o.number),
      paper: { doc: '', date: null },
      lines: shipment ? shipment.lines.map((l) => ({ item: l.item, expected: l.sent, waiting: 0 })) : linesOfOrders(orders),
      back: of.back && { shipment: shipment?.number ?? null, customer: shipment?.customer ?? null },
      entries: [],
    };
  }

  /** Every name that a delivery has here: its number, and the keys under which it was begun. */
  deliveryRefs(ref: DeliveryRef): readonly DeliveryRef[] {
    const id = typeof ref === 'number' ? ref : this.deliveryKeys.get(ref);
    const row = id === undefined ? undefined : this.table('delivery').get(id);
    return row ? [row[0] as number, ...(row[6] as string[])] : [ref];
  }

  supplierName(id: number): string {
    return (this.table('supplier').get(id)?.[1] as string | undefined) ?? '';
  }

  private agreedWith(supplier: number): Tolerance {
    const row = this.table('supplier').get(supplier);
    return { over: (row?.[2] as number | undefined) ?? 0, short: (row?.[3] as number | undefined) ?? 0 };
  }

  suppliers(): readonly { readonly id: number; readonly name: string }[] {
    return [...this.table('supplier').values()]
      .map((r) => ({ id: r[0] as number, name: r[1] as string }))
      .sort((a, b) => a.name.localeCompare(b.name));
  }

  /** What left in the last months, the newest first. */
  shipments(): readonly SentShipment[] {
    return [...this.table('shipment').values()]
      .map((r) => ({
        id: r[0] as number,
        number: r[1] as string,
        order: r[2] as string,
        customer: r[3] as string,
        at: new Date(r[4] as string).toISOString(),
        lines: (r[5] as unknown[][]).map((l) => ({ item: l[0] as ItemId, sent: amount(l[1]) })),
      }))
      .sort((a, b) => b.id - a.id);
  }

  /** For what goods fail that arrive, by name. */
  failureReasons(): readonly { readonly id: number; readonly name: string }[] {
    return [...this.table('failureReason').values()]
      .map((r) => ({ id: r[0] as number, name: r[1] as string }))
      .sort((a, b) => a.name.localeCompare(b.name));
  }

  /** The purchase orders that are to come, those that are due first before the others. */
  purchaseOrders(): readonly ExpectedOrder[] {
    return [...this.table('purchaseOrder').values()].map(orderOf).sort((a, b) => (a.due === b.due ? a.id - b.id : a.due < b.due ? -1 : 1));
  }

  round(id: number): RoundJob | undefined {
    const r = this.table('round').get(id);
    return (
      r && {
        id,
        number: r[1] as string,
        state: r[2] as RoundJob['state'],
        person: r[3] as number | null,
        cart: r[4] as BinId,
        packingBin: r[5] as BinId | null,
        way: r[9] as number[],
        legs: r[10] as (number | null)[],
        picks: (r[7] as unknown[][]).map((p) => ({
          key: p[0] as string,
          order: p[1] as string,
          line: p[2] as number,
          slot: p[3] as number,
          bin: p[4] as BinId,
          item: p[5] as ItemId,
          lot: p[6] as string | null,
          qty: amount(p[7]),
          trouble: p[8] as string | null,
          named: {
            serials: p[9] as string[] | null,
            lot: p[10] as boolean,
            bin: p[11] as boolean,
            goodOn: p[12] as string | null,
          },
          kept: p[13] as string[],
        })),
        taken: (r[8] as unknown[][]).map((t) => ({
          key: t[0] as string,
          pick: t[1] as string,
          qty: amount(t[2]),
          serial: t[3] as string | null,
          person: t[4] as number,
          at: new Date(t[5] as string).toISOString(),
          lot: t[6] as string | null,
          gone: t[7] as boolean,
        })),
        kits: (r[11] as unknown[][]).map((k) => ({
          order: k[0] as number,
          number: k[1] as string,
          item: k[2] as ItemId,
          qty: amount(k[3]),
          made: amount(k[4]),
          for: k[5] === null ? null : { number: k[5] as string, slot: k[6] as number | null },
          parts: (k[7] as unknown[][]).map((p) => ({ line: p[0] as number, item: p[1] as ItemId, qty: amount(p[2]) })),
          acts: (k[8] as unknown[][]).map((a) => ({
            key: a[0] as string,
            qty: amount(a[1]),
            person: a[2] as number,
            at: new Date(a[3] as string).toISOString(),
          })),
        })),
      }
    );
  }

  carry(id: number): CarryJob | undefined {
    const r = this.table('carry').get(id);
    const legs = (way: unknown, far: unknown): CarryJob['takeWay'] =>
      (way as number[]).map((bin, n) => ({ bin, far: (far as (number | null)[])[n] ?? null }));
    return (
      r && {
        id,
        number: r[1] as string,
        kind: r[2] as CarryJob['kind'],
        state: r[3] as CarryJob['state'],
        person: r[4] as number | null,
        cart: r[5] as BinId | null,
        tasks: (r[7] as unknown[][]).map((t) => ({
          key: t[0] as string,
          item: t[1] as ItemId,
          from: t[2] as BinId,
          lot: t[3] as string | null,
          serial: t[4] as string | null,
          sscc: t[5] as string | null,
          condition: t[6] as ContentFact['condition'],
          qty: amount(t[7]),
          to: t[8] as BinId,
          why: t[9] as string,
          trouble: t[10] as string | null,
        })),
        carried: (r[8] as unknown[][]).map((d) => ({
          key: d[0] as string,
          task: d[1] as string,
          way: d[2] as 'take' | 'put',
          qty: amount(d[3]),
          serial: d[4] as string | null,
          bin: d[5] as BinId,
          person: d[6] as number,
          at: new Date(d[7] as string).toISOString(),
        })),
        takeWay: legs(r[9], r[10]),
        putWay: legs(r[11], r[12]),
      }
    );
  }

  count(id: number): CountJob | undefined {
    const r = this.table('count').get(id);
    return (
      r && {
        id,
        number: r[1] as string,
        zone: r[2] as string,
        blind: r[3] as boolean,
        state: r[4] as CountJob['state'],
        bins: [...(this.binsOf.get(id)?.values() ?? [])].sort((a, b) => a.walk - b.walk || a.bin - b.bin),
        tallies: [...(this.talliesOf.get(id)?.values() ?? [])],
      }
    );
  }

  orders(): BenchOrder[] {
    return [...this.table('order').values()].map((r) => ({
      id: r[0] as number,
      number: r[1] as string,
      customer: r[2] as string,
      heldFor: r[3] as string | null,
      packed: r[4] as boolean,
      lines: (r[5] as unknown[][]).map((l) => ({ item: l[0] as ItemId, open: amount(l[1]) })),
      pieces: (r[6] as unknown[][]).map((p) => ({
        key: p[0] as string,
        item: p[1] as ItemId,
        lot: p[2] as string | null,
        serial: p[3] as string | null,
        qty: amount(p[4]),
        putDown: p[5] as boolean,
      })),
    }));
  }

  /** The papers of a kind at which hands work: deliveries, rounds, counts. */
  ids(kind: 'delivery' | 'round' | 'carry' | 'count'): number[] {
    return [...this.table(kind).keys()].sort((a, b) => a - b);
  }
}

const findingOf = (f: readonly unknown[] | null | undefined): HandEntry['finding'] =>
  f
    ? {
        checked: amount(f[0]),
        note: f[1] as string,
        failed: (f[2] as unknown[][]).map((x) => ({ reason: x[0] as number, qty: amount(x[1]) })),
      }
    : null;

const announcedOf = (r: Row): AnnouncedUnit[] =>
  (r[5] as [string, unknown[][]][]).map(([sscc, goods]) => ({
    sscc,
    notice: r[1] as string,
    supplier: r[2] as number,
    supplierName: r[3] as string,
    orders: r[4] as number[],
    goods: goods.map((g) => ({
      item: g[0] as ItemId,
      pack: g[1] as number,
      qty: amount(g[2]),
      lot: g[3] as string | null,
      expires: g[4] as string | null,
      made: g[5] as string | null,
      serial: g[6] as string | null,
    })),
  }));

const orderOf = (r: Row): ExpectedOrder => ({
  id: r[0] as number,
  number: r[1] as string,
  supplier: r[2] as number,
  due: r[3] as string,
  lines: (r[4] as unknown[][]).map((l) => ({ item: l[0] as ItemId, expected: amount(l[1]), waiting: Number(l[2]) })),
});

function inner<V>(map: Map<number, Map<number, V>>, key: number): Map<number, V> {
  const found = map.get(key);
  if (found) return found;
  const made = new Map<number, V>();
  map.set(key, made);
  return made;
}
