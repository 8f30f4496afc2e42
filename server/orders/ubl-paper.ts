import type { OrderPaper, PaperLine } from '#core/orders';
import { attributeAt, listAt, nodeAt, readUbl, refuse, textAt, ublKind, type UblNode } from '#server/kernel';

export const LARGEST_PAPER = 5_000_000;
const KINDS = { Order: 'order', OrderChange: 'change', OrderCancellation: 'cancellation' } as const;
const MANY = new Set(['OrderLine', 'ItemInstance', 'PartyIdentification', 'Note', 'CancellationNote', 'Delivery', 'OrderReference']);
/** One of whatever it is, where a quantity names no unit. */
const ONE_OF_IT = 'C62';

/** Reads a UBL 2.1 Order, OrderChange or OrderCancellation as texts. In a helper, never in the server itself: whoever sent it is not known.
 *  Shape:  the order's number is the customer's own: the paper's ID, or of a change and a cancellation the one that it refers to. A line
 *          of a change whose status says cancelled, or of which nothing is wanted any more, is taken out.
 *  Errors: `channel.badPaper` for a file that is none of these, or is as `readUbl` says.
 *  Source: OASIS, Universal Business Language 2.1, UBL-Order-2.1, UBL-OrderChange-2.1, UBL-OrderCancellation-2.1. */
export function readUblPaper(name: string, bytes: Buffer): OrderPaper {
  const { root, node } = readUbl(bytes, {
    kinds: Object.keys(KINDS).map(ublKind),
    many: MANY,
    largest: LARGEST_PAPER,
    bad: (says) => refuse({ code: 'channel.badPaper', name, says }),
  });
  const kind = KINDS[root as keyof typeof KINDS];
  const buyer = nodeAt(node, 'BuyerCustomerParty');
  const party = nodeAt(buyer, 'Party');
  const delivery = nodeAt(node, 'Delivery');
  const notes = [...textsAt(node, 'CancellationNote'), ...textsAt(node, 'Note')];
  const reference = kind === 'order' ? textAt(node, 'ID') : textAt(node, 'OrderReference', 'ID');
  return {
    kind,
    reference: reference ?? '',
    customer: [
      textAt(buyer, 'SupplierAssignedAccountID'),
      textAt(buyer, 'CustomerAssignedAccountID'),
      ...listAt(party, 'PartyIdentification').map((i) => textAt(i, 'ID')),
      textAt(party, 'PartyName', 'Name'),
    ].flatMap((n) => n ?? []),
    due: textAt(delivery, 'RequestedDeliveryPeriod', 'EndDate') ?? textAt(delivery, 'RequestedDeliveryPeriod', 'StartDate'),
    carrier: textAt(delivery, 'CarrierParty', 'PartyName', 'Name') ?? '',
    note: notes.join(' '),
    lines: listAt(node, 'OrderLine').flatMap((l) => {
      const item = nodeAt(l, 'LineItem');
      return item ? lineOf(item, kind === 'change') : [];
    }),
  };
}

function lineOf(line: UblNode, isChange: boolean): PaperLine {
  const item = nodeAt(line, 'Item');
  const instances = listAt(item, 'ItemInstance');
  const qty = textAt(line, 'Quantity') ?? '';
  return {
    no: textAt(line, 'ID') ?? '?',
    qty,
    unitCode: attributeAt(line, 'Quantity', 'unitCode') ?? ONE_OF_IT,
    seller: textAt(item, 'SellersItemIdentification', 'ID'),
    standard: textAt(item, 'StandardItemIdentification', 'ID'),
    name: textAt(item, 'Name') ?? '',
    lot: textAt(instances[0], 'LotIdentification', 'LotNumberID'),
    serials: instances.flatMap((i) => textAt(i, 'SerialID') ?? []),
    isOut: isChange && (/^cancell?ed$/i.test(textAt(line, 'LineStatusCode') ?? '') || Number(qty) === 0),
  };
}

const textsAt = (node: UblNode, name: string): string[] => {
  const at = node[name];
  return (Array.isArray(at) ? at : [at]).filter((t): t is string => typeof t === 'string' && t !== '');
};
