import { subQty, sumQty, type BinId, type ItemId, type Qty } from '#core/base';
import { moveDeltas, type BalanceFact, type BinFact, type ContentDelta, type Facts, type Stamp } from '#core/floor';
import { byWay } from '#core/picking';
import type { Condition } from '#core/stock';

export type CarryKind = 'putAway' | 'refill';
/** What of an item is to be carried from one bin to another. `key` names it on the device and on the server; labels as they are read. */
export type CarryTask = {
  readonly key: string;
  readonly item: ItemId;
  readonly from: BinId;
  readonly lot: string | null;
  readonly serial: string | null;
  /** The pallet or carton in which it is, which goes whole. */
  readonly sscc: string | null;
  readonly condition: Condition;
  readonly qty: Qty;
  readonly to: BinId;
  readonly why: string;
  readonly trouble: string | null;
};
/** What somebody took onto the cart or put down, by the act that said so. `bin`: where it was taken, or put. */
export type Carried = {
  readonly key: string;
  readonly task: string;
  readonly way: 'take' | 'put';
  readonly qty: Qty;
  readonly serial: string | null;
  readonly bin: BinId;
  readonly person: number;
  readonly at: string;
};
/** Bins in the order in which they are met, and how far each is from the one before it in metres. */
export type Leg = { readonly bin: number; readonly far: number | null };
/** A put-away or refill round as a device holds it. Without a cart, goods go from where they lie straight to their bins. */
export type CarryJob = {
  readonly id: number;
  readonly number: string;
  readonly kind: CarryKind;
  readonly state: 'open' | 'done' | 'thrown';
  readonly person: number | null;
  readonly cart: BinId | null;
  readonly takeWay: readonly Leg[];
  readonly putWay: readonly Leg[];
  readonly tasks: readonly CarryTask[];
  readonly carried: readonly Carried[];
};
export type CarryTrouble = 'short' | 'damaged' | 'notFound';
type CarriedGoods = {
  readonly carry: number;
  readonly task: string;
  readonly item: ItemId;
  readonly lot: string | null;
  readonly serial: string | null;
  readonly qty: Qty;
};
export type CarryDoes =
  | ({ kind: 'carry.take' } & CarriedGoods)
  | ({ kind: 'carry.put'; to: BinId; over: string | null } & CarriedGoods)
  | { kind: 'carry.undo'; carry: number; act: string }
  | { kind: 'carry.trouble'; carry: number; task: string; trouble: CarryTrouble };

const sumOf = (job: CarryJob, task: CarryTask, way: Carried['way']): Qty =>
  sumQty(job.carried.filter((c) => c.task === task.key && c.way === way).map((c) => c.qty));
export const takenOf = (job: CarryJob, task: CarryTask): Qty => sumOf(job, task, 'take');
export const putOf = (job: CarryJob, task: CarryTask): Qty => sumOf(job, task, 'put');
/** What is still to be taken for a task; nothing where there is no cart to take it onto. Thousandths. */
export const toTake = (job: CarryJob, task: CarryTask): Qty => (job.cart === null ? (0 as Qty) : subQty(task.qty, takenOf(job, task)));
/** What can be put down for a task now: what is on the cart, or without one what still lies where it came from. */
export const toPut = (job: CarryJob, task: CarryTask): Qty => subQty(job.cart === null ? task.qty : takenOf(job, task), putOf(job, task));
/** The serials that are on the cart for a task. */
export function serialsOnCart(job: CarryJob, task: CarryTask): readonly string[] {
  const put = new Set(job.carried.filter((c) => c.task === task.key && c.way === 'put').map((c) => c.serial));
  return job.carried.flatMap((c) => (c.task === task.key && c.way === 'take' && c.serial !== null && !put.has(c.serial) ? [c.serial] : []));
}
/** Whether nothing is left to be carried. */
export const isCarried = (job: CarryJob): boolean => job.tasks.every((t) => toTake(job, t) <= 0 && toPut(job, t) <= 0);

/** The round with what this device did on it, whether or not the server has counted it in already.
 *  Law:    folding an act twice is folding it once. */
