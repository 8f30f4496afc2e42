import { query, type Db } from '#server/kernel';
import { openPrinters } from '../devices/printer/serve.ts';
import { ask, quantile } from './ask.ts';
import type { Row } from './places-and-items.ts';

const LABELS = 2000;

/** Two thousand labels, no two alike, go to a printer that takes them as fast as they come, while others scan.
 *  Shape:  `scans` scans for so many seconds and returns how long each answer took. */
export async function printingRows(
  { db, address, cookie }: { db: Db; address: string; cookie: string },
  scans: (seconds: number) => Promise<number[]>,
): Promise<Row[]> {
  await scans(4);
  const quiet = await scans(6);
  const printers = await openPrinters(0);
  const call = async (path: string, body: object): Promise<string> => {
    const answer = await ask(address, 'POST', path, cookie, body);
    if (answer.status !== 200) throw new Error(answer.text);
    return answer.text;
  };
  const made = await call('/api/printers', { name: 'Bench', address: `${printers.url}/ipp/bench`, dpi: 203, roll: null, zones: [] });
  const { id: printer } = JSON.parse(made) as { id: number };
  await query(
    db,
    `INSERT INTO bin (site_id, zone_id, address, walk)
     SELECT b.site_id, b.zone_id, 'YY-' || lpad(n::text, 4, '0'), 900000 + n
     FROM generate_series(1, ?) n
     CROSS JOIN (SELECT site_id, zone_id FROM bin WHERE site_id = 1 AND use = 'shelf' LIMIT 1) b`,
    [LABELS],
  );
  const bins = await query<{ id: number }>(db, `SELECT id FROM bin WHERE address LIKE 'YY-%' ORDER BY walk`);
  const begun = performance.now();
  await call('/api/labels', { kind: 'bins', bins: bins.map((b) => b.id), printer });
  const asked = performance.now() - begun;
  const times: number[] = [];
  const { strip } = printers.machineOf('bench');
  while (strip.length < LABELS) {
    if (performance.now() - begun > 300_000) throw new Error(`Only ${strip.length} labels came out.`);
    times.push(...(await scans(4)));
  }
  const [done] = await query<{ seconds: number }>(
    db,
    `SELECT extract(epoch FROM max(ended_at) - min(j.at))::float8 AS seconds
     FROM print_run r
     CROSS JOIN print_job j
     WHERE r.printer_id = ? AND j.printer_id = ?`,
    [printer, printer],
  );
  await printers.close();
  return [
    { name: `${LABELS} labels asked for: answered after`, value: asked, unit: 'ms' },
    { name: `${LABELS} labels drawn, sent and come out`, value: done?.seconds ?? -1, unit: 's' },
    { name: 'scan answer p95 with no printing', value: quantile(quiet, 0.95), unit: 'ms' },
    { name: `scan answer p95 while ${LABELS} labels are printed`, value: quantile(times, 0.95), unit: 'ms', aim: '<= 50 ms' },
  ];
}
