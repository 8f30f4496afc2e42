/** The longest lot or serial of a GS1 code. */
const MOST_GS1 = 20;

/** Why a lot or serial cannot stand in a GS1 code, as the rest of a sentence that begins with its name; null where it can.
 *  Source: GS1 General Specifications, sections 3.4.1 and 3.5.2 (10 and 21: up to 20 characters), figure 7.11-1 (the characters). */
export function unfitForGs1(text: string): string | null {
  if (text.length > MOST_GS1) return `has ${text.length} characters, and a code takes ${MOST_GS1}`;
  const strange = [...text].find((c) => !/[!"%&'()*+,\-./0-9:;<=>?A-Z_a-z]/.test(c));
  if (strange === undefined) return text === '' ? 'is empty' : null;
  return `has ${strange === ' ' ? 'a space' : `“${strange}”`} in it, which a code cannot hold`;
}
