import { isOpening, reverseMovement, type Movement } from '#core/stock';
import { announce, asQty, makeDocument, refuse, type Trx } from '#server/kernel';
import { post } from './post.ts';
import { selectDocument, selectMovements, type LedgerRow } from './store-ledger.ts';

// A hand may take back their own move; the lead anybody's, and adjustments.
const HAND_MAY_UNDO = ['move', 'putAway'];
const LEAD_MAY_UNDO = [...HAND_MAY_UNDO, 'adjustment'];

/** Whether a document can be taken back as a whole, by its kind: all others carry records of their own. */
export const isUndoable = (kind: string): boolean => LEAD_MAY_UNDO.includes(kind);

function movementOf(r: LedgerRow): Movement {
  return {
    item: r.item_id,
    lot: r.lot_id,
    serial: r.serial_id,
    qty: asQty(r.qty),
    reason: r.reason,
    from: { bin: r.from_bin, unit: r.from_unit, condition: r.from_condition },
    to: { bin: r.to_bin, unit: r.to_unit, condition: r.to_condition },
  } as Movement;
}

/** Takes a move back by reversing its movements, on a document of its own.
 *  Errors: a document that is no move, is another site's or another hand's, or was undone before; and what `post` refuses.
 *  Locks:  what `post` locks. */
export async function undoDocument(
  trx: Trx,
  command: { document: number; site: number; person: number; lead: boolean; reason: string; device: string | null; at: Date | null },
): Promise<{ document: string; movements: number }> {
  const document = await selectDocument(trx, command.document);
  if (!document) return refuse({ code: 'stock.unknownMovement', movement: command.document });
  if (document.site_id !== command.site) refuse({ code: 'people.otherSite', what: document.number, site: document.site });
  const own = document.person_id === command.person;
  // Receipts, rounds, shipments and counts carry their own records beside the ledger: they are undone in their own rooms.
  const mayUndo = command.lead ? isUndoable(document.kind) : own && HAND_MAY_UNDO.includes(document.kind);
  if (!mayUndo) return refuse({ code: 'people.noRight', role: command.lead ? 'lead' : 'hand', act: `Undoing ${document.number}` });
  const rows = await selectMovements(trx, { document: document.id, limit: null });
  const undone = rows.find((r) => r.undone_by !== null);
  if (undone) refuse({ code: 'stock.alreadyUndone', movement: undone.id });
  const reversal = await makeDocument(trx, 'reversal', { site: document.site_id, person: command.person, subject: document.id });
  const movements = rows.filter((r) => !isOpening(movementOf(r))).map((r) => reverseMovement(movementOf(r), r.id, command.reason));
  await post(trx, {
    document: reversal.id as never,
    person: command.person as never,
    device: command.device,
    ...(command.at ? { at: command.at } : {}),
    movements,
    overBinRules: true,
  });
  announce(trx, 'stock');
  return { document: reversal.number, movements: movements.length };
}

/** Takes single movements back, on the paper on which they stand.
 *  Errors: what was undone before; what `post` refuses.
 *  Locks:  what `post` locks. */
export async function undoMovements(
  trx: Trx,
  command: { document: number; movements: readonly number[]; person: number; reason: string; device: string | null; at: Date | null },
): Promise<void> {
  const rows = (await selectMovements(trx, { document: command.document, limit: null })).filter((r) => command.movements.includes(r.id));
  if (rows.length !== command.movements.length) throw new Error('A movement stands on another paper than its round.');
  const undone = rows.find((r) => r.undone_by !== null);
  if (undone) refuse({ code: 'stock.alreadyUndone', movement: undone.id });
  await post(trx, {
    document: command.document as never,
    person: command.person as never,
    device: command.device,
    ...(command.at ? { at: command.at } : {}),
    movements: rows.map((r) => reverseMovement(movementOf(r), r.id, command.reason)),
    overBinRules: true,
  });
}
