import { randomUUID } from 'node:crypto';
import { jobOf, type Does } from '#core/hands';
import type { ActIn, Outcome } from '#contract/hands';
import type { Client } from './client.ts';

/** A handheld in a test: it keeps what was done on it and tells it when it is asked to. */
export type Hand = {
  /** Does something now, or so long ago (milliseconds), and keeps it. Returns its key. */
  does(what: object, more?: { ago?: number; person?: number; key?: string; site?: number }): string;
  /** Drops what was never told. */
  forget(key: string): void;
  /** What was not told yet. */
  waiting(): readonly ActIn[];
  /** Tells everything that waits, or these acts; what failed waits on. */
  tell(acts?: readonly ActIn[]): Promise<Outcome[]>;
  /** Does one thing and tells it at once. */
  tells(what: object, more?: { ago?: number; person?: number; key?: string }): Promise<Outcome & { act: string }>;
};

/** Opens a handheld for somebody who is signed in. */
export async function openHand(client: Client, person: number, site = 1): Promise<Hand> {
  const greeted = await client.raw('/api/hands/device', { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: '{}' });
  if (!greeted.ok) throw new Error(await greeted.text());
  const cookie = greeted.headers
    .getSetCookie()
    .map((c) => c.split(';')[0])
    .join('; ');
  return handOf(client, cookie, person, site);
}

function handOf(client: Client, cookie: string, person: number, site: number): Hand {
  let seq = 0;
  let acts: ActIn[] = [];
  const newest = new Map<string, string>();
  const does: Hand['does'] = (what, more = {}) => {
    const key = more.key ?? randomUUID();
    const job = jobOf(what as Does);
    seq += 1;
    const act = {
      key,
      after: newest.get(job) ?? null,
      seq,
      person: more.person ?? person,
      site: more.site ?? site,
      doneAt: Date.now() - (more.ago ?? 0),
      does: what,
    };
    newest.set(job, key);
    acts.push(act as ActIn);
    return key;
  };
  const tell: Hand['tell'] = async (some) => {
    const told = (some ?? acts).slice(0, 100);
    const answer = await client.raw('/api/hands/acts', {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Cookie: `${client.cookie}; ${cookie}` },
      body: JSON.stringify({ sentAt: Date.now(), waiting: acts.length, acts: told }),
    });
    if (!answer.ok) throw new Error(await answer.text());
    const { outcomes } = (await answer.json()) as { outcomes: Outcome[] };
    const settled = new Set(outcomes.filter((o) => o.outcome !== 'failed').map((o) => o.key));
    acts = acts.filter((a) => !settled.has(a.key));
    return outcomes;
  };
  return {
    does,
    forget: (key) => {
      const gone = acts.find((a) => a.key === key);
      acts = acts.filter((a) => a.key !== key);
      if (gone) newest.set(jobOf(gone.does as Does), gone.after ?? '');
      if (gone?.after === null) newest.delete(jobOf(gone.does as Does));
    },
    waiting: () => acts,
    tell,
    tells: async (what, more) => {
      const act = does(what, more);
      const outcome = (await tell()).find((o) => o.key === act);
      if (!outcome) throw new Error('The act was not answered.');
      return { ...outcome, act };
    },
  };
}
