import { describe, expect, it } from '@jest/globals';
import fc from 'fast-check';
import {
  GS1_TABLE,
  expandUpcE,
  isPredefined,
  readGs1,
  readScan,
  scanFaultSentence,
  withCheckDigit,
  writeGs1,
  type AiCheck,
  type AiRule,
} from './index.ts';

const YEAR = 2026;
const GS = '\u001d';
const SETS = {
  N: '0123456789',
  X: '!"%&\'()*+,-./0123456789:;<=>?ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz',
  Y: '#-/0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ',
  Z: '-0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZ_abcdefghijklmnopqrstuvwxyz=',
} as const;

const two = (most: number, least = 0) => fc.integer({ min: least, max: most }).map((n) => String(n).padStart(2, '0'));
const digits = (n: number) => fc.string({ unit: fc.constantFrom(...SETS.N), minLength: n, maxLength: n });
const CHECKED: Readonly<Record<AiCheck, (length: number) => fc.Arbitrary<string>>> = {
  csum: (length) => digits(length - 1).map(withCheckDigit),
  yymmdd: () => fc.tuple(two(99), two(12, 1), two(28, 1)).map((d) => d.join('')),
  yymmd0: () => fc.tuple(two(99), two(12, 1), two(28)).map((d) => d.join('')),
  yyyymmdd: () => fc.tuple(fc.constantFrom('19', '20'), two(99), two(12, 1), two(28, 1)).map((d) => d.join('')),
  hhmi: () => fc.tuple(two(23), two(59)).map((d) => d.join('')),
  hh: () => two(23),
  mi: () => two(59),
  ss: () => two(59),
  yesno: () => fc.constantFrom('0', '1'),
  zero: (length) => fc.constant('0'.repeat(length)),
  nonzero: (length) => digits(length - 1).map((d) => `${d}7`),
  pieceoftotal: () => fc.tuple(two(50, 1), two(99, 50)).map((d) => d.join('')),
};
/** Data that the rule allows: every part from its set, between its lengths, and what its checks ask for; optional parts from the left. */
function dataFor(rule: AiRule): fc.Arbitrary<string> {
  const parts = rule.parts.map((p) => {
    const [check] = p.checks;
    return check ? CHECKED[check](p.max) : fc.string({ unit: fc.constantFrom(...SETS[p.set]), minLength: p.min, maxLength: p.max });
  });
  const needed = rule.parts.filter((p) => !p.optional).length;
  return fc.tuple(fc.tuple(...parts), fc.nat(parts.length)).map(([texts, n]) => texts.slice(0, Math.max(needed, n)).join(''));
}
const anyElement = fc.constantFrom(...GS1_TABLE.keys()).chain((ai) => dataFor(GS1_TABLE.get(ai) as AiRule).map((data) => ({ ai, data })));

