import { ONE, parseQty, subQty, type Qty } from '#core/base';
import { eachOfKit, kitsInHand } from '#core/items';
import type { BinFact, Facts, HandEvent, Stamp } from '#core/floor';
import { decideAssembly, partInHand, type KitPartInHand } from './kits.ts';
import { foldRound, GOODS, takenOf, type HandKit, type PickAt, type PickChoice, type PickDoes, type RoundJob } from './round-job.ts';
import { say, type Stepping } from './take.ts';

const HANDS = ['cart', 'packing', 'transit'];

/** The parts of a kit as this round has them on its cart. */
export function partsOnCart(kit: HandKit, job: RoundJob, facts: Facts): readonly KitPartInHand[] {
  return kit.parts.map((part) => {
    const each = eachOfKit(part.qty, kit.qty);
    const taken = job.picks.filter((p) => p.line === part.line).map((p) => takenOf(job, p));
    return { item: part.item, code: facts.item(part.item)?.code ?? '', each, inHand: partInHand(taken, each, kit.made) };
  });
}

/** How many of a kit can be made now of what is on the cart. Thousandths. */
export function kitsToMake(kit: HandKit, job: RoundJob, facts: Facts): Qty {
  return kitsInHand(subQty(kit.qty, kit.made), partsOnCart(kit, job, facts));
}

/** The kits that are made next, when everything is picked (G9); none where nothing can be made. */
export function nextKit(job: RoundJob, facts: Facts): HandKit | undefined {
  return job.kits.find((kit) => kitsToMake(kit, job, facts) > 0);
}

/** A step of somebody who makes kits at the end of a walk: how many are keyed, one is scanned, or all are said to be made; kits that go to
 *  stock are told into which bin. The packing bin, scanned twice, puts their parts down as they are. */
export function stepKit(
  at: PickAt,
  event: HandEvent<PickChoice>,
  kit: HandKit,
  job: RoundJob,
  facts: Facts,
  stamp: Stamp,
): Stepping | null {
  const { asks } = at;
  const code = facts.item(kit.item)?.code ?? '';
  switch (event.kind) {
    case 'scan': {
      const { meaning } = event;
      if (meaning.kind === 'bin') return scanBin(at, meaning.bin, kit, code, job, facts, stamp);
      if (meaning.kind === 'item' && meaning.item.id === kit.item) return made(at, ONE, null, kit, job, facts, stamp);
      return say(at, { tone: 'wrong', said: 'picking.isNot', meaning, wanted: asks.what === 'kitBin' ? 'kitBin' : 'kit', bin: '' });
    }
    case 'number': {
      const read = parseQty(event.text.replace(',', '.'), 0);
      if (!read.ok || read.value <= 0) return say(at, { tone: 'wrong', said: 'picking.badNumber', text: event.text, code, decimals: 0 });
      return made(at, read.value, null, kit, job, facts, stamp);
    }
    case 'choose':
      if (event.choice.what === 'kitsMade') return made(at, kitsToMake(kit, job, facts), null, kit, job, facts, stamp);
      return event.choice.what === 'noTrouble' ? say({ ...at, asks: GOODS }, { tone: 'look', said: 'picking.goOn' }) : null;
    case 'undo':
      return null;
  }
}

function scanBin(at: PickAt, bin: BinFact, kit: HandKit, code: string, job: RoundJob, facts: Facts, stamp: Stamp): Stepping | null {
  const { asks } = at;
  if (asks.what === 'kitBin' && asks.order === kit.order) {
    if (!HANDS.includes(bin.use)) return made(at, asks.qty, bin, kit, job, facts, stamp);
    return say(at, { tone: 'wrong', said: 'picking.isNot', meaning: { kind: 'bin', text: bin.address, bin }, wanted: 'kitBin', bin: '' });
  }
  // What is no packing bin, or was scanned twice, is for who puts down.
  if (bin.use !== 'packing' || (asks.what === 'unmade' && asks.bin === bin.id)) return null;
  const qty = kitsToMake(kit, job, facts);
  return say({ ...at, asks: { what: 'unmade', bin: bin.id } }, { tone: 'look', said: 'picking.unmade', code, qty, bin: bin.address });
}

function made(at: PickAt, qty: Qty, to: BinFact | null, kit: HandKit, job: RoundJob, facts: Facts, stamp: Stamp): Stepping {
  const code = facts.item(kit.item)?.code ?? '';
  const parts = partsOnCart(kit, job, facts);
  const decided = decideAssembly(qty, { kit: code, order: kit.number, left: subQty(kit.qty, kit.made), parts });
  if (!decided.ok) return say(at, { tone: 'wrong', said: 'picking.refused', error: decided.error });
  if (kit.for === null && to === null)
    return say({ ...at, asks: { what: 'kitBin', order: kit.order, qty } }, { tone: 'look', said: 'picking.kitBin', code, qty });
  const does: PickDoes = { kind: 'pick.assemble', round: job.id, order: kit.order, qty, to: to?.id ?? null };
  const after = foldRound(job, [{ does, stamp }]).kits.find((k) => k.order === kit.order) ?? kit;
  const left = subQty(after.qty, after.made);
  const where = { bin: to?.address ?? null, slot: kit.for?.slot ?? null, for: kit.for?.number ?? null };
  return { at: { ...at, asks: GOODS }, says: { tone: 'right', said: 'picking.kitsMade', code, made: qty, left, ...where }, does: [does] };
}

/** Takes kits apart that were said to be made by mistake: their parts are on the cart, and they are still to be made. */
export function undoKits(
  at: PickAt,
  of: { readonly key: string; readonly qty: Qty; readonly kit: HandKit },
  job: RoundJob,
  facts: Facts,
): Stepping {
  return {
    at: { ...at, asks: GOODS },
    says: { tone: 'look', said: 'picking.apart', code: facts.item(of.kit.item)?.code ?? '', qty: of.qty },
    does: [{ kind: 'pick.undo', round: job.id, taken: of.key }],
  };
}
