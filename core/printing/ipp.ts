import { fail, ok, type Result } from '#core/base';

/** What is asked of a printer. Source: RFC 8011, section 5.4.15. */
export const OPERATIONS = { printJob: 0x0002, cancelJob: 0x0008, jobAttributes: 0x0009, jobs: 0x000a, printerAttributes: 0x000b } as const;
/** Where a job stands at the printer. Source: RFC 8011, section 5.3.7. */
export const JOB_STATES = { pending: 3, held: 4, processing: 5, stopped: 6, canceled: 7, aborted: 8, completed: 9 } as const;
/** Source: RFC 8011, section 5.4.11. */
export const PRINTER_STATES = { idle: 3, processing: 4, stopped: 5 } as const;
/** Source: RFC 8011, appendix B.1: what was done, what the printer has no notion of, and what it has no time for. */
export const STATUS = { ok: 0x0000, badRequest: 0x0400, notFound: 0x0406, formatNotSupported: 0x040a, busy: 0x0507 } as const;

/** Kinds of groups. Source: RFC 8010, section 3.5.1. */
export const GROUPS = { operation: 1, job: 2, printer: 4 } as const;
const END = 3;
/** Kinds of values. Source: RFC 8010, section 3.5.2. */
const TAGS = {
  integer: 0x21,
  boolean: 0x22,
  enum: 0x23,
  resolution: 0x32,
  text: 0x41,
  name: 0x42,
  keyword: 0x44,
  uri: 0x45,
  charset: 0x47,
  language: 0x48,
  mime: 0x49,
} as const;
type Tag = keyof typeof TAGS;
const TAG_OF = new Map<number, Tag>(Object.entries(TAGS).map(([name, tag]) => [tag, name as Tag]));
const NUMBERS: ReadonlySet<Tag> = new Set<Tag>(['integer', 'enum']);

export type IppValue = string | number | boolean;
/** An attribute: its kind and its values, one at the least. A resolution is told as its dots to the inch. */
export type IppAttribute = { readonly kind: Tag; readonly name: string; readonly values: readonly IppValue[] };
export type IppGroup = { readonly group: number; readonly attributes: readonly IppAttribute[] };
/** A question to a printer or its answer. `code`: the operation, or the status. `data`: the document behind the attributes. */
export type IppMessage = {
  readonly code: number;
  readonly id: number;
  readonly groups: readonly IppGroup[];
  readonly data: Uint8Array;
};

/** One attribute of one kind. */
export const attribute = (kind: Tag, name: string, ...values: IppValue[]): IppAttribute => ({ kind, name, values });

const utf8 = new TextEncoder();
const LONGEST = 0xffff;

/** Writes a message as it goes to a printer and back.
 *  Source: RFC 8010, section 3.1; version 1.1, which every printer of the later ones answers too. */
export function writeIpp({ code, id, groups, data }: IppMessage): Uint8Array {
  const bytes: number[] = [1, 1, ...two(code), ...four(id)];
  for (const { group, attributes } of groups) {
    bytes.push(group);
    for (const { kind, name, values } of attributes)
      for (const [n, value] of values.entries()) {
        const [said, called] = [valueBytes(kind, value), n === 0 ? utf8.encode(name) : []];
        bytes.push(TAGS[kind], ...two(called.length), ...called, ...two(said.length), ...said);
      }
  }
  bytes.push(END);
  const whole = new Uint8Array(bytes.length + data.length);
  whole.set(bytes);
  whole.set(data, bytes.length);
  return whole;
}

const two = (n: number): number[] => [(n >> 8) & 0xff, n & 0xff];
const four = (n: number): number[] => [...two(n >>> 16), ...two(n)];

function valueBytes(kind: Tag, value: IppValue): ArrayLike<number> & Iterable<number> {
  if (NUMBERS.has(kind)) return four(Number(value));
  if (kind === 'boolean') return [value === true ? 1 : 0];
  // Across, down, and 3 for the inch.
  if (kind === 'resolution') return [...four(Number(value)), ...four(Number(value)), 3];
  return utf8.encode(String(value)).subarray(0, LONGEST);
}

/** Reads what a printer or somebody else sent.
 *  Shape:  kinds of values that nobody here asks for are left out.
 *  Errors: `printing.nonsense` for everything that is no such message, whatever it is. */
export function readIpp(bytes: Uint8Array): Result<IppMessage, { code: 'printing.nonsense' }> {
  const nonsense = fail({ code: 'printing.nonsense' } as const);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 9 || bytes[0] === undefined || bytes[0] < 1 || bytes[0] > 2) return nonsense;
  const groups: { group: number; attributes: IppAttribute[] }[] = [];
  let at = 8;
  // Everything that is read lies before the end: what promises more than there is, is nonsense.
  const has = (n: number): boolean => at + n <= bytes.length;
  for (;;) {
    const tag = bytes[at];
    if (tag === undefined) return nonsense;
    at += 1;
    if (tag === END) break;
    if (tag < 0x10) {
      groups.push({ group: tag, attributes: [] });
      continue;
    }
    const parts: Uint8Array[] = [];
    for (let n = 0; n < 2; n += 1) {
      if (!has(2)) return nonsense;
      const length = view.getUint16(at);
      at += 2;
      if (!has(length)) return nonsense;
      parts.push(bytes.subarray(at, at + length));
      at += length;
    }
    const [name, value] = parts as [Uint8Array, Uint8Array];
    const group = groups.at(-1);
    if (!group) return nonsense;
    const read = readValue(tag, value);
    if (read === null) continue;
    const last = group.attributes.at(-1);
    if (name.length > 0) group.attributes.push({ kind: read.kind, name: text(name), values: [read.value] });
    else if (last) group.attributes[group.attributes.length - 1] = { ...last, values: [...last.values, read.value] };
    else return nonsense;
  }
  return ok({ code: view.getUint16(2), id: view.getInt32(4), groups, data: bytes.subarray(at) });
}

const utf8Reader = new TextDecoder();
const text = (bytes: Uint8Array): string => utf8Reader.decode(bytes);

function readValue(tag: number, bytes: Uint8Array): { kind: Tag; value: IppValue } | null {
  const kind = TAG_OF.get(tag);
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (kind === undefined) return null;
  if (NUMBERS.has(kind)) return bytes.length === 4 ? { kind, value: view.getInt32(0) } : null;
  if (kind === 'boolean') return bytes.length === 1 ? { kind, value: bytes[0] === 1 } : null;
  if (kind === 'resolution') return bytes.length === 9 ? { kind, value: view.getInt32(0) } : null;
  return { kind, value: text(bytes) };
}

/** The values of an attribute in a group of a message; none where it does not stand there. */
export const valuesOf = (group: IppGroup | undefined, name: string): readonly IppValue[] =>
  group?.attributes.find((a) => a.name === name)?.values ?? [];
/** The first of them as a number, or null. */
export function numberOf(group: IppGroup | undefined, name: string): number | null {
  const [value] = valuesOf(group, name);
  return typeof value === 'number' ? value : null;
}
/** Groups of a kind. */
export const groupsOf = (message: IppMessage, group: number): readonly IppGroup[] => message.groups.filter((g) => g.group === group);
