/** A change as the server tells it: its topic, and the numbers of the records that it touched; a kind that it does not name may be any. */
export type Change = { readonly topic: string; readonly facts: Readonly<Record<string, unknown>> };
/** What a route was asked with, as far as it names records. */
export type Asked = {
  readonly params?: { readonly id?: number };
  readonly query?: { readonly item?: number; readonly bin?: number; readonly person?: number };
};
export type Shown = { readonly name: string; readonly input: Asked; readonly data: unknown };
type Records = Readonly<Record<string, readonly number[]>>;

// The rooms whose reads a topic touches: its own, and those that show it too. The row and home are told as data.
const TOUCHES: Readonly<Record<string, readonly string[]>> = {
  stock: ['lots', 'stock', 'items', 'places', 'moves', 'orders', 'picking', 'shipping', 'counting', 'carrying'],
  places: ['places', 'people', 'moves', 'labels'],
  items: ['items', 'stock', 'labels'],
  purchasing: ['purchasing', 'receiving', 'items', 'stock', 'orders'],
  receiving: ['receiving', 'purchasing', 'lots', 'items'],
  orders: ['orders', 'items', 'shipping', 'channel'],
  picking: ['picking', 'orders', 'places', 'carrying'],
  carrying: ['carrying', 'picking', 'moves'],
  shipping: ['shipping', 'orders'],
  counting: ['counting', 'places'],
  labels: ['labels', 'hands'],
  jobs: ['work'],
  people: ['people'],
  hands: ['hands'],
};

// Reads that change only with topics of their own, whatever moves.
const ONLY: Readonly<Record<string, readonly string[]>> = {
  'places.sites': ['places'],
  'places.plan': ['places'],
  'items.suppliers': ['items'],
  'items.ownFields': ['items'],
  'items.priceLists': ['items', 'jobs'],
  'items.priceColumns': [],
  'people.door': ['people'],
  // What to buy is a list that somebody works through: it stands still while goods move.
  'purchasing.reorder': ['purchasing'],
  'desk.day': ['receiving', 'picking', 'shipping'],
};

const one = (id: number | undefined): readonly number[] | undefined => (id === undefined ? undefined : [id]);
const some = (records: Readonly<Record<string, readonly number[] | undefined>>): Records =>
  Object.fromEntries(Object.entries(records).filter((entry): entry is [string, readonly number[]] => entry[1] !== undefined));

/** Which records a read shows, where it is not a list of all of them. */
const RECORDS: Readonly<Record<string, (shown: Shown) => Records>> = {
  'items.item': ({ input }) => some({ items: one(input.params?.id) }),
  'stock.equation': ({ input }) => some({ items: one(input.params?.id) }),
  'stock.movements': ({ input }) => some({ items: one(input.query?.item), bins: one(input.query?.bin) }),
  'places.bin': ({ input }) => some({ bins: one(input.params?.id) }),
  'orders.order': ({ input, data }) => some({ orders: one(input.params?.id), items: linesOf(data) }),
  'picking.round': ({ input }) => some({ rounds: one(input.params?.id) }),
  'carrying.carry': ({ input }) => some({ carries: one(input.params?.id) }),
  'purchasing.order': ({ input }) => some({ purchaseOrders: one(input.params?.id) }),
  'receiving.delivery': ({ input }) => some({ deliveries: one(input.params?.id) }),
  'counting.differences': ({ input }) => some({ counts: one(input.params?.id) }),
  'work.job': ({ input }) => some({ jobs: one(input.params?.id) }),
  'work.rows': ({ input }) => some({ jobs: one(input.params?.id) }),
  'people.events': ({ input }) => some({ people: one(input.query?.person) }),
};

function linesOf(data: unknown): readonly number[] | undefined {
  const { lines, lineList } = (data ?? {}) as { lines?: unknown; lineList?: unknown };
  // An order tells how many lines it has, and has them in a list beside.
  const list = [lineList, lines].find(Array.isArray) as readonly { item?: unknown }[] | undefined;
  const items = list?.map((l) => (typeof l.item === 'number' ? l.item : (l.item as { id?: number } | undefined)?.id));
  return items?.every((id) => typeof id === 'number') ? items : undefined;
}

// A change may name one record or several.
const PLURAL: Readonly<Record<string, string>> = {
  order: 'orders',
  round: 'rounds',
  carry: 'carries',
  delivery: 'deliveries',
  purchaseOrder: 'purchaseOrders',
  count: 'counts',
  job: 'jobs',
  person: 'people',
  item: 'items',
  bin: 'bins',
};

function recordsOf(facts: Change['facts']): Records {
  const found: Record<string, readonly number[]> = {};
  for (const [key, value] of Object.entries(facts)) {
    if (key === 'site') continue;
    if (typeof value === 'number') found[PLURAL[key] ?? key] = [value];
    else if (Array.isArray(value)) found[key] = value as number[];
  }
  return found;
}

/** Whether a change may have changed what a read shows.
 *  Shape:  by topic; and where change and read both name records of one kind, only if they share one. */
export function isTouched(change: Change, shown: Shown): boolean {
  const only = ONLY[shown.name];
  const room = shown.name.slice(0, shown.name.indexOf('.'));
  const byTopic = only ? only.includes(change.topic) : (TOUCHES[change.topic] ?? []).includes(room);
  if (!byTopic) return false;
  const shows = RECORDS[shown.name]?.(shown) ?? {};
  return Object.entries(recordsOf(change.facts)).every(([kind, ids]) => shows[kind]?.some((id) => ids.includes(id)) ?? true);
}

const GATHER_MS = 60;
const LIST_MS = 700;
/** By how much of its rest a reading may come later. */
const SPREAD = 0.5;

/** How long passes between the beginnings of two readings of a read at least, in milliseconds: a record hardly rests, a list longer. */
export function restOf(name: string): number {
  return name in RECORDS && name !== 'stock.movements' ? GATHER_MS : LIST_MS;
}

type Due = { begunAt: number; timer: ReturnType<typeof setTimeout> | null; isRunning: boolean; isAsked: boolean };

/** Reads again what was touched: soon, once for all changes that come together, never more often than its rest allows, and never while it
 *  is being read: whoever asked anew instead would lose their turn where many stand in line. What is touched meanwhile is read once more
 *  afterwards. */
export class ReadAgain {
  private readonly of = new Map<string, Due>();
  private readonly read: (key: string) => Promise<unknown>;
  private readonly random: () => number;

  /** `random`: 0 to 1; where many hear of a change at one moment, they are not to ask at one moment. */
  constructor(read: (key: string) => Promise<unknown>, random: () => number = Math.random) {
    this.read = read;
    this.random = random;
  }

  ask(key: string, restMs: number): void {
    const due = this.of.get(key) ?? { begunAt: -Infinity, timer: null, isRunning: false, isAsked: false };
    this.of.set(key, due);
    due.isAsked = due.isRunning;
    if (due.timer !== null || due.isRunning) return;
    due.timer = setTimeout(
      () => {
        Object.assign(due, { timer: null, isRunning: true, begunAt: Date.now() });
        const over = (): void => {
          due.isRunning = false;
          if (due.isAsked && this.of.get(key) === due) this.ask(key, restMs);
        };
        this.read(key).then(over, over);
      },
      Math.max(GATHER_MS, due.begunAt + restMs - Date.now()) + this.random() * SPREAD * restMs,
    );
  }

  stop(): void {
    for (const { timer } of this.of.values()) if (timer !== null) clearTimeout(timer);
    this.of.clear();
  }
}
