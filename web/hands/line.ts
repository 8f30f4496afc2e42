import type { FactKind, FactPart, Outcome } from '#contract/hands';
import { WORKING_AT, type Me } from '#contract/people';
import { PROGRAM, type KeptAct } from './kept.ts';

/** How far a request came: `away` where nobody answered, `signIn` where the session has run out, `refused` with the server's sentence. */
export type LineFault = { readonly kind: 'away' | 'signIn' | 'unknownDevice' } | { readonly kind: 'refused'; readonly says: string };
export class LineError extends Error {
  readonly fault: LineFault;
  constructor(fault: LineFault) {
    super(fault.kind);
    this.fault = fault;
  }
}

export type FactsAnswer = {
  revision: string;
  parts: FactPart[];
  next: { kind: FactKind; after: number } | null;
  reset: boolean;
  now: number;
  today: string;
  trust: boolean;
  onlyLotsThatRead: boolean;
};

/** The way to the server, as the floor needs it. */
export interface Line {
  acts(site: number, told: { sentAt: number; waiting: number; acts: readonly KeptAct[] }): Promise<{ outcomes: Outcome[]; now: number }>;
  facts(site: number, ask: { since?: string; kind?: FactKind; after?: number }): Promise<FactsAnswer>;
  greet(site: number, name?: string): Promise<{ device: string; name: string }>;
  me(site: number | null): Promise<Me | null>;
}

const TIME_OUT_MS = 15_000;

/** A line over HTTP. */
export function httpLine(base = ''): Line {
  const ask = async <T>(path: string, site: number | null, body?: unknown): Promise<T> => {
    let answer: Response;
    try {
      answer = await fetch(base + path, {
        ...(body === undefined ? {} : { method: 'POST', body: JSON.stringify(body) }),
        headers: {
          Accept: 'application/json',
          ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
          ...(site === null ? {} : { [WORKING_AT]: String(site) }),
        },
        signal: AbortSignal.timeout(TIME_OUT_MS),
      });
    } catch {
      throw new LineError({ kind: 'away' });
    }
    if (answer.status >= 500 || answer.status === 429) throw new LineError({ kind: 'away' });
    const json = (await answer.json().catch(() => null)) as { code?: string; detail?: string } | null;
    if (answer.status === 401) throw new LineError({ kind: 'signIn' });
    if (json === null) throw new LineError({ kind: 'away' });
    if (!answer.ok)
      throw new LineError(
        json.code === 'hands.unknownDevice'
          ? { kind: 'unknownDevice' }
          : { kind: 'refused', says: json.detail ?? 'The server refused it.' },
      );
    return json as T;
  };
  return {
    acts: (site, told) =>
      ask('/api/hands/acts', site, {
        ...told,
        version: PROGRAM,
        acts: told.acts.map(({ key, seq, after, person, site: at, doneAt, does }) => ({ key, seq, after, person, site: at, doneAt, does })),
      }),
    facts: (site, { since, kind, after }) => {
      const query = new URLSearchParams();
      if (since !== undefined) query.set('since', since);
      if (kind !== undefined) query.set('kind', kind);
      if (after !== undefined) query.set('after', String(after));
      return ask(`/api/hands/facts?${query.toString()}`, site);
    },
    greet: (site, name) => ask('/api/hands/device', site, name === undefined ? {} : { name }),
    me: async (site) => (await ask<{ me: Me | null }>('/api/me', site)).me,
  };
}
