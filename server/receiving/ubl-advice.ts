import { XMLParser, XMLValidator } from 'fast-xml-parser';
import { formatQty, parseQty, subQty, sumQty, ZERO } from '#core/base';
import type { Advice, AdviceLine } from '#core/receiving';
import { refuse } from '#server/kernel';

const NAMESPACE = 'urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2';
export const LARGEST_ADVICE = 5_000_000;

type Node = { readonly [name: string]: unknown };

/** Reads a UBL 2.1 DespatchAdvice as texts. In a helper, never in the server itself: whoever sent it is not known.
 *  Shape:  bytes of an XML file in UTF-8; what it says, line by line, each with the logistic unit in which it comes. Units may stand with
 *          the line (`Shipment/TransportHandlingUnit`), or with the whole shipment and name the lines that are in them
 *          (`HandlingUnitDespatchLine`); what of a line is in no unit comes loose.
 *  Errors: `receiving.badAdvice` for a file that is too large, no XML, no DespatchAdvice, or has a document type: what a document type
 *          declares may grow without end, and no paper of this kind needs one.
 *  Source: OASIS, Universal Business Language 2.1, UBL-DespatchAdvice-2.1. */
export function readUblAdvice(name: string, bytes: Buffer): Advice {
  const bad = (says: string): never => refuse({ code: 'receiving.badAdvice', name, says });
  if (bytes.length === 0) return bad('it is empty');
  if (bytes.length > LARGEST_ADVICE) return bad(`it is larger than ${LARGEST_ADVICE / 1_000_000} MB`);
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return bad('it is not written in UTF-8');
  }
  if (/<!(DOCTYPE|ENTITY)/i.test(text)) return bad('it declares a document type, and such files are not read');
  const valid = XMLValidator.validate(text);
  if (valid !== true) return bad(`it is no XML that can be read: ${valid.err.msg} (line ${valid.err.line})`);
  let root: Node;
  try {
    const parser = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      removeNSPrefix: true,
      parseTagValue: false,
      parseAttributeValue: false,
      trimValues: true,
      isArray: (tag) => MANY.has(tag),
    });
    root = parser.parse(text) as Node;
  } catch (error) {
    return bad(`it is no XML that can be read: ${(error as Error).message}`);
  }
  const advice = nodeAt(root, 'DespatchAdvice');
  if (!advice || !text.includes(NAMESPACE)) return bad('it is no UBL 2.1 DespatchAdvice');
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
function inUnits(lines: readonly AdviceLine[], shipment: Node | undefined): AdviceLine[] {
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

function lineOf(line: Node): AdviceLine {
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
function ssccOf(unit: Node): string | null {
  const text = textAt(unit, 'ID')?.replace(/\s/g, '') ?? null;
  return text !== null && /^00\d{18}$/.test(text) ? text.slice(2) : text;
}

function nodeAt(from: Node | undefined, ...path: readonly string[]): Node | undefined {
  let at: unknown = from;
  for (const name of path) {
    at = typeof at === 'object' && at !== null ? (at as Node)[name] : undefined;
    if (Array.isArray(at)) at = at[0];
  }
  return typeof at === 'object' && at !== null ? (at as Node) : undefined;
}

function textAt(from: Node | undefined, ...path: readonly string[]): string | null {
  const parent = path.length > 1 ? nodeAt(from, ...path.slice(0, -1)) : from;
  let at: unknown = parent?.[path.at(-1) ?? ''];
  if (Array.isArray(at)) at = at[0];
  if (typeof at === 'object' && at !== null) at = (at as Node)['#text'];
  return typeof at === 'string' && at !== '' ? at : null;
}

function attributeAt(from: Node | undefined, name: string, attribute: string): string | null {
  const at = nodeAt(from, name)?.[`@${attribute}`];
  return typeof at === 'string' && at !== '' ? at : null;
}

function listAt(from: Node | undefined, name: string): readonly Node[] {
  const at = from?.[name];
  const list: readonly unknown[] = Array.isArray(at) ? at : at === undefined ? [] : [at];
  return list.filter((n): n is Node => typeof n === 'object' && n !== null);
}
