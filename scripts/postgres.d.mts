/** A private PostgreSQL that runs. */
export type PrivatePostgres = {
  /** For the application: database `dockrow`. */
  readonly url: string;
  /** For the owner of the tables. */
  readonly ownerUrl: string;
  readonly startedHere: boolean;
  isRunning(): boolean;
  start(): void;
  stop(): void;
};
export function startPostgres(home: string, options?: { durable?: boolean; avoid?: readonly number[] }): Promise<PrivatePostgres>;
export function lookAfter(database: PrivatePostgres, say: (sentence: string) => void): () => void;
