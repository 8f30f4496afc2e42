import { addQty, subQty, sumQty, type LineId, type LotId, type Qty } from '#core/base';
import type { BinFact, ContentFact, Facts, Stamp } from '#core/floor';
import { isExpired } from '#core/lots';
import { chooseStock, type PickSource } from './choose.ts';
import { openOf, type HandPick, type Instead, type RoundJob } from './round-job.ts';

/** Where else the rest of a pick could come from, by what the device knows: what lies there, less what this round takes there already. */
export function planElsewhere(job: RoundJob, pick: HandPick, facts: Facts, stamp: Stamp): { instead: Instead[]; missing: Qty } {
  const open = openOf(job, pick);
  const troubled = new Set(job.picks.filter((p) => p.trouble !== null && p.item === pick.item).map((p) => p.bin as number));
  const sources = facts.contentsOf(pick.item).flatMap((c): PickSource[] => {
    const bin = facts.bin(c.bin);
    if (!bin || troubled.has(bin.id) || !mayComeFrom(pick, bin, c, facts)) return [];
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

/** Whether goods that lie in another bin than planned would do for a pick just as well, as far as the device knows. */
function mayComeFrom(pick: HandPick, bin: BinFact, goods: ContentFact, facts: Facts): boolean {
  const isThere = bin.id !== pick.bin && bin.pickable && bin.use === 'shelf';
  return isThere && isNamed(pick, goods) && goods.condition === 'sound' && !isExpired(goods.expires, facts.today);
}

/** What of a pick could be taken in another bin without another lot than planned (G4). Thousandths; zero where nothing could. */
export function alsoIn(pick: HandPick, bin: BinFact, facts: Facts): Qty {
  return sumQty(
    facts.contents(bin.id).flatMap((c) => (c.item === pick.item && c.lot === pick.lot && mayComeFrom(pick, bin, c, facts) ? [c.qty] : [])),
  );
}
