import type { Scanned } from '#contract/desk';

/** A lot of an item in the bin that goods are taken from; the first to expire is the first. */
export type LotHere = { readonly lot: string; readonly expires: string | null; readonly qty: string };

/** A move in the making. Each step knows exactly what the steps before it found. */
export type MoveStep =
  | { step: 'from' }
  | { step: 'goods'; from: string }
  /** Several lots lie there, and the code did not say which is in the hand. */
  | { step: 'lot'; from: string; code: string; item: number; name: string; unit: string; qty: string; lots: readonly LotHere[] }
  | {
      step: 'to';
      from: string;
      code: string;
      item: number;
      name: string;
      unit: string;
      qty: string;
      lot: string | null;
      serial: string | null;
    };

export type MoveOutcome = { kind: 'go'; next: MoveStep; says: string } | { kind: 'send'; to: string } | { kind: 'wrong'; says: string };

/** What a scan means while moving goods: from a bin, goods, to a bin. The same goods scanned again are one more.
 *  Shape:  the step, what was scanned, and the lots of an item in the bin it is taken from, in; the next step, or the bin to send the goods to, or what is wrong. */
export function stepMove(at: MoveStep, scanned: Scanned, raw: string, lotsOf: (item: number) => readonly LotHere[]): MoveOutcome {
  if (at.step === 'lot') {
    const named =
      scanned.kind === 'bin' ? undefined : at.lots.find((l) => l.lot === raw.trim() || ('lot' in scanned && l.lot === scanned.lot));
    if (named) return chooseLot(at, named.lot);
    if (scanned.kind !== 'bin' && scanned.kind !== 'item')
      return { kind: 'wrong', says: `That is none of the lots here: ${at.lots.map((l) => l.lot).join(', ')}.` };
  }
  if (scanned.kind === 'bin') {
    if (at.step === 'to')
      return scanned.address === at.from
        ? { kind: 'wrong', says: `The goods are from ${at.from}. Scan the bin where they go.` }
        : { kind: 'send', to: scanned.address };
    return { kind: 'go', next: { step: 'goods', from: scanned.address }, says: `From ${scanned.address}. Scan the goods.` };
  }
  if (at.step === 'from') return { kind: 'wrong', says: 'Scan the bin first from which you take.' };
  if (scanned.kind === 'item') {
    const lots = lotsOf(scanned.item);
    if (lots.length > 1 && !scanned.lot && !(at.step === 'to' && at.item === scanned.item)) {
      const name = `${scanned.code} ${scanned.description}`;
      const { item, unit, packUnits: qty } = scanned;
      return {
        kind: 'go',
        next: { step: 'lot', from: at.from, code: raw, item, name, unit, qty, lots },
        says: `Several lots lie here. ${lots[0]?.lot} expires first: scan the lot that you take.`,
      };
    }
    const again = at.step === 'to' && at.item === scanned.item && !scanned.serial && (scanned.lot ?? at.lot) === at.lot;
    const qty = again ? String(Number(at.qty) + Number(scanned.packUnits)) : scanned.packUnits;
    const next: MoveStep = {
      step: 'to',
      from: at.from,
      code: raw,
      item: scanned.item,
      name: `${scanned.code} ${scanned.description}`,
      unit: scanned.unit,
      qty,
      lot: scanned.lot ?? (again ? at.lot : null),
      serial: scanned.serial,
    };
    return { kind: 'go', next, says: `${qty} ${scanned.code}. Scan more, or the bin where it goes.` };
  }
  if (at.step === 'to' && (scanned.kind === 'lot' || scanned.kind === 'serial') && scanned.item === at.item) {
    return {
      kind: 'go',
      next: scanned.kind === 'lot' ? { ...at, lot: scanned.lot } : { ...at, serial: scanned.serial, qty: '1' },
      says: scanned.kind === 'lot' ? `Lot ${scanned.lot}.` : `Serial ${scanned.serial}.`,
    };
  }
  if (scanned.kind === 'serial' && at.step === 'goods') {
    return {
      kind: 'go',
      next: {
        step: 'to',
        from: at.from,
        code: scanned.code,
        item: scanned.item,
        name: scanned.code,
        unit: 'each',
        qty: '1',
        lot: null,
        serial: scanned.serial,
      },
      says: `Serial ${scanned.serial}.`,
    };
  }
  return { kind: 'wrong', says: at.step === 'goods' ? 'That is neither goods nor a bin.' : 'Scan the bin where the goods go.' };
}

/** Goes on with one of the lots that were asked about. */
export function chooseLot(at: Extract<MoveStep, { step: 'lot' }>, lot: string): MoveOutcome {
  const { from, code, item, name, unit, qty } = at;
  return {
    kind: 'go',
    next: { step: 'to', from, code, item, name, unit, qty, lot, serial: null },
    says: `Lot ${lot}. How many, then the bin where it goes.`,
  };
}
