import { formatQty, ONE, parseQty, subQty, type BinId, type Qty } from '#core/base';
import {
  goodsOfSerial,
  keyedLabel,
  labelFor,
  type BinFact,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type Stamp,
  type Stepped,
} from '#core/floor';
import { packToBase } from '#core/items';
import { doubtOf, doubtWords, type MoveDoubt } from '#core/moves';
import type { CarryingError } from './errors.ts';
import {
  carryStops,
  foldCarry,
  ownCarried,
  putOf,
  serialsOnCart,
  takenOf,
  toPut,
  toTake,
  type CarryDoes,
  type CarryJob,
  type CarryStop,
  type CarryTask,
  type CarryTrouble,
} from './job.ts';
import type { CarrySaid } from './said.ts';

export type CarryAsks =
  | { what: 'goods' }
  | { what: 'lot'; item: number; qty: Qty }
  | { what: 'serial'; task: string }
  | { what: 'trouble' }
  /** Another bin than planned was scanned where something is put: scanned again, it goes there. */
  | { what: 'elsewhere'; bin: BinId }
  | { what: 'sure'; task: string; qty: Qty; serial: string | null; to: BinId; doubt: MoveDoubt };
/** `bin`: where the hand has shown that it stands; `elsewhere`: that is not where its goods were planned; `laying`: it puts down what is on
 *  the cart before it takes more. */
export type CarryAt = { readonly bin: BinId | null; readonly elsewhere: boolean; readonly laying: boolean; readonly asks: CarryAsks };
export const CARRY_BEGINS: CarryAt = { bin: null, elsewhere: false, laying: false, asks: { what: 'goods' } };

export type CarryChoice =
  | { what: 'lot'; lot: string }
  | { what: 'trouble' }
  | { what: 'noTrouble' }
  | { what: 'report'; kind: CarryTrouble }
  | { what: 'lay' }
  | { what: 'sure'; reason?: string }
  | { what: 'back' };

type Stepping = Stepped<CarryAt, CarrySaid, CarryDoes>;
type World = { readonly job: CarryJob; readonly facts: Facts; readonly stamp: Stamp };
const say = (at: CarryAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });
const refused = (at: CarryAt, error: CarryingError): Stepping => say(at, { tone: 'wrong', said: 'carrying.refused', error });
const GOODS: CarryAsks = { what: 'goods' };
/** Bins from which orders go out: nothing is put away there. */
const OUTWARD = ['cart', 'packing', 'transit'];

/** Whether goods are taken onto the cart now, or put into their bins. */
export function carryWay(at: CarryAt, job: CarryJob): 'take' | 'put' {
  if (job.cart === null) return 'put';
  const isLaden = job.tasks.some((t) => toPut(job, t) > 0);
  return job.tasks.some((t) => toTake(job, t) > 0) && !(at.laying && isLaden) ? 'take' : 'put';
}

/** The stop that is next: the one where the hand stands, as long as something is open there, else the first of the way. */
export function carryStop(at: CarryAt, job: CarryJob, facts: Facts): CarryStop | undefined {
  const open = carryStops(job, carryWay(at, job), facts).filter((s) => s.open.length > 0);
  return open.find((s) => s.bin.id === at.bin) ?? open[0];
}

/** One step of a put-away or refill round (I2, I5): bin, goods, a number if more; at the source first, where there is a cart.
 *  Shape:  `job` is folded already. What is put down is believed when both the bin and the goods were scanned. Any stop that is open may be
 *          the next; another bin than planned is asked about once, and what speaks against it too. */
export function stepCarry(before: CarryAt, event: HandEvent<CarryChoice>, job: CarryJob, facts: Facts, stamp: Stamp): Stepping {
  const world: World = { job, facts, stamp };
  if (event.kind === 'undo') return stepUndo(before, event.key, world);
  if (job.state !== 'open')
    return refused(before, { code: 'carrying.ended', number: job.number, state: job.state === 'done' ? 'done' : 'thrown away' });
  // The cart is empty again: what is left is taken next.
  const at = before.laying && job.tasks.every((t) => toPut(job, t) <= 0) ? { ...before, laying: false, bin: null } : before;
  const stop = carryStop(at, job, facts);
  if (!stop) return say(at, { tone: 'look', said: 'carrying.everything' });
  switch (event.kind) {
    case 'scan':
      return stepScan(at, event.meaning, stop, world);
    case 'number':
      return stepNumber(at, event, stop, world);
    case 'choose':
      return stepChoice(at, event.choice, stop, world);
  }
}

