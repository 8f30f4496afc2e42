import { formatQty, parseQty, sumQty, ZERO, type BinId, type LotId, type Qty } from '#core/base';
import type { BinFact, Facts, ItemFact, Stamp } from '#core/floor';
import { isExpired } from '#core/lots';
import { checkBinRules, type Goods as BinGoods } from '#core/places';
import { ownEntries, serialRun, type DeliveryJob, type HandEntry } from './delivery-job.ts';
import { GOODS, say, type ReceiveAsks, type ReceiveAt, type Stepping } from './receive-at.ts';
import { placeUnit } from './step-unit.ts';
import { decideWhereTo } from './where-to.ts';

type Placing = Extract<ReceiveAsks, { what: 'whereTo' }>;

/** A bin after goods (C10): there they go, all of the last entry, or so many of the one that was chosen. */
export function stepBin(at: ReceiveAt, bin: BinFact, job: DeliveryJob, facts: Facts, stamp: Stamp): Stepping {
  const { asks } = at;
  const entry = asks.what === 'whereTo' ? job.entries.find((e) => e.key === asks.entry) : ownEntries(job, stamp.person)[0];
  const item = entry?.item ? facts.item(entry.item) : undefined;
  if (!entry || !item)
    return say(at, { tone: 'wrong', said: 'receiving.isNot', meaning: { kind: 'bin', text: bin.address, bin }, wanted: 'goods' });
  if (entry.sscc !== null) return unitIntoBin(at, entry.sscc, bin, job, facts);
  const run = asks.what === 'whereTo' ? [entry] : serialRun(job, stamp.person);
  const qty = (asks.what === 'whereTo' ? asks.qty : null) ?? sumQty(run.map((e) => e.qty));
  const decided = decideWhereTo(qty, {
    item: item.code,
    decimals: item.decimals,
    arrived: run.length > 1 ? qty : entry.qty,
    isFound: entry.finding !== null,
    expired: isExpired(entry.expires, facts.today),
    bin,
  });
  if (!decided.ok) return say(at, { tone: 'wrong', said: 'receiving.refused', error: decided.error });
  const broken = checkBinRules(bin.rules, comingInto(bin.id, job, facts, new Set(run.map((e) => e.key))), [
    goodsOf(entry, item, qty, facts),
  ]);
  if (broken)
    return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.breaksRule', item: item.code, broken } });
  // What is left of it is asked about next: a line is split over bins one after the other.
  const next: ReceiveAsks = asks.what === 'whereTo' && decided.value.stays > 0 ? { ...asks, qty: null } : GOODS;
  return {
    at: { ...at, asks: next },
    says: { tone: 'right', said: 'receiving.goesTo', code: item.code, qty, bin: bin.address, stays: decided.value.stays },
    does:
      run.length > 1
        ? run.map((e) => ({ kind: 'receive.where', delivery: job.id, entry: e.key, bin: bin.id, qty: e.qty, stays: ZERO }))
        : [{ kind: 'receive.where', delivery: job.id, entry: entry.key, bin: bin.id, qty, stays: decided.value.stays }],
  };
}

/** Leaves serials that were put into a bin together at arrivals after all. */
export function leaveRun(at: ReceiveAt, run: readonly HandEntry[], job: DeliveryJob, facts: Facts): Stepping {
  const code = facts.item(run[0]?.item ?? 0)?.code ?? '';
  return {
    at,
    says: { tone: 'right', said: 'receiving.goesTo', code, qty: sumQty(run.map((e) => e.qty)), bin: null, stays: ZERO },
    does: run.map((e) => ({ kind: 'receive.where', delivery: job.id, entry: e.key, bin: null, qty: e.qty, stays: ZERO })),
  };
}

// What came in one unit goes into one bin, all of it.
function unitIntoBin(at: ReceiveAt, sscc: string, bin: BinFact, job: DeliveryJob, facts: Facts): Stepping {
  const own = job.entries.filter((e) => e.sscc === sscc);
  const goods = own.flatMap((e) => {
    const item = facts.item(e.item ?? 0);
    return item ? [{ entry: e, item }] : [];
  });
  for (const { entry, item } of goods) {
    const decided = decideWhereTo(entry.qty, {
      item: item.code,
      decimals: item.decimals,
      arrived: entry.qty,
      isFound: entry.finding !== null,
      expired: isExpired(entry.expires, facts.today),
      bin,
    });
    if (!decided.ok) return say(at, { tone: 'wrong', said: 'receiving.refused', error: decided.error });
  }
  const broken = checkBinRules(
    bin.rules,
    comingInto(bin.id, job, facts, new Set(own.map((e) => e.key))),
    goods.map(({ entry, item }) => goodsOf(entry, item, entry.qty, facts)),
  );
  const [first] = goods;
  if (broken && first)
    return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.breaksRule', item: first.item.code, broken } });
  return placeUnit({ ...at, unit: null }, sscc, bin, job);
}

function goodsOf(entry: { readonly lot: string | null }, item: ItemFact, qty: Qty, facts: Facts): BinGoods {
  const lot = entry.lot === null ? null : (facts.lot(item.id, entry.lot)?.id ?? NEW_LOT);
  return { item: item.id, itemCode: item.code, lot, qty, storageClass: item.storageClass, unitMl: item.unitMl, unitG: item.unitG };
}
/** A lot that has no number in the house yet: another one than all that lie there. */
const NEW_LOT = -1 as LotId;

// What lies in a bin and what of this delivery goes there, but for some entries.
function comingInto(bin: BinId, job: DeliveryJob, facts: Facts, except: ReadonlySet<string>): BinGoods[] {
  const lying = facts.contents(bin).flatMap((c) => {
    const item = facts.item(c.item);
    return item ? [goodsOf(c, item, c.qty, facts)] : [];
  });
  const coming = job.entries.flatMap((e) => {
    const item = e.item && e.bin === bin && !except.has(e.key) ? facts.item(e.item) : undefined;
    return item ? [goodsOf(e, item, e.qty, facts)] : [];
  });
  return [...lying, ...coming];
}

/** A number says how many go into the bin that is scanned next. */
export function stepPart(at: ReceiveAt, asks: Placing, text: string, job: DeliveryJob, facts: Facts): Stepping {
  const entry = job.entries.find((e) => e.key === asks.entry);
  if (entry?.sscc) return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.unitWhole', sscc: entry.sscc } });
  const item = entry?.item ? facts.item(entry.item) : undefined;
  const read = parseQty(text.replace(',', '.'), item?.decimals ?? 0);
  if (!read.ok || read.value <= 0)
    return say(at, { tone: 'wrong', said: 'receiving.badNumber', text, code: asks.code, decimals: item?.decimals ?? 0 });
  if (entry && read.value > entry.qty)
    return say(at, {
      tone: 'wrong',
      said: 'receiving.refused',
      error: { code: 'receiving.moreThanEntry', item: asks.code, asked: formatQty(read.value), arrived: formatQty(entry.qty) },
    });
  return say({ ...at, asks: { ...asks, qty: read.value } }, { tone: 'look', said: 'receiving.whichBin', code: asks.code, qty: read.value });
}
