import { formatQty } from '#core/base';
import { isSscc, resolveScan, type Carried } from '#core/items';
import { query, type Db } from '#server/kernel';
import type { Scanned, ScannedOne } from '#contract/desk';
import { readScanHere, selectItemsByReading, type ScannedItem } from '#server/items';
import { selectBinByText, selectSitesOfName, type FoundBin } from '#server/places';
import { selectUnit } from '#server/stock';

type Named = {
  what: 'order' | 'purchaseOrder' | 'delivery' | 'round' | 'carry' | 'count' | 'document' | 'lot' | 'serial';
  id: number;
  name: string;
  code: string;
};

// Everything that carries a number of its own. A number names one thing; a lot or serial text may name several.
const NUMBERED = `
  SELECT 'order' AS what, id, number AS name, '' AS code FROM customer_order WHERE number = ?
  UNION ALL SELECT 'purchaseOrder', id, number, '' FROM purchase_order WHERE number = ?
  UNION ALL SELECT 'delivery', id, number, '' FROM delivery WHERE number = ?
  UNION ALL SELECT 'round', id, number, '' FROM round WHERE number = ?
  UNION ALL SELECT 'carry', id, number, '' FROM carry WHERE number = ?
  UNION ALL SELECT 'count', id, number, '' FROM stock_count WHERE number = ?
  UNION ALL SELECT 'document', id, number, '' FROM document WHERE number = ? AND kind NOT IN ('round', 'carry')
  UNION ALL SELECT 'lot', i.id, l.code, i.code FROM lot l JOIN item i ON i.id = l.item_id WHERE l.code = ?
  UNION ALL SELECT 'serial', i.id, s.code, i.code FROM serial s JOIN item i ON i.id = s.item_id WHERE s.code = ?
  LIMIT 20`;

/** What a scan stands for, anywhere in the house. A code that names several things is answered with the choice.
 *  Errors: a code that breaks its own standard is refused, said how. A code that nobody knows is an answer: `unknown`. */
export async function meaningOf(db: Db, site: number, raw: string): Promise<Scanned> {
  const reading = readScanHere(raw);
  const { text } = reading;
  const sscc = reading.kind === 'elements' ? reading.sscc : isSscc(text) ? text : null;
  // A unit that somebody knows; else whatever its label says beside its number.
  if (sscc !== null && (await selectUnit(db, sscc))) return { kind: 'unit', sscc };
  const found = {
    bin: await selectBinByText(db, site, text),
    items: (await selectItemsByReading(db, reading)).map((item) => ({ item, id: item.id, packUnits: item.pack.units })),
    named: await query<Named>(db, NUMBERED, Array<string>(9).fill(text)),
  };
  const resolved = resolveScan(reading, found);
  switch (resolved.kind) {
    case 'several': {
      const { bin, items, named } = resolved;
      const carried = { lot: null, expires: null, serial: null };
      return {
        kind: 'several',
        choices: [...(bin ? [binOut(bin)] : []), ...items.map((item) => itemOut(item, carried)), ...named.map(namedOut)],
      };
    }
    case 'bin':
      return binOut(resolved.bin);
    case 'item':
      return itemOut(resolved.item, resolved.carried);
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

const binOut = ({ id, address, zone }: FoundBin): ScannedOne => ({ kind: 'bin', bin: id, address, zone });

function itemOut(item: ScannedItem, { lot, expires, serial }: Pick<Carried, 'lot' | 'expires' | 'serial'>): ScannedOne {
  const { id, code, description, tracking, unit, decimals } = item;
  const pack = { pack: item.pack.name, packUnits: formatQty(item.pack.units) };
  return { kind: 'item', item: id, code, description, ...pack, lot, expires, serial, tracking, unit, decimals };
}

function namedOut(one: Named): ScannedOne {
  switch (one.what) {
    case 'order':
      return { kind: 'order', order: one.id, number: one.name };
    case 'purchaseOrder':
      return { kind: 'purchaseOrder', purchaseOrder: one.id, number: one.name };
    case 'delivery':
      return { kind: 'delivery', delivery: one.id, number: one.name };
    case 'round':
      return { kind: 'round', round: one.id, number: one.name };
    case 'carry':
      return { kind: 'carry', carry: one.id, number: one.name };
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
