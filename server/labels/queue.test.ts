import { createHash, randomUUID } from 'node:crypto';
import { afterAll, beforeAll, beforeEach, describe, expect, it, jest } from '@jest/globals';
import fc from 'fast-check';
import { openPrinters } from '../../devices/printer/serve.ts';
import { houseForTests } from '../testing/house.ts';
import { drawBitmap } from './draw.ts';
import { drawWaiting, tendPrinter, type Printing } from './printing.ts';

// Three hundred labels are drawn, sent and looked at dot by dot; a busy machine takes its time.
jest.setTimeout(120_000);
const { house, lead, hand } = houseForTests({ lead: 'Maren Oake', hand: 'Tobin Sallow' }, { jobs: false });
let printers: Awaited<ReturnType<typeof openPrinters>>;
let bins: number[];
let here = { id: 0, name: '' };
beforeAll(async () => {
  printers = await openPrinters(0);
  bins = (await house.rows<{ id: number }>(`SELECT id FROM bin WHERE site_id = 1 AND retired_at IS NULL ORDER BY walk, id LIMIT 320`)).map(
    (b) => b.id,
  );
});
afterAll(() => printers.close());
beforeEach(async () => {
  await house.rows(`UPDATE print_run SET ended_at = now() WHERE ended_at IS NULL`);
  await house.rows(`DELETE FROM print_job`);
  await house.rows(`UPDATE printer SET retired_at = now() WHERE retired_at IS NULL`);
  await house.rows(`UPDATE zone SET printer_id = NULL`);
  here = await addPrinter();
});

const facts = (over: object = {}): { name: string; address: string; dpi: 203; roll: string | null; zones: number[] } => ({
  ...{
    name: `Printer ${randomUUID().slice(0, 8)}`,
    address: `${printers.url}/ipp/${randomUUID().slice(0, 8)}`,
    dpi: 203,
    roll: null,
    zones: [],
  },
  ...over,
});
async function addPrinter(over: object = {}): Promise<{ id: number; name: string }> {
  const body = facts(over);
  const { id } = (await lead.ask('labels.addPrinter', { body })).reply;
  return { id, name: body.address.split('/').at(-1) ?? '' };
}
const machine = (at = here): ReturnType<typeof printers.machineOf> => printers.machineOf(at.name);
const printing = (): Printing => ({ db: house.db, outbox: house.outbox, sendingSeconds: 0 });
/** One look of the server at a printer, as if it were time for it. */
async function look(at = here, by = printing()): Promise<void> {
  await drawWaiting(house.db, house.outbox);
  const [row] = await house.rows<{ id: number; address: string; dpi: 203; paused: boolean; tries: number }>(
    `SELECT id, address, dpi, paused_at IS NOT NULL AS paused, tries FROM printer WHERE id = ?`,
    [at.id],
  );
  if (row) await tendPrinter(by, row);
}
const shown = async (at = here) => (await lead.ask('labels.printers', {})).reply.printers.find((p) => p.id === at.id);
const queue = async (show: 'waiting' | 'failed' | 'printed' = 'waiting') =>
  (await lead.ask('labels.jobs', { query: { show, limit: 500 } })).reply.jobs;
const printBins = (n: number, over: object = {}) =>
  lead.ask('labels.print', { body: { kind: 'bins', bins: bins.slice(0, n), size: 'small', ...over } });

/** What should have come out: every label that was asked for as often as that, in order, each by what its dots say. */
async function wanted(): Promise<string[]> {
  const jobs = await house.rows<{ svg: string; copies: number }>(`SELECT svg, copies FROM print_job WHERE state <> 'dropped' ORDER BY id`);
  const labels: string[] = [];
  for (const { svg, copies } of jobs) {
    const page = drawn.get(svg) ?? hashOf((await drawBitmap(svg)).rows);
    drawn.set(svg, page);
    labels.push(...Array.from({ length: copies }, () => page));
  }
  return labels;
}
const drawn = new Map<string, string>();
const hashOf = (rows: Uint8Array): string => createHash('sha1').update(rows).digest('hex').slice(0, 8);
/** What came out whole. */
const strip = (at = here): string[] =>
  machine(at)
    .strip.filter((s) => !s.isHalf)
    .map(({ page }) => hashOf(page.rows));

