/** What one request may hold of acts, in letters; the server takes a million bytes. */
const MOST_LETTERS = 600_000;

/** The first of these acts, as many as one request holds; always one, however large it is.
 *  Law:  what is left out is only what comes after: the order in which acts were done is kept. */
export function heldByOne<A extends { readonly does: unknown }>(acts: readonly A[], most = MOST_LETTERS): readonly A[] {
  let letters = 0;
  const over = acts.findIndex((act, n) => (letters += JSON.stringify(act.does).length) > most && n > 0);
  return over < 0 ? acts : acts.slice(0, over);
}
