import type { Client } from './client.ts';
import type { TestHouse } from './house.ts';

/** Sends a file as the web does. */
export async function upload(
  client: Client,
  name: string,
  bytes: Buffer | string,
): Promise<{ status: number; id: number; detail: string }> {
  const answer = await client.raw(`/api/files?name=${encodeURIComponent(name)}`, { method: 'POST', body: bytes as never });
  return { status: answer.status, ...((await answer.json()) as { id: number; detail: string }) };
}

const OVER = ['checked', 'done', 'failed', 'cancelled'];

/** Waits until a job has come to an end or to a question, by listening to the changes that the server tells. */
export async function jobEnd(
  house: TestHouse,
  client: Client,
  job: number,
): Promise<{ state: string; said: string | null; result: Record<string, unknown> | null }> {
  for (;;) {
    const told = house.nextChange('jobs');
    const { reply } = await client.ask('work.job', { params: { id: job } });
    if (OVER.includes(reply.state)) return reply;
    await told;
  }
}

/** Uploads a sheet, starts its import, and waits for the dry run. */
export async function dryRun(
  house: TestHouse,
  client: Client,
  start: 'places.importBins' | 'items.importItems' | 'items.importHomes' | 'purchasing.import' | 'receiving.import' | 'orders.import',
  name: string,
  bytes: Buffer | string,
): Promise<{
  job: number;
  state: string;
  said: string | null;
  result: Record<string, unknown> | null;
  rows: { row: number; verdict: string; says: string }[];
}> {
  const { id } = await upload(client, name, bytes);
  const { reply } = await client.ask(start, { body: { file: id } });
  const ended = await jobEnd(house, client, reply.job);
  const rows = await client.ask('work.rows', { params: { id: reply.job }, query: { limit: 500 } });
  return { job: reply.job, ...ended, rows: rows.reply.rows };
}

/** Lets a checked import go ahead and waits for its end. */
export async function goAhead(
  house: TestHouse,
  client: Client,
  job: number,
): Promise<{ state: string; said: string | null; result: Record<string, unknown> | null }> {
  await client.ask('work.goAhead', { params: { id: job } });
  return jobEnd(house, client, job);
}