function stepScan(at: CarryAt, meaning: Meaning, stop: CarryStop, world: World): Stepping {
  const { job } = world;
  const way = carryWay(at, job);
  const { asks } = at;
  if (meaning.kind === 'bin') return scanBin(at, meaning.bin, stop, world);
  if (at.bin === null) return say(at, { tone: 'wrong', said: 'carrying.isNot', meaning, wanted: 'bin', bin: stop.bin.address });
  if (asks.what === 'lot' && meaning.kind !== 'item') {
    const lot = labelFor(meaning, 'lot', asks.item as ItemFact['id']);
    return lot === null
      ? say(at, { tone: 'wrong', said: 'carrying.isNot', meaning, wanted: 'lot', bin: stop.bin.address })
      : carry(at, { item: asks.item, lot, serial: null, qty: asks.qty }, world);
  }
  if (asks.what === 'serial' && meaning.kind !== 'item') {
    const task = job.tasks.find((t) => t.key === asks.task);
    const serial = task ? labelFor(meaning, 'serial', task.item) : null;
    return task && serial !== null
      ? carry(at, { item: task.item, lot: null, serial, qty: ONE }, world)
      : say(at, { tone: 'wrong', said: 'carrying.isNot', meaning, wanted: 'serial', bin: stop.bin.address });
  }
  if (meaning.kind === 'unit') {
    const task = job.tasks.find((t) => t.sscc === meaning.sscc && (way === 'take' ? toTake(job, t) : toPut(job, t)) > 0);
    return task
      ? move(at, task, { qty: way === 'take' ? toTake(job, task) : toPut(job, task), serial: null }, world)
      : say(at, { tone: 'wrong', said: 'carrying.isNot', meaning, wanted: 'goods', bin: stop.bin.address });
  }
  if (meaning.kind === 'serial') {
    const from = job.cart ?? null;
    const item = goodsOfSerial(meaning.serials, (b) => (way === 'take' ? b === at.bin : from === null || b === from));
    if (item !== null && item !== undefined) return carry(at, { item, lot: null, serial: meaning.text, qty: ONE }, world);
  }
  if (meaning.kind !== 'item') return say(at, { tone: 'wrong', said: 'carrying.isNot', meaning, wanted: 'goods', bin: stop.bin.address });
  const qty = meaning.labelled ?? packToBase(ONE, meaning.pack) ?? ONE;
  return carry(at, { item: meaning.item.id, lot: meaning.lot, serial: meaning.serial, qty }, world);
}

function scanBin(at: CarryAt, bin: BinFact, stop: CarryStop, world: World): Stepping {
  const { job, facts } = world;
  const way = carryWay(at, job);
  const { asks } = at;
  if (asks.what === 'sure' && asks.to === bin.id) return putSure(at, '', world);
  const here = carryStops(job, way, facts).find((s) => s.bin.id === bin.id && s.open.length > 0);
  const [task] = here?.open ?? [];
  if (here && task) {
    const open = way === 'take' ? toTake(job, task) : toPut(job, task);
    return say(
      { ...at, bin: bin.id, elsewhere: false, asks: GOODS },
      { tone: 'right', said: 'carrying.rightBin', bin: bin.address, code: codeOf(task, facts), open, way },
    );
  }
  if (way === 'take')
    return refused({ ...at, bin: null, asks: GOODS }, { code: 'carrying.wrongBin', scanned: bin.address, wanted: stop.bin.address });
  if (OUTWARD.includes(bin.use)) return say(at, { tone: 'wrong', said: 'carrying.ordersBin', bin: bin.address });
  if (asks.what === 'elsewhere' && asks.bin === bin.id)
    return say(
      { ...at, bin: bin.id, elsewhere: true, asks: GOODS },
      { tone: 'right', said: 'carrying.rightBin', bin: bin.address, code: codeOf(stop.open[0], facts), open: openOf(stop, job), way },
    );
  return say(
    { ...at, bin: null, elsewhere: false, asks: { what: 'elsewhere', bin: bin.id } },
    { tone: 'look', said: 'carrying.elsewhere', bin: bin.address, wanted: stop.bin.address },
  );
}

