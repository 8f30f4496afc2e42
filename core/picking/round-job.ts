import { subQty, sumQty, type BinId, type ItemId, type Qty } from '#core/base';
import { moveDeltas, type BinFact, type ContentDelta, type Facts, type Stamp } from '#core/floor';
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
  /** It went into a kit, and can be put back no more. */
  readonly gone: boolean;
};
/** Kits that were made by one act. */
export type HandMade = { readonly key: string; readonly qty: Qty; readonly person: number; readonly at: string };
/** Kits that an order on the round makes of what is picked for it (G9). */
export type HandKit = {
  readonly order: number;
  readonly number: string;
  readonly item: ItemId;
  /** How many it makes in all, and how many of them are made. Thousandths. */
  readonly qty: Qty;
  readonly made: Qty;
  /** The order that waits for them, and their slot on the cart; null where they go to stock. */
  readonly for: { readonly number: string; readonly slot: number | null } | null;
  /** The lines of its parts, with how much of each all its kits take. Thousandths. */
  readonly parts: readonly { readonly line: number; readonly item: ItemId; readonly qty: Qty }[];
  /** The acts by which some were made. */
  readonly acts: readonly HandMade[];
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
  readonly kits: readonly HandKit[];
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
      /** The logistic unit out of which it was taken, by its label; null where it was loose, or nobody said. */
      sscc: string | null;
    }
  | { kind: 'pick.undo'; round: number; taken: string }
  | { kind: 'pick.trouble'; round: number; pick: string; trouble: TroubleKind; instead: readonly Instead[] }
  /** What is open of a pick comes from another bin, where it lies too (G4). */
  | { kind: 'pick.elsewhere'; round: number; pick: string; instead: Instead; reason: string }
  /** So many kits of an order are made of what is on the cart (G9): for whoever ordered them, or into a bin. */
  | { kind: 'pick.assemble'; round: number; order: number; qty: Qty; to: BinId | null }
  | { kind: 'pick.putDown'; round: number; bin: BinId };

export type PickAsks =
  | { what: 'goods' }
  | { what: 'lot'; pick: string; qty: Qty; doubted?: string }
  | { what: 'serial'; pick: string; doubted?: string }
  /** Another lot than planned was scanned: it is taken for a reason, or put back. */
  | { what: 'otherLot'; pick: string; lot: string; qty: Qty }
  /** Another bin than planned was scanned, and the goods lie there too. */
  | { what: 'otherBin'; pick: string; bin: BinId }
  | { what: 'trouble' }
  /** Kits for stock are made: the bin into which they go is scanned. */
  | { what: 'kitBin'; order: number; qty: Qty }
  /** The packing bin was scanned, and there are kits to be made first. */
  | { what: 'unmade'; bin: BinId };
/** `bin`: the stop at which the hand has shown that it stands. */
export type PickAt = { readonly bin: BinId | null; readonly asks: PickAsks };
export const GOODS: PickAsks = { what: 'goods' };
export const PICK_BEGINS: PickAt = { bin: null, asks: GOODS };

export type PickChoice =
  | { what: 'lot' }
  | { what: 'otherLot'; reason: string }
  | { what: 'otherBin'; reason: string }
  | { what: 'madeSerial' }
  | { what: 'trouble' }
  | { what: 'noTrouble' }
  | { what: 'report'; kind: TroubleKind }
  | { what: 'kitsMade' }
  | { what: 'putDown'; bin: BinId };

/** The round with what this device did on it, whether or not the server has counted it in already.
 *  Law:    folding an act twice is folding it once. */
