import { XMLBuilder } from 'fast-xml-parser';

type Node = { readonly [name: string]: string | Node | readonly Node[] };

/** Goods on a supplier's delivery note. */
export type SentGoods = {
  readonly no: string;
  readonly qty: string;
  /** UN/ECE Recommendation 20. */
  readonly unitCode: string;
  readonly name: string;
  readonly buyerCode?: string;
  readonly sellerCode?: string;
  readonly gtin?: string;
  readonly lot?: string;
  readonly made?: string;
  readonly expires?: string;
  readonly serials?: readonly string[];
};
export type SentAdvice = {
  readonly reference: string;
  readonly issued: string;
  readonly due?: string;
  readonly supplier: { readonly code: string; readonly name: string };
  readonly buyer: string;
  readonly order?: string;
  /** Pallets and cartons with what is in them, and what comes beside them. */
  readonly units: readonly { readonly sscc: string; readonly goods: readonly SentGoods[] }[];
  readonly loose?: readonly SentGoods[];
};

const party = (name: string, code?: string): Node => ({
  'cac:Party': { ...(code ? { 'cac:PartyIdentification': { 'cbc:ID': code } } : {}), 'cac:PartyName': { 'cbc:Name': name } },
});

/** What a supplier's program would write: a UBL 2.1 DespatchAdvice, elements in the order of the standard, each unit with the lines in it.
 *  Source: OASIS, Universal Business Language 2.1, UBL-DespatchAdvice-2.1. */
export function writeAdvice(advice: SentAdvice): string {
  const { units, loose = [], order } = advice;
  const lineOf = (g: SentGoods): Node => ({
    'cbc:ID': g.no,
    'cbc:DeliveredQuantity': { '#text': g.qty, '@unitCode': g.unitCode },
    'cac:OrderLineReference': { 'cbc:LineID': g.no, ...(order ? { 'cac:OrderReference': { 'cbc:ID': order } } : {}) },
    'cac:Item': {
      'cbc:Name': g.name,
      ...(g.buyerCode ? { 'cac:BuyersItemIdentification': { 'cbc:ID': g.buyerCode } } : {}),
      ...(g.sellerCode ? { 'cac:SellersItemIdentification': { 'cbc:ID': g.sellerCode } } : {}),
      ...(g.gtin ? { 'cac:StandardItemIdentification': { 'cbc:ID': { '#text': g.gtin, '@schemeID': '0160' } } } : {}),
      ...instancesOf(g),
    },
  });
  const all = [...units.flatMap((u) => u.goods), ...loose];
  const document: Node = {
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    DespatchAdvice: {
      '@xmlns': 'urn:oasis:names:specification:ubl:schema:xsd:DespatchAdvice-2',
      '@xmlns:cac': 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
      '@xmlns:cbc': 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
      'cbc:UBLVersionID': '2.1',
      'cbc:ID': advice.reference,
      'cbc:IssueDate': advice.issued,
      ...(order ? { 'cac:OrderReference': { 'cbc:ID': order } } : {}),
      'cac:DespatchSupplierParty': party(advice.supplier.name, advice.supplier.code),
      'cac:DeliveryCustomerParty': party(advice.buyer),
      'cac:Shipment': {
        'cbc:ID': advice.reference,
        'cbc:TotalTransportHandlingUnitQuantity': String(units.length),
        ...(advice.due ? { 'cac:Delivery': { 'cac:EstimatedDeliveryPeriod': { 'cbc:EndDate': advice.due } } } : {}),
        ...(units.length === 0
          ? {}
          : {
              'cac:TransportHandlingUnit': units.map((u) => ({
                'cbc:ID': { '#text': u.sscc, '@schemeID': 'SSCC' },
                'cac:HandlingUnitDespatchLine': u.goods.map(lineOf),
              })),
            }),
      },
      'cac:DespatchLine': wholeLines(all).map(lineOf),
    },
  };
  return new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: '@', format: true, suppressEmptyNode: true }).build(document);
}

function instancesOf(g: SentGoods): Node {
  const lot: Node = g.lot
    ? { 'cac:LotIdentification': { 'cbc:LotNumberID': g.lot, ...(g.expires ? { 'cbc:ExpiryDate': g.expires } : {}) } }
    : {};
  const made: Node = g.made ? { 'cbc:ManufactureDate': g.made } : {};
  if (g.serials?.length) return { 'cac:ItemInstance': g.serials.map((serial) => ({ ...made, 'cbc:SerialID': serial, ...lot })) };
  return g.lot || g.made ? { 'cac:ItemInstance': { ...made, ...lot } } : {};
}

// A line that is spread over units stands once with all of it.
function wholeLines(parts: readonly SentGoods[]): SentGoods[] {
  const lines = new Map<string, SentGoods>();
  for (const part of parts) {
    const seen = lines.get(part.no);
    const serials = [...(seen?.serials ?? []), ...(part.serials ?? [])];
    const qty = seen ? String(Number(seen.qty) + Number(part.qty)) : part.qty;
    lines.set(part.no, { ...part, qty, ...(serials.length > 0 ? { serials } : {}) });
  }
  return [...lines.values()];
}
