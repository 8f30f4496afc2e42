import { reverseMovement, type Movement } from '#core/stock';
import { announce, asQty, makeDocument, refuse, type Trx } from '#server/kernel';
import { post } from './post.ts';
import { selectDocument, selectMovements } from './store.ts';

// A hand may take back their own move while it is fresh; everything else is the lead's.
const HAND_MAY_UNDO = ['move', 'putAway'];

/** A line of the ledger as it is read for the screens. */
export type LedgerRow = {
  id: number;
  at: Date;
  document_id: number;
  kind: string;
  number: string;
  person: string;
  reason: string;
  item_id: number;
  code: string;
  description: string;
  lot: string | null;
  serial: string | null;
  lot_id: number | null;
  serial_id: number | null;
  qty: string;
  from_bin: number;
  from_address: string;
  from_condition: string;
  from_unit: number | null;
  to_bin: number;
  to_address: string;
  to_condition: string;
  to_unit: number | null;
  reverses: number | null;
  undone_by: number | null;
};

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
  const own = document.person_id === command.person && HAND_MAY_UNDO.includes(document.kind);
  // Receipts, rounds, shipments and counts carry their own records beside the ledger: they are undone in their own rooms.
  if (!HAND_MAY_UNDO.includes(document.kind) || (!command.lead && !own))
    return refuse({ code: 'people.noRight', role: command.lead ? 'lead' : 'hand', act: `Undoing ${document.number}` });
  const rows = (await selectMovements(trx, { document: document.id, limit: 500 })) as unknown as LedgerRow[];
  const undone = rows.find((r) => r.undone_by !== null);
  if (undone) refuse({ code: 'stock.alreadyUndone', movement: undone.id });
  const reversal = await makeDocument(trx, 'reversal', { site: document.site_id, person: command.person, subject: document.id });
  const movements = rows.map((r) => reverseMovement(movementOf(r), r.id, command.reason));
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
