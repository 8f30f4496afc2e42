import { sumQty, ZERO } from '#core/base';
import type { AnnouncedUnit, BinFact, Facts, Meaning } from '#core/floor';
import { hasLittleLife, isExpired } from '#core/lots';
import { deliveryName, isOfPaper, lineOf, type DeliveryJob, type HandEntry, type ReceiveDoes } from './delivery-job.ts';
import { GOODS, say, type ReceiveAt, type Stepping } from './receive-at.ts';
import { clashingSerials } from './serial-list.ts';

type ScannedUnit = Extract<Meaning, { kind: 'unit' }>;

/** The label of a pallet or carton (C15): all that was announced in it is taken by that one scan; of one that nobody announced, what is
 *  scanned next is in it, until it is scanned again or another is. */
export function stepUnit(at: ReceiveAt, unit: ScannedUnit, job: DeliveryJob, facts: Facts): Stepping {
  const { sscc } = unit;
  const wrong = (place: string): Stepping =>
    say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.unitHere', sscc, place } });
  // What customers bring back comes piece by piece.
  if (job.back) return say(at, { tone: 'wrong', said: 'receiving.isNot', meaning: unit, wanted: 'goods' });
  if (unit.here) return wrong(`bin ${facts.bin(unit.here.bin)?.address ?? ''}`);
  if (at.unit === sscc) return closeUnit(at, sscc, job);
  if (unit.announced) {
    if (job.entries.some((e) => e.sscc === sscc)) return wrong(`delivery ${deliveryName(job)}`);
    return takeAnnounced(at, unit.announced, job, facts);
  }
  return say({ ...at, asks: GOODS, unit: sscc }, { tone: 'look', said: 'receiving.unitOpen', sscc });
}

function takeAnnounced(at: ReceiveAt, unit: AnnouncedUnit, job: DeliveryJob, facts: Facts): Stepping {
  const { sscc, goods, notice, supplierName: supplier } = unit;
  if (job.supplier !== null && job.supplier !== supplier)
    return say(at, { tone: 'wrong', said: 'receiving.refused', error: { code: 'receiving.unitOfAnother', sscc, supplier, notice } });
  const placeOf = (item: number) => (serial: string) => {
    if (job.entries.some((e) => e.item === item && e.serial === serial)) return `delivery ${deliveryName(job)}`;
    const there = facts.serialsBy(serial).find((s) => s.item === item);
    return there ? `bin ${facts.bin(there.bin)?.address ?? ''}` : null;
  };
  for (const item of new Set(goods.map((g) => g.item))) {
    const serials = goods.flatMap((g) => (g.item === item && g.serial !== null ? [g.serial] : []));
    const clashes = clashingSerials(serials, placeOf(item));
    if (clashes.length > 0) return say(at, { tone: 'wrong', said: 'receiving.serialsClash', code: facts.item(item)?.code ?? '', clashes });
  }
  const isStrange = (item: number): boolean => isOfPaper(job) && lineOf(job, item).expected === ZERO;
  const expired = goods.filter((g) => isExpired(g.expires, facts.today));
  const little = goods.filter(
    (g) => !isExpired(g.expires, facts.today) && hasLittleLife(g.expires, facts.today, facts.item(g.item)?.shelfLifeMonths ?? null),
  );
  const strange = new Set(goods.filter((g) => isStrange(g.item)).map((g) => g.item)).size;
  const does: ReceiveDoes = { kind: 'receive.unit', delivery: job.id, sscc, goods };
  return {
    at: { ...at, asks: GOODS, unit: null },
    says: {
      tone: strange + expired.length + little.length > 0 ? 'look' : 'right',
      said: 'receiving.unit',
      sscc,
      things: goods.length,
      pieces: sumQty(goods.map((g) => g.qty)),
      strange,
      expired: expired.length,
      little: little.length,
    },
    does: [does],
  };
}

/** Nothing more is in a unit that nobody announced. */
export function closeUnit(at: ReceiveAt, sscc: string, job: DeliveryJob): Stepping {
  const things = job.entries.filter((e) => e.sscc === sscc).length;
  return say({ ...at, asks: GOODS, unit: null }, { tone: 'right', said: 'receiving.unitClosed', sscc, things });
}

/** All of a unit goes into a bin, or is left at arrivals. */
export function placeUnit(at: ReceiveAt, sscc: string, bin: BinFact | null, job: DeliveryJob): Stepping {
  const own = job.entries.filter((e) => e.sscc === sscc);
  return {
    at: { ...at, asks: GOODS },
    says: { tone: 'right', said: 'receiving.unitGoesTo', sscc, things: own.length, bin: bin?.address ?? null },
    does: own.map((e): ReceiveDoes => ({
      kind: 'receive.where',
      delivery: job.id,
      entry: e.key,
      bin: bin?.id ?? null,
      qty: e.qty,
      stays: ZERO,
    })),
  };
}

/** Takes back what one scan of a unit did last: where it goes first, and only then that it came. */
export function undoUnit(at: ReceiveAt, entries: readonly HandEntry[], job: DeliveryJob): Stepping {
  const sscc = entries[0]?.sscc ?? '';
  if (entries.some((e) => e.bin !== null)) return placeUnit(at, sscc, null, job);
  return {
    at: { ...at, asks: GOODS },
    says: { tone: 'look', said: 'receiving.unitTakenOut', sscc, things: entries.length },
    does: entries.map((e): ReceiveDoes => ({ kind: 'receive.takeOut', delivery: job.id, entry: e.key })),
  };
}
