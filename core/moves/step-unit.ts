import { sumQty, type BinId } from '#core/base';
import type { BinFact, ContentFact, Facts, Meaning, UnitFact } from '#core/floor';
import { doubtOf, doubtWords, type Putting } from './doubt.ts';
import type { MoveAt, MoveDoes, MoveSource, Stepping } from './move-at.ts';
import { suggestFor } from './suggest.ts';

type WithUnit = Extract<MoveAt, { step: 'unit' | 'unitSure' }>;
const say = (at: MoveAt, says: Stepping['says']): Stepping => ({ at, says, does: [] });

/** The label of a pallet or carton where goods are taken (C15): it is carried whole, from wherever the records have it. */
export function scanUnit(at: MoveAt, unit: Extract<Meaning, { kind: 'unit' }>, facts: Facts, source: MoveSource): Stepping {
  const { sscc, here } = unit;
  if (!here) return say(at, { tone: 'wrong', said: 'moves.unitUnknown', sscc });
  const bin = facts.bin(here.bin);
  if (source !== 'bin' && bin?.use !== source) return say(at, { tone: 'wrong', said: 'moves.unitElsewhere', sscc, source });
  const suggestion = source === 'bin' ? null : suggestForUnit(here, facts);
  return say(
    { step: 'unit', unit: here },
    {
      tone: 'right',
      said: 'moves.unitInHand',
      sscc,
      things: here.goods.length,
      bin: bin?.address ?? '',
      to: suggestion ? (facts.bin(suggestion.bin)?.address ?? null) : null,
      why: suggestion?.why ?? null,
    },
  );
}

/** Where a unit would best go: where the goods would, of which most is in it. */
export function suggestForUnit(
  unit: Pick<UnitFact, 'bin'> & { readonly goods: readonly Pick<ContentFact, 'item' | 'lot' | 'qty'>[] },
  facts: Facts,
): ReturnType<typeof suggestFor> {
  const sumOf = (item: number) => sumQty(unit.goods.filter((g) => g.item === item).map((g) => g.qty));
  const [most] = unit.goods.toSorted((a, b) => sumOf(b.item) - sumOf(a.item));
  const item = facts.item(most?.item ?? 0);
  return most && item ? suggestFor({ from: unit.bin, item, lot: most.lot, qty: sumOf(most.item) }, facts) : null;
}

/** A scan while a unit is in the hands: the bin where it goes, or the unit itself once more. */
export function stepWithUnit(at: WithUnit, meaning: Meaning, facts: Facts, source: MoveSource): Stepping {
  const { unit } = at;
  if (meaning.kind === 'unit' && meaning.sscc === unit.sscc) return scanUnit({ step: 'unit', unit }, meaning, facts, source);
  if (meaning.kind !== 'bin') return say(at, { tone: 'wrong', said: 'moves.isNot', meaning, wanted: 'to' });
  if (at.step === 'unitSure' && at.to === meaning.bin.id) return putUnit(unit, at.to, facts, source, doubtWords(at.doubt));
  return intoBin({ step: 'unit', unit }, meaning.bin, facts, source);
}

function intoBin(at: Extract<MoveAt, { step: 'unit' }>, bin: BinFact, facts: Facts, source: MoveSource): Stepping {
  const { unit } = at;
  if (bin.id === standsIn(unit, facts)) return say(at, { tone: 'wrong', said: 'moves.sameBin', bin: bin.address });
  if (['cart', 'packing', 'transit'].includes(bin.use)) return say(at, { tone: 'wrong', said: 'moves.ordersBin', bin: bin.address });
  const goods = unit.goods.flatMap((g): Putting[] => {
    const item = facts.item(g.item);
    return item ? [{ item, lot: g.lot, expires: g.expires, qty: g.qty }] : [];
  });
  const doubt = doubtOf(goods, bin, facts);
  if (!doubt) return putUnit(unit, bin.id, facts, source, null);
  return say({ step: 'unitSure', unit, to: bin.id, doubt }, { tone: doubt.why === 'use' ? 'look' : 'wrong', said: 'moves.doubt', doubt });
}

// An undo while it was in the hands may have brought it elsewhere.
const standsIn = (unit: UnitFact, facts: Facts): BinId => facts.unit(unit.sscc)?.bin ?? unit.bin;

/** Puts a unit down. `over`: why it lies there although something speaks against it. */
export function putUnit(unit: UnitFact, to: BinId, facts: Facts, source: MoveSource, over: string | null): Stepping {
  const does: MoveDoes = { kind: 'move.unit', sscc: unit.sscc, from: standsIn(unit, facts), to, over };
  return {
    at: source === 'bin' ? { step: 'from' } : { step: 'goods', from: null },
    says: { tone: 'right', said: 'moves.unitPut', sscc: unit.sscc, to: facts.bin(to)?.address ?? '' },
    does: [does],
  };
}
