import { z } from 'zod';

const KINDS: Readonly<Record<string, string>> = {
  string: 'a text',
  number: 'a number',
  int: 'a whole number',
  boolean: 'yes or no',
  array: 'a list',
  tuple: 'a list',
  object: 'a group of fields',
  record: 'a group of fields',
  date: 'a date',
};
const listed = (values: readonly unknown[]): string => values.map((v) => `“${String(v)}”`).join(' or ');
const entries = (n: number | bigint): string => `${String(n)} ${n === 1 ? 'entry' : 'entries'}`;
const characters = (n: number | bigint): string => `${String(n)} ${n === 1 ? 'character' : 'characters'}`;

/** What is wrong with a value, in our words, where its schema has none of its own: a person reads it, be it at a field or in a refusal.
 *  Shape:  reads on after the name of the field, without a full stop. Null for what is told by its own message. */
function wordingOf(issue: z.core.$ZodRawIssue): string | null {
  switch (issue.code) {
    case 'invalid_type':
      return `must be ${KINDS[issue.expected] ?? `of another kind (${issue.expected})`}`;
    case 'invalid_value':
      return `must be ${listed(issue.values as readonly unknown[])}`;
    case 'too_small':
      if (issue.origin === 'string') return `must have at least ${characters(issue.minimum)}`;
      if (issue.origin === 'array' || issue.origin === 'set') return `must have at least ${entries(issue.minimum)}`;
      return issue.inclusive === false ? `must be more than ${String(issue.minimum)}` : `must not be below ${String(issue.minimum)}`;
    case 'too_big':
      if (issue.origin === 'string') return `must have at most ${characters(issue.maximum)}`;
      if (issue.origin === 'array' || issue.origin === 'set') return `must have at most ${entries(issue.maximum)}`;
      return `must be at most ${String(issue.maximum)}`;
    case 'invalid_format':
      return `is not written as ${issue.format === 'regex' ? 'is asked' : `a ${issue.format}`}`;
    case 'not_multiple_of':
      return 'must be a whole number';
    case 'unrecognized_keys':
      return `has what nobody asked for: ${issue.keys.join(', ')}`;
    case 'invalid_union':
    case 'invalid_key':
    case 'invalid_element':
      return 'is not what is asked';
    case 'custom':
      return null;
  }
}

z.config({ customError: (issue) => wordingOf(issue) });