const codeOf = (task: CarryTask | undefined, facts: Facts): string => task?.sscc ?? facts.item(task?.item ?? 0)?.code ?? '';
const openOf = (stop: CarryStop, job: CarryJob): Qty => (stop.open[0] ? toPut(job, stop.open[0]) : (0 as Qty));

type Scanned = { readonly item: number; readonly lot: string | null; readonly serial: string | null; readonly qty: Qty };

// Which line of the round is meant by goods that were scanned, and what of it.
function carry(at: CarryAt, scanned: Scanned, world: World): Stepping {
  const { job, facts } = world;
  const way = carryWay(at, job);
  const open = job.tasks.filter((t) => t.sscc === null && (way === 'take' ? toTake(job, t) : toPut(job, t)) > 0);
  const item = facts.item(scanned.item) as ItemFact;
  const here = (t: CarryTask): boolean => (way === 'take' ? t.from : t.to) === at.bin;
  const own = open.filter((t) => t.item === scanned.item);
  const near = own.filter(here);
  if (own.length === 0 || (way === 'take' && near.length === 0)) {
    const wanted = [...new Set(open.filter((t) => here(t) || at.elsewhere).map((t) => codeOf(t, facts)))].slice(0, 3).join(', ');
    return refused(at, { code: 'carrying.wrongItem', scanned: item.code, wanted: wanted || 'nothing' });
  }
  if (way === 'put' && near.length === 0 && !at.elsewhere) {
    const to = facts.bin(own[0]?.to ?? 0)?.address ?? '';
    return refused(at, { code: 'carrying.goesElsewhere', item: item.code, here: facts.bin(at.bin ?? 0)?.address ?? '', to });
  }
  const choice = near.length > 0 ? near : own;
  if (item.tracking === 'serial') {
    const { serial } = scanned;
    const [first] = choice;
    if (serial === null && first)
      return say(
        { ...at, asks: { what: 'serial', task: first.key } },
        { tone: 'look', said: 'carrying.refused', error: { code: 'carrying.serialWanted', item: item.code } },
      );
    const fits = (t: CarryTask): boolean =>
      t.serial !== null
        ? t.serial === serial
        : way === 'put'
          ? serialsOnCart(job, t).includes(serial ?? '')
          : !job.carried.some((c) => c.serial === serial && c.way === 'take');
    const task = choice.find(fits);
    const where = way === 'put' && job.cart !== null ? 'on this cart' : 'on this round';
    return task
      ? move(at, task, { qty: ONE, serial }, world)
      : refused(at, { code: 'carrying.notThisSerial', item: item.code, serial: serial ?? '', bin: where });
  }
  const lots = [...new Set(choice.map((t) => t.lot))];
  const lying = way === 'take' ? lotsIn(at.bin, scanned.item, facts) : lots;
  if (scanned.lot === null && (lots.length > 1 || (lots[0] !== null && lying.length > 1)))
    return say(
      { ...at, asks: { what: 'lot', item: scanned.item, qty: scanned.qty } },
      {
        tone: 'look',
        said: 'carrying.refused',
        error: { code: 'carrying.whichLot', item: item.code, lots: lots.map((l) => l ?? 'no lot') },
      },
    );
  const task = choice.find((t) => scanned.lot === null || t.lot === scanned.lot);
  if (!task)
    return refused(at, {
      code: 'carrying.wrongLot',
      item: item.code,
      scanned: scanned.lot ?? '',
      wanted: lots.map((l) => l ?? 'no lot').join(' or '),
    });
  return move(at, task, { qty: scanned.qty, serial: null }, world);
}

