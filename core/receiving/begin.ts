import { fail, ok, type Result } from '#core/base';
import type { ExpectedOrder, ReceiveDoes } from './delivery-job.ts';
import type { ReceivingError } from './errors.ts';

/** What a delivery is begun with (C1): orders of one supplier, a supplier alone, or nothing that is known yet. */
export type BeginCommand = {
  readonly supplier: number | null;
  readonly orders: readonly number[];
  /** A customer brings goods back: of this shipment, or of none that is known. */
  readonly back?: { readonly shipment: number | null };
};

/** Decides how a delivery begins.
 *  Shape:  its supplier is that of its orders; `key` is the name that it has from now on.
 *  Errors: an order that is not expected here, orders of two suppliers, or of another one than was named. */
export function decideBegin(
  command: BeginCommand,
  expected: readonly ExpectedOrder[],
  key: string,
): Result<Extract<ReceiveDoes, { kind: 'receive.begin' }>, ReceivingError> {
  if (command.back) return ok({ kind: 'receive.begin', delivery: key, supplier: null, orders: [], back: command.back });
  const orders: ExpectedOrder[] = [];
  for (const id of new Set(command.orders)) {
    const order = expected.find((o) => o.id === id);
    if (!order) return fail({ code: 'receiving.unknownOrder', text: String(id) });
    orders.push(order);
  }
  const supplier = orders[0]?.supplier ?? command.supplier;
  const other = orders.find((o) => o.supplier !== (command.supplier ?? supplier));
  if (other) return fail({ code: 'receiving.twoSuppliers', number: other.number });
  return ok({ kind: 'receive.begin', delivery: key, supplier, orders: orders.map((o) => o.id), back: null });
}
