import {
  addQty,
  formatQty,
  ONE,
  parseQty,
  subQty,
  sumQty,
  ZERO,
  type BinId,
  type ItemId,
  type LineId,
  type LotId,
  type Qty,
} from '#core/base';
import {
  goodsOfSerial,
  isDoubtful,
  keyedLabel,
  labelFor,
  meaningWords,
  moveDeltas,
  type BinFact,
  type ContentDelta,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type Stamp,
  type Stepped,
} from '#core/floor';
import { needsSerialToShip, packToBase } from '#core/items';
import { isExpired } from '#core/lots';
import { chooseStock, type PickSource } from './choose.ts';
import { pickingSentence, type PickingError } from './errors.ts';
import { decidePick } from './pick.ts';
import { byWay } from './stops.ts';

/** A thing to take at a stop. `key` names it on the device and on the server; `lot` as on the label. */
export type HandPick = {
  readonly key: string;
  readonly order: string;
  readonly line: number;
  readonly slot: number;
  readonly bin: BinId;
  readonly item: ItemId;
  readonly lot: string | null;
  readonly qty: Qty;
  readonly trouble: string | null;
  /** What its order names: the serials, whether the lot and the bin are named, and the day on which the goods must still be good. */
  readonly named: {
    readonly serials: readonly string[] | null;
    readonly lot: boolean;
    readonly bin: boolean;
    readonly goodOn: string | null;
  };
  /** Serials in this bin that other orders name. */
  readonly kept: readonly string[];
};
export const NOTHING_NAMED: HandPick['named'] = { serials: null, lot: false, bin: false, goodOn: null };
/** What was taken for a pick, by the act that said so. */
export type HandTaken = {
  readonly key: string;
  readonly pick: string;
  readonly qty: Qty;
  /** The lot that it is; by right another than was planned. */
  readonly lot: string | null;
  readonly serial: string | null;
  readonly person: number;
  readonly at: string;
};
/** A round as a device holds it. */
export type RoundJob = {
  readonly id: number;
  readonly number: string;
  readonly state: 'open' | 'putDown' | 'thrown';
  readonly person: number | null;
  readonly cart: BinId;
  readonly packingBin: BinId | null;
  /** The bins in the order in which the round meets them. */
  readonly way: readonly number[];
  /** How far each of them is from the one before it, in metres; null where the plan cannot say. */
  readonly legs: readonly (number | null)[];
  readonly picks: readonly HandPick[];
  readonly taken: readonly HandTaken[];
};

export type TroubleKind = 'short' | 'damaged' | 'notFound';
/** A pick that goes elsewhere because of trouble: under a key of its own. */
export type Instead = { readonly key: string; readonly bin: BinId; readonly lot: string | null; readonly qty: Qty };
export type PickDoes =
  | {
      kind: 'pick.take';
      round: number;
      pick: string;
      bin: BinId;
      item: ItemId;
      lot: string | null;
      serial: string | null;
      qty: Qty;
      /** Why another lot than planned was taken; null where it was not. */
      over: string | null;
    }
  | { kind: 'pick.undo'; round: number; taken: string }
  | { kind: 'pick.trouble'; round: number; pick: string; trouble: TroubleKind; instead: readonly Instead[] }
  | { kind: 'pick.putDown'; round: number; bin: BinId };

export type PickAsks =
  | { what: 'goods' }
  | { what: 'lot'; pick: string; qty: Qty; doubted?: string }
  | { what: 'serial'; pick: string; doubted?: string }
  /** Another lot than planned was scanned: it is taken for a reason, or put back. */
  | { what: 'otherLot'; pick: string; lot: string; qty: Qty }
  | { what: 'trouble' };
/** `bin`: the stop at which the hand has shown that it stands. */
export type PickAt = { readonly bin: BinId | null; readonly asks: PickAsks };
export const PICK_BEGINS: PickAt = { bin: null, asks: { what: 'goods' } };

export type PickChoice =
  | { what: 'lot' }
  | { what: 'otherLot'; reason: string }
  | { what: 'madeSerial' }
  | { what: 'trouble' }
  | { what: 'noTrouble' }
  | { what: 'report'; kind: TroubleKind }
  | { what: 'putDown'; bin: BinId };

