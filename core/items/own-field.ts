import type { ItemsError } from './errors.ts';

/** A field that the company keeps of its items beside those that every item has (B4). `choices` are those of a choice. */
export type OwnField = {
  readonly label: string;
  readonly kind: 'text' | 'number' | 'date' | 'choice';
  readonly choices: string[];
};

/** What is wrong with a value of an own field, or null. Empty is always allowed. */
export function ownFault(field: OwnField, text: string): ItemsError | null {
  if (text === '') return null;
  const wrong = (wanted: string): ItemsError => ({ code: 'items.fieldValue', label: field.label, text, wanted });
  switch (field.kind) {
    case 'text':
      return null;
    case 'number':
      return /^-?\d{1,12}([.]\d{1,6})?$/.test(text) ? null : wrong('a number such as 12.5 is wanted');
    case 'date':
      return /^\d{4}-\d\d-\d\d$/.test(text) && !Number.isNaN(Date.parse(text)) && new Date(text).toISOString().startsWith(text)
        ? null
        : wrong('a date such as 2027-03-31 is wanted');
    case 'choice':
      return field.choices.includes(text) ? null : wrong(`one of ${field.choices.join(', ')} is wanted`);
  }
}
