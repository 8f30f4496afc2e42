import { randomUUID } from 'node:crypto';
import { ROUTES, type BodyIn, type ParamsIn, type Problem, type ReplyOf, type RouteName, type Routes } from '#contract';
import { WORKING_AT } from '#contract/people';
import { DEMO_PEOPLE } from '#server/people';

type Answer<K extends RouteName> = { status: number; reply: ReplyOf<Routes[K]>; problem: Problem; replayed: boolean };
type Asked<K extends RouteName> = {
  params?: ParamsIn<Routes[K]>;
  body?: BodyIn<Routes[K]>;
  query?: Record<string, string | number>;
  key?: string;
  /** Where the tab works; the person's own site where it is not said. */
  site?: number;
};

/** A person at a device: signed in, sending as the web does. */
export type Client = {
  readonly cookie: string;
  ask<K extends RouteName>(name: K, asked?: Asked<K>): Promise<Answer<K>>;
  raw(path: string, init?: RequestInit): Promise<Response>;
};

/** Signs a demo person in by password at any Dock Row server. */
export async function signIn(address: string, who: string): Promise<Client> {
  const person = DEMO_PEOPLE.find((p) => p.name === who);
  const answer = await fetch(`${address}/api/sign-in`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name: who, password: person?.password }),
  });
  // Read to its end: the session is kept before the last byte is sent, not before the first.
  const said = await answer.text();
  if (!answer.ok) throw new Error(`${who} could not sign in: ${said}`);
  return clientOf(
    address,
    answer.headers
      .getSetCookie()
      .map((c) => c.split(';')[0])
      .join('; '),
  );
}

/** Somebody with the cookie of a session, or '' for a stranger. */
export function clientOf(address: string, cookie: string): Client {
  const raw = (path: string, init: RequestInit = {}): Promise<Response> =>
    fetch(address + path, { ...init, headers: { Cookie: cookie, ...init.headers } });
  return {
    cookie,
    raw,
    ask: async (name, asked = {}) => {
      const { method, path } = ROUTES[name];
      const filled = path.replace(/:(\w+)/g, (_, key: string) => String((asked.params as Record<string, unknown> | undefined)?.[key]));
      const search = asked.query ? `?${new URLSearchParams(Object.entries(asked.query).map(([k, v]) => [k, String(v)])).toString()}` : '';
      const at = asked.site === undefined ? {} : { [WORKING_AT]: String(asked.site) };
      const answer = await raw(
        filled + search,
        method === 'GET'
          ? { headers: at }
          : {
              method,
              headers: { ...at, 'Content-Type': 'application/json', 'Idempotency-Key': asked.key ?? randomUUID() },
              body: JSON.stringify(asked.body ?? {}),
            },
      );
      const json = (await answer.json()) as never;
      return { status: answer.status, reply: json, problem: json, replayed: answer.headers.get('idempotent-replay') === 'true' };
    },
  };
}