const lotsIn = (bin: BinId | null, item: number, facts: Facts): readonly (string | null)[] => [
  ...new Set(facts.contents(bin ?? 0).flatMap((c) => (c.item === item ? [c.lot] : []))),
];

type Moving = { readonly qty: Qty; readonly serial: string | null };

function move(at: CarryAt, task: CarryTask, moving: Moving, world: World): Stepping {
  const { job, facts } = world;
  const way = carryWay(at, job);
  const open = way === 'take' ? toTake(job, task) : toPut(job, task);
  const code = codeOf(task, facts);
  if (moving.qty > open)
    return refused(at, { code: 'carrying.tooMany', item: code, asked: formatQty(moving.qty), open: formatQty(open), way });
  if (way === 'take') {
    const does: CarryDoes = { kind: 'carry.take', ...goodsOf(task, moving, job) };
    return {
      at: { ...at, asks: GOODS },
      says: {
        tone: 'right',
        said: 'carrying.taken',
        code,
        taken: (takenOf(job, task) + moving.qty) as Qty,
        open: subQty(open, moving.qty),
      },
      does: [does],
    };
  }
  const to = facts.bin(at.bin ?? 0);
  if (!to) return say(at, { tone: 'look', said: 'carrying.scanFirst', bin: '' });
  const doubt = task.sscc === null ? doubtOfPut(task, moving, to, facts) : null;
  if (doubt)
    return say(
      { ...at, asks: { what: 'sure', task: task.key, ...moving, to: to.id, doubt } },
      { tone: doubt.why === 'use' ? 'look' : 'wrong', said: 'carrying.doubt', doubt },
    );
  return put(at, task, moving, to.id, null, world);
}

const goodsOf = (task: CarryTask, moving: Moving, job: CarryJob) => ({
  carry: job.id,
  task: task.key,
  item: task.item,
  lot: task.lot,
  ...moving,
});

function doubtOfPut(task: CarryTask, { qty }: Moving, to: BinFact, facts: Facts): MoveDoubt | null {
  const item = facts.item(task.item);
  const expires = task.lot === null ? null : (facts.lot(task.item, task.lot)?.expires ?? null);
  return item ? doubtOf([{ item, lot: task.lot, expires, qty }], to, facts) : null;
}

function put(at: CarryAt, task: CarryTask, moving: Moving, to: BinId, over: string | null, { job, facts, stamp }: World): Stepping {
  const does: CarryDoes = { kind: 'carry.put', ...goodsOf(task, moving, job), to, over };
  const isDone = foldCarry(job, [{ does, stamp }]).state === 'done';
  return {
    at: { ...at, asks: GOODS },
    says: {
      tone: 'right',
      said: 'carrying.put',
      code: codeOf(task, facts),
      put: (putOf(job, task) + moving.qty) as Qty,
      open: subQty(toPut(job, task), moving.qty),
      bin: facts.bin(to)?.address ?? '',
      isDone,
    },
    does: [does],
  };
}

function putSure(at: CarryAt, reason: string, world: World): Stepping {
  const { asks } = at;
  const task = asks.what === 'sure' ? world.job.tasks.find((t) => t.key === asks.task) : undefined;
  if (asks.what !== 'sure' || !task) return say({ ...at, asks: GOODS }, { tone: 'look', said: 'carrying.goOn' });
  return put(at, task, { qty: asks.qty, serial: asks.serial }, asks.to, doubtWords(asks.doubt, reason), world);
}

