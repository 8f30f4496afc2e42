// What is used of knex's own dialect for PostgreSQL, of which it tells no types.
declare module 'knex/lib/dialects/postgres/index.js' {
  type EagerTransaction = { begin(connection: unknown): Promise<unknown> };
  const PostgresDialect: new (config: object) => {
    transaction(container: unknown, config: object, outer: unknown): EagerTransaction;
  };
  export default PostgresDialect;
}
