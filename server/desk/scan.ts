import { formatQty } from '#core/base';
import { query, type Db } from '#server/kernel';
import type { Scanned } from '#contract/desk';
import { selectItemByScan } from '#server/items';
import { selectBinByText, selectSitesOfName } from '#server/places';

type Named = {
  what: 'order' | 'purchaseOrder' | 'delivery' | 'round' | 'count' | 'document' | 'lot' | 'serial';
  id: number;
  name: string;
  code: string;
  path: string;
};

// Everything that carries a number of its own. A number names one thing; a lot or serial text may name several.
const NUMBERED = `
  SELECT 'order' AS what, id, number AS name, '' AS code, '/orders/' || id AS path FROM customer_order WHERE number = ?
  UNION ALL SELECT 'purchaseOrder', id, number, '', '/expected\\?q=' || number FROM purchase_order WHERE number = ?
  UNION ALL SELECT 'delivery', id, number, '', '/deliveries/' || id FROM delivery WHERE number = ?
  UNION ALL SELECT 'round', id, number, '', '/rounds/' || id FROM round WHERE number = ?
  UNION ALL SELECT 'count', id, number, '', '/counts/' || id FROM stock_count WHERE number = ?
  UNION ALL SELECT 'document', id, number, '', '/ledger\\?document=' || id FROM document WHERE number = ? AND kind NOT IN ('round')
  UNION ALL SELECT 'lot', i.id, l.code, i.code, '/items/' || i.id FROM lot l JOIN item i ON i.id = l.item_id WHERE l.code = ?
  UNION ALL SELECT 'serial', i.id, s.code, i.code, '/items/' || i.id FROM serial s JOIN item i ON i.id = s.item_id WHERE s.code = ? LIMIT 20`;

/** What a scan stands for, anywhere in the house. A code that names several things is answered with the choice.
 *  Errors: a code that breaks its own standard is refused, said how. A code that nobody knows is an answer: `unknown`. */
export async function meaningOf(db: Db, site: number, raw: string): Promise<Scanned> {
  const text = raw.trim();
  const bin = await selectBinByText(db, site, text);
  const named = await query<Named>(db, NUMBERED, Array<string>(8).fill(text));
  const item = await selectItemByScan(db, text);
  const choices = [
    ...(bin ? [{ what: 'bin', name: bin.address, path: `/bins/${bin.id}` }] : []),
    ...(item ? [{ what: 'item', name: `${item.code} ${item.description}`, path: `/items/${item.id}` }] : []),
    ...named.map((n) => ({ what: n.what, name: n.code ? `${n.name} of ${n.code}` : n.name, path: n.path })),
  ];
  if (choices.length > 1) return { kind: 'several', choices };
  if (bin) return { kind: 'bin', bin: bin.id, address: bin.address, zone: bin.zone };
  if (item) {
    return {
      kind: 'item',
      item: item.id,
      code: item.code,
      description: item.description,
      pack: item.pack.name,
      packUnits: formatQty(item.pack.units),
      lot: item.lot,
      expires: item.expires,
      serial: item.serialCode,
      tracking: item.tracking,
      unit: item.unit,
      decimals: item.decimals,
    };
  }
  const [one] = named;
  if (!one) {
    const sites = await selectSitesOfName(db, text);
    return sites.length > 0
      ? { kind: 'elsewhere', text: text.toUpperCase().slice(0, 60), sites }
      : { kind: 'unknown', text: text.slice(0, 60) };
  }
  switch (one.what) {
    case 'order':
      return { kind: 'order', order: one.id, number: one.name };
    case 'purchaseOrder':
      return { kind: 'purchaseOrder', purchaseOrder: one.id, number: one.name };
    case 'delivery':
      return { kind: 'delivery', delivery: one.id, number: one.name };
    case 'round':
      return { kind: 'round', round: one.id, number: one.name };
    case 'count':
      return { kind: 'count', count: one.id, number: one.name };
    case 'document':
      return { kind: 'document', document: one.id, number: one.name };
    case 'lot':
      return { kind: 'lot', item: one.id, code: one.code, lot: one.name };
    case 'serial':
      return { kind: 'serial', item: one.id, code: one.code, serial: one.name };
  }
}
