import { fork, type ChildProcess } from 'node:child_process';
import { existsSync } from 'node:fs';
import path from 'node:path';
import { fileURLToPath } from 'node:url';
import { refuse, Refusal, type DomainError } from './refusal.ts';
import { SheetFault } from './sheet-fault.ts';

/** The work of one kind that a helper does: pure work on what somebody sent, or on what the database keeps. */
export type HelperWork<In, Out> = (input: In, progress: (done: number, total: number) => void) => Promise<Out>;
export type HelperSays =
  | { readonly kind: 'progress'; readonly done: number; readonly total: number }
  | { readonly kind: 'done'; readonly result: unknown }
  | { readonly kind: 'refused'; readonly error: DomainError }
  | { readonly kind: 'sheet'; readonly says: string }
  | { readonly kind: 'broken'; readonly says: string };

export type HelperOptions = {
  /** How this work is called in a sentence: "Reading prices.xlsx". */
  readonly what: string;
  /** Milliseconds after which it is given up. */
  readonly most?: number;
  readonly signal?: AbortSignal | undefined;
  readonly progress?: ((done: number, total: number) => void) | undefined;
};

const MOST_MS = 120_000;
/** Megabytes of objects that a helper may hold; beyond them it falls over, and only it. A small machine may say less. */
const mostMb = (): number => Number(process.env['DOCKROW_HELPER_MB'] ?? 1024);
// Two cores: one more would only take time from the scans.
const AT_ONCE = 2;
/** Beginning a process takes as long as reading a small sheet: one that is done waits so long for more, milliseconds. */
const SPARE_MS = 20_000;
const waiting: (() => void)[] = [];
const spare: { child: ChildProcess; timer: NodeJS.Timeout }[] = [];
let running = 0;

/** Has work done in a process of its own, which may be broken off, fall over or run out of memory without harm to this one.
 *  Two run at once, the others wait their turn.
 *  Errors: refusals and `SheetFault` of the work come through as they are; `server.helperEnded` where it took too long, held too much or
 *          fell over. */
export async function askHelper<Out>(task: string, input: unknown, options: HelperOptions): Promise<Out> {
  await turn(options.signal);
  try {
    return await once<Out>(task, input, options);
  } finally {
    running -= 1;
    waiting.shift()?.();
  }
}

async function turn(signal: AbortSignal | undefined): Promise<void> {
  while (running >= AT_ONCE) {
    await new Promise<void>((resolve) => {
      waiting.push(resolve);
      signal?.addEventListener('abort', () => resolve(), { once: true });
    });
    signal?.throwIfAborted();
  }
  running += 1;
}

function begin(): ChildProcess {
  for (let kept = spare.pop(); kept; kept = spare.pop()) {
    clearTimeout(kept.timer);
    if (kept.child.connected) return kept.child;
  }
  // Built, the helper lies beside the server; tests build one for themselves; from source it is read as it stands.
  const here = path.dirname(fileURLToPath(import.meta.url));
  const built = [process.env['DOCKROW_HELPER'] ?? '', path.join(here, 'helper.mjs')].find((file) => file !== '' && existsSync(file));
  return fork(built ?? path.join(here, '..', 'helper-main.ts'), [], {
    // What a drawing or a sheet needs for a moment only is cleared away less often: a fifth less time for a thousand labels.
    execArgv: [...(built ? [] : ['--import', 'tsx']), `--max-old-space-size=${mostMb()}`, '--max-semi-space-size=32'],
    serialization: 'advanced',
    stdio: ['ignore', 'ignore', 'ignore', 'ipc'],
    env: { ...process.env, NODE_OPTIONS: '' },
  });
}

function keep(child: ChildProcess): void {
  const timer = setTimeout(() => child.kill('SIGKILL'), SPARE_MS);
  timer.unref();
  spare.push({ child, timer });
  // Nothing waits for a helper that has nothing to do.
  child.unref();
  child.channel?.unref();
}

function once<Out>(task: string, input: unknown, options: HelperOptions): Promise<Out> {
  const { what, most = MOST_MS, signal, progress } = options;
  return new Promise<Out>((resolve, reject) => {
    const child = begin();
    child.ref();
    child.channel?.ref();
    const end = (settle: () => void, isFit = false): void => {
      clearTimeout(timer);
      signal?.removeEventListener('abort', abort);
      child.removeAllListeners();
      // What it still had to say, or could not be told, no longer matters.
      child.on('error', () => undefined);
      if (isFit) keep(child);
      else child.kill('SIGKILL');
      settle();
    };
    const fell = (why: string) => (): void => reject(new Refusal({ code: 'server.helperEnded', what, why }));
    const abort = (): void => end(() => reject(signal?.reason as Error));
    const timer = setTimeout(() => end(fell(`took more than ${Math.round(most / 1000)} seconds`)), most);
    signal?.addEventListener('abort', abort, { once: true });
    if (signal?.aborted) return abort();
    child.on('message', (said) => {
      const message = said as HelperSays;
      if (message.kind === 'progress') return progress?.(message.done, message.total);
      if (message.kind === 'done') return end(() => resolve(message.result as Out), true);
      if (message.kind === 'sheet') return end(() => reject(new SheetFault(message.says)), true);
      if (message.kind === 'refused') return end(() => reject(new Refusal(message.error)), true);
      end(() => reject(new Error(`${what}: ${message.says}`)));
    });
    child.on('error', () => end(fell('could not be begun')));
    child.on('exit', () => end(fell('needed more memory than a file may')));
    child.send({ task, input });
  });
}

/** The other side: does what it is asked, one thing after the other, and says how each ended. `works`: how each kind of work is read in. */
export function serveHelper(works: Readonly<Record<string, () => Promise<HelperWork<never, unknown>>>>): void {
  const say = (message: HelperSays): void => void process.send?.(message);
  process.on('message', (asked) => {
    const { task, input } = asked as { task: string; input: never };
    const workOf = works[task] ?? (() => refuse({ code: 'server.helperEnded', what: task, why: 'is unknown' }));
    let told = 0;
    const progress = (done: number, total: number): void => {
      if (Date.now() - told < 100) return;
      told = Date.now();
      say({ kind: 'progress', done, total });
    };
    Promise.resolve()
      .then(workOf)
      .then((work) => work(input, progress))
      .then(
        (result) => say({ kind: 'done', result }),
        (error: unknown) => {
          if (error instanceof SheetFault) say({ kind: 'sheet', says: error.message });
          else if (error instanceof Refusal) say({ kind: 'refused', error: error.error });
          else say({ kind: 'broken', says: error instanceof Error ? `${error.message}\n${error.stack ?? ''}` : String(error) });
        },
      );
  });
  // Who asked went away: so does this.
  process.on('disconnect', () => process.exit(0));
}
