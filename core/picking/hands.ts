import { addQty, minQty, ONE, parseQty, subQty, sumQty, ZERO } from '#core/base';
import {
  goodsOfSerial,
  isDoubtful,
  keyedLabel,
  labelFor,
  type BinFact,
  type Facts,
  type HandEvent,
  type ItemFact,
  type Meaning,
  type Stamp,
} from '#core/floor';
import { packToBase } from '#core/items';
import { alsoIn, planElsewhere } from './elsewhere.ts';
import { nextKit, stepKit, undoKits } from './hand-kits.ts';
import {
  GOODS,
  openOf,
  ownMade,
  ownTaken,
  PICK_BEGINS,
  stopAt,
  stopsOf,
  takenOf,
  type HandStop,
  type PickAt,
  type PickChoice,
  type PickDoes,
  type RoundJob,
} from './round-job.ts';
import { say, take, takeUnit, type Stepping } from './take.ts';

/** One step of a walk (G3–G6, G10): the bin, the goods, a number if more; at the end, the packing bin.
 *  Shape:  `job` is folded already. A pick is believed when both the bin and the goods were scanned. */
export function stepPick(at: PickAt, event: HandEvent<PickChoice>, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  if (job.state !== 'open') {
    const state = job.state === 'putDown' ? 'put down' : 'thrown away';
    return say(at, { tone: 'wrong', said: 'picking.refused', error: { code: 'picking.roundDone', number: job.number, state } });
  }
  const stop = stopAt(at, job, facts);
  const kit = stop ? undefined : nextKit(job, facts);
  const ofKit = kit && stepKit(at, event, kit, job, facts, stamp);
  if (ofKit) return ofKit;
  switch (event.kind) {
    case 'scan':
      return stop ? stepScan(at, event.meaning, stop, job, facts, stamp) : scanPacking(at, event.meaning, job);
    case 'number':
      return stepKeyed(at, event, stop, job, facts, stamp);
    case 'undo': {
      const [made] = ownMade(job, stamp.person).filter((m) =>
        event.key === undefined ? isNewest(m, job, stamp.person) : m.key === event.key,
      );
      if (made) return undoKits(at, made, job, facts);
      const own = ownTaken(job, stamp.person);
      const last = event.key === undefined ? own[0] : own.find((t) => t.key === event.key);
      const pick = job.picks.find((p) => p.key === last?.pick);
      if (!last || !pick) return say(at, { tone: 'look', said: 'picking.nothingToUndo' });
      const code = facts.item(pick.item)?.code ?? '';
      const bin = facts.bin(pick.bin)?.address ?? '';
      // One scan took all that was taken at one moment: a pallet goes back whole.
      const together = own.filter((t) => t === last || (event.key === undefined && t.at === last.at));
      // It goes back into its bin: that is where the hand stands then.
      return {
        at: { bin: pick.bin, asks: GOODS },
        says: { tone: 'look', said: 'picking.undone', code, qty: sumQty(together.map((t) => t.qty)), bin },
        does: together.map(({ key }): PickDoes => ({ kind: 'pick.undo', round: job.id, taken: key })),
      };
    }
    case 'choose':
      return stepChoice(at, event.choice, stop, job, facts, stamp);
  }
}

const isNewest = (made: { at: string }, job: RoundJob, person: number): boolean => made.at > (ownTaken(job, person)[0]?.at ?? '');

function stepScan(at: PickAt, meaning: Meaning, stop: HandStop, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const bin = stop.bin.address;
  if (meaning.kind === 'bin') {
    if (meaning.bin.id !== stop.bin.id) return scanOtherBin(at, meaning.bin, stop, job, facts, stamp);
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
  if (meaning.kind === 'unit') return takeUnit(at, meaning, stop, job, facts, stamp);
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

// Another bin than the next one (G4): if the goods lie there as well, whoever scans it twice, or says so, takes them there. Where the round
// stops anyway it is met in its turn.
function scanOtherBin(at: PickAt, bin: BinFact, stop: HandStop, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  if (asks.what === 'otherBin' && asks.bin === bin.id) return takeElsewhere(at, asks, '', stop, job, facts, stamp);
  const wanted = stop.bin.address;
  const isStop = stopsOf(job, facts).some((s) => s.bin.id === bin.id && s.open.length > 0);
  const pick = isStop ? undefined : stop.open.find((p) => alsoIn(p, bin, facts) > 0);
  if (!pick)
    return say(
      { bin: null, asks: GOODS },
      { tone: 'wrong', said: 'picking.refused', error: { code: 'picking.wrongBin', scanned: bin.address, wanted } },
    );
  const code = facts.item(pick.item)?.code ?? '';
  return say(
    { bin: null, asks: { what: 'otherBin', pick: pick.key, bin: bin.id } },
    { tone: 'wrong', said: 'picking.otherBin', bin: bin.address, wanted, code, there: alsoIn(pick, bin, facts) },
  );
}

function takeElsewhere(
  at: PickAt,
  asks: Extract<PickAt['asks'], { what: 'otherBin' }>,
  reason: string,
  stop: HandStop,
  job: RoundJob,
  facts: Facts,
  stamp: Stamp,
): Stepping {
  const pick = stop.open.find((p) => p.key === asks.pick);
  const bin = facts.bin(asks.bin);
  const qty = pick && bin ? minQty(openOf(job, pick), alsoIn(pick, bin, facts)) : ZERO;
  const [key] = stamp.more;
  if (!pick || !bin || qty <= 0 || key === undefined) return say({ ...at, asks: GOODS }, { tone: 'look', said: 'picking.goOn' });
  return {
    at: { bin: bin.id, asks: GOODS },
    says: { tone: 'right', said: 'picking.rightBin', bin: bin.address, code: facts.item(pick.item)?.code ?? '', open: qty },
    does: [
      {
        kind: 'pick.elsewhere',
        round: job.id,
        pick: pick.key,
        instead: { key, bin: bin.id, lot: pick.lot, qty },
        reason: reason.trim() || 'It lies there too',
      },
    ],
  };
}

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
    case 'kitsMade':
      return say(at, { tone: 'look', said: 'picking.goOn' });
    case 'otherBin':
      return stop && asks.what === 'otherBin'
        ? takeElsewhere(at, asks, choice.reason, stop, job, facts, stamp)
        : say(at, { tone: 'look', said: 'picking.goOn' });
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
export const madeSerial = (key: string): string => `M-${key.replaceAll('-', '').slice(-10).toUpperCase()}`;