describe('reading scans: GS1 element strings', () => {
  it('C8 reads back every element string that it writes, whatever identifiers stand in it and in whatever order', () => {
    fc.assert(
      fc.property(fc.uniqueArray(anyElement, { minLength: 1, maxLength: 6, selector: (e) => e.ai }), (elements) => {
        const read = readGs1(writeGs1(elements), YEAR);
        expect(read.ok && read.value.map(({ ai, data }) => ({ ai, data }))).toEqual(elements);
      }),
      { numRuns: 500 },
    );
  });
  it('never throws, whatever comes, and says something of every fault', () => {
    const noise = fc.oneof(
      fc.string({ unit: 'binary', maxLength: 320 }),
      fc.string({ unit: fc.constantFrom(...'0123456789()]CdQe', GS), maxLength: 60 }),
      fc.webUrl({ withQueryParameters: true }),
      fc
        .tuple(
          fc.constantFrom(']C1', ']d2', ']E0', ']E4', 'https://x.example/01/'),
          fc.string({ unit: fc.constantFrom(...'0123456789/%'), maxLength: 40 }),
        )
        .map((p) => p.join('')),
    );
    fc.assert(
      fc.property(noise, (text) => {
        const read = readScan(text, YEAR);
        if (!read.ok) expect(scanFaultSentence(read.error)).toMatch(/\.$/);
      }),
      { numRuns: 2000 },
    );
  });
  it('reads measures with their decimal point and amounts with their currency', () => {
    const read = readGs1(`0104006381333931${'3103001250'}3922000199${GS}3932978012`, YEAR);
    expect(read.ok && read.value.map((e) => e.value)).toEqual(['04006381333931', '1.250', '1.99', '978 0.12']);
  });
  it.each([
    ['010400638133393217', '(01) 04006381333932 has a wrong check digit; it would have to end in 1'],
    ['0104006381333931171302', '(17)'],
    ['0104006381333931171313', 'ends in the middle of (17)'],
    ['010400638133393117261301', 'no such day'],
    ['010400638133393110ABCDEFGHIJKLMNOPQRSTU', 'separator after it is missing'],
    ['0104006381333931300012A4', 'a character that may not stand there'],
    ['0104006381333931050000', 'is no GS1 identifier'],
    [`10A${GS}10B`, 'twice and differently: A and B'],
    ['400', 'ends in the middle of (400)'],
  ])('says how %s is wrong', (text, says) => {
    const read = readGs1(text, YEAR);
    expect(read.ok ? 'read' : scanFaultSentence(read.error)).toContain(says);
  });
  it('reads day 00 as the last of the month and two-digit years within fifty years', () => {
    const value = (text: string): string => {
      const read = readGs1(text, YEAR);
      return read.ok ? (read.value[0]?.value ?? '') : read.error.code;
    };
    expect(value('17280200')).toBe('2028-02-29');
    expect(value('17750101')).toBe('2075-01-01');
    expect(value('17780101')).toBe('1978-01-01');
  });
  it('knows which elements need no separator, and only those', () => {
    expect(['00', '01', '11', '17', '20', '3103', '3922', '410', '37', '402', '8005', '10'].map(isPredefined)).toEqual([
      true,
      true,
      true,
      true,
      true,
      true,
      false,
      true,
      false,
      false,
      false,
      false,
    ]);
  });
});

