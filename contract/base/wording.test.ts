import { describe, expect, it } from '@jest/globals';
import { z } from 'zod';
import { ROUTES } from '../index.ts';

const said = (schema: z.ZodType, value: unknown): string[] => schema.safeParse(value).error?.issues.map((i) => i.message) ?? [];

describe('what a schema says of a value', () => {
  it.each<[string, z.ZodType, unknown, string]>([
    ['no number', z.number(), NaN, 'must be a number'],
    ['a missing text', z.string(), undefined, 'must be a text'],
    ['part of a piece', z.int(), 1.5, 'must be a whole number'],
    ['too few', z.array(z.string()).min(1), [], 'must have at least 1 entry'],
    ['too many', z.array(z.string()).max(2), ['a', 'b', 'c'], 'must have at most 2 entries'],
    ['too long', z.string().max(3), 'abcd', 'must have at most 3 characters'],
    ['too small', z.number().positive(), 0, 'must be more than 0'],
    ['too large', z.number().max(9), 10, 'must be at most 9'],
    ['none of a choice', z.enum(['yes', 'no']), 'perhaps', 'must be “yes” or “no”'],
    ['another than is asked', z.uuid(), 'x', 'is not written as a uuid'],
    ['neither of two', z.union([z.string(), z.number()]), {}, 'is not what is asked'],
    ['what nobody asked for', z.strictObject({}), { a: 1 }, 'has what nobody asked for: a'],
  ])('%s', (_, schema, value, wording) => {
    expect(said(schema, value)).toEqual([wording]);
  });

  it('no route says a library’s words, whatever it is sent', () => {
    const junk = [undefined, null, 0, -1, NaN, '', 'x'.repeat(5000), [], {}, true, [null], { id: {} }];
    const asSent = (value: unknown) => [value, Object.fromEntries(FIELDS.map((f) => [f, value]))];
    const told = Object.entries(ROUTES).flatMap(([name, route]) =>
      (['params', 'query', 'body'] as const).flatMap((part) => {
        const schema = (route as Partial<Record<typeof part, z.ZodType>>)[part];
        return schema ? junk.flatMap(asSent).flatMap((value) => said(schema, value).map((message) => `${name}: ${message}`)) : [];
      }),
    );
    expect(told.length).toBeGreaterThan(1000);
    expect(told.filter((t) => /\bInvalid|\bexpected\b|received|NaN|undefined|too (small|big)/.test(t))).toEqual([]);
  });
});

const FIELDS = Object.values(ROUTES).flatMap((route) =>
  (['params', 'query', 'body'] as const).flatMap((part) => {
    const schema = (route as Partial<Record<typeof part, z.ZodType>>)[part];
    return schema instanceof z.ZodObject ? Object.keys(schema.shape) : [];
  }),
);