// A number says how many in all of what was scanned last at this bin; the rest of them goes with one act.
function stepNumber(at: CarryAt, keyed: { readonly text: string; readonly closedBy?: 'scan' }, stop: CarryStop, world: World): Stepping {
  const { job, facts, stamp } = world;
  const { asks } = at;
  if (asks.what === 'lot' || asks.what === 'serial') {
    const label = keyedLabel(facts, keyed, asks.what);
    if (label) return stepScan(at, label, stop, world);
  }
  const way = carryWay(at, job);
  const [last] = ownCarried(job, stamp.person);
  const task = job.tasks.find((t) => t.key === last?.task);
  if (!last || !task || at.bin === null || last.bin !== at.bin || last.way !== way || task.sscc !== null || last.serial !== null)
    return say(at, { tone: 'look', said: 'carrying.scanFirst', bin: stop.bin.address });
  const item = facts.item(task.item) as ItemFact;
  const read = parseQty(keyed.text.replace(',', '.'), item.decimals);
  const done = way === 'take' ? takenOf(job, task) : putOf(job, task);
  if (!read.ok || read.value < done || read.value <= 0)
    return say(at, { tone: 'wrong', said: 'carrying.badNumber', text: keyed.text, code: item.code });
  const more = subQty(read.value, done);
  if (more > 0) return move(at, task, { qty: more, serial: null }, world);
  return way === 'take'
    ? say(at, { tone: 'right', said: 'carrying.taken', code: item.code, taken: done, open: toTake(job, task) })
    : say(at, {
        tone: 'right',
        said: 'carrying.put',
        code: item.code,
        put: done,
        open: toPut(job, task),
        bin: facts.bin(last.bin)?.address ?? '',
        isDone: false,
      });
}

function stepUndo(at: CarryAt, key: string | undefined, { job, facts, stamp }: World): Stepping {
  const own = ownCarried(job, stamp.person);
  const last = key === undefined ? own[0] : own.find((c) => c.key === key);
  const task = job.tasks.find((t) => t.key === last?.task);
  if (!last || !task) return say(at, { tone: 'look', said: 'carrying.nothingToUndo' });
  const code = codeOf(task, facts);
  const isOnCart = last.serial === null ? toPut(job, task) >= last.qty : serialsOnCart(job, task).includes(last.serial);
  if (last.way === 'take' && !isOnCart) return refused(at, { code: 'carrying.putAlready', item: code });
  return {
    at: { ...at, bin: last.bin, elsewhere: last.way === 'put' && last.bin !== task.to, asks: GOODS },
    says: { tone: 'look', said: 'carrying.undone', code, qty: last.qty, bin: facts.bin(last.bin)?.address ?? '', way: last.way },
    does: [{ kind: 'carry.undo', carry: job.id, act: last.key }],
  };
}

function stepChoice(at: CarryAt, choice: CarryChoice, stop: CarryStop, world: World): Stepping {
  const { job, facts, stamp } = world;
  const { asks } = at;
  switch (choice.what) {
    case 'lot':
      if (asks.what !== 'lot') return say(at, { tone: 'look', said: 'carrying.goOn' });
      return carry(at, { item: asks.item, lot: choice.lot, serial: null, qty: asks.qty }, world);
    case 'trouble':
      return say({ ...at, asks: { what: 'trouble' } }, { tone: 'look', said: 'carrying.whatTrouble' });
    case 'noTrouble':
    case 'back':
      return say({ ...at, asks: GOODS }, { tone: 'look', said: 'carrying.goOn' });
    case 'report': {
      const [task] = stop.open;
      if (asks.what !== 'trouble' || !task) return say(at, { tone: 'look', said: 'carrying.goOn' });
      const does: CarryDoes = { kind: 'carry.trouble', carry: job.id, task: task.key, trouble: choice.kind };
      const isDone = foldCarry(job, [{ does, stamp }]).state === 'done';
      return { at: { ...at, asks: GOODS }, says: { tone: 'look', said: 'carrying.noted', isDone }, does: [does] };
    }
    case 'lay': {
      const next = { ...CARRY_BEGINS, laying: true };
      const first = carryStop(next, job, facts);
      return first && carryWay(next, job) === 'put'
        ? say(next, { tone: 'look', said: 'carrying.laying', bin: first.bin.address })
        : say(at, { tone: 'look', said: 'carrying.goOn' });
    }
    case 'sure':
      return putSure(at, choice.reason ?? '', world);
  }
}
