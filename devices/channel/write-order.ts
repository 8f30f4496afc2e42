import { XMLBuilder } from 'fast-xml-parser';

type Node = { readonly [name: string]: string | Node | readonly Node[] };

/** Goods that somebody orders, as their program knows them. */
export type WantedGoods = {
  readonly no: string;
  readonly qty: string;
  /** UN/ECE Recommendation 20. */
  readonly unitCode?: string;
  readonly name: string;
  readonly sellerCode?: string;
  readonly gtin?: string;
  readonly lot?: string;
  readonly serials?: readonly string[];
  /** In a change: the line is taken out. */
  readonly cancelled?: boolean;
};
export type WantedOrder = {
  readonly kind: 'order' | 'change' | 'cancellation';
  /** The number of the order with whoever orders; `paper`: that of a change or a cancellation itself. */
  readonly reference: string;
  readonly paper?: string;
  readonly issued: string;
  readonly due?: string;
  readonly customer: { readonly code?: string; readonly name: string };
  readonly carrier?: string;
  readonly note?: string;
  readonly lines?: readonly WantedGoods[];
};

const ROOTS = { order: 'Order', change: 'OrderChange', cancellation: 'OrderCancellation' } as const;

/** What a sales channel's program would write: a UBL 2.1 Order, OrderChange or OrderCancellation, elements in the order of the standard.
 *  Source: OASIS, Universal Business Language 2.1, UBL-Order-2.1, UBL-OrderChange-2.1, UBL-OrderCancellation-2.1. */
export function writeOrder(order: WantedOrder): string {
  const root = ROOTS[order.kind];
  const { customer, due, carrier, note } = order;
  const body: Node = {
    '@xmlns': `urn:oasis:names:specification:ubl:schema:xsd:${root}-2`,
    '@xmlns:cac': 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
    '@xmlns:cbc': 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
    'cbc:UBLVersionID': '2.1',
    'cbc:ID': order.kind === 'order' ? order.reference : (order.paper ?? `${order.reference}-${order.kind}`),
    'cbc:IssueDate': order.issued,
    ...(note && order.kind !== 'cancellation' ? { 'cbc:Note': note } : {}),
    ...(order.kind === 'cancellation' ? { 'cbc:CancellationNote': note ?? 'Cancelled' } : {}),
    ...(order.kind === 'order' ? {} : { 'cac:OrderReference': { 'cbc:ID': order.reference } }),
    'cac:BuyerCustomerParty': {
      ...(customer.code ? { 'cbc:SupplierAssignedAccountID': customer.code } : {}),
      'cac:Party': { 'cac:PartyName': { 'cbc:Name': customer.name } },
    },
    ...(due || carrier
      ? {
          'cac:Delivery': {
            ...(due ? { 'cac:RequestedDeliveryPeriod': { 'cbc:EndDate': due } } : {}),
            ...(carrier ? { 'cac:CarrierParty': { 'cac:PartyName': { 'cbc:Name': carrier } } } : {}),
          },
        }
      : {}),
    ...(order.kind === 'cancellation' ? {} : { 'cac:OrderLine': (order.lines ?? []).map(lineOf) }),
  };
  const document: Node = { '?xml': { '@version': '1.0', '@encoding': 'UTF-8' }, [root]: body };
  return new XMLBuilder({ ignoreAttributes: false, attributeNamePrefix: '@', format: true, suppressEmptyNode: true }).build(document);
}

function lineOf(goods: WantedGoods): Node {
  const lot: Node = goods.lot ? { 'cac:LotIdentification': { 'cbc:LotNumberID': goods.lot } } : {};
  const instances = goods.serials?.map((serial): Node => ({ 'cbc:SerialID': serial, ...lot })) ?? (goods.lot ? [lot] : []);
  return {
    'cac:LineItem': {
      'cbc:ID': goods.no,
      ...(goods.cancelled ? { 'cbc:LineStatusCode': 'Cancelled' } : {}),
      'cbc:Quantity': { '#text': goods.qty, '@unitCode': goods.unitCode ?? 'EA' },
      'cac:Item': {
        'cbc:Name': goods.name,
        ...(goods.sellerCode ? { 'cac:SellersItemIdentification': { 'cbc:ID': goods.sellerCode } } : {}),
        ...(goods.gtin ? { 'cac:StandardItemIdentification': { 'cbc:ID': { '#text': goods.gtin, '@schemeID': '0160' } } } : {}),
        ...(instances.length > 0 ? { 'cac:ItemInstance': instances } : {}),
      },
    },
  };
}
