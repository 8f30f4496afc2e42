import { walkedFloor, type FloorPlan } from '#core/places';
import { proposeRounds, type Proposal, type ToPropose } from '#core/routing';

/** What the worker is sent: once what to propose, and a word to stop at what it has. */
export type ToProposer = { readonly asked: ToPropose; readonly plan: FloorPlan } | 'stop';
/** What it says: the best so far, and whether that is the end of it. */
export type FromProposer = { readonly proposal: Proposal; readonly ended: boolean };

const SAY_EVERY_MS = 120;
let isStopped = false;

// A worker hears a message only when it has nothing to do: it rests a moment each time that it has said how far it is.
const rest = (): Promise<void> => new Promise((resolve) => setTimeout(resolve, 0));
const say = (said: FromProposer): void => self.postMessage(said);

async function propose(asked: ToPropose, plan: FloorPlan): Promise<void> {
  let [last, saidAt] = [null as Proposal | null, -Infinity];
  for (const proposal of proposeRounds(asked, walkedFloor(plan))) {
    last = proposal;
    if (performance.now() - saidAt < SAY_EVERY_MS) continue;
    say({ proposal, ended: false });
    await rest();
    saidAt = performance.now();
    if (isStopped) break;
  }
  if (last) say({ proposal: last, ended: true });
}

self.addEventListener('message', ({ data }: MessageEvent<ToProposer>) => {
  if (data === 'stop') isStopped = true;
  else void propose(data.asked, data.plan);
});
