import type { Request, Response } from 'express';
import { query, refuse, type Db, type House } from '#server/kernel';

const BEAT_MS = 25_000;

async function mayStay(db: Db, req: Request): Promise<boolean> {
  const rows = await query(
    db,
    `SELECT 1 FROM session s JOIN person p ON p.id::text = s.sess->>'person' WHERE s.sid = ? AND s.expire > now() AND p.active`,
    [req.sessionID],
  ).catch(() => [1]);
  return rows.length > 0;
}

/** The stream of changes (server-sent events). Each event says which topic changed; the screen reads again what it shows of it. */
export function eventStream(house: House) {
  return (req: Request, res: Response): void => {
    if (!req.me) refuse({ code: 'people.signInFirst' });
    res.writeHead(200, {
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      Connection: 'keep-alive',
      'X-Accel-Buffering': 'no',
    });
    res.write('retry: 1000\n\nevent: hello\ndata: {}\n\n');
    const stop = house.outbox.listen((change) => {
      res.write(`event: change\ndata: ${JSON.stringify(change)}\n\n`);
      // Whoever was locked out, or whose session was ended, hears nothing more.
      if (change.topic === 'people') void mayStay(house.db, req).then((may) => may || res.end());
    });
    // Proxies drop a silent connection.
    const beat = setInterval(() => res.write(': still here\n\n'), BEAT_MS);
    req.on('close', () => {
      stop();
      clearInterval(beat);
    });
  };
}
