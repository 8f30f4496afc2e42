import { randomUUID } from 'node:crypto';
import http from 'node:http';
import { promisify } from 'node:util';
import { gunzip } from 'node:zlib';

export const agent = new http.Agent({ keepAlive: true, maxSockets: 300 });

/** An answer: its text, its cookies, the bytes as they came over the line, and how long it took in milliseconds. */
export type Answer = { status: number; text: string; cookies: string[]; bytes: number; ms: number };

/** One request, as a device sends it; a command has a key of its own. */
export async function ask(address: string, method: string, path: string, cookie: string, body?: unknown): Promise<Answer> {
  const begun = performance.now();
  const payload = method === 'POST' ? JSON.stringify(body ?? {}) : undefined;
  const headers = {
    Cookie: cookie,
    'Accept-Encoding': 'gzip',
    ...(payload === undefined
      ? {}
      : { 'Content-Type': 'application/json', 'Content-Length': Buffer.byteLength(payload), 'Idempotency-Key': randomUUID() }),
  };
  const sent = await new Promise<{ answer: http.IncomingMessage; raw: Buffer } | null>((resolve, reject) => {
    const request = http.request(address + path, { method, agent, headers }, (answer) => {
      const parts: Buffer[] = [];
      answer.on('data', (part: Buffer) => parts.push(part));
      answer.on('end', () => resolve({ answer, raw: Buffer.concat(parts) }));
    });
    request.on('error', (error: NodeJS.ErrnoException) => {
      // The server closed an idle connection just as it was used again: nothing was sent.
      if (request.reusedSocket && error.code === 'ECONNRESET') resolve(null);
      else reject(error);
    });
    request.end(payload);
  });
  if (!sent) return ask(address, method, path, cookie, body);
  const { answer, raw } = sent;
  const text = answer.headers['content-encoding'] === 'gzip' ? await promisify(gunzip)(raw) : raw;
  return {
    status: answer.statusCode ?? 0,
    text: text.toString(),
    cookies: (answer.headers['set-cookie'] ?? []).map((c) => c.split(';')[0] ?? ''),
    bytes: raw.length,
    ms: performance.now() - begun,
  };
}

/** The value below which that share of the values lies, 0 to 1; 0 of none. */
export const quantile = (values: readonly number[], q: number): number =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * q))] ?? 0;
