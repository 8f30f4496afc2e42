import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { describe, expect, it } from '@jest/globals';
import { GS1_TABLE } from './index.ts';

type Part = [set: string, min: number, max: number, optional: boolean, checks: string[]];

// The checks that our table knows; lists of countries, currencies and company prefixes are not held.
const CHECKS = ['csum', 'yymmdd', 'yymmd0', 'yyyymmdd', 'hhmi', 'hh', 'mi', 'ss', 'yesno', 'zero', 'nonzero', 'pieceoftotal'];

/** The GS1 Barcode Syntax Dictionary as the barcode library carries it: parts of the data per identifier.
 *  Source: the program text of `gs1process` in bwip-js, which is generated from the dictionary. */
function syntaxDictionary(): Record<string, Part[]> {
  const file = createRequire(import.meta.url)
    .resolve('bwip-js')
    .replace(/[^/]+$/, 'bwipp.mjs');
  const source = readFileSync(file, 'utf8');
  const from = source.indexOf('var _', source.indexOf('function bwipp_gs1process()'));
  const to = source.indexOf(']);', source.indexOf('["99", ', from)) + 3;
  const text = source.slice(from, to);
  const name = /var (_\w+) = new Map\(\[\s*\["00"/.exec(text)?.[1] ?? '';
  type Spec = Map<string, unknown>;
  const make = new Function('$a', '$_', '$k', `${text}; return ${name};`) as (
    a: (x: unknown) => unknown,
    b: object,
    c: unknown[],
  ) => Map<string, Spec>;
  const dictionary: Record<string, Part[]> = {};
  for (const [ai, spec] of make((x) => x, {}, [])) {
    dictionary[ai] = (spec.get('parts') as Spec[]).map((p): Part => {
      const linters = (p.get('linters') as string[]).map((l) => l.replace(/^lint/, '')).filter((l) => CHECKS.includes(l));
      return [p.get('cset') as string, p.get('min') as number, p.get('max') as number, p.get('opt') as boolean, linters.sort()];
    });
  }
  return dictionary;
}

describe('reading scans: the table of identifiers', () => {
  it('agrees with the standard’s own dictionary on every identifier: parts, sets, lengths and checks', () => {
    const known = Object.fromEntries(
      [...GS1_TABLE].map(([ai, rule]) => [ai, rule.parts.map((p) => [p.set, p.min, p.max, p.optional, [...p.checks].sort()])]),
    );
    expect(known).toEqual(syntaxDictionary());
  });
});
