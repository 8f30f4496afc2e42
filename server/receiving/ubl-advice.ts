import { formatQty, parseQty, subQty, sumQty, ZERO } from '#core/base';
import type { Advice, AdviceLine } from '#core/receiving';
import { attributeAt, listAt, nodeAt, readUbl, refuse, textAt, ublKind, type UblNode } from '#server/kernel';

export const LARGEST_ADVICE = 5_000_000;

/** Reads a UBL 2.1 DespatchAdvice as texts. In a helper, never in the server itself: whoever sent it is not known.
 *  Shape:  bytes of an XML file in UTF-8; what it says, line by line, each with the logistic unit in which it comes. Units may stand with
 *          the line (`Shipment/TransportHandlingUnit`), or with the whole shipment and name the lines that are in them
 *          (`HandlingUnitDespatchLine`); what of a line is in no unit comes loose.
 *  Errors: `receiving.badAdvice` for a file that is too large, no XML, no DespatchAdvice, or has a document type: what a document type
 *          declares may grow without end, and no paper of this kind needs one.
 *  Source: OASIS, Universal Business Language 2.1, UBL-DespatchAdvice-2.1. */
export function readUblAdvice(name: string, bytes: Buffer): Advice {
  const bad = (says: string): never => refuse({ code: 'receiving.badAdvice', name, says });
  const { node: advice } = readUbl(bytes, { kinds: [ublKind('DespatchAdvice')], many: MANY, largest: LARGEST_ADVICE, bad });
  const shipment = nodeAt(advice, 'Shipment');
  const party = nodeAt(advice, 'DespatchSupplierParty', 'Party');
  const seller = nodeAt(advice, 'SellerSupplierParty', 'Party');
  return {
    reference: textAt(advice, 'ID') ?? '',
    issued: textAt(advice, 'IssueDate'),
    due:
      textAt(shipment, 'Delivery', 'EstimatedDeliveryPeriod', 'EndDate') ??
      textAt(shipment, 'Delivery', 'EstimatedDeliveryPeriod', 'StartDate') ??
      textAt(shipment, 'Delivery', 'RequestedDeliveryPeriod', 'EndDate'),
    supplier: {
      ids: [seller, party].flatMap((p) => listAt(p, 'PartyIdentification').flatMap((i) => textAt(i, 'ID') ?? [])),
      name: textAt(seller, 'PartyName', 'Name') ?? textAt(party, 'PartyName', 'Name') ?? '',
    },
    orders: listAt(advice, 'OrderReference').flatMap((o) => textAt(o, 'ID') ?? []),
    lines: inUnits(listAt(advice, 'DespatchLine').map(lineOf), shipment),
  };
}

const MANY = new Set([
  'DespatchLine',
  'OrderReference',
  'OrderLineReference',
  'TransportHandlingUnit',
  'HandlingUnitDespatchLine',
  'PartyIdentification',
  'ItemInstance',
]);

// What the units of the whole shipment say is in them comes in them; of each line what is in none comes loose.
function inUnits(lines: readonly AdviceLine[], shipment: UblNode | undefined): AdviceLine[] {
  const packed = listAt(shipment, 'TransportHandlingUnit').flatMap((unit) => {
    const sscc = ssccOf(unit);
    return sscc === null ? [] : listAt(unit, 'HandlingUnitDespatchLine').map((l) => ({ ...lineOf(l), sscc }));
  });
  if (packed.length === 0) return [...lines];
  const whole = new Map(lines.map((l) => [l.no, l]));
  const loose = lines.flatMap((l): AdviceLine[] => {
    const own = packed.filter((p) => p.no === l.no);
    if (own.length === 0) return [l];
    const [all, parts] = [parseQty(l.qty), own.map((p) => parseQty(p.qty))];
    if (!all.ok || parts.some((p) => !p.ok)) return [];
    const left = subQty(all.value, sumQty(parts.flatMap((p) => (p.ok ? [p.value] : []))));
    const named = new Set(own.flatMap((p) => p.serials));
    return left > ZERO ? [{ ...l, qty: formatQty(left), serials: l.serials.filter((s) => !named.has(s)) }] : [];
  });
  // A line in a unit may leave out what stands with the line itself.
  const filled = packed.map((p) => {
    const of = whole.get(p.no);
    return of
      ? {
          ...p,
          order: p.order ?? of.order,
          buyer: p.buyer ?? of.buyer,
          seller: p.seller ?? of.seller,
          standard: p.standard ?? of.standard,
          lot: p.lot ?? of.lot,
          made: p.made ?? of.made,
          expires: p.expires ?? of.expires,
        }
      : p;
  });
  return [...filled, ...loose];
}

function lineOf(line: UblNode): AdviceLine {
  const item = nodeAt(line, 'Item');
  const instances = listAt(item, 'ItemInstance');
  const [first] = instances;
  const [reference] = listAt(line, 'OrderLineReference');
  const unit = listAt(nodeAt(line, 'Shipment'), 'TransportHandlingUnit')[0];
  const [order] = listAt(reference, 'OrderReference');
  return {
    no: textAt(line, 'ID') ?? '?',
    order: textAt(order, 'ID'),
    sscc: unit ? ssccOf(unit) : null,
    qty: textAt(line, 'DeliveredQuantity') ?? '',
    unitCode: attributeAt(line, 'DeliveredQuantity', 'unitCode') ?? 'C62',
    buyer: textAt(item, 'BuyersItemIdentification', 'ID'),
    seller: textAt(item, 'SellersItemIdentification', 'ID'),
    standard: textAt(item, 'StandardItemIdentification', 'ID'),
    name: textAt(item, 'Name') ?? '',
    lot: textAt(first, 'LotIdentification', 'LotNumberID'),
    made: textAt(first, 'ManufactureDate'),
    expires: textAt(first, 'LotIdentification', 'ExpiryDate') ?? textAt(first, 'BestBeforeDate'),
    serials: instances.flatMap((i) => textAt(i, 'SerialID') ?? []),
  };
}

// Two digits that name the kind of number may stand before it.
function ssccOf(unit: UblNode): string | null {
  const text = textAt(unit, 'ID')?.replace(/\s/g, '') ?? null;
  return text !== null && /^00\d{18}$/.test(text) ? text.slice(2) : text;
}
