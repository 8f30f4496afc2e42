import type { Problem } from '#contract';
import { siteHeaders } from './site.ts';
import { Refused, Unreached } from './client.ts';

const MOST_MB = 50;

/** Sends a file to the server; says at once when it is too large to be taken. */
export async function uploadFile(file: File): Promise<{ id: number; name: string; size: number }> {
  const megabytes = Math.round(file.size / 1_000_000);
  if (megabytes > MOST_MB) throw new Error(`${file.name} has ${megabytes} MB; at most ${MOST_MB} MB are taken. Nothing of it was sent.`);
  let answer: Response;
  try {
    answer = await fetch(`/api/files?name=${encodeURIComponent(file.name)}`, { method: 'POST', body: file, headers: siteHeaders() });
  } catch {
    throw new Unreached();
  }
  const json = (await answer.json()) as unknown;
  if (!answer.ok) throw new Refused(json as Problem);
  return json as { id: number; name: string; size: number };
}
