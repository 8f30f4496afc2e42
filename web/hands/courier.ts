import type { Floor } from './floor.ts';
import { LineError } from './line.ts';

const WAITS_MS = [1000, 2000, 5000, 10_000, 20_000, 30_000];
const LONGEST_MS = 30_000;
const EVERY_MS = 60_000;
const GATHER_MS = 400;
/** What others did is taken along no more often than this: where a hundred hands work, something changes at every moment. */
const REST_MS = 2000;
/** By how much later: who hears of the same thing at one moment is not to ask for it at one moment. */
const SPREAD_MS = 1000;

/** Runs between the device and the server: tells what waits, then takes along what changed; again whenever there is reason to, and with
 *  growing waits while nobody answers. */
export class Courier {
  private readonly floor: Floor;
  private readonly alone: boolean;
  private readonly onRun: () => void;
  private readonly random: () => number;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private dueAt = Infinity;
  private restsUntil = -Infinity;
  private running = false;
  private againAt = Infinity;
  private failures = 0;
  private stopped = false;
  private greeted = false;

  /** `alone`: no other tab of the device tells; only then does this one. `onRun` is called after each run that changed something.
   *  `random`: 0 to 1. */
  constructor(
    floor: Floor,
    { alone, onRun = () => undefined, random = Math.random }: { alone: boolean; onRun?: () => void; random?: () => number },
  ) {
    this.random = random;
    this.floor = floor;
    this.alone = alone;
    this.onRun = onRun;
  }

  /** Another tab of the device kept something: who tells, tells it. */
  heard(): void {
    if (this.alone && this.floor.get().waiting > 0) this.poke();
  }

  /** Others did something. */
  heardOfOthers(): void {
    this.poke(Math.max(GATHER_MS, this.restsUntil - Date.now()));
  }

  /** There is something to tell, or to take along. What comes together goes in one run; a run that is due earlier stays due, or a house
   *  where something always changes would put it off for ever. */
  poke(waitMs = GATHER_MS): void {
    if (this.stopped) return;
    if (this.running) {
      this.againAt = Math.min(this.againAt, Date.now() + waitMs);
      return;
    }
    if (this.timer !== null && this.failures > 0 && waitMs > 0) return;
    if (this.timer !== null && this.dueAt <= Date.now() + waitMs) return;
    this.runIn(waitMs);
  }

  stop(): void {
    this.stopped = true;
    if (this.timer !== null) clearTimeout(this.timer);
  }

  private runIn(waitMs: number): void {
    if (this.timer !== null) clearTimeout(this.timer);
    this.dueAt = Date.now() + waitMs;
    this.timer = setTimeout(() => {
      this.timer = null;
      void this.run();
    }, waitMs);
  }

  private async run(): Promise<void> {
    if (this.running || this.stopped) return;
    this.running = true;
    this.againAt = Infinity;
    this.restsUntil = Date.now() + REST_MS + this.random() * SPREAD_MS;
    try {
      await this.once();
      this.failures = 0;
    } catch {
      this.failures += 1;
    } finally {
      this.running = false;
      this.onRun();
    }
    const wait =
      this.failures > 0 ? (WAITS_MS[this.failures - 1] ?? LONGEST_MS) : Math.min(EVERY_MS, Math.max(GATHER_MS, this.againAt - Date.now()));
    if (!this.stopped) this.runIn(wait);
  }

  private async once(): Promise<void> {
    const { me } = this.floor.get();
    if (!me) return;
    if (this.alone) {
      if (!this.greeted) await this.greet();
      try {
        while ((await this.floor.tell()) > 0) this.onRun();
      } catch (error) {
        if (!(error instanceof LineError && error.fault.kind === 'unknownDevice')) throw error;
        await this.greet();
        await this.floor.tell();
      }
    }
    await this.floor.take(this.alone);
  }

  // Each time that somebody begins to work: the server believes of a device only what those did who signed in on it.
  private async greet(): Promise<void> {
    await this.floor.greet();
    this.greeted = true;
  }
}
