/** What is wrong with a form: at its fields, and what is about none of them. */
export type Faults<F extends string> = { readonly fields: Partial<Record<F, string>>; readonly rest: string | null };

const sentence = (problem: string): string => {
  const text = problem.charAt(0).toUpperCase() + problem.slice(1);
  return /[.!?]$/.test(text) ? text : `${text}.`;
};

/** Lays what a schema or the server finds wrong at the fields of a form.
 *  Shape:  each problem with its path in the command's body, such as `['lines', 0, 'qty']`; `known` are the form's fields; `at` names the
 *          field that holds what the command has under another name. Of several problems of one field the first is said; one of no field
 *          is said in `rest`, by its name. */
export function faultsOf<F extends string>(
  problems: readonly { readonly path: readonly PropertyKey[]; readonly message: string }[],
  known: readonly string[],
  at: Readonly<Record<string, F>>,
): Faults<F> {
  const fields: Partial<Record<F, string>> = {};
  const rest: string[] = [];
  for (const { path, message } of problems) {
    const named = path.map(String);
    const field = at[named.join('.')] ?? at[named[0] ?? ''] ?? (known.includes(named[0] ?? '') ? (named[0] as F) : undefined);
    if (field === undefined) rest.push(named.length > 0 ? `${named.join(' ')} ${message}` : sentence(message));
    else fields[field] ??= sentence(message);
  }
  return { fields, rest: rest.length > 0 ? sentence(rest.join('; ')) : null };
}
