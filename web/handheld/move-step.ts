import type { Scanned } from '#contract/desk';

/** A move in the making. Each step knows exactly what the steps before it found. */
export type MoveStep =
  | { step: 'from' }
  | { step: 'goods'; from: string }
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
 *  Shape:  the step and what was scanned in; the next step, or the bin to send the goods to, or what is wrong. */
export function stepMove(at: MoveStep, scanned: Scanned, raw: string): MoveOutcome {
  if (scanned.kind === 'bin') {
    if (at.step === 'to')
      return scanned.address === at.from
        ? { kind: 'wrong', says: `The goods are from ${at.from}. Scan the bin where they go.` }
        : { kind: 'send', to: scanned.address };
    return { kind: 'go', next: { step: 'goods', from: scanned.address }, says: `From ${scanned.address}. Scan the goods.` };
  }
  if (at.step === 'from') return { kind: 'wrong', says: 'Scan the bin first from which you take.' };
  if (scanned.kind === 'item') {
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
