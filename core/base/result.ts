/** What a decision returns: a value, or the first refusal. Core never throws for something a person can do. */
export type Result<T, E> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: E };

/** Wraps a value as a success. */
export function ok<T>(value: T): { ok: true; value: T } {
  return { ok: true, value };
}

/** Wraps a refusal. */
export function fail<E>(error: E): { ok: false; error: E } {
  return { ok: false, error };
}