describe('reading scans: what a scanner types', () => {
  const gtin = '04006381333931';
  const lot = { kind: 'elements', gtin, lot: 'AB-1', expires: '2027-05-31' };
  it.each([
    ['with a symbology identifier', `]C101${gtin}1727053110AB-1`],
    ['from a Data Matrix', `]d201${gtin}10AB-1${GS}17270531`],
    ['with FNC1 as first character', `${GS}01${gtin}1727053110AB-1`],
    ['as printed under the bars', `(01)${gtin}(17)270531(10)AB-1`],
    ['from a scanner that sends no identifier', `01${gtin}1727053110AB-1`],
    ['as a Digital Link', `https://labels.example/some/path/01/${gtin}/10/AB-1?17=270531&linkType=all`],
    ['as a Digital Link with a short GTIN', `]Q1https://labels.example/01/4006381333931/10/AB-1?17=270531`],
  ])('the same goods %s', (_, text) => {
    expect(readScan(text, YEAR)).toMatchObject({ ok: true, value: lot });
  });
  it.each([
    ['spaces between the elements as printed', `(01) ${gtin} (17) 270531 (10) AB-1`],
    ['an ISO 15434 message of format 05', `[)>\u001e05${GS}01${gtin}1727053110AB-1\u001e\u0004`],
  ])('reads %s', (_, text) => expect(readScan(text, YEAR)).toMatchObject({ ok: true, value: lot }));
  it.each([
    ['a Code 128 that is not GS1', `]C001${gtin}${GS}10A`],
    ['another data format', `[)>\u001e06${GS}P12345${GS}Q7\u001e\u0004`],
    ['separators with nothing of GS1 between them', `AB${GS}CD${GS}EF`],
  ])('takes %s as plain text', (_, text) => expect(readScan(text, YEAR)).toMatchObject({ ok: true, value: { kind: 'text' } }));
  it('reads an expiry to the minute as its day, and how many are inside a pallet', () => {
    expect(readScan(`01${gtin}70032705311430`, YEAR)).toMatchObject({ ok: true, value: { expires: '2027-05-31' } });
    expect(readScan(`]C102${gtin}3748${GS}10AB-1`, YEAR)).toMatchObject({ ok: true, value: { gtin, contents: '48', lot: 'AB-1' } });
    expect(readScan(`]C101${gtin}3012`, YEAR)).toMatchObject({ ok: true, value: { gtin, contents: null, pieces: '12' } });
  });
  it('leaves the add-on of a magazine away, and refuses an ITF-14 that was misread', () => {
    expect(readScan(']E3400638133393105', YEAR)).toMatchObject({ ok: true, value: { kind: 'gtin', gtin } });
    expect(readScan(']E3400638133393154321', YEAR)).toMatchObject({ ok: true, value: { kind: 'gtin', gtin } });
    expect(readScan(']I110036000291458', YEAR)).toMatchObject({ ok: false, error: { code: 'items.checkDigit', wanted: '9' } });
  });
  it.each([
    ['a lot in the path and behind it', `/01/${gtin}/10/A?10=B`, 'items.linkTwice'],
    ['two values of one key', `/01/${gtin}?17=270531&17=280531`, 'items.linkTwice'],
    ['a serial behind the question mark', `/01/${gtin}?21=S`, 'items.linkPlace'],
    ['a second key behind it', `/01/${gtin}?00=340123450000000000`, 'items.linkPlace'],
    ['qualifiers out of order', `/01/${gtin}/21/S/10/L`, 'items.linkPlace'],
    ['a qualifier of another key', `/01/${gtin}/254/X`, 'items.linkPlace'],
    ['a qualifier twice', `/01/${gtin}/10/A/10/B`, 'items.linkPlace'],
  ])('refuses a Digital Link with %s', (_, path, code) => {
    const read = readScan(`https://labels.example${path}`, YEAR);
    expect(read.ok ? read.value.kind : read.error.code).toBe(code);
  });
  it('takes an address that is no Digital Link as plain text', () => {
    expect(readScan('https://shop.example/01/manual.pdf', YEAR)).toMatchObject({ ok: true, value: { kind: 'text' } });
    expect(readScan('https://shop.example/01/12345670/photos/3', YEAR)).toMatchObject({ ok: true, value: { kind: 'text' } });
    expect(readScan('https://shop.example/00/about', YEAR)).toMatchObject({ ok: true, value: { kind: 'text' } });
  });
  it('refuses a Digital Link whose key is wrong, rather than reading half of it', () => {
    expect(readScan('https://shop.example/01/04006381333932', YEAR)).toMatchObject({
      ok: false,
      error: { code: 'items.gs1CheckDigit', wanted: '1' },
    });
  });
  it('reads EAN-8, UPC-A, EAN-13 and ITF-14 as one kind of number', () => {
    const read = (text: string): string | null => {
      const r = readScan(text, YEAR);
      return r.ok && r.value.kind === 'gtin' ? r.value.gtin : null;
    };
    expect(read('96385074')).toBe('00000096385074');
    expect(read('036000291452')).toBe('00036000291452');
    expect(read('0036000291452')).toBe('00036000291452');
    expect(read(']I110036000291459')).toBe('10036000291459');
  });
  it('expands a UPC-E, and leaves both readings open where eight digits could be either', () => {
    expect(expandUpcE('04252614')).toBe('042100005264');
    expect(readScan('04252614', YEAR)).toMatchObject({ ok: true, value: { gtin: '00042100005264', orGtin: null } });
    const both = Array.from({ length: 1_000_000 }, (_, i) => withCheckDigit(String(i).padStart(7, '0'))).find((c) => expandUpcE(c));
    expect(readScan(both ?? '', YEAR)).toMatchObject({
      ok: true,
      value: { gtin: both?.padStart(14, '0'), orGtin: expandUpcE(both ?? '')?.padStart(14, '0') },
    });
  });
  it('refuses a retail symbol with a wrong check digit, but looks up plain digits as they stand', () => {
    expect(readScan(']E04006381333932', YEAR)).toMatchObject({ ok: false, error: { code: 'items.checkDigit', wanted: '1' } });
    expect(readScan('4006381333932', YEAR)).toMatchObject({ ok: true, value: { kind: 'text' } });
  });
});
