/** What is used of the browser's EventSource. */
export type Source = {
  readonly readyState: number;
  addEventListener(type: string, listener: (event: { readonly data?: unknown }) => void): void;
  close(): void;
};

const CLOSED = 2;
const FIRST_MS = 1000;
const LONGEST_MS = 15_000;
/** The server says something every 25 seconds; a stream that is silent for longer died without saying so, as they do when a device
 *  sleeps. */
const SILENT_MS = 60_000;
/** A window that nobody sees needs no news; a browser has only six connections for all its windows together. */
const HIDDEN_MS = 30_000;

/** `cut`: the stream is gone; `back`: it is there again after it was not; `refused`: the server answered that it will not give it. */
type Says = { readonly cut?: () => void; readonly back: () => void; readonly refused: () => void };

/** A stream of server-sent events that is kept, whatever becomes of it.
 *  The browser itself takes up a connection that was cut; it gives up for good after an answer such as 401 or 502, and does not notice a
 *  connection that died while the device slept. Here both are taken up again, with growing waits. */
export class KeptStream {
  private readonly open: () => Source;
  private readonly listeners: Readonly<Record<string, (data: string) => void>>;
  private readonly says: Says;
  private source: Source | null = null;
  private lost: boolean;
  private heardAt = 0;
  private failures = 0;
  private again: ReturnType<typeof setTimeout> | null = null;
  private hiding: ReturnType<typeof setTimeout> | null = null;
  private readonly watch: ReturnType<typeof setInterval>;
  private closed = false;

  /** `lost`: there was one before. */
  constructor(open: () => Source, listeners: Readonly<Record<string, (data: string) => void>>, says: Says, lost = false) {
    this.lost = lost;
    this.open = open;
    this.listeners = listeners;
    this.says = says;
    this.begin();
    this.watch = setInterval(() => {
      if (this.source && Date.now() - this.heardAt > SILENT_MS) this.restart();
    }, SILENT_MS / 4);
  }

  /** The window is seen, or no longer. Seen again, the stream is there at once. */
  seen(isSeen: boolean): void {
    if (this.closed) return;
    if (this.hiding) clearTimeout(this.hiding);
    this.hiding = null;
    if (!isSeen) {
      this.hiding = setTimeout(() => this.drop(), HIDDEN_MS);
      return;
    }
    this.failures = 0;
    if (!this.source || this.source.readyState === CLOSED || Date.now() - this.heardAt > SILENT_MS) this.restart();
  }

  /** The network was gone and is there again: the stream of before may be dead without knowing it, and is not waited for. */
  networkBack(): void {
    // One that was let go because nobody looks is taken up when somebody does.
    if (this.closed || (!this.source && !this.again)) return;
    this.failures = 0;
    this.restart();
  }

  close(): void {
    this.closed = true;
    clearInterval(this.watch);
    if (this.hiding) clearTimeout(this.hiding);
    this.drop();
  }

  private drop(): void {
    if (this.again) clearTimeout(this.again);
    this.again = null;
    if (this.source) this.lost = true;
    this.source?.close();
    this.source = null;
  }

  private restart(): void {
    this.drop();
    this.begin();
  }

  private begin(): void {
    const source = this.open();
    this.source = source;
    this.heardAt = Date.now();
    const isMine = (): boolean => this.source === source;
    for (const [type, listener] of Object.entries(this.listeners))
      source.addEventListener(type, (event) => {
        if (!isMine()) return;
        this.heardAt = Date.now();
        listener(String(event.data));
      });
    source.addEventListener('beat', () => {
      if (isMine()) this.heardAt = Date.now();
    });
    source.addEventListener('hello', () => {
      if (!isMine()) return;
      this.heardAt = Date.now();
      this.failures = 0;
      if (this.lost) this.says.back();
      this.lost = false;
    });
    source.addEventListener('error', () => {
      if (!isMine()) return;
      this.lost = true;
      this.says.cut?.();
      if (source.readyState !== CLOSED) return;
      this.source = null;
      this.says.refused();
      const wait = Math.min(LONGEST_MS, FIRST_MS * 2 ** this.failures);
      this.failures += 1;
      this.again = setTimeout(() => this.begin(), wait);
    });
  }
}
