/** A seeded source of requests after a description of what may be asked: most of them fit it, many nearly, some not at all. */
type Json = Readonly<Record<string, unknown>>;

/** Small, fast, good enough for tests. Source: M. E. O'Neill's and others' use of "mulberry32", public domain. */
export function randomOf(seed: number): () => number {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
}

const nested = (deep: number): unknown => (deep === 0 ? 1 : { a: [nested(deep - 1)] });
/** What has broken programs before. */
const HOSTILE: readonly unknown[] = [
  null,
  true,
  -1,
  0,
  1e308,
  2 ** 31,
  2 ** 53,
  Number.MIN_VALUE,
  0.1,
  '',
  ' ',
  '\u0000',
  'a\u0000b',
  '\ud800',
  '\ufeff',
  '\u202edcba',
  '💥'.repeat(40),
  'x'.repeat(5000),
  "'; DROP TABLE movement; --",
  '%',
  '_',
  '\\',
  '%00',
  '../../etc/passwd',
  '__proto__',
  'constructor',
  'toString',
  'NaN',
  'Infinity',
  '1e999',
  '9'.repeat(400),
  '0.0000000001',
  '-0',
  '٣',
  '2026-02-30',
  '0000-00-00',
  '9999-12-31T23:59:60Z',
  '275760-09-13',
  ']C10112',
  '(01)',
  '{"a":1}',
  '[]',
  [],
  [[]],
  {},
  { __proto__: null },
  { constructor: 1 },
  nested(20),
  nested(200),
  nested(800),
  Array.from({ length: 300 }, () => 'x'),
];
const cursor = (value: unknown): string => Buffer.from(JSON.stringify(value)).toString('base64url');
const CURSORS: readonly unknown[] = [
  [],
  [1],
  ['x'],
  [1, 1],
  ['x', 'y'],
  [1, 'x'],
  ['x', 1],
  [1, 1, 1],
  ['x', 'x', 'x'],
  [1e308],
  [-1, -1],
  ['\u0000'],
  [null],
  {},
  'x',
  7,
  ['2026-01-01', 1],
  [2 ** 40, 2 ** 40],
  [1.5, 1.5],
  ['', ''],
  [[1]],
  ['9'.repeat(50), 1],
];

export type Hostile = {
  /** A value after a JSON schema; `wild` is the share of values that are not after it. */
  readonly valueOf: (schema: Json, wild: number, name?: string) => unknown;
  readonly pick: <T>(from: readonly T[]) => T;
  readonly random: () => number;
  readonly anything: () => unknown;
};

/** `texts` and `ids` are those of real things, so that requests get past the first door. */
export function hostileOf(seed: number, texts: readonly string[], ids: readonly number[]): Hostile {
  const random = randomOf(seed);
  const pick = <T>(from: readonly T[]): T => from[Math.floor(random() * from.length)] as T;
  const anything = (): unknown => pick(HOSTILE);

  function text(schema: Json, name: string): string {
    if (Array.isArray(schema['enum'])) return String(pick(schema['enum']));
    if (schema['const'] !== undefined) return String(schema['const']);
    if (name === 'after') return cursor(pick(CURSORS));
    if (schema['format'] === 'uuid') return '00000000-0000-4000-8000-00000000000' + String(Math.floor(random() * 10));
    if (schema['format'] === 'date') return pick(['2026-11-26', '2027-01-31', '1970-01-01', '9999-12-31', '0001-01-01']);
    if (schema['format'] === 'date-time') return pick(['2026-11-01T17:00:00Z', '1999-01-01T00:00:00+14:00', '9999-12-31T23:59:59Z']);
    return pick([...texts, String(pick(ids)), '1', '12', '2.5']);
  }

  function number(schema: Json): number {
    const least = Math.max(-1e6, Number(schema['minimum'] ?? schema['exclusiveMinimum'] ?? 0));
    const most = Math.min(1e6, Number(schema['maximum'] ?? 1e6));
    return pick([least, most, least + 1, pick(ids), pick(ids), Math.floor(least + random() * Math.min(50, most - least))]);
  }

  function valueOf(schema: Json, wild: number, name = ''): unknown {
    if (random() < wild) return anything();
    const choices = (schema['anyOf'] ?? schema['oneOf']) as readonly Json[] | undefined;
    if (choices) return valueOf(pick(choices), wild, name);
    if (Array.isArray(schema['enum'])) return pick(schema['enum'] as unknown[]);
    if (schema['const'] !== undefined) return schema['const'];
    switch (schema['type']) {
      case 'string':
        return text(schema, name);
      case 'integer':
      case 'number':
        return number(schema);
      case 'boolean':
        return random() < 0.5;
      case 'null':
        return null;
      case 'array':
        return Array.from({ length: Math.floor(random() * 4) }, () => valueOf((schema['items'] ?? {}) as Json, wild, name));
      case 'object': {
        const properties = (schema['properties'] ?? {}) as Readonly<Record<string, Json>>;
        const required = (schema['required'] ?? []) as readonly string[];
        const said = Object.entries(properties).filter(([key]) => (required.includes(key) ? random() > wild / 2 : random() < 0.6));
        return Object.fromEntries(said.map(([key, of]) => [key, valueOf(of, wild, key)]));
      }
      default:
        return pick([pick(ids), pick(texts), String(pick(ids))]);
    }
  }
  return { valueOf, pick, random, anything };
}
