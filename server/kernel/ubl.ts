import { XMLParser, XMLValidator } from 'fast-xml-parser';

/** An element of a paper, by the names of what is in it. */
export type UblNode = { readonly [name: string]: unknown };

/** What may be read: the root's name and the namespace of its schema. */
export type UblKind = { readonly root: string; readonly namespace: string };
export const ublKind = (root: string): UblKind => ({ root, namespace: `urn:oasis:names:specification:ubl:schema:xsd:${root}-2` });

/** Reads a UBL 2.1 paper as texts. In a helper, never in the server itself: whoever sent it is not known.
 *  Shape:  bytes of an XML file in UTF-8; the element of the first of `kinds` that it is. `many`: elements that may come more than once.
 *  Errors: calls `bad` with what is wrong: too large, no XML, none of the kinds, or a document type: what a document type declares may grow
 *          without end, and no paper of this kind needs one.
 *  Source: OASIS, Universal Business Language 2.1. */
export function readUbl(
  bytes: Buffer,
  of: { kinds: readonly UblKind[]; many: ReadonlySet<string>; largest: number; bad: (says: string) => never },
): { root: string; node: UblNode } {
  const { bad, kinds, largest, many } = of;
  if (bytes.length === 0) return bad('it is empty');
  if (bytes.length > largest) return bad(`it is larger than ${largest / 1_000_000} MB`);
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return bad('it is not written in UTF-8');
  }
  if (/<!(DOCTYPE|ENTITY)/i.test(text)) return bad('it declares a document type, and such files are not read');
  const valid = XMLValidator.validate(text);
  if (valid !== true) return bad(`it is no XML that can be read: ${valid.err.msg} (line ${valid.err.line})`);
  let document: UblNode;
  try {
    const parser = new XMLParser({
      ignoreAttributes: false,
      attributeNamePrefix: '@',
      removeNSPrefix: true,
      parseTagValue: false,
      parseAttributeValue: false,
      trimValues: true,
      isArray: (tag) => many.has(tag),
    });
    document = parser.parse(text) as UblNode;
  } catch (error) {
    return bad(`it is no XML that can be read: ${(error as Error).message}`);
  }
  for (const { root, namespace } of kinds) {
    const node = nodeAt(document, root);
    if (node && text.includes(namespace)) return { root, node };
  }
  return bad(`it is no UBL 2.1 ${kinds.map((k) => k.root).join(' or ')}`);
}

/** The element at a path, the first of several; undefined where there is none. */
export function nodeAt(from: UblNode | undefined, ...path: readonly string[]): UblNode | undefined {
  let at: unknown = from;
  for (const name of path) {
    at = typeof at === 'object' && at !== null ? (at as UblNode)[name] : undefined;
    if (Array.isArray(at)) at = at[0];
  }
  return typeof at === 'object' && at !== null ? (at as UblNode) : undefined;
}

/** The text at a path; null where there is none. */
export function textAt(from: UblNode | undefined, ...path: readonly string[]): string | null {
  const parent = path.length > 1 ? nodeAt(from, ...path.slice(0, -1)) : from;
  let at: unknown = parent?.[path.at(-1) ?? ''];
  if (Array.isArray(at)) at = at[0];
  if (typeof at === 'object' && at !== null) at = (at as UblNode)['#text'];
  return typeof at === 'string' && at !== '' ? at : null;
}

/** The text of an attribute of an element in this one. */
export function attributeAt(from: UblNode | undefined, name: string, attribute: string): string | null {
  const at = nodeAt(from, name)?.[`@${attribute}`];
  return typeof at === 'string' && at !== '' ? at : null;
}

/** All elements of a name in this one. */
export function listAt(from: UblNode | undefined, name: string): readonly UblNode[] {
  const at = from?.[name];
  const list: readonly unknown[] = Array.isArray(at) ? at : at === undefined ? [] : [at];
  return list.filter((n): n is UblNode => typeof n === 'object' && n !== null);
}
