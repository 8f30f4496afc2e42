import {
  hashKey,
  useInfiniteQuery,
  useMutation,
  useQuery,
  useQueryClient,
  type Query,
  type QueryClient,
  type UseQueryResult,
} from '@tanstack/react-query';
import { useEffect, useRef } from 'react';
import { toast } from 'sonner';
import type { ReplyOf, RouteName, Routes } from '#contract';
import { read, send, Unreached, type Input } from './client.ts';
import { sayCut } from './cut.ts';
import { atSite } from './site.ts';
import { sound } from './sound.ts';
import { KeptStream } from './stream.ts';
import { isTouched, ReadAgain, restOf, type Asked, type Change } from './touches.ts';

// What is being read again, all pages of it, because something changed: the server takes it in its turn, after what a person asks for.
const again = new Set<string>();
async function readAgain(client: QueryClient, query: Query): Promise<void> {
  again.add(query.queryHash);
  try {
    await client.invalidateQueries({ queryKey: query.queryKey, exact: true });
  } finally {
    again.delete(query.queryHash);
  }
}

const isAgain = (key: readonly unknown[]): boolean => again.has(hashKey(key));

/** Reads a route and keeps what it said until a change touches it. */
export function useRead<K extends RouteName>(
  name: K,
  input: Omit<Input<K>, 'body'>,
  options: { enabled?: boolean; keep?: boolean } = {},
): UseQueryResult<ReplyOf<Routes[K]>> {
  return useQuery<unknown>({
    queryKey: [name, input],
    queryFn: ({ signal, queryKey }) => read(name, input, { signal, again: isAgain(queryKey) }),
    enabled: options.enabled ?? true,
    ...(options.keep ? { placeholderData: (previous: unknown) => previous } : {}),
  }) as UseQueryResult<ReplyOf<Routes[K]>>;
}

/** Reads a list page by page: `pages` as far as it was asked for, `more` where there is more. */
export function useReadPages<K extends RouteName>(
  name: K,
  input: Omit<Input<K>, 'body'>,
): {
  pages: readonly ReplyOf<Routes[K]>[];
  more: (() => void) | undefined;
  error: Error | null;
  isPending: boolean;
  /** Reads every page anew, one after the other; `progress` is told each page as it comes. */
  readAll: (progress: (page: ReplyOf<Routes[K]>) => void) => Promise<readonly ReplyOf<Routes[K]>[]>;
} {
  const page = (after: string, how: { signal?: AbortSignal; again?: boolean } = {}): Promise<unknown> =>
    read(name, { ...input, query: { ...(input as { query?: object }).query, ...(after ? { after } : {}) } } as never, how);
  const found = useInfiniteQuery({
    queryKey: [name, input, 'pages'],
    queryFn: ({ pageParam, signal, queryKey }) => page(pageParam, { signal, again: isAgain(queryKey) }),
    initialPageParam: '',
    getNextPageParam: (last) => (last as { next?: string | null }).next ?? undefined,
    placeholderData: (previous) => previous,
  });
  return {
    pages: (found.data?.pages ?? []) as readonly ReplyOf<Routes[K]>[],
    more: found.hasNextPage ? () => void found.fetchNextPage() : undefined,
    error: found.error,
    isPending: found.isPending,
    readAll: async (progress) => {
      const pages: ReplyOf<Routes[K]>[] = [];
      for (let after: string | null = ''; after !== null;) {
        const got = (await page(after)) as ReplyOf<Routes[K]> & { next?: string | null };
        pages.push(got);
        progress(got);
        after = got.next ?? null;
      }
      return pages;
    },
  };
}

// A double click is two presses of one mind: the second comes before anybody can have read what the first one did.
const SECOND_PRESS_MS = 700;

/** Sends a command of this route; a refusal is said aloud and shown, unless the screen shows it itself.
 *  Shape:  a press while the one before is on its way, or the same press just after it, does nothing. The key is made once: pressed again
 *          after an answer that never came, it is the same command. */
