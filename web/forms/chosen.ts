import type { Choice, ChoiceKind, Scanned } from '#contract/desk';
import { sayScanned } from '#web/base';

/** What each kind is called, alone and with its article. */
export const WHAT: Readonly<Record<ChoiceKind, { readonly one: string; readonly a: string }>> = {
  item: { one: 'item', a: 'an item' },
  bin: { one: 'bin', a: 'a bin' },
  customer: { one: 'customer', a: 'a customer' },
  supplier: { one: 'supplier', a: 'a supplier' },
  order: { one: 'order', a: 'an order' },
  document: { one: 'document', a: 'a document' },
  person: { one: 'person', a: 'a person' },
};

/** What a scan chooses in a field of this kind; else a sentence that says what it is and what is asked.
 *  Shape:  a lot or a serial stands for its item. Of a code that stands for several things the one of the kind that is asked is meant. */
export function chosenByScan(
  kind: ChoiceKind,
  found: Scanned,
  scanned: string,
): { readonly choice: Choice; readonly problem?: never } | { readonly choice: null; readonly problem: string } {
  const { one, a } = WHAT[kind];
  switch (found.kind) {
    case 'unknown':
      return { choice: null, problem: `Nothing here is known by “${found.text}”.` };
    case 'elsewhere':
      return { choice: null, problem: `${found.text} is a bin of ${found.sites.join(' and of ')}.` };
    case 'several': {
      const meant = new Map(found.choices.map((one) => chosenByScan(kind, one, scanned).choice).flatMap((c) => (c ? [[c.id, c]] : [])));
      const [choice] = meant.values();
      if (meant.size === 1 && choice) return { choice };
      return { choice: null, problem: `“${scanned.slice(0, 40)}” stands for several things. Key ${a} instead.` };
    }
    case 'item':
      if (kind === 'item') return { choice: { id: found.item, code: found.code, name: found.description } };
      break;
    case 'lot':
    case 'serial':
      if (kind === 'item') return { choice: { id: found.item, code: found.code, name: '' } };
      break;
    case 'bin':
      if (kind === 'bin') return { choice: { id: found.bin, code: found.address, name: found.zone } };
      break;
    case 'order':
      if (kind === 'order') return { choice: { id: found.order, code: found.number, name: '' } };
      break;
    case 'document':
      if (kind === 'document') return { choice: { id: found.document, code: found.number, name: '' } };
      break;
    default:
      break;
  }
  return {
    choice: null,
    problem: `That is ${sayScanned(found)}. Here ${a} is asked${one === 'person' ? ' by name' : ''}.`,
  };
}
