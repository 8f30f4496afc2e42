import { assertNever } from '#core/base';

export type OrdersError =
  | { code: 'orders.unknownOrder'; text: string }
  | { code: 'orders.unknownCustomer'; id: number }
  | { code: 'orders.noLines' }
  | { code: 'orders.nothing'; item: string }
  | { code: 'orders.held'; number: string; reason: string }
  | { code: 'orders.notOpen'; number: string; state: string }
  | { code: 'orders.notHeld'; number: string }
  | { code: 'orders.referenceKnown'; reference: string; number: string; order: number }
  | { code: 'orders.whoFor'; kind: 'customer' | 'job' | 'transfer' }
  | { code: 'orders.toItself'; site: string }
  | { code: 'orders.unknownSite'; id: number }
  | { code: 'orders.unknownItem'; id: number }
  | { code: 'orders.retired'; item: string }
  | { code: 'orders.customerCodeTaken'; customer: string; name: string }
  | { code: 'orders.customerChanged'; customer: string }
  | { code: 'orders.noParts'; item: string }
  | { code: 'orders.kitTooMany'; item: string; order: string; open: string }
  | { code: 'orders.kitNamed'; item: string; order: string }
  | { code: 'orders.kitLines'; number: string }
  | { code: 'orders.notThatLine'; item: string; order: string }
  | { code: 'orders.unknownLine'; id: number; number: string }
  | { code: 'orders.noLots'; item: string }
  | { code: 'orders.noSerials'; item: string }
  | { code: 'orders.serialTwice'; item: string; serial: string }
  | { code: 'orders.serialsForPieces'; item: string; serials: number; pieces: string }
  | { code: 'orders.unknownSerial'; item: string; serial: string }
  | { code: 'orders.serialNamed'; item: string; serial: string; number: string }
  | { code: 'orders.lineOnItsWay'; item: string; number: string }
  | { code: 'orders.lifeOnItsWay'; number: string }
  | { code: 'orders.fewerThanShipped'; item: string; asked: string; shipped: string };

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
    case 'orders.referenceKnown':
      return `${e.reference} of this customer is here already, as ${e.number}.`;
    case 'orders.whoFor':
      return { customer: 'Choose the customer first.', job: 'Say for which job it is.', transfer: 'Choose the site to which it goes.' }[
        e.kind
      ];
    case 'orders.toItself':
      return `The goods are at ${e.site} already. Choose another site.`;
    case 'orders.unknownSite':
      return `There is no site ${e.id}.`;
    case 'orders.unknownItem':
      return `There is no item ${e.id}.`;
    case 'orders.retired':
      return `${e.item} is retired; it can be ordered no more.`;
    case 'orders.customerCodeTaken':
      return `The code ${e.customer} is that of ${e.name} already.`;
    case 'orders.customerChanged':
      return `Somebody else changed ${e.customer} meanwhile. Look at it again.`;
    case 'orders.noParts':
      return `${e.item} is no kit: nobody said of what it is made.`;
    case 'orders.kitTooMany':
      return `${e.order} wants ${e.open} ${e.item} that are neither promised nor being made.`;
    case 'orders.kitNamed':
      return `${e.order} names which ${e.item} it wants; what is made now is none of those.`;
    case 'orders.kitLines':
      return `What ${e.number} wants are parts of its kits, as many as they take. Cancel it, and make another.`;
    case 'orders.notThatLine':
      return `That line of ${e.order} does not want ${e.item}.`;
    case 'orders.unknownLine':
      return `Order ${e.number} has no line ${e.id}.`;
    case 'orders.noLots':
      return `${e.item} has no lots; none can be named.`;
    case 'orders.noSerials':
      return `${e.item} does not lie under serials; none can be named.`;
    case 'orders.serialTwice':
      return `Serial ${e.serial} of ${e.item} is named twice.`;
    case 'orders.serialsForPieces':
      return `${e.serials} ${e.serials === 1 ? 'serial is' : 'serials are'} named for ${e.pieces} of ${e.item}: name each piece, or none.`;
    case 'orders.unknownSerial':
      return `Serial ${e.serial} of ${e.item} is on no record.`;
    case 'orders.serialNamed':
      return `Serial ${e.serial} of ${e.item} is named by ${e.number} already.`;
    case 'orders.lineOnItsWay':
      return `${e.item} of ${e.number} is on a round or in somebody’s hands. Put it back first, then name its goods.`;
    case 'orders.lifeOnItsWay':
      return `${e.number} is on a round or in somebody’s hands. Put it back first, then change how long its goods must keep.`;
    case 'orders.fewerThanShipped':
      return `${e.shipped} of ${e.item} have left already; ${e.asked} would be fewer.`;
    default:
      return assertNever(e);
  }
}
