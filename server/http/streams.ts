import type { Request, Response } from 'express';
import type { Me } from '#contract/people';
import { selectUsable } from '#server/people';
import { deskOf, touchDesk, type Desk } from '#server/desk';
import { refuse, type Change, type House } from '#server/kernel';

const BEAT_MS = 25_000;
const TICK_MS = 60_000;
/** How often one sign-in may listen: more windows than anybody looks at. */
const MOST_PER_SESSION = 12;
/** What may wait for a reader before they are taken for gone, in bytes: some minutes of a busy house. */
const MOST_UNREAD = 256 * 1024;

type Stream = { readonly res: Response; readonly session: string; readonly site: number; readonly wantsFigures: boolean; untold: string };

/** The streams of changes (server-sent events) of this process.
 *  Each hears what concerns its site, and what concerns the whole house. Whoever does not read is let go: their device comes back and
 *  reads anew. */
export class Streams {
  private readonly streams = new Set<Stream>();
  private readonly house: House;
  private readonly beat: NodeJS.Timeout;
  private readonly stopListening: () => void;
  private readonly desk: Desk;
  private readonly tick: NodeJS.Timeout;

  constructor(house: House) {
    this.house = house;
    this.desk = deskOf(house.db);
    const stops = [
      house.outbox.listen((change) => this.tell(change)),
      this.desk.row.onNew((site, row) => this.tellFigures(site, 'row', row)),
      this.desk.home.onNew((site, home) => this.tellFigures(site, 'home', home)),
    ];
    this.stopListening = () => stops.forEach((stop) => stop());
    // Lateness comes with time alone.
    this.tick = setInterval(() => {
      this.touchAll();
      void this.letGo();
    }, TICK_MS);
    this.tick.unref();
    // Proxies drop a silent connection; a device that slept hears by its silence that its stream is dead.
    this.beat = setInterval(() => {
      for (const stream of this.streams) this.write(stream, 'event: beat\ndata: {}\n\n');
    }, BEAT_MS);
    this.beat.unref();
  }

  /** How many listen just now. */
  get size(): number {
    return this.streams.size;
  }

  open(me: Me, wantsFigures: boolean, req: Request, res: Response): void {
    const session = req.sessionID;
    const theirs = [...this.streams].filter((s) => s.session === session).length;
    if (theirs >= MOST_PER_SESSION) refuse({ code: 'request.tooManyStreams', most: MOST_PER_SESSION });
    const stream = { res, session, site: me.site.id, wantsFigures, untold: '' };
    res.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      Connection: 'keep-alive',
      'X-Accel-Buffering': 'no',
    });
    res.write('retry: 1000\n\nevent: hello\ndata: {}\n\n');
    this.streams.add(stream);
    const stops = wantsFigures ? [this.desk.row.watch(me.site.id), this.desk.home.watch(me.site.id)] : [];
    res.on('close', () => {
      this.streams.delete(stream);
      stops.forEach((stop) => stop());
    });
  }

  /** Ends all streams: devices come back by themselves, to whichever server is there then. */
  close(): void {
    clearInterval(this.beat);
    this.stopListening();
    clearInterval(this.tick);
    this.desk.row.stop();
    this.desk.home.stop();
    for (const stream of this.streams) stream.res.end();
  }

  private touchAll(): void {
    this.desk.row.touch(null, null);
    this.desk.home.touch(null, null);
  }

  private tellFigures(site: number, name: 'row' | 'home', figures: unknown): void {
    const event = `event: ${name}\ndata: ${JSON.stringify(figures)}\n\n`;
    for (const stream of this.streams) if (stream.site === site && stream.wantsFigures) this.write(stream, event);
  }

  private tell(change: Change): void {
    touchDesk(this.desk, change);
    const event = `event: change\ndata: ${JSON.stringify(change)}\n\n`;
    const { site } = change.facts;
    for (const stream of this.streams) if (site === undefined || site === null || site === stream.site) this.write(stream, event);
    if (change.topic === 'people') void this.letGo();
  }

  // What is told at one moment goes in one piece: many listen, and each piece costs what a scan costs.
  private write(stream: Stream, event: string): void {
    if (stream.untold === '') setImmediate(() => this.flush(stream));
    stream.untold += event;
  }

  private flush(stream: Stream): void {
    const { res, untold } = stream;
    stream.untold = '';
    if (res.destroyed || res.writableEnded) return;
    if (res.writableLength > MOST_UNREAD) res.destroy();
    else res.write(untold);
  }

  // Whoever was locked out, whose session was ended or is over, or who no longer works at the site, hears nothing more.
  private async letGo(): Promise<void> {
    const sessions = [...new Set([...this.streams].map((s) => s.session))];
    if (sessions.length === 0) return;
    const may = await selectUsable(this.house.db, sessions).catch(() => null);
    if (may === null) return;
    for (const stream of this.streams) if (!may.get(stream.session)?.includes(stream.site)) stream.res.end();
  }
}
