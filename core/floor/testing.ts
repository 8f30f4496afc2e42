import { qty, type BinId, type ItemId, type LotId, type Qty } from '#core/base';
import { FactBook } from './fact-book.ts';
import type { BinFact, ContentFact, ItemFact } from './facts.ts';
import { meaningBy, type Meaning } from './meaning.ts';
import type { HandEvent, Stamp } from './step.ts';

/** A small made-up floor for tests of the step machines: six kinds of goods, a dozen bins. Quantities in whole units. */
export const NOW = '2026-11-26T08:00:00.000Z';
const whole = (units: number): Qty => qty(units * 1000);

const item = (id: number, code: string, tracking: ItemFact['tracking'], more: Partial<ItemFact> = {}): ItemFact => ({
  id: id as ItemId,
  code,
  description: `${code} of the tests`,
  unit: 'each',
  decimals: 0,
  tracking,
  shelfLifeMonths: null,
  storageClass: 'dry',
  unitMl: 0,
  unitG: 0,
  packs: [
    { id: id * 10, name: 'each', units: whole(1), codes: [`95200000${String(id).padStart(4, '0')}`] },
    { id: id * 10 + 1, name: 'case', units: whole(12), codes: [`C-95200000${id}`] },
  ],
  homes: [],
  ...more,
});
const bin = (id: number, address: string, more: Partial<BinFact> = {}): BinFact => ({
  id: id as BinId,
  address,
  names: [],
  zone: 'Store',
  purpose: 'storage',
  use: 'shelf',
  pickable: true,
  walk: id,
  rules: { bin: id as BinId, address, oneItem: false, oneLot: false, storageClass: null, units: null, volumeMl: null, weightG: null },
  ...more,
});

export const GOODS = {
  jar: item(1, 'JAR-1', 'none'),
  rope: item(2, 'ROPE-2', 'none', { decimals: 2, unit: 'm' }),
  lot: item(3, 'LOT-3', 'lot'),
  dated: item(4, 'DATED-4', 'lotExpiry'),
  serial: item(5, 'SERIAL-5', 'serial'),
  out: item(6, 'OUT-6', 'serialOut'),
} as const;
export const BINS = {
  a: bin(101, 'A-01-1', { names: ['OLD RACK'] }),
  b: bin(102, 'A-01-2'),
  c: bin(103, 'A-02-1'),
  empty: bin(104, 'A-02-2'),
  oneItem: bin(105, 'A-03-1', {
    rules: {
      bin: 105 as BinId,
      address: 'A-03-1',
      oneItem: true,
      oneLot: false,
      storageClass: null,
      units: null,
      volumeMl: null,
      weightG: null,
    },
  }),
  arrivals: bin(110, 'ARRIVALS', { use: 'arrivals', pickable: false, purpose: 'dock' }),
  bench: bin(111, 'BENCH-1', { use: 'packing', pickable: false, purpose: 'packing' }),
  cart: bin(112, 'CART-1', { use: 'cart', pickable: false, purpose: 'dock' }),
  scrap: bin(113, 'SCRAP', { use: 'scrap', pickable: false, purpose: 'scrap' }),
} as const;

/** The facts of that floor. `lying`: what lies where, in whole units. */
export function testFloor(lying: readonly Partial<ContentFact>[] = []): FactBook {
  const book = new FactBook('2026-11-26');
  for (const i of Object.values(GOODS)) book.putItem(i);
  for (const b of Object.values(BINS)) book.putBin(b);
  book.putLot({ id: 1 as LotId, item: GOODS.dated.id, code: 'OLD', expires: '2026-11-25' });
  book.putLot({ id: 2 as LotId, item: GOODS.dated.id, code: 'NEXT', expires: '2027-01-31' });
  book.putLot({ id: 3 as LotId, item: GOODS.dated.id, code: 'LATER', expires: '2027-06-30' });
  book.putLot({ id: 4 as LotId, item: GOODS.lot.id, code: 'L-1', expires: null });
  book.putForeignBin(900, 'Z-09-9', 'Overflow barn');
  for (const [n, c] of lying.entries())
    book.putBalance(n + 1, {
      bin: BINS.a.id,
      item: GOODS.jar.id,
      lot: null,
      expires: c.lot ? (book.lot(c.item ?? 0, c.lot)?.expires ?? null) : null,
      serial: null,
      condition: 'sound',
      ...c,
      qty: whole(c.qty ?? 1),
    });
  return book;
}

/** A scan of this text on that floor. */
export const scanOf = (facts: FactBook, text: string): { kind: 'scan'; meaning: Meaning } => ({
  kind: 'scan',
  meaning: meaningBy(facts, text),
});
export const codeOf = (i: ItemFact, pack = 0): string => i.packs[pack]?.codes[0] ?? '';

let made = 0;
/** The next stamp: each a second after the one before. */
export function stampNow(person = 7): Stamp {
  made += 1;
  return {
    // Room between two of them for the entries that one scan makes.
    key: `00000000-0000-4000-8000-${(made * 0x1000).toString(16).padStart(12, '0')}`,
    at: new Date(Date.parse(NOW) + made * 1000).toISOString(),
    person,
    more: [1, 2, 3].map((n) => `act-${made}-${n}`),
  };
}

/** Plays a machine: the steps, what they said, and everything that was done. */
export function play<At, Choice, Said, Does>(
  begin: At,
  events: readonly HandEvent<Choice>[],
  step: (
    at: At,
    event: HandEvent<Choice>,
    done: readonly { does: Does; stamp: Stamp }[],
    stamp: Stamp,
  ) => { at: At; says: { tone: string } & Said; does: readonly Does[] },
): { at: At; said: ({ tone: string } & Said)[]; done: { does: Does; stamp: Stamp }[] } {
  let at = begin;
  const said: ({ tone: string } & Said)[] = [];
  const done: { does: Does; stamp: Stamp }[] = [];
  for (const event of events) {
    const stamp = stampNow();
    const stepped = step(at, event, done, stamp);
    at = stepped.at;
    said.push(stepped.says);
    // As the device does it: the first act has the stamp's key, each further one a key of its own.
    for (const [n, does] of stepped.does.entries()) done.push({ does, stamp: n === 0 ? stamp : { ...stamp, key: stampNow().key } });
  }
  return { at, said, done };
}

/** A scan of a GS1 label of these goods that says more than what they are. `labelled` in whole units. */
export const labelOf = (
  i: ItemFact,
  says: { lot?: string; expires?: string; made?: string; serial?: string; labelled?: number } = {},
): { kind: 'scan'; meaning: Meaning } => ({
  kind: 'scan',
  meaning: {
    kind: 'item',
    text: `(01)${i.code}`,
    item: i,
    pack: i.packs[0] as ItemFact['packs'][number],
    lot: says.lot ?? null,
    expires: says.expires ?? null,
    made: says.made ?? null,
    serial: says.serial ?? null,
    sscc: null,
    labelled: says.labelled === undefined ? null : whole(says.labelled),
  },
});
