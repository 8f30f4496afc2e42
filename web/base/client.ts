import { siteHeaders } from './site.ts';
import { ROUTES, type BodyIn, type ParamsIn, type Problem, type QueryIn, type ReplyOf, type RouteName, type Routes } from '#contract';

type Needed<Name extends string, T> = [T] extends [undefined] ? { readonly [N in Name]?: undefined } : { readonly [N in Name]: T };

/** What a route is asked with: the parameters and body that its row of the table names. */
export type Input<K extends RouteName> = Needed<'params', ParamsIn<Routes[K]>> &
  Needed<'body', BodyIn<Routes[K]>> & { readonly query?: QueryIn<Routes[K]> };

/** A refusal of the server, with its sentence as message. */
export class Refused extends Error {
  readonly problem: Problem;
  constructor(problem: Problem) {
    super(problem.detail);
    this.problem = problem;
  }
}

const SENT = 'No connection to the server. It is not known whether it was done. Do it again: it is done once.';
const ASKED = 'No connection to the server. This is read as soon as there is one again.';

/** The server could not be reached; nothing is known of what became of the request. */
export class Unreached extends Error {
  constructor(says = SENT) {
    super(says);
  }
}

function address(name: RouteName, input: { params?: unknown; query?: unknown }): string {
  const params = (input.params ?? {}) as Record<string, string | number>;
  const path = ROUTES[name].path.replace(/:(\w+)/g, (_, key: string) => encodeURIComponent(String(params[key])));
  const query = Object.entries((input.query ?? {}) as Record<string, unknown>).filter(([, value]) => value !== undefined && value !== '');
  return query.length > 0 ? `${path}?${new URLSearchParams(query.map(([k, v]) => [k, String(v)])).toString()}` : path;
}

async function answer<T>(response: Promise<Response>, unreached = SENT): Promise<T> {
  let got: Response;
  try {
    got = await response;
  } catch {
    throw new Unreached(unreached);
  }
  if (got.status === 502 || got.status === 503 || got.status === 504) throw new Unreached(unreached);
  if (got.status === 401) window.dispatchEvent(new Event('dockrow:signedOut'));
  const json = (await got.json().catch(() => null)) as unknown;
  if (!got.ok)
    throw new Refused(
      (json as Problem | null) ?? {
        type: '',
        title: '',
        status: got.status,
        code: 'server.fault',
        detail: 'The server gave no readable answer.',
      },
    );
  return json as T;
}

/** Reads from the server. */
export function read<K extends RouteName>(
  name: K,
  input: Omit<Input<K>, 'body'>,
  { signal, again = false }: { signal?: AbortSignal; again?: boolean } = {},
): Promise<ReplyOf<Routes[K]>> {
  const headers = { Accept: 'application/json', ...(again ? { 'Dock-Row-Again': '1' } : {}), ...siteHeaders() };
  return answer(fetch(address(name, input), { headers, ...(signal ? { signal } : {}) }), ASKED);
}

const WAITS_MS = [400, 900, 2000, 4000, 8000];

/** Waits so long, or until the browser says that it has a connection again. */
function connectionWithin(ms: number): Promise<void> {
  return new Promise((resolve) => {
    const go = (): void => {
      clearTimeout(timer);
      window.removeEventListener('online', go);
      resolve();
    };
    const timer = setTimeout(go, ms);
    window.addEventListener('online', go);
  });
}

/** Sends a command. The key is made where the person acted and stays the same however often the command is sent again:
 *  a lost answer is asked for again until it comes. */
export async function send<K extends RouteName>(name: K, input: Input<K>, key: string = crypto.randomUUID()): Promise<ReplyOf<Routes[K]>> {
  const { body } = input as { body?: unknown };
  for (let attempt = 0; ; attempt += 1) {
    try {
      return await answer(
        fetch(address(name, input), {
          method: 'POST',
          headers: { 'Content-Type': 'application/json', 'Idempotency-Key': key, ...siteHeaders() },
          body: JSON.stringify(body ?? {}),
        }),
      );
    } catch (error) {
      const wait = WAITS_MS[attempt];
      if (!(error instanceof Unreached) || wait === undefined) throw error;
      window.dispatchEvent(new CustomEvent('dockrow:waiting', { detail: true }));
      await connectionWithin(wait);
    } finally {
      if (attempt > 0) window.dispatchEvent(new CustomEvent('dockrow:waiting', { detail: false }));
    }
  }
}

const HERE_MS = 60_000;

/** Says at most once a minute that somebody is at this device: a desk with nobody at it is closed. One that cannot be said is said with
 *  the next. */
export function sayWhoIsHere(): () => void {
  let saidAt = -Infinity;
  const say = (): void => {
    if (performance.now() - saidAt < HERE_MS) return;
    saidAt = performance.now();
    fetch(ROUTES['people.here'].path, { method: 'POST', headers: siteHeaders() }).catch(() => undefined);
  };
  const signs = ['pointerdown', 'pointermove', 'keydown', 'wheel'] as const;
  for (const sign of signs) window.addEventListener(sign, say, { capture: true, passive: true });
  return () => {
    for (const sign of signs) window.removeEventListener(sign, say, { capture: true });
  };
}