export type PickingSaid =
  | { said: 'picking.rightBin'; bin: string; code: string; open: Qty }
  | { said: 'picking.taken'; code: string; taken: Qty; open: Qty; slot: number; roundDone: boolean }
  | { said: 'picking.refused'; error: PickingError }
  | { said: 'picking.isNot'; meaning: Meaning; wanted: 'bin' | 'goods' | 'lot' | 'serial' | 'packing'; bin: string }
  | { said: 'picking.doubted'; text: string; wanted: 'lot' | 'serial' }
  | { said: 'picking.itsGoods'; code: string; wanted: 'lot' | 'serial' }
  | { said: 'picking.soMany'; code: string; qty: Qty }
  | { said: 'picking.badNumber'; text: string; code: string; decimals: number }
  | { said: 'picking.scanFirst'; bin: string }
  | { said: 'picking.undone'; code: string; qty: Qty; bin: string }
  | { said: 'picking.nothingToUndo' }
  | { said: 'picking.noted'; missing: Qty; instead: readonly string[] }
  | { said: 'picking.whatTrouble' }
  | { said: 'picking.goOn' }
  | { said: 'picking.putDown'; bin: string; pieces: Qty }
  | { said: 'picking.everything' };

const GOODS: PickAsks = { what: 'goods' };

/** The round with what this device did on it, whether or not the server has counted it in already.
 *  Law:    folding an act twice is folding it once. */
export function foldRound(job: RoundJob, acts: readonly { does: PickDoes; stamp: Stamp }[]): RoundJob {
  let { picks, taken, state, person } = job;
  for (const { does, stamp } of acts) {
    if (does.round !== job.id) continue;
    switch (does.kind) {
      case 'pick.take':
        if (taken.some((t) => t.key === stamp.key)) break;
        taken = [
          ...taken,
          { key: stamp.key, pick: does.pick, qty: does.qty, lot: does.lot, serial: does.serial, person: stamp.person, at: stamp.at },
        ];
        person ??= stamp.person;
        break;
      case 'pick.undo':
        taken = taken.filter((t) => t.key !== does.taken);
        break;
      case 'pick.trouble': {
        const from = picks.find((p) => p.key === does.pick);
        if (!from || from.trouble !== null) break;
        const got = sumQty(taken.filter((t) => t.pick === from.key).map((t) => t.qty));
        picks = [
          ...picks.map((p) => (p === from ? { ...p, qty: got, trouble: does.trouble } : p)),
          ...does.instead.filter((i) => !picks.some((p) => p.key === i.key)).map((i): HandPick => ({ ...from, ...i, trouble: null })),
        ];
        break;
      }
      case 'pick.putDown':
        if (state === 'open') state = 'putDown';
        break;
    }
  }
  return { ...job, picks, taken, state, person };
}

/** What is still to be taken for a pick. Thousandths of the base unit. */
export function openOf(job: RoundJob, pick: HandPick): Qty {
  return subQty(pick.qty, takenOf(job, pick));
}
export function takenOf(job: RoundJob, pick: HandPick): Qty {
  return sumQty(job.taken.filter((t) => t.pick === pick.key).map((t) => t.qty));
}

export type HandStop = {
  readonly bin: BinFact;
  readonly picks: readonly HandPick[];
  readonly open: readonly HandPick[];
  /** How far it is from the stop before it, in metres; null where nobody can say. */
  readonly far: number | null;
};

/** The stops of a round in the order of its way, each with what is still open there. */
export function stopsOf(job: RoundJob, facts: Facts): readonly HandStop[] {
  const byBin = new Map<number, HandPick[]>();
  for (const pick of job.picks) {
    if (pick.qty === 0) continue;
    byBin.set(pick.bin, [...(byBin.get(pick.bin) ?? []), pick]);
  }
  const bins = [...byBin.keys()].flatMap((id) => facts.bin(id) ?? []);
  const met = byWay(bins, job.way);
  return met.map((bin, n) => {
    const at = job.way.indexOf(bin.id);
    const isNext = at >= 0 && job.way[at - 1] === met[n - 1]?.id;
    const far = isNext ? (job.legs[at] ?? null) : null;
    const picks = (byBin.get(bin.id) ?? []).toSorted((a, b) => a.slot - b.slot || (a.key < b.key ? -1 : 1));
    return { bin, picks, open: picks.filter((p) => openOf(job, p) > 0), far };
  });
}

/** What this person took on the round and may still put back, newest first. */
export function ownTaken(job: RoundJob, person: number): readonly HandTaken[] {
  return job.taken
    .filter((t) => t.person === person)
    .toReversed()
    .sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
}

