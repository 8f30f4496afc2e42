import { setTimeout as pause } from 'node:timers/promises';
import { JOB_STATES } from '#core/printing';
import type { Page } from './raster.ts';

/** What came out of it: whole, or the half of a label that tore. */
export type Strip = { readonly n: number; readonly run: string; readonly page: Page; readonly isHalf: boolean };
export type Job = { readonly id: number; readonly name: string; readonly pages: readonly Page[]; state: number; out: number };

const KEPT = 4000;

/** A label printer, its strip and what can go wrong with it. */
export class Machine {
  readonly strip: Strip[] = [];
  jobs: Job[] = [];
  /** Why it stands, in the words of the standard; null while it does not. */
  trouble: string | null = null;
  /** Does not answer at all; takes what it is told and answers nothing; answers nonsense. */
  manner: 'well' | 'away' | 'mute' | 'nonsense' = 'well';
  msPerLabel = 0;
  private on = Date.now();
  private next = 1;
  private labels = 0;
  private pieces = 0;
  private trap: { after: number; reason: string; half: boolean } | null = null;
  private printing: Promise<void> | null = null;

  /** Seconds since it was switched on. */
  get upSeconds(): number {
    return Math.floor((Date.now() - this.on) / 1000);
  }

  /** Takes a job, and prints it before it answers where it is not slow. */
  async take(name: string, pages: readonly Page[]): Promise<Job> {
    const job: Job = { id: this.next, name, pages, state: JOB_STATES.pending, out: 0 };
    this.next += 1;
    this.jobs.push(job);
    const printing = this.go();
    if (this.msPerLabel === 0) await printing;
    return job;
  }

  /** Stands at a label: at the next, or after so many. */
  stop(reason: string, { after = 0, half = false }: { after?: number; half?: boolean } = {}): void {
    if (after === 0 && !half) this.trouble = reason;
    else this.trap = { after: this.labels + after, reason, half };
  }

  /** Is mended and goes on with the label that did not come out. */
  mend(): Promise<void> {
    [this.trouble, this.trap, this.manner] = [null, null, 'well'];
    return this.go();
  }

  /** Somebody presses the button that stops what is being printed. */
  press(): void {
    for (const job of this.jobs) if (job.state < JOB_STATES.canceled) job.state = JOB_STATES.canceled;
  }

  cancel(id: number): Job | undefined {
    const job = this.jobs.find((j) => j.id === id);
    if (job && job.state < JOB_STATES.canceled) job.state = JOB_STATES.canceled;
    return job;
  }

  /** Is switched off and on: it remembers nothing. */
  forget(): void {
    this.press();
    this.jobs = [];
    this.on = Date.now();
    [this.trouble, this.trap] = [null, null];
  }

  private async go(): Promise<void> {
    this.printing ??= this.printAll().finally(() => {
      this.printing = null;
    });
    await this.printing;
  }

  private async printAll(): Promise<void> {
    for (;;) {
      const job = this.jobs.find((j) => j.state < JOB_STATES.canceled);
      const page = job?.pages[job.out];
      if (!job || !page) return;
      job.state = JOB_STATES.processing;
      if (this.msPerLabel > 0) await pause(this.msPerLabel);
      if (job.state !== JOB_STATES.processing) continue;
      const { trap } = this;
      if (trap && this.labels >= trap.after) {
        if (trap.half) this.put(job, halfOf(page), true);
        [this.trouble, this.trap] = [trap.reason, null];
      }
      if (this.trouble !== null) {
        job.state = JOB_STATES.stopped;
        return;
      }
      this.put(job, page, false);
      job.out += 1;
      if (job.out === job.pages.length) job.state = JOB_STATES.completed;
    }
  }

  private put(job: Job, page: Page, isHalf: boolean): void {
    this.labels += isHalf ? 0 : 1;
    this.pieces += 1;
    this.strip.push({ n: this.pieces, run: job.name, page, isHalf });
    if (this.strip.length > KEPT) this.strip.shift();
  }
}

// The lower half stays white.
const halfOf = (page: Page): Page => ({ ...page, rows: page.rows.map((byte, at) => (at < page.rows.length / 2 ? byte : 0)) });
