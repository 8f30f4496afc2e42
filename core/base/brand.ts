declare const brand: unique symbol;

/** A plain value that the compiler keeps apart from others of its shape. Branded once, where input enters. */
export type Branded<T, Name extends string> = T & { readonly [brand]: Name };