export function foldRound(job: RoundJob, acts: readonly { does: PickDoes; stamp: Stamp }[]): RoundJob {
  let { picks, taken, state, person, kits } = job;
  for (const { does, stamp } of acts) {
    if (does.round !== job.id) continue;
    switch (does.kind) {
      case 'pick.take':
        if (taken.some((t) => t.key === stamp.key)) break;
        taken = [
          ...taken,
          {
            key: stamp.key,
            pick: does.pick,
            qty: does.qty,
            lot: does.lot,
            serial: does.serial,
            person: stamp.person,
            at: stamp.at,
            gone: false,
          },
        ];
        person ??= stamp.person;
        break;
      case 'pick.undo': {
        taken = taken.filter((t) => t.key !== does.taken);
        const kit = kits.find((k) => k.acts.some((a) => a.key === does.taken));
        if (!kit) break;
        const acts = kit.acts.filter((a) => a.key !== does.taken);
        kits = kits.map((k) => (k === kit ? { ...k, acts, made: sumQty(acts.map((a) => a.qty)) } : k));
        if (acts.length === 0) taken = goneInto(kit, picks, taken, false);
        break;
      }
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
      case 'pick.elsewhere': {
        const from = picks.find((p) => p.key === does.pick);
        if (!from || picks.some((p) => p.key === does.instead.key)) break;
        const { key, bin, lot, qty } = does.instead;
        picks = [...picks.map((p) => (p === from ? { ...p, qty: subQty(p.qty, qty) } : p)), { ...from, key, bin, lot, qty }];
        break;
      }
      case 'pick.assemble': {
        const kit = kits.find((k) => k.order === does.order);
        if (!kit || kit.acts.some((a) => a.key === stamp.key)) break;
        const acts = [...kit.acts, { key: stamp.key, qty: does.qty, person: stamp.person, at: stamp.at }];
        kits = kits.map((k) => (k === kit ? { ...k, acts, made: sumQty(acts.map((a) => a.qty)) } : k));
        taken = goneInto(kit, picks, taken, true);
        break;
      }
      case 'pick.putDown':
        if (state === 'open') state = 'putDown';
        break;
    }
  }
  return { ...job, picks, taken, state, person, kits };
}

// Of whatever part: what went into kits can be put back only when they are taken apart.
function goneInto(kit: HandKit, picks: readonly HandPick[], taken: readonly HandTaken[], gone: boolean): readonly HandTaken[] {
  const lines = new Set(kit.parts.map((p) => p.line));
  const ofKit = new Set(picks.filter((p) => lines.has(p.line)).map((p) => p.key));
  return taken.map((t) => (ofKit.has(t.pick) ? { ...t, gone } : t));
}

/** Kits that this person made on the round and may still take apart, newest first. */
export function ownMade(job: RoundJob, person: number): readonly (HandMade & { readonly kit: HandKit })[] {
  return job.kits
    .flatMap((kit) => kit.acts.filter((a) => a.person === person).map((a) => ({ ...a, kit })))
    .toSorted((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
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

/** The stop that is next: where the hand has shown that it stands, as long as something is open there; else the first of the way. */
export function stopAt(at: PickAt, job: RoundJob, facts: Facts): HandStop | undefined {
  const open = stopsOf(job, facts).filter((s) => s.open.length > 0);
  return open.find((s) => s.bin.id === at.bin) ?? open[0];
}

/** What this person took on the round and may still put back, newest first. */
export function ownTaken(job: RoundJob, person: number): readonly HandTaken[] {
  return job.taken
    .filter((t) => t.person === person && !t.gone)
    .toReversed()
    .sort((a, b) => (a.at < b.at ? 1 : a.at > b.at ? -1 : 0));
}

/** What acts of a round do to the bins, as long as the server has not counted it in. */
export function pickDeltasOf(does: PickDoes, job: RoundJob | undefined, facts: Facts): readonly ContentDelta[] {
  if (does.kind === 'pick.assemble') return job ? kitDeltas(does, job, facts) : [];
  if (does.kind !== 'pick.take' || !job) return [];
  const expires = does.lot === null ? null : (facts.lot(does.item, does.lot)?.expires ?? null);
  const serial = facts.item(does.item)?.tracking === 'serial' ? does.serial : null;
  const deltas = moveDeltas({ item: does.item, lot: does.lot, expires, serial, condition: 'sound', qty: does.qty }, does.bin, job.cart);
  // Out of its unit, and loose on the cart.
  return deltas.map((d) => (d.qty < 0 ? { ...d, sscc: does.sscc } : d));
}

// Kits in a bin are known there at once, unless they get a label that only the server gives; what lies on the cart nobody looks up.
function kitDeltas(does: Extract<PickDoes, { kind: 'pick.assemble' }>, job: RoundJob, facts: Facts): readonly ContentDelta[] {
  const kit = job.kits.find((k) => k.order === does.order);
  if (!kit || does.to === null || facts.item(kit.item)?.tracking !== 'none') return [];
  return [{ bin: does.to, item: kit.item, lot: null, expires: null, serial: null, condition: 'sound', qty: does.qty }];
}
