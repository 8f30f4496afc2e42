/** A record as a form holds it: flat, comparable values by name. */
export type FormRecord = Readonly<Record<string, string | number | boolean | null>>;

/** What came of two people changing one record. `taken` are the fields that only they changed; `clashes` those that both changed,
 *  differently. */
export type Merge<R extends FormRecord> = {
  readonly merged: R;
  readonly taken: readonly (keyof R)[];
  readonly clashes: readonly (keyof R)[];
};

/** Lays two changes of one record over each other: what only one of the two changed is changed; what both changed differently stays mine
 *  until somebody says which it is to be.
 *  Source: the three-way merge of line-based version control, on fields instead of lines. */
export function mergeForms<R extends FormRecord>(base: R, mine: R, theirs: R): Merge<R> {
  const keys = Object.keys(base) as (keyof R)[];
  const theyChanged = keys.filter((k) => theirs[k] !== base[k] && theirs[k] !== mine[k]);
  const taken = theyChanged.filter((k) => mine[k] === base[k]);
  const clashes = theyChanged.filter((k) => mine[k] !== base[k]);
  const merged = { ...mine, ...Object.fromEntries(taken.map((k) => [k, theirs[k]])) };
  return { merged, taken, clashes };
}
