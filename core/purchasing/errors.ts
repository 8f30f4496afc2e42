import { assertNever } from '#core/base';

export type PurchaseState = 'draft' | 'open' | 'closed' | 'cancelled';

export type PurchasingError =
  | { code: 'purchasing.unknownOrder'; id: number }
  | { code: 'purchasing.noLines' }
  | { code: 'purchasing.nothing'; item: string }
  | { code: 'purchasing.tooFine'; item: string; decimals: number }
  | { code: 'purchasing.belowReceived'; item: string; received: string; asked: string }
  | { code: 'purchasing.lineHasGoods'; item: string; received: string }
  | { code: 'purchasing.unknownLine'; number: string; line: number }
  | { code: 'purchasing.lineIsOf'; number: string; item: string }
  | { code: 'purchasing.retired'; item: string }
  | { code: 'purchasing.notNow'; number: string; state: PurchaseState; act: string }
  | { code: 'purchasing.beingReceived'; number: string; delivery: string }
  | { code: 'purchasing.hasGoods'; number: string }
  | { code: 'purchasing.changedMeanwhile'; number: string }
  | { code: 'purchasing.referenceTaken'; reference: string; number: string }
  | { code: 'purchasing.noSupplier'; item: string }
  | { code: 'purchasing.levelsCross'; item: string; least: string; most: string };

/** How the state of a purchase order is said. */
export function purchaseStateWord(state: PurchaseState): string {
  return { draft: 'a draft', open: 'approved', closed: 'closed', cancelled: 'cancelled' }[state];
}

/** The sentence for an error of buying. */
export function purchasingSentence(e: PurchasingError): string {
  switch (e.code) {
    case 'purchasing.unknownOrder':
      return `There is no purchase order ${e.id}.`;
    case 'purchasing.noLines':
      return 'A purchase order wants one line at least. Cancel it if nothing of it is wanted.';
    case 'purchasing.nothing':
      return `Key how many ${e.item} are ordered; it must be more than 0.`;
    case 'purchasing.tooFine':
      return e.decimals === 0 ? `${e.item} is ordered whole.` : `${e.item} is ordered to ${e.decimals} decimals.`;
    case 'purchasing.belowReceived':
      return `${e.received} ${e.item} have come already; ${e.asked} is less. Close the line short instead.`;
    case 'purchasing.lineHasGoods':
      return `${e.received} ${e.item} of this line have come. It stays; close it short if no more are wanted.`;
    case 'purchasing.unknownLine':
      return `Line ${e.line} is not in ${e.number}. Somebody may have removed it; read the order again.`;
    case 'purchasing.lineIsOf':
      return `A line of ${e.number} stays a line of its item: remove that of ${e.item} and add another.`;
    case 'purchasing.retired':
      return `${e.item} is retired. Bring it back on its page before it is ordered.`;
    case 'purchasing.notNow':
      return `${e.number} is ${purchaseStateWord(e.state)}; it cannot be ${e.act} now.`;
    case 'purchasing.beingReceived':
      return `${e.number} is being received in ${e.delivery}. Post that, or throw it away, first.`;
    case 'purchasing.hasGoods':
      return `Goods of ${e.number} have come. Close it short: what has not come is expected no longer, and what has come stays on record.`;
    case 'purchasing.changedMeanwhile':
      return `${e.number} was changed by somebody else meanwhile. Nothing of yours was saved yet: look at it again.`;
    case 'purchasing.referenceTaken':
      return `Order “${e.reference}” of this supplier is here already: ${e.number}.`;
    case 'purchasing.noSupplier':
      return `No supplier is known for ${e.item}. Say on its page who sells it.`;
    case 'purchasing.levelsCross':
      return `${e.item}: the least, ${e.least}, is more than the most, ${e.most}.`;
    default:
      return assertNever(e);
  }
}
