import { spawn, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { createServer, type AddressInfo } from 'node:net';

export async function freePort(): Promise<number> {
  const probe = createServer().listen(0, '127.0.0.1');
  await once(probe, 'listening');
  const { port } = probe.address() as AddressInfo;
  probe.close();
  return port;
}

/** The built server as a program of its own. */
export type Program = {
  readonly address: string;
  readonly process: ChildProcess;
  readonly said: () => string;
  stop(): Promise<void>;
  kill(): Promise<void>;
};

/** Starts the built server on a database, without waiting for it. */
export async function beginServer(urls: { url: string; ownerUrl: string }, port?: number): Promise<Program> {
  const at = port ?? (await freePort());
  const child = spawn('node', ['dist/server.mjs'], {
    env: { ...process.env, NODE_OPTIONS: '', DATABASE_URL: urls.url, DATABASE_OWNER_URL: urls.ownerUrl, PORT: String(at) },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  child.stdout.on('data', (chunk: Buffer) => (said += String(chunk)));
  const end = async (signal: NodeJS.Signals): Promise<void> => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    child.kill(signal);
    await once(child, 'exit');
  };
  return { address: `http://127.0.0.1:${at}`, process: child, said: () => said, stop: () => end('SIGTERM'), kill: () => end('SIGKILL') };
}

/** Waits until a server says something of its own. */
export async function untilSaid(server: Program, words: string): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    const look = (): void => {
      if (server.said().includes(words)) resolve();
    };
    server.process.stdout?.on('data', look);
    server.process.once('exit', () => reject(new Error(`The server ended before it said “${words}”: ${server.said()}`)));
    look();
  });
}

/** Starts the built server and waits until it is ready. */
export async function startServer(urls: { url: string; ownerUrl: string }, port?: number): Promise<Program> {
  const server = await beginServer(urls, port);
  await untilSaid(server, 'ready');
  return server;
}
