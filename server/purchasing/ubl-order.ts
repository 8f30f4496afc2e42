import { XMLBuilder } from 'fast-xml-parser';
import { formatAmount, formatQty, parseAmount, sumAmounts, worthOf } from '#core/base';
import { unitCodeOf } from '#core/purchasing';
import { asQty } from '#server/kernel';
import type { PurchaseHead, PurchaseLineRow } from './store.ts';

type Node = { readonly [name: string]: string | Node | readonly Node[] };
type Party = { readonly name: string; readonly code: string; readonly address: string };

const party = ({ name, code, address }: Party): Node => ({
  'cac:Party': {
    'cac:PartyIdentification': { 'cbc:ID': code },
    'cac:PartyName': { 'cbc:Name': name },
    ...(address === '' ? {} : { 'cac:PostalAddress': { 'cac:AddressLine': { 'cbc:Line': address.replace(/\s+/g, ' ') } } }),
  },
});

/** A purchase order as a UBL 2.1 Order: elements in the order of the standard, quantities in units of UN/ECE Recommendation 20, what is
 *  ordered by our code, the supplier's and the retail code.
 *  Source: OASIS, Universal Business Language 2.1, UBL-Order-2.1. */
export function writeUblOrder(of: {
  readonly order: PurchaseHead;
  readonly lines: readonly PurchaseLineRow[];
  readonly buyer: Party;
  readonly seller: Party;
  readonly site: { readonly name: string; readonly address: string };
  readonly currency: string;
}): string {
  const { order, lines, currency } = of;
  const money = (text: string): Node => ({ '#text': text, '@currencyID': currency });
  const worth = (l: PurchaseLineRow) => worthOf(parseAmount(l.cost), asQty(l.qty));
  const total = formatAmount(sumAmounts(lines.map(worth)));
  const document: Node = {
    '?xml': { '@version': '1.0', '@encoding': 'UTF-8' },
    Order: {
      '@xmlns': 'urn:oasis:names:specification:ubl:schema:xsd:Order-2',
      '@xmlns:cac': 'urn:oasis:names:specification:ubl:schema:xsd:CommonAggregateComponents-2',
      '@xmlns:cbc': 'urn:oasis:names:specification:ubl:schema:xsd:CommonBasicComponents-2',
      'cbc:UBLVersionID': '2.1',
      'cbc:ID': order.number,
      'cbc:IssueDate': order.at.toISOString().slice(0, 10),
      ...(order.note === '' ? {} : { 'cbc:Note': order.note }),
      'cbc:DocumentCurrencyCode': currency,
      ...(order.reference === '' ? {} : { 'cbc:CustomerReference': order.reference }),
      'cbc:LineCountNumeric': String(lines.length),
      'cac:BuyerCustomerParty': party(of.buyer),
      'cac:SellerSupplierParty': party(of.seller),
      'cac:Delivery': {
        'cac:DeliveryLocation': {
          'cbc:Name': of.site.name,
          ...(of.site.address === '' ? {} : { 'cac:Address': { 'cac:AddressLine': { 'cbc:Line': of.site.address.replace(/\s+/g, ' ') } } }),
        },
        'cac:RequestedDeliveryPeriod': { 'cbc:EndDate': order.due },
      },
      'cac:AnticipatedMonetaryTotal': { 'cbc:LineExtensionAmount': money(total), 'cbc:PayableAmount': money(total) },
      'cac:OrderLine': lines.map((l, i) => ({
        'cac:LineItem': {
          'cbc:ID': String(i + 1),
          'cbc:Quantity': { '#text': formatQty(asQty(l.qty)), '@unitCode': unitCodeOf(l.unit) },
          'cbc:LineExtensionAmount': money(formatAmount(worth(l))),
          'cac:Price': {
            'cbc:PriceAmount': money(formatAmount(parseAmount(l.cost), 4)),
            'cbc:BaseQuantity': { '#text': '1', '@unitCode': unitCodeOf(l.unit) },
          },
          'cac:Item': {
            'cbc:Name': l.description,
            'cac:BuyersItemIdentification': { 'cbc:ID': l.code },
            ...(l.part_no === '' ? {} : { 'cac:SellersItemIdentification': { 'cbc:ID': l.part_no } }),
            // 0160 is the GTIN in ISO/IEC 6523's list of identifiers.
            ...(l.barcode !== null && /^\d{8,14}$/.test(l.barcode)
              ? { 'cac:StandardItemIdentification': { 'cbc:ID': { '#text': l.barcode.padStart(14, '0'), '@schemeID': '0160' } } }
              : {}),
          },
        },
      })),
    },
  };
  const builder = new XMLBuilder({
    ignoreAttributes: false,
    attributeNamePrefix: '@',
    format: true,
    suppressEmptyNode: true,
    processEntities: true,
  });
  return builder.build(document);
}