export function useSend<K extends RouteName>(name: K, options: { quiet?: boolean; onDone?: (reply: ReplyOf<Routes[K]>) => void } = {}) {
  const spent = useRef<SpentPress>({ input: '', key: '', busy: false, doneAt: -Infinity });
  const mutation = useMutation({
    mutationFn: async (input: Input<K>) => {
      const { key } = spent.current;
      try {
        const reply = await send(name, input, key);
        spent.current = { ...spent.current, key: '', busy: false, doneAt: performance.now() };
        return reply;
      } catch (error) {
        spent.current = { ...spent.current, busy: false, key: error instanceof Unreached ? key : '' };
        throw error;
      }
    },
    onSuccess: (reply) => options.onDone?.(reply),
    onError: (error: Error) => {
      sound('wrong');
      if (!options.quiet) toast.error(error.message);
    },
  });
  const press = (input: Input<K>): boolean => {
    const text = JSON.stringify(input);
    const next = pressOf(spent.current, text, performance.now(), () => crypto.randomUUID());
    if (next) spent.current = next;
    return next !== null;
  };
  return {
    ...mutation,
    mutate: (input: Input<K>): void => {
      if (press(input)) mutation.mutate(input);
    },
    /** The same for who waits for the answer; a spent press never answers. */
    mutateAsync: (input: Input<K>): Promise<ReplyOf<Routes[K]>> =>
      press(input) ? mutation.mutateAsync(input) : new Promise(() => undefined),
  };
}

/** What is known of the last press: what it sent, its key while its answer is not known, and when it was answered (milliseconds). */
export type SpentPress = { readonly input: string; readonly key: string; readonly busy: boolean; readonly doneAt: number };

/** Decides what a press does: null where it is spent already; else it goes out, under the key of the same command where that was never
 *  answered, or a new one. */
export function pressOf(last: SpentPress, input: string, now: number, newKey: () => string): SpentPress | null {
  if (last.busy) return null;
  if (last.input === input && now - last.doneAt < SECOND_PRESS_MS) return null;
  return { input, key: last.input === input && last.key !== '' ? last.key : newKey(), busy: true, doneAt: last.doneAt };
}

/** Listens to the stream of changes: reads again what they touch, and takes the row and home as they are told. `figures`: where those are
 *  shown. */
export function useChanges(signedIn: boolean, figures: boolean): void {
  const client = useQueryClient();
  const listened = useRef(false);
  useEffect(() => {
    if (!signedIn) {
      listened.current = false;
      return;
    }
    // Between two streams of one page something may have been told to neither.
    const isNext = listened.current;
    listened.current = true;
    const due = new ReadAgain((hash) => {
      const query = client.getQueryCache().get(hash);
      return query ? readAgain(client, query) : Promise.resolve();
    });
    const told = (name: 'desk.row' | 'desk.home', data: string): void => {
      // An answer that is on its way is older than this.
      void client.cancelQueries({ queryKey: [name] });
      client.setQueryData([name, {}], JSON.parse(data));
    };
    const stream = new KeptStream(
      () => new EventSource(atSite(figures ? '/api/events?figures' : '/api/events')),
      {
        change: (data) => {
          const change = JSON.parse(data) as Change;
          for (const query of client.getQueryCache().getAll()) {
            const [name, input] = query.queryKey as [string, Asked];
            if (!isTouched(change, { name, input, data: query.state.data })) continue;
            if (query.isActive()) due.ask(query.queryHash, restOf(name));
            else void client.invalidateQueries({ queryKey: query.queryKey, exact: true, refetchType: 'none' });
          }
          window.dispatchEvent(new Event('dockrow:changed'));
        },
        row: (data) => told('desk.row', data),
        home: (data) => told('desk.home', data),
      },
      {
        // What happened while the stream was down was not told: read everything again.
        back: () => {
          sayCut(false);
          for (const query of client.getQueryCache().getAll()) void readAgain(client, query);
        },
        cut: () => sayCut(true),
        // Refused: perhaps whoever worked here no longer may.
        refused: () => void client.invalidateQueries({ queryKey: ['people.me'] }),
      },
      isNext,
    );
    const seen = (): void => stream.seen(document.visibilityState === 'visible');
    const online = (): void => stream.networkBack();
    document.addEventListener('visibilitychange', seen);
    window.addEventListener('pageshow', seen);
    window.addEventListener('online', online);
    return () => {
      document.removeEventListener('visibilitychange', seen);
      window.removeEventListener('pageshow', seen);
      window.removeEventListener('online', online);
      stream.close();
      due.stop();
    };
  }, [client, signedIn, figures]);
}
