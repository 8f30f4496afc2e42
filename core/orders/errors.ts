import { assertNever } from '#core/base';

export type OrdersError =
  | { code: 'orders.unknownOrder'; text: string }
  | { code: 'orders.unknownCustomer'; id: number }
  | { code: 'orders.noLines' }
  | { code: 'orders.nothing'; item: string }
  | { code: 'orders.held'; number: string; reason: string }
  | { code: 'orders.notOpen'; number: string; state: string }
  | { code: 'orders.notHeld'; number: string };

/** The sentence for an error about orders. */
export function ordersSentence(e: OrdersError): string {
  switch (e.code) {
    case 'orders.unknownOrder':
      return `There is no order “${e.text}”.`;
    case 'orders.unknownCustomer':
      return `There is no customer ${e.id}.`;
    case 'orders.noLines':
      return 'The order has no lines yet. Add an item first.';
    case 'orders.nothing':
      return `Key how many of ${e.item} are ordered; it must be more than 0.`;
    case 'orders.held':
      return `Order ${e.number} is held: ${e.reason}. It can be neither picked nor shipped.`;
    case 'orders.notOpen':
      return `Order ${e.number} is ${e.state} already.`;
    case 'orders.notHeld':
      return `Order ${e.number} is not held.`;
    default:
      return assertNever(e);
  }
}