/** What acts of a round do to the bins, as long as the server has not counted it in. */
export function pickDeltasOf(does: PickDoes, job: RoundJob | undefined, facts: Facts): readonly ContentDelta[] {
  if (does.kind !== 'pick.take' || !job) return [];
  const expires = does.lot === null ? null : (facts.lot(does.item, does.lot)?.expires ?? null);
  const serial = facts.item(does.item)?.tracking === 'serial' ? does.serial : null;
  return moveDeltas({ item: does.item, lot: does.lot, expires, serial, condition: 'sound', qty: does.qty }, does.bin, job.cart);
}

type Stepping = Stepped<PickAt, PickingSaid, PickDoes>;
const say = (at: PickAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

/** One step of a walk (G3–G6, G10): the bin, the goods, a number if more; at the end, the packing bin.
 *  Shape:  `job` is folded already. A pick is believed when both the bin and the goods were scanned. */
export function stepPick(at: PickAt, event: HandEvent<PickChoice>, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  if (job.state !== 'open') {
    const state = job.state === 'putDown' ? 'put down' : 'thrown away';
    return say(at, { tone: 'wrong', said: 'picking.refused', error: { code: 'picking.roundDone', number: job.number, state } });
  }
  const stop = stopsOf(job, facts).find((s) => s.open.length > 0);
  switch (event.kind) {
    case 'scan':
      return stop ? stepScan(at, event.meaning, stop, job, facts, stamp) : scanPacking(at, event.meaning, job);
    case 'number':
      return stepKeyed(at, event, stop, job, facts, stamp);
    case 'undo': {
      const own = ownTaken(job, stamp.person);
      const last = event.key === undefined ? own[0] : own.find((t) => t.key === event.key);
      const pick = job.picks.find((p) => p.key === last?.pick);
      if (!last || !pick) return say(at, { tone: 'look', said: 'picking.nothingToUndo' });
      const code = facts.item(pick.item)?.code ?? '';
      const bin = facts.bin(pick.bin)?.address ?? '';
      // It goes back into its bin: that is where the hand stands then.
      return {
        at: { bin: pick.bin, asks: GOODS },
        says: { tone: 'look', said: 'picking.undone', code, qty: last.qty, bin },
        does: [{ kind: 'pick.undo', round: job.id, taken: last.key }],
      };
    }
    case 'choose':
      return stepChoice(at, event.choice, stop, job, facts, stamp);
  }
}

function stepScan(at: PickAt, meaning: Meaning, stop: HandStop, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const bin = stop.bin.address;
  if (meaning.kind === 'bin') {
    if (meaning.bin.id !== stop.bin.id)
      return say(
        { bin: null, asks: GOODS },
        { tone: 'wrong', said: 'picking.refused', error: { code: 'picking.wrongBin', scanned: meaning.bin.address, wanted: bin } },
      );
    const [pick] = stop.open;
    const code = facts.item(pick?.item ?? 0)?.code ?? '';
    return say(
      { bin: stop.bin.id, asks: GOODS },
      { tone: 'right', said: 'picking.rightBin', bin, code, open: pick ? openOf(job, pick) : ZERO },
    );
  }
  if (at.bin !== stop.bin.id) return say(at, { tone: 'wrong', said: 'picking.isNot', meaning, wanted: 'bin', bin });
  const { asks } = at;
  if (asks.what === 'lot' || asks.what === 'serial') {
    const pick = stop.open.find((p) => p.key === asks.pick);
    if (pick && meaning.kind !== 'item') {
      const label = labelFor(meaning, asks.what, pick.item);
      if (label === null) return say(at, { tone: 'wrong', said: 'picking.isNot', meaning, wanted: asks.what, bin });
      if (isDoubtful(meaning, asks.doubted))
        return say({ ...at, asks: { ...asks, doubted: label } }, { tone: 'look', said: 'picking.doubted', text: label, wanted: asks.what });
      return asks.what === 'lot'
        ? take(at, pick, { qty: asks.qty, lot: label, serial: null }, job, facts, stamp)
        : take(at, pick, { qty: ONE, lot: null, serial: label }, job, facts, stamp);
    }
    const same = pick && meaning.kind === 'item' && meaning.item.id === pick.item;
    if (same && !(asks.what === 'lot' ? meaning.lot : meaning.serial))
      return say(at, { tone: 'look', said: 'picking.itsGoods', code: meaning.item.code, wanted: asks.what });
  }
  if (meaning.kind === 'serial') {
    const goods = goodsOfSerial(meaning.serials, (b) => b === stop.bin.id);
    const meant = stop.open.find((p) => p.item === goods);
    if (meant) return take(at, meant, { qty: ONE, lot: null, serial: meaning.text }, job, facts, stamp);
  }
  if (meaning.kind !== 'item') return say(at, { tone: 'wrong', said: 'picking.isNot', meaning, wanted: 'goods', bin });
  const pick = stop.open.find((p) => p.item === meaning.item.id && (meaning.lot === null || p.lot === meaning.lot)) ?? stop.open[0];
  if (!pick) return say(at, { tone: 'look', said: 'picking.everything' });
  if (pick.item !== meaning.item.id)
    return say(at, {
      tone: 'wrong',
      said: 'picking.refused',
      error: { code: 'picking.wrongItem', scanned: meaning.item.code, wanted: facts.item(pick.item)?.code ?? '' },
    });
  const qty = meaning.labelled ?? packToBase(ONE, meaning.pack) ?? ONE;
  return take(at, pick, { qty, lot: meaning.lot, serial: meaning.serial }, job, facts, stamp);
}

type Take = { readonly qty: Qty; readonly lot: string | null; readonly serial: string | null; readonly over?: string };

function take(at: PickAt, pick: HandPick, command: Take, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const item = facts.item(pick.item) as ItemFact;
  const bin = facts.bin(pick.bin)?.address ?? '';
  const lots = [...new Set(facts.contents(pick.bin).flatMap((c) => (c.item === pick.item && c.lot !== null ? [c.lot] : [])))];
  const number = (lot: string | null): LotId | null => (lot === null ? null : ((facts.lot(pick.item, lot)?.id ?? -1) as LotId));
  const taken = takenOf(job, pick);
  const decided = decidePick(
    { bin: pick.bin, item: pick.item, lot: number(command.lot), serial: command.serial, qty: command.qty, over: command.over ?? null },
    {
      bin: pick.bin,
      binAddress: bin,
      scannedBinAddress: bin,
      item: pick.item,
      itemCode: item.code,
      scannedItemCode: item.code,
      lot: number(pick.lot),
      lotCode: pick.lot,
      scannedLotCode: command.lot,
      scannedExpires: command.lot === null ? null : (facts.lot(pick.item, command.lot)?.expires ?? null),
      lotNamed: pick.named.lot,
      goodOn: pick.named.goodOn,
      expires: pick.lot === null ? null : (facts.lot(pick.item, pick.lot)?.expires ?? null),
      lotsHere: lots,
      tracking: item.tracking,
      decimals: item.decimals,
      planned: pick.qty,
      picked: taken,
      today: facts.today,
      serials: pick.named.serials,
      kept: pick.kept,
    },
  );
  if (!decided.ok) {
    const { error } = decided;
    const asks: PickAsks =
      error.code === 'picking.whichLot'
        ? { what: 'lot', pick: pick.key, qty: command.qty }
        : error.code === 'picking.serialWanted'
          ? { what: 'serial', pick: pick.key }
          : error.code === 'picking.wrongLot' && command.lot !== null && isKnownLot(pick, command.lot, facts)
            ? { what: 'otherLot', pick: pick.key, lot: command.lot, qty: command.qty }
            : at.asks;
    const isWrong = asks === at.asks || asks.what === 'otherLot';
    return say({ ...at, asks }, { tone: isWrong ? 'wrong' : 'look', said: 'picking.refused', error });
  }
  const twice = command.serial !== null && job.taken.some((t) => t.serial === command.serial && itemOf(job, t) === pick.item);
  if (twice)
    return say(at, {
      tone: 'wrong',
      said: 'picking.refused',
      error: { code: 'picking.serialNotHere', item: item.code, serial: command.serial ?? '', bin },
    });
  const does: PickDoes = {
    kind: 'pick.take',
    round: job.id,
    pick: pick.key,
    bin: pick.bin,
    item: pick.item,
    lot: command.over === undefined ? pick.lot : command.lot,
    serial: command.serial,
    qty: decided.value.qty,
    over: command.over ?? null,
  };
  const after = foldRound(job, [{ does, stamp }]);
  const open = openOf(after, pick);
  const roundDone = after.picks.every((p) => openOf(after, p) === 0);
  const asks: PickAsks = open > 0 && needsSerialToShip(item.tracking) ? { what: 'serial', pick: pick.key } : GOODS;
  return {
    at: { bin: at.bin, asks },
    says: { tone: 'right', said: 'picking.taken', code: item.code, taken: takenOf(after, pick), open, slot: pick.slot, roundDone },
    does: [does],
  };
}

// What the line names nobody changes; and a lot that nobody knows is more likely another code.
const isKnownLot = (pick: HandPick, lot: string, facts: Facts): boolean =>
  !pick.named.lot && pick.lot !== null && facts.lot(pick.item, lot) !== undefined;

const itemOf = (job: RoundJob, taken: HandTaken): number | undefined => job.picks.find((p) => p.key === taken.pick)?.item;

// A number says how many were taken of what was scanned last; the rest of them goes with one act.
// As in receiving: digits are the label that is asked for, unless the next scan closed them; then they say how many are taken of that lot.
function stepKeyed(
  at: PickAt,
  keyed: { readonly text: string; readonly closedBy?: 'scan' },
  stop: HandStop | undefined,
  job: RoundJob,
  facts: Facts,
  stamp: Stamp,
): Stepping {
  const { asks } = at;
  if (asks.what === 'otherLot') {
    const meant = stop?.open.find((p) => p.key === asks.pick);
    const read = parseQty(keyed.text.replace(',', '.'), facts.item(meant?.item ?? 0)?.decimals ?? 0);
    if (!meant || !read.ok || read.value <= 0 || read.value > openOf(job, meant)) {
      const item = facts.item(meant?.item ?? 0);
      return say(at, { tone: 'wrong', said: 'picking.badNumber', text: keyed.text, code: item?.code ?? '', decimals: item?.decimals ?? 0 });
    }
    return say(
      { ...at, asks: { ...asks, qty: read.value } },
      { tone: 'look', said: 'picking.soMany', code: facts.item(meant.item)?.code ?? '', qty: read.value },
    );
  }
  if (asks.what !== 'lot' && asks.what !== 'serial') return stepNumber(at, keyed.text, stop, job, facts, stamp);
  const pick = stop?.open.find((p) => p.key === asks.pick);
  if (!stop || !pick || at.bin !== stop.bin.id) return stepNumber(at, keyed.text, stop, job, facts, stamp);
  const label = keyedLabel(facts, keyed, asks.what);
  if (label) return stepScan(at, label, stop, job, facts, stamp);
  const item = facts.item(pick.item) as ItemFact;
  const read = parseQty(keyed.text.replace(',', '.'), item.decimals);
  if (asks.what !== 'lot' || !read.ok || read.value <= 0 || read.value > openOf(job, pick))
    return say(at, { tone: 'wrong', said: 'picking.badNumber', text: keyed.text, code: item.code, decimals: item.decimals });
  return say({ ...at, asks: { ...asks, qty: read.value } }, { tone: 'look', said: 'picking.soMany', code: item.code, qty: read.value });
}

function stepNumber(at: PickAt, text: string, stop: HandStop | undefined, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const [last] = ownTaken(job, stamp.person);
  const pick = stop?.open.find((p) => p.key === last?.pick);
  // What was taken of another lot says nothing of the rest.
  if (!stop || !pick || !last || at.bin !== stop.bin.id || last.lot !== pick.lot)
    return say(at, { tone: 'look', said: 'picking.scanFirst', bin: stop?.bin.address ?? '' });
  const item = facts.item(pick.item) as ItemFact;
  const read = parseQty(text.replace(',', '.'), item.decimals);
  const taken = takenOf(job, pick);
  if (!read.ok || read.value <= 0 || last.serial !== null)
    return say(at, { tone: 'wrong', said: 'picking.badNumber', text, code: item.code, decimals: item.decimals });
  if (read.value === taken)
    return say(at, {
      tone: 'right',
      said: 'picking.taken',
      code: item.code,
      taken,
      open: openOf(job, pick),
      slot: pick.slot,
      roundDone: false,
    });
  if (read.value < taken) return say(at, { tone: 'wrong', said: 'picking.badNumber', text, code: item.code, decimals: item.decimals });
  return take(at, pick, { qty: subQty(read.value, taken), lot: pick.lot, serial: null }, job, facts, stamp);
}

function scanPacking(at: PickAt, meaning: Meaning, job: RoundJob): Stepping {
  if (meaning.kind !== 'bin') return say(at, { tone: 'wrong', said: 'picking.isNot', meaning, wanted: 'packing', bin: '' });
  return putDown(at, meaning.bin, job);
}

function putDown(at: PickAt, bin: BinFact, job: RoundJob): Stepping {
  if (bin.use !== 'packing')
    return say(at, { tone: 'wrong', said: 'picking.refused', error: { code: 'picking.notAPackingBin', bin: bin.address } });
  const pieces = job.taken.reduce((sum, t) => addQty(sum, t.qty), ZERO);
  return {
    at: PICK_BEGINS,
    says: { tone: 'right', said: 'picking.putDown', bin: bin.address, pieces },
    does: [{ kind: 'pick.putDown', round: job.id, bin: bin.id }],
  };
}

function stepChoice(at: PickAt, choice: PickChoice, stop: HandStop | undefined, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  switch (choice.what) {
    case 'lot': {
      const pick = asks.what === 'lot' ? stop?.open.find((p) => p.key === asks.pick) : undefined;
      if (!pick || asks.what !== 'lot') return say(at, { tone: 'look', said: 'picking.goOn' });
      return take(at, pick, { qty: asks.qty, lot: pick.lot, serial: null }, job, facts, stamp);
    }
    case 'madeSerial': {
      const pick = asks.what === 'serial' ? stop?.open.find((p) => p.key === asks.pick) : undefined;
      // What has a serial from arrival carries it; only what gets one when it leaves may be without.
      if (!pick || facts.item(pick.item)?.tracking !== 'serialOut') return say(at, { tone: 'look', said: 'picking.goOn' });
      return take(at, pick, { qty: ONE, lot: null, serial: madeSerial(stamp.key) }, job, facts, stamp);
    }
    case 'otherLot': {
      const pick = asks.what === 'otherLot' ? stop?.open.find((p) => p.key === asks.pick) : undefined;
      if (!pick || asks.what !== 'otherLot') return say(at, { tone: 'look', said: 'picking.goOn' });
      const over = choice.reason.trim() || 'It is what lies there';
      return take({ ...at, asks: GOODS }, pick, { qty: asks.qty, lot: asks.lot, serial: null, over }, job, facts, stamp);
    }
    case 'trouble':
      return say({ ...at, asks: { what: 'trouble' } }, { tone: 'look', said: 'picking.whatTrouble' });
    case 'noTrouble':
      return say({ ...at, asks: GOODS }, { tone: 'look', said: 'picking.goOn' });
    case 'report': {
      const [pick] = stop?.open ?? [];
      if (!pick) return say(at, { tone: 'look', said: 'picking.everything' });
      const { instead, missing } = planElsewhere(job, pick, facts, stamp);
      const does: PickDoes = { kind: 'pick.trouble', round: job.id, pick: pick.key, trouble: choice.kind, instead };
      const names = instead.map((i) => facts.bin(i.bin)?.address ?? '');
      return { at: { ...at, asks: GOODS }, says: { tone: 'look', said: 'picking.noted', missing, instead: names }, does: [does] };
    }
    case 'putDown': {
      const bin = facts.bin(choice.bin);
      return bin && !stop ? putDown(at, bin, job) : say(at, { tone: 'look', said: 'picking.goOn' });
    }
  }
}

/** A serial for a piece that carries none (G5): short enough to be written on it, from the key of the act that makes it, so that no two are
 *  alike. */
const madeSerial = (key: string): string => `M-${key.replaceAll('-', '').slice(-10).toUpperCase()}`;

/** Where else the rest of a pick could come from, by what the device knows: what lies there, less what this round takes there already. */
function planElsewhere(job: RoundJob, pick: HandPick, facts: Facts, stamp: Stamp): { instead: Instead[]; missing: Qty } {
  const open = openOf(job, pick);
  const troubled = new Set(job.picks.filter((p) => p.trouble !== null && p.item === pick.item).map((p) => p.bin as number));
  const sources = facts.contentsOf(pick.item).flatMap((c): PickSource[] => {
    const bin = facts.bin(c.bin);
    if (!isNamed(pick, c)) return [];
    if (!bin || bin.id === pick.bin || troubled.has(bin.id) || !bin.pickable || bin.use !== 'shelf') return [];
    if (c.condition !== 'sound' || isExpired(c.expires, facts.today)) return [];
    const planned = sumQty(job.picks.filter((p) => p.bin === c.bin && p.item === c.item && p.lot === c.lot).map((p) => openOf(job, p)));
    const qty = subQty(c.qty, planned);
    const isPickFace = ['pickFace', 'counter'].includes(bin.purpose);
    const lot = (c.lot === null ? null : (facts.lot(c.item, c.lot)?.id ?? null)) as LotId | null;
    const goods = { bin: bin.id, item: c.item, lot, serial: null, expires: c.expires, arrived: null };
    return qty > 0 ? [{ ...goods, walk: bin.walk, isPickFace, qty }] : [];
  });
  const lots = new Map(facts.contentsOf(pick.item).map((c) => [c.lot === null ? null : (facts.lot(c.item, c.lot)?.id ?? null), c.lot]));
  const { picks, missing } = chooseStock([{ line: pick.line as LineId, item: pick.item, qty: open }], sources);
  const named = picks.slice(0, stamp.more.length);
  const cut = sumQty(picks.slice(stamp.more.length).map((p) => p.qty));
  return {
    instead: named.map((p, n) => ({ key: stamp.more[n] ?? '', bin: p.bin, lot: lots.get(p.lot) ?? null, qty: p.qty })),
    missing: addQty(cut, sumQty(missing.map((m) => m.qty))),
  };
}

// Elsewhere nothing else lies than what the order names.
const isNamed = ({ named, lot }: HandPick, c: { lot: string | null; serial: string | null; expires: string | null }): boolean =>
  !named.bin &&
  (!named.lot || c.lot === lot) &&
  (named.serials === null || (c.serial !== null && named.serials.includes(c.serial))) &&
  (named.goodOn === null || c.expires === null || c.expires >= named.goodOn);

/** The sentence for what a step of a walk came to. */
export function pickingSaid(s: PickingSaid): string {
  switch (s.said) {
    case 'picking.rightBin':
      return `Right bin. Take ${formatQty(s.open)} ${s.code}.`;
    case 'picking.taken':
      if (s.roundDone) return 'Round picked. Put it down at a packing bin.';
      return s.open === 0
        ? `${s.code}: all ${formatQty(s.taken)} taken. Into slot ${s.slot}.`
        : `${s.code}: ${formatQty(s.taken)} taken, ${formatQty(s.open)} to go. Slot ${s.slot}.`;
    case 'picking.refused':
      return pickingSentence(s.error);
    case 'picking.isNot':
      return `${meaningWords(s.meaning)} ${
        {
          bin: `Scan the bin first: ${s.bin}.`,
          goods: 'Scan the goods.',
          lot: 'Scan the lot.',
          serial: 'Scan the serial.',
          packing: 'Everything is picked: scan the packing bin.',
        }[s.wanted]
      }`;
    case 'picking.doubted':
      return `${s.text} looks like the code of goods that nobody knows. Scan it again if it is the ${s.wanted}.`;
    case 'picking.itsGoods':
      return `That is the code of ${s.code} itself. Scan its ${s.wanted}.`;
    case 'picking.soMany':
      return `${formatQty(s.qty)} ${s.code}. Which lot?`;
    case 'picking.badNumber':
      return `“${s.text}” is no number of ${s.code} taken so far. To put some back, undo the last scan.`;
    case 'picking.scanFirst':
      return `Scan ${s.bin ? `${s.bin}, then ` : ''}the goods; then key how many.`;
    case 'picking.undone':
      return `${formatQty(s.qty)} ${s.code} goes back into ${s.bin}.`;
    case 'picking.nothingToUndo':
      return 'Nothing of yours to undo on this round.';
    case 'picking.noted': {
      const missing = s.missing === 0 ? '' : ` ${formatQty(s.missing)} ${s.missing === ONE ? 'is' : 'are'} missing; the office sees it.`;
      return s.instead.length === 0 ? `Noted.${missing}` : `Noted. Get it from ${s.instead.join(', ')} instead.${missing}`;
    }
    case 'picking.whatTrouble':
      return 'What is wrong here?';
    case 'picking.goOn':
      return 'Go on.';
    case 'picking.putDown':
      return `${formatQty(s.pieces)} pieces put down at ${s.bin}.`;
    case 'picking.everything':
      return 'Everything is picked. Scan the packing bin.';
  }
}
