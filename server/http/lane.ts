/** An answer that is being read, and how to say that it is not wanted any more. */
export type Reading<Answer> = { readonly answer: Promise<Answer>; leave(): void };
type Entry<Answer> = {
  readonly by: string;
  readonly begin: () => Reading<Answer>;
  readonly answer: Promise<Answer>;
  readonly settle: { resolve(answer: Answer): void; reject(fault: Error): void };
  askers: number;
  running: Reading<Answer> | null;
};

/** A reading that takes longer than this (milliseconds) holds up no other. */
const LONG_MS = 1000;
/** How many questions of one asker may wait. */
const MOST_WAITING = 30;
/** How much longer than a reading the lane rests after it. */
const RESTS = 5;

/** Where reads stand in line that no person asked for: a page that reads itself again because something changed. One runs at a time, and
 *  five times what it took passes before the next: most of the time is free for whoever scans, acts or opens a page, however many look on.
 *  The same question asked by several who wait is one reading, with one answer for all. Nobody is given a reading that began before they
 *  asked: it might not show what they were told had changed. */
export class Lane<Answer> {
  private readonly waiting = new Map<string, Entry<Answer>>();
  private isTaken = false;

  /** Asks a question. `key` says what is asked, and as whom: equal keys have equal answers. `by` is who asks: whoever has more questions
   *  waiting than any page shows does not fill the lane for others; theirs are read outside of it, as if they had been asked by hand.
   *  Errors: what the reading throws, for all who asked it. */
  ask(key: string, by: string, begin: () => Reading<Answer>): Reading<Answer> {
    const entry = this.waiting.get(key) ?? this.enter(key, by, begin);
    if (entry === null) return begin();
    entry.askers += 1;
    this.next();
    let isLeft = false;
    return {
      answer: entry.answer,
      leave: () => {
        if (isLeft) return;
        isLeft = true;
        entry.askers -= 1;
        if (entry.askers > 0) return;
        if (entry.running) entry.running.leave();
        else if (this.waiting.get(key) === entry) {
          this.waiting.delete(key);
          entry.settle.reject(new Error('Nobody waits for it any more.'));
        }
      },
    };
  }

  private enter(key: string, by: string, begin: () => Reading<Answer>): Entry<Answer> | null {
    if ([...this.waiting.values()].filter((e) => e.by === by).length >= MOST_WAITING) return null;
    let settle!: Entry<Answer>['settle'];
    const answer = new Promise<Answer>((resolve, reject) => {
      settle = { resolve, reject };
    });
    // Whoever waits hears of a fault; where nobody does, it is nobody's.
    answer.catch(() => undefined);
    const entry: Entry<Answer> = { by, begin, answer, settle, askers: 0, running: null };
    this.waiting.set(key, entry);
    return entry;
  }

  private next(): void {
    if (this.isTaken) return;
    for (const [key, entry] of this.waiting) {
      this.waiting.delete(key);
      this.isTaken = true;
      this.run(entry);
      return;
    }
  }

  private run(entry: Entry<Answer>): void {
    const from = Date.now();
    let isOver = false;
    const over = (): void => {
      if (isOver) return;
      isOver = true;
      clearTimeout(long);
      setTimeout(
        () => {
          this.isTaken = false;
          this.next();
        },
        Math.min(LONG_MS, RESTS * (Date.now() - from)),
      ).unref();
    };
    const long = setTimeout(over, LONG_MS);
    long.unref();
    entry.running = entry.begin();
    entry.running.answer
      .then(entry.settle.resolve, entry.settle.reject)
      .finally(over)
      .catch(() => undefined);
  }
}
