import { minQty, subQty, sumQty, type LotId, type Qty } from '#core/base';
import { type Facts, type ItemFact, type Meaning, type Stamp, type Stepped } from '#core/floor';
import { needsSerialToShip } from '#core/items';
import { decidePick } from './pick.ts';
import {
  foldRound,
  GOODS,
  openOf,
  takenOf,
  type HandPick,
  type HandStop,
  type HandTaken,
  type PickAsks,
  type PickAt,
  type PickDoes,
  type RoundJob,
} from './round-job.ts';
import type { PickingSaid } from './said.ts';

export type Stepping = Stepped<PickAt, PickingSaid, PickDoes>;
export const say = (at: PickAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

type Take = {
  readonly qty: Qty;
  readonly lot: string | null;
  readonly serial: string | null;
  readonly over?: string;
  readonly sscc?: string;
};

/** Takes so much for a pick, if `decidePick` believes it. */
export function take(at: PickAt, pick: HandPick, command: Take, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
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
    sscc: command.sscc ?? null,
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

/** The label of a pallet or carton at a stop takes all that is in it (G11), where the picks of this bin want all of it.
 *  Shape:  an act for each thing in it and each pick that it is for; none where one of them cannot be. */
export function takeUnit(
  at: PickAt,
  unit: Extract<Meaning, { kind: 'unit' }>,
  stop: HandStop,
  job: RoundJob,
  facts: Facts,
  stamp: Stamp,
): Stepping {
  const { sscc, here } = unit;
  const bin = stop.bin.address;
  const refuse = (error: Extract<PickingSaid, { said: 'picking.refused' }>['error']): Stepping =>
    say(at, { tone: 'wrong', said: 'picking.refused', error });
  if (!here) return refuse({ code: 'picking.unitUnknown', sscc });
  if (here.bin !== stop.bin.id) return refuse({ code: 'picking.unitElsewhere', sscc, bin, there: facts.bin(here.bin)?.address ?? '' });
  const does: PickDoes[] = [];
  const slots = new Set<number>();
  let after = job;
  let last: Stepping | null = null;
  for (const goods of here.goods) {
    const code = facts.item(goods.item)?.code ?? '';
    const wanted = (): HandPick[] => stop.picks.filter((p) => p.item === goods.item && openOf(after, p) > 0);
    if (goods.condition !== 'sound') return refuse({ code: 'picking.unitUnsound', sscc, item: code });
    if (wanted().length === 0 && !stop.picks.some((p) => p.item === goods.item))
      return refuse({ code: 'picking.unitOther', sscc, item: code });
    const open = sumQty(wanted().map((p) => openOf(after, p)));
    if (goods.qty > open) return refuse({ code: 'picking.unitTooMuch', sscc, item: code, holds: goods.qty, open });
    let left = goods.qty;
    while (left > 0) {
      const [first, ...others] = wanted().toSorted((a, b) => Number(b.lot === goods.lot) - Number(a.lot === goods.lot));
      const named = [first, ...others].find((p) => goods.serial !== null && p?.named.serials?.includes(goods.serial)) ?? first;
      const key = does.length === 0 ? stamp.key : stamp.more[does.length - 1];
      if (!named || key === undefined) return refuse({ code: 'picking.unitManifold', sscc });
      const qty = minQty(left, openOf(after, named));
      last = take(at, named, { qty, lot: goods.lot, serial: goods.serial, sscc }, after, facts, { ...stamp, key });
      const [done] = last.does;
      if (!done) return last;
      after = foldRound(after, [{ does: done, stamp: { ...stamp, key } }]);
      does.push(done);
      slots.add(named.slot);
      left = subQty(left, qty);
    }
  }
  const open = sumQty(stop.picks.map((p) => openOf(after, p)));
  const roundDone = after.picks.every((p) => openOf(after, p) === 0);
  const taken = sumQty(here.goods.map((g) => g.qty));
  return {
    at: { bin: at.bin, asks: GOODS },
    says: { tone: 'right', said: 'picking.unitTaken', sscc, taken, slots: [...slots], open, roundDone },
    does,
  };
}
