import { formatQty } from '#core/base';
import { resolveScan } from '#core/items';
import { query, type Db } from '#server/kernel';
import type { Scanned } from '#contract/desk';
import { readScanHere, selectItemsByReading } from '#server/items';
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
  UNION ALL SELECT 'serial', i.id, s.code, i.code, '/items/' || i.id FROM serial s JOIN item i ON i.id = s.item_id WHERE s.code = ?
    LIMIT 20`;

/** What a scan stands for, anywhere in the house. A code that names several things is answered with the choice.
 *  Errors: a code that breaks its own standard is refused, said how. A code that nobody knows is an answer: `unknown`. */
export async function meaningOf(db: Db, site: number, raw: string): Promise<Scanned> {
  const reading = readScanHere(raw);
  const { text } = reading;
  const found = {
    bin: await selectBinByText(db, site, text),
    items: (await selectItemsByReading(db, reading)).map((item) => ({ item, id: item.id, packUnits: item.pack.units })),
    named: await query<Named>(db, NUMBERED, Array<string>(8).fill(text)),
  };
  const resolved = resolveScan(reading, found);
  switch (resolved.kind) {
    case 'several': {
      const { bin, items, named } = resolved;
      return {
        kind: 'several',
        choices: [
          ...(bin ? [{ what: 'bin', name: bin.address, path: `/bins/${bin.id}` }] : []),
          ...items.map((i) => ({ what: 'item', name: `${i.code} ${i.description}`, path: `/items/${i.id}` })),
          ...named.map((n) => ({ what: n.what, name: n.code ? `${n.name} of ${n.code}` : n.name, path: n.path })),
        ],
      };
    }
    case 'bin':
      return { kind: 'bin', bin: resolved.bin.id, address: resolved.bin.address, zone: resolved.bin.zone };
    case 'item': {
      const { item, carried } = resolved;
      const { code, description, tracking, unit, decimals } = item;
      const { lot, expires, serial } = carried;
      const pack = { pack: item.pack.name, packUnits: formatQty(item.pack.units) };
      return { kind: 'item', item: item.id, code, description, ...pack, lot, expires, serial, tracking, unit, decimals };
    }
    case 'named':
      return namedOut(resolved.named);
    case 'unknown': {
      const sites = await selectSitesOfName(db, text);
      return sites.length > 0
        ? { kind: 'elsewhere', text: text.toUpperCase().slice(0, 60), sites }
        : { kind: 'unknown', text: text.slice(0, 60) };
    }
  }
}

function namedOut(one: Named): Scanned {
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
