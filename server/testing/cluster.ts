import { execFileSync } from 'node:child_process';
import { chmodSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';
import { startPostgres } from '../../scripts/postgres.mjs';

/** A PostgreSQL of a test's own, to be done to what happens to databases. */
export type Cluster = {
  readonly ownerUrl: string;
  readonly url: string;
  readonly folder: string;
  /** Stops every process of it where it stands, as a machine does that hangs. */
  freeze(): void;
  thaw(): void;
  /** Ends every process of it at once, as a power cut does. */
  kill(): void;
  start(): void;
  /** Ends it and removes its folder. */
  remove(): void;
};

export async function openCluster(): Promise<Cluster> {
  const folder = mkdtempSync(path.join(tmpdir(), 'dock-row-cluster-'));
  chmodSync(folder, 0o755);
  const database = await startPostgres(folder, { avoid: [4810] });
  const main = (): number => Number(readFileSync(path.join(folder, 'postgres/data/postmaster.pid'), 'utf8').split('\n')[0]);
  const signal = (name: NodeJS.Signals): void => {
    const first = main();
    // The first one too, before it can begin others.
    process.kill(first, name);
    for (const child of childrenOf(first)) {
      try {
        process.kill(child, name);
      } catch {
        // It ended by itself meanwhile.
      }
    }
  };
  return {
    ownerUrl: database.ownerUrl,
    url: database.url,
    folder,
    freeze: () => signal('SIGSTOP'),
    thaw: () => signal('SIGCONT'),
    kill: () => signal('SIGKILL'),
    start: () => {
      while (database.isRunning()) execFileSync('sleep', ['0.1']);
      database.start();
    },
    remove: () => {
      database.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

function childrenOf(pid: number): number[] {
  return execFileSync('sh', ['-c', `cat /proc/${pid}/task/${pid}/children`], { encoding: 'utf8' })
    .split(' ')
    .filter(Boolean)
    .map(Number);
}