export function foldCarry(job: CarryJob, acts: readonly { does: CarryDoes; stamp: Stamp }[]): CarryJob {
  let folded = job;
  for (const { does, stamp } of acts) {
    if (does.carry !== job.id) continue;
    const { carried, tasks } = folded;
    switch (does.kind) {
      case 'carry.take':
      case 'carry.put': {
        const task = tasks.find((t) => t.key === does.task);
        if (!task || carried.some((c) => c.key === stamp.key)) break;
        const way = does.kind === 'carry.take' ? ('take' as const) : ('put' as const);
        const bin = does.kind === 'carry.take' ? task.from : does.to;
        const { qty, serial } = does;
        const one = { key: stamp.key, task: task.key, way, qty, serial, bin, person: stamp.person, at: stamp.at };
        folded = { ...folded, carried: [...carried, one], person: folded.person ?? stamp.person };
        break;
      }
      case 'carry.undo':
        folded = { ...folded, carried: carried.filter((c) => c.key !== does.act) };
        break;
      case 'carry.trouble': {
        const cut = (t: CarryTask): CarryTask => ({
          ...t,
          qty: folded.cart === null ? putOf(folded, t) : takenOf(folded, t),
          trouble: does.trouble,
        });
        folded = { ...folded, tasks: tasks.map((t) => (t.key === does.task && t.trouble === null ? cut(t) : t)) };
        break;
      }
    }
  }
  return folded.state === 'open' && isCarried(folded) ? { ...folded, state: 'done' } : folded;
}

/** What acts of a round do to the bins, as long as the server has not counted them in. */
export function carryDeltasOf(
  does: CarryDoes,
  job: CarryJob | undefined,
  facts: Facts,
  inUnit: (sscc: string) => readonly BalanceFact[],
): readonly ContentDelta[] {
  const task = does.kind === 'carry.take' || does.kind === 'carry.put' ? job?.tasks.find((t) => t.key === does.task) : undefined;
  if (!job || !task || (does.kind !== 'carry.take' && does.kind !== 'carry.put')) return [];
  const from = does.kind === 'carry.put' ? (job.cart ?? task.from) : task.from;
  const to = does.kind === 'carry.put' ? does.to : job.cart;
  if (to === null) return [];
  if (task.sscc !== null) return inUnit(task.sscc).flatMap((g) => moveDeltas(g, from, to));
  const expires = task.lot === null ? null : (facts.lot(task.item, task.lot)?.expires ?? null);
  return moveDeltas({ item: task.item, lot: task.lot, expires, serial: does.serial, condition: task.condition, qty: does.qty }, from, to);
}

export type CarryStop = {
  readonly bin: BinFact;
  readonly tasks: readonly CarryTask[];
  readonly open: readonly CarryTask[];
  readonly far: number | null;
};

/** The bins where something is taken, or where something is put, in the order of the way. */
export function carryStops(job: CarryJob, way: Carried['way'], facts: Facts): readonly CarryStop[] {
  const [legs, binOf, openOf] =
    way === 'take' ? ([job.takeWay, (t: CarryTask) => t.from, toTake] as const) : ([job.putWay, (t: CarryTask) => t.to, toPut] as const);
  const byBin = new Map<number, CarryTask[]>();
  for (const task of job.tasks) {
    if (task.qty === 0) continue;
    byBin.set(binOf(task), [...(byBin.get(binOf(task)) ?? []), task]);
  }
  const bins = [...byBin.keys()].flatMap((id) => facts.bin(id) ?? []);
  const met = byWay(
    bins,
    legs.map((l) => l.bin),
  );
  return met.map((bin, n) => {
    const at = legs.findIndex((l) => l.bin === bin.id);
    const isNext = at >= 0 && legs[at - 1]?.bin === met[n - 1]?.id;
    const tasks = byBin.get(bin.id) ?? [];
    return { bin, tasks, open: tasks.filter((t) => openOf(job, t) > 0), far: isNext ? (legs[at]?.far ?? null) : null };
  });
}

/** What this person did on the round and may still take back, newest first. */
export const ownCarried = (job: CarryJob, person: number): readonly Carried[] =>
  job.carried
    .filter((c) => c.person === person)
    .toReversed()
    .sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
