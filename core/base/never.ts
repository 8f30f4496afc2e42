/** Ends a switch over a closed set of tags: compiling proves that no case is missing, running it is a programmer's mistake. */
export function assertNever(value: never): never {
  throw new Error(`Unhandled case: ${JSON.stringify(value)}`);
}