describe('D6 a queue that loses no label and prints none twice', () => {
  it('a jam in the middle of 300 labels: it is said, the rest wait; mended, all 300 came out, in order', async () => {
    expect((await printBins(300)).reply).toMatchObject({ jobs: 300, labels: 300 });
    machine().stop('media-jam-error', { after: 137 });
    await look();
    expect(strip()).toHaveLength(137);
    expect(await shown()).toMatchObject({
      said: 'Labels are jammed in it.',
      waiting: 150,
      run: { labels: 50, cameOut: 37, unsure: false },
    });
    await look();
    expect(strip()).toHaveLength(137);
    await machine().mend();
    await look();
    expect(strip()).toEqual(await wanted());
    expect(strip()).toHaveLength(300);
    expect(new Set(strip()).size).toBe(300);
    expect(await queue()).toEqual([]);
    expect(await shown()).toMatchObject({ said: null, waiting: 0, run: null });
  });
  it('a label that tears comes out again, whole', async () => {
    await printBins(20);
    machine().stop('media-jam-error', { after: 7, half: true });
    await look();
    expect(machine().strip.filter((s) => s.isHalf)).toHaveLength(1);
    await machine().mend();
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('the server is killed after it sent and before it heard: the new one asks the printer by the run’s token', async () => {
    await printBins(120);
    machine().manner = 'mute';
    await look();
    expect(strip()).toHaveLength(50);
    expect(await shown()).toMatchObject({ said: 'It does not answer.', run: { labels: 50, cameOut: 0 } });
    machine().manner = 'well';
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('killed before it sent: what the printer never heard of is sent again, not while another server may be sending', async () => {
    await printBins(30);
    machine().manner = 'away';
    await look();
    machine().manner = 'well';
    // The printer was on before.
    machine()['on'] = Date.now() - 60_000;
    await look(here, { ...printing(), sendingSeconds: 15 });
    expect(strip()).toHaveLength(0);
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('the printer is switched off in the middle: somebody says what came out, and only the rest comes', async () => {
    await printBins(80);
    machine().stop('media-empty-error', { after: 31 });
    await look();
    machine().forget();
    await look();
    const at = await shown();
    expect(at).toMatchObject({ said: 'It knows nothing any more of what it was sent.', run: { labels: 50, unsure: true } });
    await look();
    expect(strip()).toHaveLength(31);
    const run = at?.run?.id ?? 0;
    const says = (labels: number, of = run) => hand.ask('labels.cameOut', { params: { id: here.id }, body: { run: of, labels } });
    expect((await says(51)).problem.detail).toBe('51 labels cannot have come out: 50 were sent.');
    expect((await says(3, run + 1)).problem.code).toBe('labels.nothingUnsure');
    expect((await says(31)).status).toBe(200);
    expect((await says(31)).problem.code).toBe('labels.nothingUnsure');
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('a printer that is gone for good is stopped, somebody says what came out, and another prints the rest', async () => {
    await printBins(20);
    machine().stop('media-jam-error', { after: 6 });
    await look();
    machine().manner = 'away';
    await look();
    const { id } = here;
    const run = (await shown())?.run?.id ?? 0;
    const says = () => hand.ask('labels.cameOut', { params: { id }, body: { run, labels: 6 } });
    expect((await lead.ask('labels.removePrinter', { params: { id } })).problem.code).toBe('labels.runOpen');
    // It may come back by itself and print on.
    expect((await says()).problem.code).toBe('labels.nothingUnsure');
    await hand.ask('labels.pausePrinter', { params: { id }, body: { paused: true } });
    await look();
    expect((await says()).status).toBe(200);
    expect(await shown()).toMatchObject({ paused: true, waiting: 14, run: null });
    const gone = here;
    here = await addPrinter();
    expect((await lead.ask('labels.removePrinter', { params: { id } })).status).toBe(200);
    await look();
    expect([...strip(gone), ...strip()]).toEqual(await wanted());
  });
  it('a printer gets another address while a run is in it: the run is not sent again by itself', async () => {
    await printBins(8);
    machine().stop('media-jam-error', { after: 3 });
    await look();
    const other = facts();
    await lead.ask('labels.changePrinter', { params: { id: here.id }, body: other });
    const was = here;
    here = { id: here.id, name: other.address.split('/').at(-1) ?? '' };
    machine()['on'] = Date.now() - 3_600_000;
    await look();
    expect(strip()).toEqual([]);
    const at = await shown();
    expect(at?.run).toMatchObject({ labels: 8, cameOut: 3, unsure: true });
    await lead.ask('labels.cameOut', { params: { id: here.id }, body: { run: at?.run?.id ?? 0, labels: 3 } });
    await look();
    expect([...strip(was), ...strip()]).toEqual(await wanted());
  });
  it('law: whatever happens to printer and server, in any order: none missing, none twice, in order', async () => {
    // What leaves a run in the middle comes often, or the rest has nothing to meet.
    const happens = fc.constantFrom('jam', 'jam', 'jam', 'tear', 'mute', 'mute', 'away', 'off', 'off', 'off', 'nonsense', 'again', 'two');
    await fc.assert(
      fc.asyncProperty(fc.array(fc.tuple(happens, fc.nat(12)), { minLength: 8, maxLength: 16 }), async (story) => {
        await house.rows(`UPDATE print_run SET ended_at = now() WHERE ended_at IS NULL`);
        await house.rows(`DELETE FROM print_job`);
        await house.rows(`UPDATE printer SET retired_at = now() WHERE retired_at IS NULL`);
        here = await addPrinter();
        machine()['on'] = Date.now() - 3_600_000;
        for (const [what, n] of story) {
          const labels = (): number => machine().strip.length;
          if (what === 'jam') machine().stop('media-jam-error', { after: n });
          if (what === 'tear') machine().stop('media-jam-error', { after: n, half: true });
          if (what === 'mute' || what === 'away' || what === 'nonsense') machine().manner = what;
          if (what === 'off') machine().forget();
          if (what === 'again') await machine().mend();
          await lead.ask('labels.print', { body: { kind: 'bins', bins: bins.slice(n, n + 9), size: 'small' } });
          const was = labels();
          if (what === 'two') await Promise.all([1, 2].map(() => look(here, { ...printing(), sendingSeconds: 15 })));
          else await look();
          expect(labels()).toBeGreaterThanOrEqual(was);
          await settle();
        }
        await machine().mend();
        for (let n = 0; n < 12; n += 1) {
          await look();
          await settle();
        }
        const all = await wanted();
        expect(strip().length).toBe(all.length);
        expect(strip()).toEqual(all);
      }),
      { numRuns: 12 },
    );
  }, 240_000);
  // Somebody counts what lies there of the run that nobody knows of.
  async function settle(): Promise<void> {
    const at = await shown();
    if (!at?.run?.unsure) return;
    const [run] = await house.rows<{ token: string }>(`SELECT token FROM print_run WHERE id = ?`, [at.run.id]);
    const labels = machine().strip.filter((s) => s.run === run?.token && !s.isHalf).length;
    expect((await lead.ask('labels.cameOut', { params: { id: at.id }, body: { run: at.run.id, labels } })).status).toBe(200);
  }
});

describe('D6 who stops it, and what waits', () => {
  it('paused in the middle it stops between two labels, and goes on with the next', async () => {
    await printBins(40);
    machine().msPerLabel = 4;
    await look();
    const { id } = here;
    expect((await hand.ask('labels.pausePrinter', { params: { id }, body: { paused: true } })).status).toBe(200);
    while ((await shown())?.run) await look();
    const came = strip().length;
    expect(came).toBeLessThan(40);
    expect(await shown()).toMatchObject({ paused: true, pausedBy: 'Tobin Sallow', waiting: 40 - came, said: null });
    await look();
    expect(strip()).toHaveLength(came);
    machine().msPerLabel = 0;
    await lead.ask('labels.pausePrinter', { params: { id }, body: { paused: false } });
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('who presses the button at the printer has stopped it: it does not begin again by itself', async () => {
    await printBins(60);
    machine().stop('media-jam-error', { after: 5 });
    await look();
    machine().press();
    await look();
    expect(await shown()).toMatchObject({ paused: true, pausedBy: null, waiting: 55, run: null });
    await machine().mend();
    await look();
    expect(strip()).toHaveLength(5);
    await lead.ask('labels.pausePrinter', { params: { id: here.id }, body: { paused: false } });
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('what does not speak as a printer is said to, and every label waits', async () => {
    await printBins(3);
    machine().manner = 'nonsense';
    await look();
    expect(await shown()).toMatchObject({
      said: 'What answers there does not speak as a printer does: look at its address.',
      run: { labels: 3 },
    });
    expect((await queue()).map((j) => j.state)).toEqual(['sent', 'sent', 'sent']);
    machine().manner = 'well';
    machine()['on'] = Date.now() - 60_000;
    await look();
    expect(strip()).toEqual(await wanted());
  });
  it('labels for another roll wait until it is put in; the others come', async () => {
    const shelf = await addPrinter({ roll: 'shelf' });
    await lead.ask('labels.print', { body: { kind: 'bins', bins: bins.slice(0, 4), size: 'small', printer: shelf.id } });
    await lead.ask('labels.print', { body: { kind: 'bins', bins: bins.slice(4, 7), printer: shelf.id } });
    await look(shelf);
    expect(strip(shelf)).toHaveLength(3);
    expect(await shown(shelf)).toMatchObject({ waiting: 4, wantRoll: [{ widthMm: 51, heightMm: 25, labels: 4 }] });
    expect((await hand.ask('labels.putRoll', { params: { id: shelf.id }, body: { roll: 'small' } })).status).toBe(200);
    await look(shelf);
    expect(await shown(shelf)).toMatchObject({ waiting: 0, wantRoll: [] });
    expect(machine(shelf).strip.map((s) => s.page.height)).toEqual([407, 407, 407, 199, 199, 199, 199]);
  });
  it('another printer takes over what waits, in its own dots', async () => {
    await printBins(6);
    const other = await addPrinter({ dpi: 300 });
    await drawWaiting(house.db, house.outbox);
    const over = { params: { id: here.id }, body: { to: other.id } };
    expect((await hand.ask('labels.handOver', over)).reply).toEqual({ jobs: 6 });
    expect((await hand.ask('labels.handOver', over)).reply).toEqual({ jobs: 0 });
    await look();
    await look(other);
    expect(strip()).toEqual([]);
    expect(machine(other).strip.map((s) => s.page.dpi)).toEqual(Array(6).fill(300));
  });
  it('a printer that is taken away leaves its labels to another, and without one they wait for the next', async () => {
    await printBins(5);
    expect((await hand.ask('labels.removePrinter', { params: { id: here.id } })).problem.code).toBe('people.noRight');
    await lead.ask('labels.removePrinter', { params: { id: here.id } });
    expect((await lead.ask('labels.printers', {})).reply).toEqual({ printers: [], homeless: 5 });
    expect((await printBins(1)).reply).toMatchObject({ printers: [] });
    here = await addPrinter();
    await look();
    expect(strip()).toEqual(await wanted());
    expect(strip()).toHaveLength(6);
  });
  it('labels are taken out of the queue, those on their way are not; again prints all of them', async () => {
    await printBins(60);
    machine().stop('media-jam-error', { after: 10 });
    await look();
    expect((await lead.ask('labels.drop', { body: { printer: here.id } })).reply).toEqual({ jobs: 10 });
    await machine().mend();
    await look();
    expect(strip()).toHaveLength(50);
    const [dropped] = (await queue('printed')).filter((j) => j.state === 'dropped');
    expect((await hand.ask('labels.again', { params: { id: dropped?.id ?? 0 } })).status).toBe(200);
    await look();
    expect(strip()).toHaveLength(51);
    expect((await lead.ask('labels.again', { params: { id: 99_999_999 } })).problem.code).toBe('labels.unknownJob');
  });
});

describe('D6 printers by place and by handheld', () => {
  it('a label comes out in its zone, on the handheld’s own printer where it has one, on the one that is named', async () => {
    const [zone] = await house.rows<{ id: number; zone_id: number }>(`SELECT id, zone_id FROM bin WHERE id = ?`, [bins[0]]);
    const place = await addPrinter({ name: 'In the zone', zones: [zone?.zone_id ?? 0] });
    const own = await addPrinter({ name: 'On the belt' });
    expect((await printBins(1)).reply.printers).toEqual(['In the zone']);
    expect((await printBins(1, { printer: own.id })).reply.printers).toEqual(['On the belt']);
    expect((await hand.ask('hands.usePrinter', { body: { printer: own.id } })).problem.code).toBe('hands.unknownDevice');
    await hand.ask('hands.device', { body: { name: 'Belt' } });
    expect((await hand.ask('hands.usePrinter', { body: { printer: 99_999 } })).problem.code).toBe('labels.unknownPrinter');
    expect((await hand.ask('hands.usePrinter', { body: { printer: own.id } })).status).toBe(200);
    expect((await hand.ask('hands.printer', {})).reply.printer).toBe(own.id);
    const { printers: came } = (await hand.ask('labels.print', { body: { kind: 'bins', bins: bins.slice(0, 1) } })).reply;
    expect(came).toEqual(['On the belt']);
    expect((await shown(own))?.handhelds).toEqual(['Belt']);
    expect((await shown(place))?.zones).toHaveLength(1);
  });
  it.each([
    ['without a right', { by: 'hand' }, 'people.noRight'],
    ['with a name that another has', { name: 'Taken' }, 'labels.printerTaken'],
    ['at no address', { address: 'somewhere' }, 'request.fields'],
    ['at a file', { address: 'file:///etc/passwd' }, 'request.fields'],
    ['with dots that no head has', { dpi: 250 }, 'request.fields'],
    ['with labels that nobody has', { roll: 'own-99999' }, 'labels.unknownPaper'],
  ] as [string, { by?: string }, string][])('nobody adds a printer %s', async (_, { by, ...over }, code) => {
    await addPrinter({ name: 'taken' }).catch(() => undefined);
    const body = facts(over);
    expect((await (by === 'hand' ? hand : lead).ask('labels.addPrinter', { body })).problem.code).toBe(code);
  });
  it('a printer of another site is none of theirs', async () => {
    const [other] = await house.rows<{
      id: number;
    }>(`INSERT INTO printer (site_id, name, address, dpi) VALUES (2, 'Far', 'http://127.0.0.1:9/', 203)
      RETURNING id`);
    const params = { id: other?.id ?? 0 };
    const answers = [
      await lead.ask('labels.changePrinter', { params, body: facts() }),
      await lead.ask('labels.removePrinter', { params }),
      await lead.ask('labels.pausePrinter', { params, body: { paused: true } }),
      await lead.ask('labels.putRoll', { params, body: { roll: null } }),
      await lead.ask('labels.cameOut', { params, body: { run: 1, labels: 1 } }),
      await lead.ask('labels.handOver', { params: { id: here.id }, body: { to: params.id } }),
      await printBins(1, { printer: params.id }),
    ];
    expect(answers.map((a) => a.problem.code)).toEqual(Array(7).fill('labels.unknownPrinter'));
  });
  it('a roll of 5 mm is refused, own labels are used by their name until they are taken out of use', async () => {
    const add = (over: object) => lead.ask('labels.addPaper', { body: { name: 'Jar lids', widthMm: 60, heightMm: 30, ...over } });
    expect((await add({ heightMm: 5 })).problem.detail).toBe('A label of 60 × 5 mm is too small for any code: the least is 20 × 12 mm.');
    const { key } = (await add({})).reply;
    expect((await add({ name: 'JAR LIDS' })).problem.code).toBe('labels.paperTaken');
    await printBins(2, { size: key });
    await look();
    expect(machine().strip.map((s) => [s.page.width, s.page.height])).toEqual([
      [479, 239],
      [479, 239],
    ]);
    await lead.ask('labels.putRoll', { params: { id: here.id }, body: { roll: key } });
    expect((await lead.ask('labels.removePaper', { body: { key } })).problem.code).toBe('labels.paperInUse');
    await lead.ask('labels.putRoll', { params: { id: here.id }, body: { roll: null } });
    expect((await lead.ask('labels.removePaper', { body: { key } })).status).toBe(200);
    expect((await printBins(1, { size: key })).problem.code).toBe('labels.unknownPaper');
  });
  it('a printer is asked how it is before it is added', async () => {
    const asks = async (address: string) => (await lead.ask('labels.askPrinter', { body: { address } })).reply;
    expect(await asks(`${printers.url}/ipp/new`)).toEqual({ says: 'It is ready.', dpi: 203, answers: true });
    printers.machineOf('open').stop('cover-open-error');
    expect(await asks(`${printers.url}/ipp/open`)).toEqual({ says: 'It is open.', dpi: 203, answers: true });
    expect(await asks('http://127.0.0.1:9/')).toEqual({ says: 'It does not answer.', dpi: null, answers: false });
    expect(await asks(house.address)).toMatchObject({ answers: false });
  });
});
